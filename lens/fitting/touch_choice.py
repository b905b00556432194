"""A new panel that fails at dry fit, in touch or picture: rework it, return it, or buy another one, with what each costs and takes on average."""

from collections.abc import Collection, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any, Literal

from pydantic import Field

from lens.house_rules import house_rules
from lens.records.base import Record
from lens.tables import parse

DATA = Path(__file__).with_name("touch_choice.yaml")
School = Literal["always_move", "when_fails", "return_panel"]
Way = Literal["rework", "return", "rebuy"]
RULE = "touch_controller"  # the house rule that says which school a shop follows
SURE_ENOUGH = 0.4  # below this chance a rework is not advised by the school that moves a controller when the test fails


class OfferTerms(Record):
    """What a supplier asks and grants; money in the shop's currency."""

    supplier: str
    panel: str
    price: float = Field(ge=0)
    shipping: float = Field(ge=0)
    delivery_days: int = Field(ge=0)
    doa_days: int = Field(ge=0, description="days after delivery in which a dead panel goes back")
    dead_rate: float | None = Field(default=None, ge=0, le=1, description="of the supplier and grade; None: not known")


class Option(Record):
    """One way out. ``cost`` and ``days`` are expected values, the failure of the way and what follows it included."""

    way: Way
    title: str
    cost: float
    days: float
    mended: float = Field(description="chance that touch answers after this way alone")
    text: str


class TouchChoice(Record):
    """All ways, the advised one first."""

    school: School
    options: tuple[Option, ...]
    text: str


@cache
def _data() -> dict[str, Any]:
    return dict(parse(DATA.read_text(encoding="utf-8"), DATA.name))


SIGNAL_KINDS = frozenset({"line", "band", "artifact", "flicker", "no_light"})


def picture_choice(kinds: Collection[str], bought: OfferTerms, others: Sequence[OfferTerms]) -> TouchChoice:
    """The ways for a new panel whose picture fails: a plug seated anew may mend what comes by the signal, and nothing else.

    kinds : of what was found on it; the other parameters as in ``touch_choice``
    """
    share = _data()["reseat"]["mends_signal"] if set(kinds) & SIGNAL_KINDS else 0.0
    told = _weighed(share, _data()["reseat"]["minutes"], "Seat the plug anew, and test again", bought, others, True)
    options = [one for one in told if one.way != "rework" or one.mended > 0]
    options.sort(key=lambda one: (one.way != "rework", one.cost + one.days * _data()["day_cost"]))
    text = "Seating the plug anew is the first repair of such a fault, and costs no right of return."
    return TouchChoice(
        school="return_panel",
        options=tuple(options),
        text=text
        if share
        else "A plug seated anew does not mend this. Leave every liner on, and claim with what was measured.",
    )


def touch_choice(
    suspects: Mapping[str, float], bought: OfferTerms, others: Sequence[OfferTerms], school: School
) -> TouchChoice:
    """Weigh the ways for a panel that was bought on some terms and whose touch fails.

    Parameters
    ----------
    suspects : probability of each cause of the touch (they need not add up to 1)
    bought : the terms of the panel that fails
    others : what else could be bought in its place
    school : the shop's; it decides the advice where the figures are near
    """
    data = _data()
    move = data["move_controller"]
    mends = min(0.95, sum(share * suspects.get(cause, 0.0) for cause, share in move["mends"].items()))
    minutes = data["reseat"]["minutes"] + move["minutes"]
    options = _weighed(mends, minutes, "Seat the plug anew, then move the original controller or flex", bought, others)
    day, returnable = data["day_cost"], bought.doa_days > 0
    options.sort(key=lambda one: one.cost + one.days * day)
    first = _by_school(school, options, mends, returnable)
    options.sort(key=lambda one: one.way != first)
    rule = house_rules()[RULE].schools[school]
    return TouchChoice(
        school=school,
        options=tuple(options),
        text=f"House rule: {rule.title[0].lower()}{rule.title[1:]}. {rule.reason}",
    )


def _weighed(
    mends: float,
    minutes: float,
    rework_title: str,
    bought: OfferTerms,
    others: Sequence[OfferTerms],
    keeps_return: bool = False,
) -> list[Option]:
    """Each way with what it costs and takes on average, its own failure and what follows it included. ``keeps_return``: the rework costs no right of
    return."""
    data = _data()
    minute, day = data["minute_cost"], data["day_cost"]
    pack = data["pack_and_claim"]["minutes"] * minute

    def dud_of(terms: OfferTerms) -> float:
        return float(data["dud_rate"] if terms.dead_rate is None else terms.dead_rate)

    returnable = bought.doa_days > 0
    lost = 0.0 if returnable else bought.price
    back_cost, back_days, dud = pack + bought.shipping, 2.0 * bought.delivery_days, dud_of(bought)
    back = Option(
        way="return",
        title="Return it and wait for another",
        cost=_money(back_cost + lost + dud * back_cost),
        days=_days(back_days * (1 + dud)),
        mended=round(1 - dud, 2),
        text=_return_text(bought),
    )
    buy = min(others, key=lambda one: one.price + one.shipping + one.delivery_days * day, default=None)
    again: Option | None = None
    if buy is not None:
        spent = buy.price + buy.shipping + (bought.shipping + pack - bought.price if returnable else 0.0)
        refunded = f" {bought.price:.2f} come back with the first." if returnable else " The first one is not refunded."
        dud = dud_of(buy)
        again = Option(
            way="rebuy",
            title=f"Buy {buy.panel} from {buy.supplier} now",
            cost=_money(spent + dud * (pack + buy.shipping)),
            days=_days(buy.delivery_days * (1 + dud)),
            mended=round(1 - dud, 2),
            text=f"{buy.price + buy.shipping:.2f} with shipping, {buy.delivery_days} days.{refunded}",
        )
    # a panel that was worked on is seldom taken back, so the next one is bought at its price; one that was only seated anew goes back as before
    after = again or back
    if keeps_return and again is not None:
        after = min((back, again), key=lambda one: one.cost + one.days * day)
    forfeited = bought.price if returnable and not keeps_return else 0.0
    rework = Option(
        way="rework",
        title=rework_title,
        mended=round(mends, 2),
        cost=_money(minutes * minute + (1 - mends) * (after.cost + forfeited)),
        days=_days((1 - mends) * after.days),
        text=f"About {minutes} min at the bench. Seating the plug anew costs no right of return."
        + ("" if keeps_return else " A panel that was worked on is seldom taken back."),
    )
    return [rework, back, *([again] if again else [])]


def _by_school(school: School, options: Sequence[Option], mends: float, returnable: bool) -> Way:
    """What the shop's school does first."""
    if school == "always_move" or (school == "when_fails" and mends >= SURE_ENOUGH):
        return "rework"
    if school == "return_panel" and returnable:
        return "return"
    return next(one.way for one in options if one.way != "return" or returnable)


def _return_text(bought: OfferTerms) -> str:
    if not bought.doa_days:
        return f"{bought.supplier} grants no return: the price of {bought.price:.2f} would be lost."
    return f"{bought.supplier} takes it back within {bought.doa_days} days of delivery, untouched, with liners and tabs on."


def _money(value: float) -> float:
    return round(value, 2)


def _days(value: float) -> float:
    return round(value, 1)
