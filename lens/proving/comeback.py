"""Who pays when a device comes back: what is new since it left, seals, warranty, and what happened to it.

It proposes, with its reasons, and a person decides. Rights that the law gives an owner come before it. The rules are common practice of the trade.
"""

from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Literal

from lens.proving.seals import SealsFound
from lens.records import KINDS
from lens.records.base import Record

Payer = Literal["supplier", "shop", "owner", "nobody", "open"]
PAYERS: Mapping[Payer, str] = MappingProxyType(
    {
        "supplier": "The supplier: the part failed",
        "shop": "We: a step of our work, or our warranty",
        "owner": "The owner: wear, a fall, liquid, or no warranty",
        "nobody": "Nobody: nothing is new",
        "open": "Not decided",
    }
)
# what pressing, a pinched cable or a plug that is not home brings; it comes from work, not from the part
OF_WORK = frozenset({"pressure_mark", "artifact"})
OF_USE = frozenset({"crack", "scratch"})
OF_WEAR = frozenset({"retained_image"})
Compared = Literal["unchanged", "changed", "not_proven", ""]


class ComebackFacts(Record):
    """``compared``: as received now against as handed over, empty where one was not measured. ``said``: 'drop' or 'liquid' where the owner or the
    bench told so."""

    compared: Compared = ""
    new_kinds: tuple[str, ...] = ()
    seals: SealsFound = "none"
    part_holds: bool = False
    work_holds: bool = False
    said: tuple[Literal["drop", "liquid"], ...] = ()


class Charge(Record):
    """A proposal. ``step`` is what would settle it, empty where it is settled."""

    payer: Payer
    reasons: tuple[str, ...]
    step: str = ""


def charge(facts: ComebackFacts) -> Charge:
    """Who pays, as far as it can be told; the first rule that applies decides."""
    if facts.said:
        what = " and ".join({"drop": "a fall or blow", "liquid": "liquid"}[one] for one in facts.said)
        return Charge(payer="owner", reasons=(f"{what.capitalize()}: no fault of the part or of the work.",))
    if facts.seals == "broken":
        return Charge(
            payer="open",
            reasons=("A seal is not as it left: somebody opened it since.",),
            step="Look inside before anything is promised; photograph the seals.",
        )
    if facts.compared in ("", "not_proven"):
        why = "It was not measured both times." if not facts.compared else "Too little of it was seen, then or now."
        return Charge(payer="open", reasons=(why,), step="Measure it as received, the same way as at the hand-over.")
    if facts.compared == "unchanged":
        return Charge(
            payer="nobody", reasons=("Nothing is new since it was handed over.",), step="Ask what the owner sees."
        )
    return _of_new(facts)


def _of_new(facts: ComebackFacts) -> Charge:
    new = set(facts.new_kinds)
    names = _named(facts.new_kinds)
    if new & OF_USE:
        return Charge(payer="owner", reasons=(f"New since then: {names}. Glass breaks by force.",))
    if new & OF_WORK:
        reasons = (f"New since then: {names}. Such marks come from what presses or from a cable.",)
        if facts.work_holds:
            return Charge(payer="shop", reasons=(*reasons, "Our work is still covered."))
        return Charge(payer="owner", reasons=(*reasons, "No cover holds any more."))
    if new <= OF_WEAR:
        return Charge(payer="owner", reasons=(f"New since then: {names}. A picture that stays comes from use.",))
    fault = f"New since then: {names}."
    if facts.part_holds:
        return Charge(payer="supplier", reasons=(fault, "The part is still covered."), step="Make the claim packet.")
    if facts.work_holds:
        return Charge(payer="shop", reasons=(fault, "The supplier's cover has ended or was none; ours still holds."))
    return Charge(payer="owner", reasons=(fault, "No cover holds any more."))


def _named(kinds: Sequence[str]) -> str:
    return ", ".join(KINDS[kind].title.lower() if kind in KINDS else kind for kind in dict.fromkeys(kinds))
