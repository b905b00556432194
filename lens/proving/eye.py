"""A look by eye where no photo can be taken: what a person must have looked at, and what it comes to. It is 'seen', never 'measured'."""

from collections.abc import Iterable, Mapping
from typing import Literal

from lens.errors import BadInput
from lens.records.base import Record

EyeOutcome = Literal["good", "bad", "cannot_tell"]
# common practice for the two minutes of a dry fit
ASPECTS: Mapping[str, str] = {
    "picture": "A whole picture, no lines, no cracks, no wrong colours",
    "light": "Even light over the whole panel, also on a dark picture",
    "touch": "One slow drag over the whole surface, edges too, stops nowhere",
}


class EyeAnswer(Record):
    aspect: str
    outcome: EyeOutcome


def aspects_asked(touch: bool) -> tuple[str, ...]:
    return tuple(name for name in ASPECTS if name != "touch" or touch)


def check_aspect(name: str, outcome: str) -> str:
    """The aspect's id; raises BadInput for what is none."""
    if name not in ASPECTS:
        raise BadInput(f"By eye these are looked at: {', '.join(ASPECTS)}; not '{name}'.", "unknown_aspect")
    if outcome not in ("good", "bad", "cannot_tell"):
        raise BadInput("By eye it is good, bad, or it cannot be told.", "unknown_outcome")
    return name


def eye_verdict(answers: Iterable[EyeAnswer], touch: bool) -> Literal["seen", "fail", "not_proven"] | None:
    """'seen' where all that is asked was found good; None where nobody looked."""
    last = {one.aspect: one.outcome for one in answers}
    if not last:
        return None
    if "bad" in last.values():
        return "fail"
    return "seen" if all(last.get(name) == "good" for name in aspects_asked(touch)) else "not_proven"
