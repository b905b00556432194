"""Loose things by group: what came out, what went back, where the rest is, and long screws kept out of short holes.

The group is the unit, and a count is what was met, never a preset one (common practice).
"""

from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import Field

from lens.errors import BadInput
from lens.records.base import Record
from lens.steps import Step

MOST_COUNTED = 200  # loose things of one group
SAME_LENGTH_MM = 0.3  # by a ruler or a gauge at the bench
FastenerState = Literal["loosened", "replaced", "lost", "lost_inside", "left_out"]
STATE_WORDS: Mapping[FastenerState, str] = {
    "loosened": "only loosened",
    "replaced": "replaced by others",
    "lost": "lost outside",
    "lost_inside": "lost inside",
    "left_out": "left out",
}


class FastenerNote(Record):
    """What was met beside the count: at taking out how many were only loosened (captive ones, hinges) and how long they are, at putting back where
    those are that did not go back, and how long the ones are that did."""

    loosened: int = Field(default=0, ge=0, le=MOST_COUNTED)
    replaced: int = Field(default=0, ge=0, le=MOST_COUNTED)
    lost: int = Field(default=0, ge=0, le=MOST_COUNTED)
    lost_inside: int = Field(default=0, ge=0, le=MOST_COUNTED)
    left_out: int = Field(default=0, ge=0, le=MOST_COUNTED)
    length_mm: float | None = Field(default=None, gt=0, le=100)

    @property
    def elsewhere(self) -> int:
        """How many are accounted for without being back."""
        return self.replaced + self.lost + self.lost_inside + self.left_out


class PlacedFastener(Record):
    """Where one sits, in shares of the device seen from the front, or of a photo. ``hole``: a look-alike that is not this group's."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    hole: Literal["", "inner", "outer"] = ""


class Balance(Record):
    """A group as it stands: ``out`` is in nobody's place yet."""

    out: int = 0
    loosened: int = 0
    replaced: int = 0
    lost: int = 0
    lost_inside: int = 0
    left_out: int = 0
    length_mm: float | None = None


Counted = tuple[Mapping[str, int], Mapping[str, int], Mapping[str, FastenerNote]]


def balance(log: Sequence[Counted]) -> dict[str, Balance]:
    """Of each group how it stands after a log of (usual counts of the step, what was met, what was noted)."""
    told: dict[str, dict[str, float | None]] = {}
    for usual_of, met_of, notes in log:
        for group, usual in usual_of.items():
            one = told.setdefault(group, {"out": 0.0, "length_mm": None})
            note = notes.get(group, FastenerNote())
            met = int(met_of.get(group, 0))
            one["out"] = (one["out"] or 0) + (met if usual >= 0 else -met - note.elsewhere)
            for state in STATE_WORDS:
                one[state] = (one.get(state) or 0) + getattr(note, state)
            if usual >= 0 and note.length_mm is not None:
                one["length_mm"] = note.length_mm
    return {group: Balance.model_validate(one) for group, one in told.items()}


def check_counts(
    step: Step,
    counts: Mapping[str, int],
    standing: Mapping[str, Balance],
    reason: str,
    notes: Mapping[str, FastenerNote] | None = None,
    usual_mm: Mapping[str, float] | None = None,
) -> None:
    """Raises BadInput where a group was not counted, fewer go back than came out and nobody says where the rest is, or a screw is too long.

    Parameters
    ----------
    counts : what was met, by group; never filled in by anybody but the one who counted
    standing : how each group stands before this step
    notes : what else was met, by group
    usual_mm : lengths of the procedure's groups, where it tells them; what was measured on the device holds
    """
    notes = notes or {}
    for group in notes:
        if group not in step.counts:
            raise BadInput(f"'{step.title}' is not about {_named(group)} screws.", "gate_count")
    for group, usual in step.counts.items():
        met = counts.get(group)
        if met is None or not 0 <= met <= MOST_COUNTED:
            raise BadInput(
                f"Count them: how many {_named(group)} screws {'come out' if usual >= 0 else 'go back'}?", "gate_count"
            )
        note = notes.get(group, FastenerNote())
        if usual < 0:
            _check_back(group, met, note, standing.get(group, Balance()), reason)
            _check_length(group, met, note, standing, usual_mm or {})


def _check_back(group: str, met: int, note: FastenerNote, before: Balance, reason: str) -> None:
    if met + note.elsewhere > before.out:
        raise BadInput(
            f"{before.out} {_named(group)} screws came out, {met + note.elsewhere} cannot be accounted for. Is one from another group?",
            "gate_count",
        )
    if met + note.elsewhere < before.out and not reason.strip():
        raise BadInput(
            f"{before.out} {_named(group)} screws came out, {met} go back. Say where the others are: the report will tell.",
            "gate_missing",
        )


def _check_length(
    group: str, met: int, note: FastenerNote, standing: Mapping[str, Balance], usual_mm: Mapping[str, float]
) -> None:
    """A long screw in a short hole marks or kills the panel, so lengths are held against each other where groups of several lengths are out."""

    def length_of(name: str) -> float | None:
        measured = standing.get(name, Balance()).length_mm
        return measured if measured is not None else usual_mm.get(name)

    own = length_of(group)
    if own is None or met == 0:
        return
    if note.length_mm is not None:
        if abs(note.length_mm - own) > SAME_LENGTH_MM:
            longer = note.length_mm > own
            raise BadInput(
                f"{_named(group).capitalize()} screws are {own:g} mm long, this one is {note.length_mm:g} mm: it belongs elsewhere. "
                + ("A long screw in a short hole reaches the panel." if longer else "A short one does not hold."),
                "screw_length",
            )
        return
    others = [name for name, one in standing.items() if name != group and one.out > 0 and length_of(name) is not None]
    if any(abs((length_of(name) or own) - own) > SAME_LENGTH_MM for name in others):
        raise BadInput(
            f"Groups of different lengths are out. Measure one of those that go in as {_named(group)} screws: {own:g} mm are right.",
            "screw_length",
        )


def fastener_words(notes: Mapping[str, FastenerNote]) -> list[str]:
    """What was noted, in a few words each."""
    told = []
    for group, note in notes.items():
        told += [
            f"{getattr(note, state)} {_named(group)} {words}"
            for state, words in STATE_WORDS.items()
            if getattr(note, state)
        ]
        if note.length_mm is not None:
            told.append(f"{_named(group)} {note.length_mm:g} mm long")
    return told


def _named(group: str) -> str:
    return group.replace("_", " ")
