"""The owner's page: what was wrong, done, checked and not checked, what to expect, in plain words of the owner's language."""

import datetime as dt
from collections import Counter
from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Literal

from pydantic import Field

from lens.records.base import Record
from lens.records.kinds import KINDS
from lens.records.verdict import Outcome
from lens.tables import not_known, shipped

DATA = Path(__file__).with_name("owner_texts.yaml")
THIRDS = (1 / 3, 2 / 3)
MOST_PLACED = 3  # faults are placed one by one up to here; beyond it only counted
MOST_KINDS = 6


class OwnerTexts(Record):
    """One language; see owner_texts.yaml."""

    name: str
    date: str
    months: tuple[str, ...] = Field(min_length=12, max_length=12)
    and_: str = Field(alias="and")
    headings: dict[str, str]
    verdict: dict[str, str]
    lines: dict[str, str]
    grades: dict[str, str]
    places: dict[str, str]
    kinds: dict[str, tuple[str, str]]
    functions: dict[str, str]
    causes: dict[str, str]


class _Texts(Record):
    languages: dict[str, OwnerTexts]


@cache
def owner_texts() -> Mapping[str, OwnerTexts]:
    """All languages by id."""
    return shipped(_Texts, DATA).languages


class SeenFault(Record):
    """A fault of the panel: where its middle lies, in shares of width and height from the top left."""

    kind: str
    x: float
    y: float


class OwnerFacts(Record):
    """What the page stands on. ``before`` and ``after`` are None where the picture was not measured; ``functions`` are outcomes by id."""

    complaint: str = ""
    before: tuple[SeenFault, ...] | None = None
    touch_before: Outcome | None = None
    said_touch_dead: bool = False
    causes: tuple[str, ...] = ()
    panel: str = ""
    grade: str = ""
    by_us: tuple[str, ...] = ()
    found_on_way: tuple[str, ...] = ()
    result: Outcome
    after: tuple[SeenFault, ...] | None = None
    picture: Outcome | None = None
    picture_by_eye: bool = False
    touch: Outcome | None = None
    touch_wanted: bool = False
    functions: dict[str, str] = {}
    cures_until: dt.datetime | None = None
    film_left: bool = False
    controller_moved: bool = False
    opened: bool = False
    device_type: str = "clamshell"
    part_until: dt.date | None = None
    work_until: dt.date | None = None
    note: str = ""
    conditions: tuple[str, ...] = ()


Heading = Literal["wrong", "done", "checked", "not_checked", "expect", "warranty", "care", "note"]


class OwnerSection(Record):
    heading: Heading
    title: str
    lines: tuple[str, ...]


class OwnerPage(Record):
    language: str
    verdict: str
    sections: tuple[OwnerSection, ...]


def owner_page(facts: OwnerFacts, language: str) -> OwnerPage:
    """Raises BadInput for a language that is not there."""
    if language not in owner_texts():
        raise not_known("language of the owner's page", language, owner_texts(), "unknown_language")
    text = owner_texts()[language]
    told: dict[Heading, list[str]] = {
        "wrong": _wrong(facts, text),
        "done": _done(facts, text),
        "checked": _checked(facts, text),
        "not_checked": _not_checked(facts, text),
        "expect": _expect(facts, text),
        "warranty": _warranty(facts, text),
        "care": _care(facts, text),
        "note": [facts.note] if facts.note.strip() else [],
    }
    sections = [
        OwnerSection(heading=heading, title=text.headings[heading], lines=tuple(lines))
        for heading, lines in told.items()
        if lines
    ]
    return OwnerPage(language=language, verdict=text.verdict[facts.result], sections=tuple(sections))


def written_date(day: dt.date, text: OwnerTexts) -> str:
    return text.date.format(day=day.day, month=text.months[day.month - 1], year=day.year)


def _wrong(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    lines = [text.lines["said"].format(text=facts.complaint.strip())] if facts.complaint.strip() else []
    if facts.before is None:
        lines.append(text.lines["nothing_measured_before"])
    elif faults := faults_in_words(facts.before, text):
        lines.append(text.lines["found"].format(faults=faults))
    else:
        lines.append(text.lines["found_nothing"])
    if facts.touch_before in ("pass", "fail"):
        alive = facts.said_touch_dead and facts.touch_before == "pass"
        lines.append(text.lines["claim_touch_alive" if alive else f"found_touch_{facts.touch_before}"])
    lines += [text.lines["cause"].format(text=text.causes[one]) for one in facts.causes if one in text.causes]
    return lines


def _done(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    if not facts.panel:
        lines = [text.lines["nothing_fitted"]]
    elif facts.grade in text.grades:
        lines = [text.lines["fitted_grade"].format(panel=facts.panel, grade=text.grades[facts.grade])]
    else:
        lines = [text.lines["fitted"].format(panel=facts.panel)]
    lines += [text.lines["found_on_way"].format(text=one) for one in facts.found_on_way]
    return [*lines, *(text.lines["by_us"].format(text=one) for one in facts.by_us)]


def _checked(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    lines, faults = [], faults_in_words(facts.after or (), text)
    if facts.picture == "pass":
        lines.append(text.lines["picture_pass"])
        if faults:
            lines.append(text.lines["picture_left"].format(faults=faults))
    elif facts.picture == "fail":
        lines.append(text.lines["picture_fail"].format(faults=faults) if faults else text.lines["picture_fails"])
    elif facts.picture_by_eye:
        lines.append(text.lines["picture_eye"])
    if facts.touch in ("pass", "fail"):
        lines.append(text.lines[f"touch_{facts.touch}"])
    for outcome, line in (("good", "functions_good"), ("faulty", "functions_faulty"), ("was_so", "functions_before")):
        if names := _named(facts, text, outcome):
            lines.append(text.lines[line].format(list=names))
    return lines


def _not_checked(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    lines = []
    if facts.picture is None and not facts.picture_by_eye:
        lines.append(text.lines["no_picture"])
    elif facts.picture == "not_proven":
        lines.append(text.lines["some_picture"])
    if facts.touch_wanted and facts.touch is None:
        lines.append(text.lines["no_touch"])
    elif facts.touch == "not_proven":
        lines.append(text.lines["some_touch"])
    if names := _named(facts, text, "not_tested"):
        lines.append(text.lines["no_functions"].format(list=names))
    return [*lines, *(text.lines["tell"].format(text=one) for one in facts.conditions)]


def _expect(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    lines = []
    if facts.cures_until is not None:
        lines.append(text.lines["cure"].format(date=_moment(facts.cures_until, text)))
    if names := _named(facts, text, "lost"):
        lines.append(text.lines["functions_lost"].format(list=names))
    if facts.film_left:
        lines.append(text.lines["film"])
    if (
        facts.panel
        and facts.grade in ("pulled", "refurbished", "compatible", "copy")
        and facts.device_type != "clamshell"
    ):
        lines.append(text.lines["part_message"])
    if facts.controller_moved:
        lines.append(text.lines["later_update"])
    return lines


def _warranty(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    lines = []
    if facts.part_until is not None:
        lines.append(text.lines["part_until"].format(date=written_date(facts.part_until, text)))
    if facts.work_until is not None:
        lines.append(text.lines["work_until"].format(date=written_date(facts.work_until, text)))
    return [*(lines or [text.lines["no_warranty"]]), text.lines["come_back"]]


def _care(facts: OwnerFacts, text: OwnerTexts) -> list[str]:
    """Cautions that apply to what was opened: a laptop that is screwed is not held against water."""
    lines = []
    if facts.opened and facts.device_type in ("handset", "tablet"):
        lines.append(text.lines["water"])
    if facts.opened:
        lines.append(text.lines["battery"])
    return lines


def faults_in_words(faults: Sequence[SeenFault], text: OwnerTexts) -> str:
    """'a line in the middle and 12 tiny dark dots': faults of the panel, the most first; empty where there are none."""
    mine = [one for one in faults if one.kind in text.kinds]
    counted = Counter(one.kind for one in mine)
    told = []
    for kind, n in counted.most_common(MOST_KINDS):
        single, several = text.kinds[kind]
        words = single if n == 1 else several.format(n=n)
        if n <= MOST_PLACED and KINDS[kind].family != "whole":
            places = list(dict.fromkeys(text.places[_place(one)] for one in mine if one.kind == kind))
            words = f"{words} {_joined(places, text)}"
        told.append(words)
    return _joined(told, text)


def _place(fault: SeenFault) -> str:
    column = "left" if fault.x < THIRDS[0] else "right" if fault.x > THIRDS[1] else ""
    row = "top" if fault.y < THIRDS[0] else "bottom" if fault.y > THIRDS[1] else ""
    return "_".join(filter(None, (row, column))) or "middle"


def _named(facts: OwnerFacts, text: OwnerTexts, outcome: str) -> str:
    return _joined([text.functions[one] for one, how in facts.functions.items() if how == outcome], text)


def _joined(words: Sequence[str], text: OwnerTexts) -> str:
    return " ".join(filter(None, (", ".join(words[:-1]), text.and_, words[-1]))) if len(words) > 1 else "".join(words)


def _moment(at: dt.datetime, text: OwnerTexts) -> str:
    return f"{written_date(at.date(), text)}, {at:%H:%M}"
