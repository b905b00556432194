"""Seals: a number at a place of the closed device as it goes, and how it is found when the device comes back."""

from collections.abc import Mapping, Sequence
from typing import Literal

from lens.errors import BadInput
from lens.records.base import Record

SealState = Literal["whole", "broken", "gone", "other"]
SEAL_STATES: Mapping[SealState, str] = {
    "whole": "whole, with its number",
    "broken": "broken",
    "gone": "gone",
    "other": "another number",
}
SealsFound = Literal["none", "not_checked", "whole", "broken"]
MOST_SEALS = 12


class Seal(Record):
    """``state`` is None where nobody looked since."""

    place: str
    number: str
    state: SealState | None = None


def check_seal(place: str, number: str) -> tuple[str, str]:
    """Place and number as they are kept. Raises BadInput where one of them is missing."""
    place, number = " ".join(place.split())[:40], " ".join(number.split())[:40]
    if not place or not number:
        raise BadInput("A seal has a place and a number: 'base, left screw' and what is printed on it.", "no_seal")
    return place, number


def seals_found(seals: Sequence[Seal]) -> SealsFound:
    """What all of them say together: one that is not whole decides, one that nobody looked at leaves it open."""
    if not seals:
        return "none"
    if any(one.state not in (None, "whole") for one in seals):
        return "broken"
    return "not_checked" if any(one.state is None for one in seals) else "whole"
