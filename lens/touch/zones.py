"""Dead cells and the zones that they make."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.records.base import Record
from lens.touch.passes import Passes
from lens.touch.session import Plan, Session

AGREEING = 2  # silent passes that a zone at the rim needs
AT_TIMES, MISSED_PASSES, MOSTLY_DEAD = 0.25, 5, 0.75
SURE = 0.98
HALF, THIN_CELLS, SPANS = (0.4, 0.6), 2, 0.9
ZoneKind = Literal["rectangle", "half", "strip", "row", "column", "corner", "edge", "all"]


class DeadZone(Record):
    """A connected dead part: its box in panel px (centre and size) and its cells (column, row)."""

    x: float
    y: float
    w: float
    h: float
    cells: tuple[tuple[int, int], ...]
    kind: ZoneKind
    intermittent: bool
    confidence: float


def find_zones(session: Session, plan: Plan, passes: Passes) -> tuple[tuple[DeadZone, ...], NDArray[np.bool_]]:
    """The zones, and the cells in them.

    A cell is dead when it never answered while the finger surely crossed it; a broad part that misses some passes is dead at times. A
    zone at the rim needs two silent passes, since a finger may leave the panel there.
    """
    never = (passes.silent + passes.perhaps > 0) & (passes.reported == 0)
    zones, believed = [], np.zeros_like(never)
    for own in _parts((passes.silent > 0) | never):
        dead = own & never
        if _at_times(own, dead, passes):
            zones.append(_zone(session, plan, own, True, _confidence(plan, own, passes)))
            believed |= own
            continue
        for part in _parts(dead):
            if not passes.silent[part].any() or (_at_rim(plan, part) and _agreeing(part, passes) < AGREEING and not passes.unanswered):
                continue
            zones.append(_zone(session, plan, part, False, _confidence(plan, part, passes)))
            believed |= part
    return tuple(sorted(zones, key=lambda zone: -len(zone.cells))), believed


def _parts(mask: NDArray[np.bool_]) -> list[NDArray[np.bool_]]:
    count, labels = cv2.connectedComponents(mask.astype(np.uint8), connectivity=4)
    return [labels == n for n in range(1, count)]


def _agreeing(part: NDArray[np.bool_], passes: Passes) -> float:
    """Silent passes of a usual cell; what lies after the last report of a step counts along."""
    return float(np.median((passes.silent + passes.perhaps)[part]))


def _at_rim(plan: Plan, part: NDArray[np.bool_]) -> bool:
    return bool(part[0].any() or part[-1].any() or part[:, 0].any() or part[:, -1].any())


def _at_times(own: NDArray[np.bool_], dead: NDArray[np.bool_], passes: Passes) -> bool:
    """A part that is broad, missed several passes and gave others: short lifts of a hand make thin ones."""
    rows, columns = np.nonzero(own)
    share = float(passes.silent[own].sum() / max((passes.silent + passes.reported)[own].sum(), 1))
    broad = np.ptp(rows) >= 1 and np.ptp(columns) >= 1
    return bool(broad and dead.sum() < MOSTLY_DEAD * own.sum() and passes.silent[own].sum() >= MISSED_PASSES and share >= AT_TIMES)


def _confidence(plan: Plan, part: NDArray[np.bool_], passes: Passes) -> float:
    doubt = 0.5 ** (_agreeing(part, passes) + (0 if _at_rim(plan, part) else 1))
    return float(min(SURE, 1 - doubt / 2))


def _zone(session: Session, plan: Plan, part: NDArray[np.bool_], intermittent: bool, confidence: float) -> DeadZone:
    rows, columns = np.nonzero(part)
    wide, high = session.panel.width / plan.grid.columns, session.panel.height / plan.grid.rows
    left, right, top, bottom = int(columns.min()), int(columns.max()), int(rows.min()), int(rows.max())
    return DeadZone(
        x=round((left + right + 1) / 2 * wide - 0.5, 1), y=round((top + bottom + 1) / 2 * high - 0.5, 1), w=round((right - left + 1) * wide, 1),
        h=round((bottom - top + 1) * high, 1), cells=tuple((int(c), int(r)) for c, r in zip(columns, rows, strict=True)),
        kind=_kind(plan, left, right, top, bottom, len(rows)), intermittent=intermittent, confidence=round(confidence, 3))


def _kind(plan: Plan, left: int, right: int, top: int, bottom: int, cells: int) -> ZoneKind:
    across, down = (right - left + 1) / plan.grid.columns, (bottom - top + 1) / plan.grid.rows
    at = {"left": left == 0, "right": right == plan.grid.columns - 1, "top": top == 0, "bottom": bottom == plan.grid.rows - 1}
    if cells >= SPANS * plan.grid.columns * plan.grid.rows:
        return "all"
    ways = (
        (across, down, bottom - top + 1, at["top"] or at["bottom"], "row"),
        (down, across, right - left + 1, at["left"] or at["right"], "column"))
    for along, thick, blocks, one, name in ways:
        if along >= SPANS:
            if HALF[0] <= thick <= HALF[1] and one:
                return "half"
            if blocks <= THIN_CELLS and one:
                return "edge"
            return ("row" if name == "row" else "column") if blocks <= THIN_CELLS else "strip"
    if (at["left"] or at["right"]) and (at["top"] or at["bottom"]):
        return "corner"
    return "edge" if any(at.values()) else "rectangle"
