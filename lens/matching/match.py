"""Panel specifications compared, property by property, by rules that are data: same fit, form and function, with what may differ and what must
not. What is not known is never told as alike."""

from collections.abc import Callable
from functools import cache, lru_cache
from operator import attrgetter, itemgetter
from pathlib import Path
from typing import Any, Literal, NamedTuple

from pydantic import Field

from lens.matching.link import Link, link_of
from lens.matching.specification import PanelSpec, normal_number
from lens.records.base import Record
from lens.tables import not_known, shipped

Fit = Literal["fits", "fits_with_consequences", "ask", "stop"]
ItemResult = Literal["agrees", "differs", "unknown", "stop"]
School = Literal["exact", "fit_form_function", "try"]
SCHOOLS: tuple[School, ...] = ("exact", "fit_form_function", "try")
DATA = Path(__file__).with_name("rules.yaml")
PART_NUMBER = "part_number"


class Rule(Record):
    """One comparison. ``fields`` are those of the specification; see rules.yaml for the words."""

    title: str
    fields: tuple[str, ...] = Field(min_length=1)
    compare: Literal["equal", "within", "at_most", "at_least", "touch", "link"]
    when: str | None = Field(default=None, description="counts only where the panel in the device has this")
    slack: float = 0.0
    share: float = 1.0
    differs: Literal["stop", "tell"]
    with_try: Literal["tell"] | None = None
    reason: str
    unknown: Literal["ask", "tell", "note"]
    ask: str
    cost: float = Field(gt=0, description="minutes")


class LinkKind(Record):
    """Gbit/s of one lane or channel, and the share of it that is picture data."""

    each_gbit_s: float
    payload: float
    unit: str


class Rules(Record):
    rules: dict[str, Rule]
    links: dict[str, LinkKind]


class MatchItem(Record):
    """One property compared. ``ask``: how to settle it where it is not known."""

    property: str
    title: str
    wanted: str | None
    offered: str | None
    result: ItemResult
    reason: str
    ask: str | None = None


class Match(Record):
    """``items`` with what decides first: stops, unknown ones that decide (the cheapest to settle first), differences, the rest."""

    result: Fit
    items: tuple[MatchItem, ...]
    text: str
    link: Link | None = None


@cache
def rules() -> Rules:
    """The shipped rules, checked: every field is one of the specification."""
    told = shipped(Rules, DATA)
    for rule in told.rules.values():
        for field in (*rule.fields, *([rule.when] if rule.when else [])):
            if field not in PanelSpec.model_fields:
                raise not_known("field of a panel", field, PanelSpec.model_fields, "match_rules")
    return told


def check_school(school: str) -> School:
    """Raises BadInput for one that is none."""
    for known in SCHOOLS:
        if school == known:
            return known
    raise not_known("school of matching", school, SCHOOLS, "unknown_school")


def _value(spec: PanelSpec, rule: Rule) -> Any:
    if len(rule.fields) == 1:
        return getattr(spec, rule.fields[0])
    values = [getattr(spec, field) for field in rule.fields]
    return None if any(value is None for value in values) else tuple(values)


def _words(value: Any) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return " x ".join([f"{part:g}" for part in value])
    return f"{value:g}" if isinstance(value, float | int) else str(value).replace("_", " ")


def _alike(rule: Rule, wanted: Any, offered: Any, carried: bool) -> bool:
    match rule.compare:
        case "within":
            return all(abs(a - b) <= rule.slack for a, b in zip(wanted, offered, strict=True))
        case "at_most":
            return bool(offered <= wanted + rule.slack)
        case "at_least":
            return bool(offered >= rule.share * wanted)
        case "link":
            return bool(offered <= wanted) or carried
        case _:
            return bool(wanted == offered)


class _Judged(NamedTuple):
    """An item with where it stands among others; ``asks``: it decides and is not known; ``tells``: the owner should know."""

    rank: int
    cost: float
    item: MatchItem
    asks: bool
    tells: bool


def _judged(item: MatchItem, rule: Rule | None) -> _Judged:
    asks = item.result == "unknown" and (rule is None or rule.unknown == "ask")
    tells = item.result == "differs" or (item.result == "unknown" and rule is not None and rule.unknown == "tell")
    rank = {"stop": 0, "unknown": 1 if asks else 3, "differs": 2, "agrees": 4}[item.result]
    return _Judged(rank, rule.cost if asks and rule is not None else 0.0, item, asks, tells)


class _Compared(NamedTuple):
    """A property of the panel in the device, and what was already said of values offered for it: of thousands of panels a register has few."""

    name: str
    rule: Rule
    wanted: Any
    words: str | None
    read: Callable[[PanelSpec], Any]
    several: bool
    judged: dict[tuple[Any, bool, bool], _Judged]


def _item(compared: _Compared, offered: Any, school: School, carried: bool, same_number: bool) -> _Judged:
    """One property compared."""
    rule, wanted, words = compared.rule, compared.wanted, _words(offered)
    ask = None
    result: ItemResult = "agrees"
    if wanted is None or offered is None:
        which = "of both" if wanted is None and offered is None else "in the device" if wanted is None else "offered"
        reason = "The same part number." if same_number else f"Not known {which}."
        if not same_number:
            result, ask = "unknown", rule.ask
    elif _alike(rule, wanted, offered, carried):
        reason = "Agrees."
    elif rule.compare == "touch" and not wanted:
        result, reason = "differs", "Its touch stays unused."
    else:
        result = "stop" if rule.differs == "stop" and not (school == "try" and rule.with_try) else "differs"
        reason = rule.reason.format(wanted=compared.words, offered=words)
    item = MatchItem(
        property=compared.name,
        title=rule.title,
        wanted=compared.words,
        offered=words,
        result=result,
        reason=reason,
        ask=ask,
    )
    return _judged(item, rule)


_normal = lru_cache(maxsize=64)(normal_number)  # of the panel in the device, which is held to many


def _same_number(wanted: PanelSpec, offered: PanelSpec) -> bool:
    """Whether both are the same panel by one of their numbers: what is not known of it is alike then."""
    if not wanted.other_numbers and not offered.other_numbers:
        mine, its = wanted.part_number, offered.part_number
        if not mine or not its:
            return False
        return mine == its or _normal(mine) == normal_number(its)
    return not set(wanted.numbers()).isdisjoint(offered.numbers())


def _exact(wanted: PanelSpec, offered: PanelSpec) -> MatchItem:
    """The school that fits the same number only."""
    told: dict[str, Any] = {
        "property": PART_NUMBER,
        "title": "Part number",
        "wanted": wanted.part_number,
        "offered": offered.part_number,
    }
    if not wanted.part_number or not offered.part_number:
        return MatchItem(**told, result="unknown", reason="Not known.", ask="Read the number from the panel's label.")
    if _same_number(wanted, offered):
        return MatchItem(**told, result="agrees", reason="Agrees.")
    return MatchItem(**told, result="stop", reason="This shop fits the exact number only.")


def _link(wanted: PanelSpec, offered: PanelSpec) -> Link | None:
    """What the offered panel's picture needs, against what the device's own link carries."""
    kind = rules().links.get(wanted.signal or "")
    if kind is None or wanted.lanes is None or offered.width is None or offered.height is None:
        return None
    carries = wanted.lanes * kind.each_gbit_s * kind.payload
    name = f"{wanted.lanes} {kind.unit if wanted.lanes > 1 else kind.unit.rstrip('s')} of {wanted.signal}"
    return link_of(offered.width, offered.height, offered.refresh_hz, offered.bits_per_colour, carries, name)


class Matcher:
    """Many offered panels held to the one in the device; what is known of that one is looked up once.

    Parameters
    ----------
    wanted : the panel in the device
    school : 'exact' asks for the same part number; 'try' lets the owner take the risk of what is not dangerous
    """

    def __init__(self, wanted: PanelSpec, school: School = "fit_form_function") -> None:
        self.wanted, self.school = wanted, school
        counted = {n: r for n, r in rules().rules.items() if r.when is None or getattr(wanted, r.when)}
        values = {name: _value(wanted, rule) for name, rule in counted.items()}
        self._compared = [
            _Compared(name, rule, values[name], _words(values[name]), *_reader(rule), {})
            for name, rule in counted.items()
        ]
        self._sayings: dict[tuple[int, ...], _Saying] = {}  # by the ranks of the items, which are few

    def match(self, offered: PanelSpec) -> Match:
        """Whether an offered panel goes in its place: 'stop' where one property must agree and does not; 'ask' where one that decides is not known;
        else what the owner must be told."""
        link = _link(self.wanted, offered)
        carried = link is not None and link.needed_gbit_s <= link.offered_gbit_s
        same = _same_number(self.wanted, offered)
        items = []
        for compared in self._compared:
            its = compared.read(offered)
            if compared.several and None in its:
                its = None
            key = its, carried, same
            item = compared.judged.get(key)
            if item is None:
                item = compared.judged[key] = _item(compared, its, self.school, carried, same)
            items.append(item)
        if self.school == "exact":
            items.insert(0, _judged(_exact(self.wanted, offered), None))
        ranks = tuple([one.rank for one in items])
        saying = self._sayings.get(ranks)
        if saying is None:
            saying = self._sayings[ranks] = _said_of(items)
        found = saying.order([one.item for one in items])
        return Match(result=saying.result, items=found, text=saying.text, link=link)


def _reader(rule: Rule) -> tuple[Callable[[PanelSpec], Any], bool]:
    """What reads a rule's fields of a specification, and whether they are several."""
    return attrgetter(*rule.fields), len(rule.fields) > 1


class _Saying(NamedTuple):
    """What a comparison comes to: a word, a sentence, and what puts its items in order: stops, what decides (the cheapest to settle first),
    differences, the rest."""

    result: Fit
    text: str
    order: Callable[[list[MatchItem]], tuple[MatchItem, ...]]


def _said_of(judged: list[_Judged]) -> _Saying:
    """The result of a comparison; it depends on the ranks of the items alone, which are in the order of the rules."""
    places = sorted(range(len(judged)), key=lambda place: judged[place][:2])
    order: Callable[[list[MatchItem]], tuple[MatchItem, ...]] = itemgetter(*places)  # there are more than two rules
    return _Saying(*_words_of([judged[place] for place in places]), order)


def _words_of(items: list[_Judged]) -> tuple[Fit, str]:
    """The result of a comparison, in a word and in a sentence; the items with what decides first."""
    first = items[0]
    if first.rank == 0:
        stops = [one.item.title.lower() for one in items if one.rank == 0]
        return "stop", f"Stop: {', '.join(stops)} must agree and {'do' if len(stops) > 1 else 'does'} not."
    open_ones = [one.item.title.lower() for one in items if one.asks]
    if open_ones:
        return "ask", f"Not decided: {', '.join(open_ones)} {'are' if len(open_ones) > 1 else 'is'} not known."
    tell = [one.item.title.lower() for one in items if one.tells]
    if tell:
        return "fits_with_consequences", f"Fits, with something to tell the owner: {', '.join(tell)}."
    return "fits", "Fits: everything that must agree does."


def match(wanted: PanelSpec, offered: PanelSpec, school: School = "fit_form_function") -> Match:
    """Whether one offered panel goes in place of the one in the device; of many, make a `Matcher` once."""
    return Matcher(wanted, school).match(offered)
