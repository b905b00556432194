"""Two inspections of one panel compared: what closing (or any other step) changed."""

from typing import Literal

from lens.acceptance import DEMANDED_SHARE, as_pressed, same_place
from lens.records import NOT_OF_THE_PANEL, PIXEL_KINDS, SOFT_KINDS, Finding, Inspection, Record


class Comparison(Record):
    """Findings of the panel that are new, gone, or the same; what is new was done by what came between."""

    new: tuple[Finding, ...]
    gone: tuple[Finding, ...]
    same: tuple[Finding, ...]
    result: Literal["unchanged", "changed", "not_proven"]
    text: str


def _matches(first: Finding, second: Finding) -> bool:
    family = first.kind == second.kind or (first.kind in PIXEL_KINDS and second.kind in PIXEL_KINDS)
    return family and same_place(first, second)


def _of_the_panel(inspection: Inspection) -> list[Finding]:
    return [f for f in inspection.findings if f.kind not in NOT_OF_THE_PANEL and f.kind != "cluster" and f.counts]


def compare(before: Inspection, after: Inspection) -> Comparison:
    """Match findings by kind and place. New ones decide; with too little proven on either side the answer is not proven."""
    same: list[Finding] = []
    added: list[Finding] = []
    left = _of_the_panel(before)
    for finding in _of_the_panel(after):
        match = next((f for f in left if _matches(f, finding)), None)
        if match is None:
            added.append(as_pressed(finding) if finding.kind in SOFT_KINDS else finding)
        else:
            left.remove(match)
            same.append(finding)
    seen = min(before.verdict.proven_fraction, after.verdict.proven_fraction)
    result: Literal["unchanged", "changed", "not_proven"]
    if added:
        result, text = (
            "changed",
            f"{len(added)} finding{'s' if len(added) > 1 else ''} that the dry fit did not show: done by closing.",
        )
    elif seen < DEMANDED_SHARE:
        result, text = (
            "not_proven",
            f"Nothing new was seen, but only {100 * seen:.0f} % of the panel is proven in both sets.",
        )
    else:
        result, text = "unchanged", "Closing changed nothing that the photos can show."
    return Comparison(new=tuple(added), gone=tuple(left), same=tuple(same), result=result, text=text)
