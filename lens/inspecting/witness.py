"""The panel against an external screen that is sent the same pictures: what shows on both comes from before the panel.

Places are compared as shares of the picture's width and height, since the two screens seldom have the same resolution.
"""

from typing import Literal

from lens.records import KINDS, NOT_OF_THE_PANEL, Finding, Inspection, Record, related

SAME_PLACE = 0.012  # of the picture's side: what two registrations and a scaled picture may differ
ENOUGH_SEEN = 0.5


class Witness(Record):
    """``same`` are the panel's findings that the external screen shows too."""

    outcome: Literal["clean", "same_fault", "partly", "not_proven"]
    same: tuple[Finding, ...]
    panel_only: tuple[Finding, ...]
    external_only: tuple[Finding, ...]
    text: str


def _told(inspection: Inspection) -> list[Finding]:
    return [f for f in inspection.findings if f.kind not in NOT_OF_THE_PANEL and f.kind != "cluster" and f.counts]


def _carried(finding: Finding) -> bool:
    """Whether a signal can carry it, rather than only the panel's own light, cell or glass do it."""
    return KINDS[finding.kind].carried_by_signal


def _alike(one: Finding, other: Finding, sizes: tuple[tuple[int, int], tuple[int, int]]) -> bool:
    """The same kind at the same place of the picture; of a line only its place across counts, and its orientation."""
    if not related(one.kind, other.kind) or one.orientation != other.orientation:
        return False
    if one.kind == "artifact":
        return (one.picture == "colours") == (other.picture == "colours")
    (width, height), (other_width, other_height) = sizes
    across = abs((one.x + 0.5) / width - (other.x + 0.5) / other_width)
    down = abs((one.y + 0.5) / height - (other.y + 0.5) / other_height)
    if one.orientation == "column":
        return across <= SAME_PLACE
    if one.orientation == "row":
        return down <= SAME_PLACE
    return max(across, down) <= SAME_PLACE


def _proven(inspection: Inspection) -> bool:
    return inspection.proven.pixels >= ENOUGH_SEEN or any(f.kind == "artifact" for f in inspection.findings)


def bear_witness(panel: Inspection, external: Inspection) -> Witness:
    """What the external screen says of the panel's findings."""
    sizes = ((panel.panel.width, panel.panel.height), (external.panel.width, external.panel.height))
    left, same, own = _told(external), [], []
    for finding in _told(panel):
        match = next((f for f in left if _alike(finding, f, sizes)), None)
        if match is None or not _carried(finding):
            own.append(finding)
        else:
            left.remove(match)
            same.append(finding)
    carried = [f for f in own if _carried(f)]
    outcome: Literal["clean", "same_fault", "partly", "not_proven"]
    proven = _proven(panel) and _proven(external)
    if not proven and not same:
        outcome, text = (
            "not_proven",
            "Too little of one of the two screens is proven. Photograph the same patterns of both, whole and sharp.",
        )
    elif same and carried and proven:
        outcome = "partly"
        text = f"{_count(same)} shown by both and so from before the panel; {_count(carried)} shown by the panel alone."
    elif same:
        # what both show is seen, however little else is proven
        outcome, text = (
            "same_fault",
            f"{_count(same)} shown by both at the same place: look before the panel, at graphics, board and software.",
        )
        if carried:
            text += f" Whether the external screen shows the other {len(carried)} too is not proven."
    else:
        outcome, text = "clean", "Neither screen shows a fault."
        if own:
            text = f"The external screen is clean; {_count(own)} shown by the panel alone: panel, cable or plug."
    return Witness(outcome=outcome, same=tuple(same), panel_only=tuple(own), external_only=tuple(left), text=text)


def _count(findings: list[Finding]) -> str:
    return f"{len(findings)} finding{'s are' if len(findings) > 1 else ' is'}"
