"""Soft spots that were not there before the panel was fitted: something presses on it, and they are pressure marks (common practice)."""

from collections.abc import Sequence

from lens.acceptance.decisions import same_place
from lens.records import SOFT_KINDS, Finding

PRESSES = "It was not there at the dry fit: look for what presses from behind, such as tape, a cable, a screw that is too long."


def by_itself(finding: Finding) -> Finding:
    """The finding as its own photos tell it, whatever was there before."""
    if finding.pressed is None:
        return finding
    reasons = tuple(reason for reason in finding.reasons if reason != PRESSES)
    return finding.model_copy(update={"kind": finding.pressed, "pressed": None, "reasons": reasons})


def as_pressed(finding: Finding) -> Finding:
    """A soft spot that closing made."""
    return finding.model_copy(
        update={"kind": "pressure_mark", "pressed": finding.kind, "reasons": (*finding.reasons, PRESSES)}
    )


def with_pressure_marks(findings: Sequence[Finding], before: Sequence[Finding]) -> tuple[Finding, ...]:
    """The findings of a closed device, soft spots that the dry fit did not show told as pressure marks."""
    known = [by_itself(one) for one in before]

    def was_there(finding: Finding) -> bool:
        return any(one.kind == finding.kind and same_place(one, finding) for one in known)

    return tuple(as_pressed(one) if one.kind in SOFT_KINDS and not was_there(one) else one for one in findings)
