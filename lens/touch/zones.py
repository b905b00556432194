"""Dead cells and the zones that they make."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.records.base import Record
from lens.touch.bands import dead_bands
from lens.touch.passes import Passes
from lens.touch.session import Plan, Session

AGREEING, LINED_UP = 2, 3  # silent passes that a zone needs, or neighbouring strokes that each stop and go on there
AT_TIMES, MISSED_PASSES, MISSED_STROKES, MOSTLY_DEAD, HALF_DEAD = 0.25, 5, 3, 0.75, 0.45
BLOCK_CELLS, BLOCK_FILLED = 4, 0.85
FEW_CELLS, TOUCHED_SHARE = (
    3,
    0.5,
)  # so few cells are no zone when more than this share of them gave a report, be it at their border
NEIGHBOURS = np.ones((3, 3), np.uint8)
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


class Zones(NamedTuple):
    """The zones, (rows, columns) the cells in them, and those that stayed silent once and nothing else speaks of: suspected, not proven."""

    zones: tuple[DeadZone, ...]
    believed: NDArray[np.bool_]
    suspected: NDArray[np.bool_]


def find_zones(session: Session, plan: Plan, passes: Passes) -> Zones:
    """Dead cells and what they make.

    A cell is dead when it never answered while the finger surely crossed it, twice, or in line with neighbouring strokes that stop there too:
    one gap alone is a hand that lifted. A broad part that misses some passes is dead at times. Rows and columns at which every stroke breaks
    off are dead however thin they are.
    """
    never = (passes.silent + passes.perhaps > 0) & (passes.reported == 0)
    bands = dead_bands(session, plan, passes)
    beside = cv2.dilate(bands.astype(np.uint8), NEIGHBOURS) > 0
    believed = bands | (never & beside)
    zones = [zone_of(session.panel, plan, part, False, SURE) for part in parts(believed)]
    for own in parts((_agreed(passes) & ~beside) | (never & ~believed)):
        dead = own & never
        if _at_times(own, dead, passes):
            whole = _filled(own)
            zones.append(zone_of(session.panel, plan, whole, True, _confidence(plan, own, passes)))
            believed |= whole
            continue
        # a cell that a slanting stroke just scraped does not part a zone
        scraped = own & (passes.silent >= AGREEING) & (passes.silent > passes.reported)
        for joined in parts(dead | scraped):
            part = joined & dead
            if part.any() and _sure(part, passes):
                zones.append(zone_of(session.panel, plan, part, False, _confidence(plan, part, passes)))
                believed |= part
    suspected = (passes.silent > 0) & ~passes.touched & ~believed
    return Zones(tuple(sorted(zones, key=lambda zone: -len(zone.cells))), believed, suspected)


def _agreed(passes: Passes) -> NDArray[np.bool_]:
    """Silent cells that two gaps speak of, this one or its neighbours: a hand that lifts for a moment leaves a gap alone."""
    speaking = np.zeros(passes.silent.shape, np.int64)
    for gap in passes.gaps:
        speaking += np.asarray(cv2.dilate(gap.cells.astype(np.uint8), NEIGHBOURS), np.int64)
    return np.asarray((passes.silent > 0) & (speaking >= AGREEING))


def _filled(part: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """With the cells between its own that happened to answer each time."""
    padded = np.pad(part.astype(np.uint8), 1)
    return np.asarray(cv2.morphologyEx(padded, cv2.MORPH_CLOSE, NEIGHBOURS)[1:-1, 1:-1] > 0) | part


def parts(mask: NDArray[np.bool_]) -> list[NDArray[np.bool_]]:
    """The connected parts of (rows, columns) cells, by their sides."""
    count, labels = cv2.connectedComponents(mask.astype(np.uint8), connectivity=4)
    return [labels == n for n in range(1, count)]


def _sure(part: NDArray[np.bool_], passes: Passes) -> bool:
    """Whether the finger was surely there: two silent passes agree, a step had no answer at all, or neighbouring strokes stop in line."""
    if part.sum() <= FEW_CELLS and (passes.touched[part].mean() > TOUCHED_SHARE or not _own_gaps(part, passes)):
        return False
    if float(np.median(passes.mute[part])) >= AGREEING:
        return True
    if not passes.silent[part].any():
        return False
    strokes = sum(bool((gap.cells & part).any()) for gap in passes.gaps)
    return (
        _agreeing(part, passes) >= AGREEING
        or bool(passes.unanswered)
        or max(strokes, _lined_up(part, passes)) >= LINED_UP
    )


def _own_gaps(part: NDArray[np.bool_], passes: Passes) -> bool:
    """Whether at least two gaps lie in a small part for the most: where two lifts of a hand cross, each goes on beyond the cell that they share."""
    whole = passes.mute.astype(bool) & part
    return sum(2 * int((gap.cells & part).sum()) >= int(gap.cells.sum()) for gap in passes.gaps) >= AGREEING or bool(
        passes.unanswered or (whole == part).all()
    )


def _lined_up(part: NDArray[np.bool_], passes: Passes) -> int:
    """Lines of the plan that all break off and go on at the same cells of a part; one gap about a turn breaks two."""
    quiet = part & (passes.silent + passes.mute > 0)
    ends: dict[tuple[int, int], int] = {}
    for line in passes.lines:
        along = int(line.any(axis=1).sum() < line.any(axis=0).sum())
        places = np.flatnonzero((line & quiet).any(axis=1 - along))
        if len(places) >= 2:
            for end in (places[0], places[-1]):
                ends[along, int(end)] = ends.get((along, int(end)), 0) + 1
    return max(ends.values(), default=0)


def _agreeing(part: NDArray[np.bool_], passes: Passes) -> float:
    """Silent passes of a usual cell; what lies after the last report of a step counts along."""
    return float(np.median((passes.silent + passes.perhaps)[part]))


def _at_rim(plan: Plan, part: NDArray[np.bool_]) -> bool:
    return bool(part[0].any() or part[-1].any() or part[:, 0].any() or part[:, -1].any())


def _at_times(own: NDArray[np.bool_], dead: NDArray[np.bool_], passes: Passes) -> bool:
    """A part that is broad, missed several passes of several strokes and gave others."""
    rows, columns = np.nonzero(own)
    strokes = sum(bool((gap.cells & own).any()) for gap in passes.gaps)
    share = float(passes.silent[own].sum() / max((passes.silent + passes.reported)[own].sum(), 1))
    broad = np.ptp(rows) >= 1 and np.ptp(columns) >= 1
    missed = passes.silent[own].sum() >= MISSED_PASSES and strokes >= MISSED_STROKES
    return bool(missed and broad and share >= AT_TIMES and not _solid(own, dead, strokes, passes))


def _solid(own: NDArray[np.bool_], dead: NDArray[np.bool_], strokes: int, passes: Passes) -> bool:
    """Whether a part is dead all through: at its border cells are dead in part only, and answer some strokes. One that is all border is
    solid when nearly every line across it broke off, or about half of its cells never answered."""
    if _block(own, dead):
        return True
    inner = cv2.erode(np.pad(own.astype(np.uint8), 1, mode="edge"), NEIGHBOURS)[1:-1, 1:-1] > 0
    if inner.any():
        return bool(dead[inner].mean() >= MOSTLY_DEAD)
    across = sum(bool((line & own).any()) for line in passes.lines)
    return bool(strokes >= MOSTLY_DEAD * across or dead.sum() >= HALF_DEAD * own.sum())


def _block(own: NDArray[np.bool_], dead: NDArray[np.bool_]) -> bool:
    """Whether the cells that never answered fill a box, and all the others of the part border on it."""
    if dead.sum() < BLOCK_CELLS:
        return False
    rows, columns = np.nonzero(dead)
    filled = dead.sum() / ((np.ptp(rows) + 1) * (np.ptp(columns) + 1))
    near = cv2.dilate(dead.astype(np.uint8), NEIGHBOURS) > 0
    return bool(filled >= BLOCK_FILLED and near[own].all())


def _confidence(plan: Plan, part: NDArray[np.bool_], passes: Passes) -> float:
    doubt = 0.5 ** (_agreeing(part, passes) + (0 if _at_rim(plan, part) else 1))
    return float(min(SURE, 1 - doubt / 2))


def zone_of(panel: Panel, plan: Plan, part: NDArray[np.bool_], intermittent: bool, confidence: float) -> DeadZone:
    """A zone of (rows, columns) cells, its kind by how far it spans."""
    rows, columns = np.nonzero(part)
    wide, high = panel.width / plan.grid.columns, panel.height / plan.grid.rows
    left, right, top, bottom = int(columns.min()), int(columns.max()), int(rows.min()), int(rows.max())
    return DeadZone(
        x=round((left + right + 1) / 2 * wide - 0.5, 1),
        y=round((top + bottom + 1) / 2 * high - 0.5, 1),
        w=round((right - left + 1) * wide, 1),
        h=round((bottom - top + 1) * high, 1),
        cells=tuple((int(c), int(r)) for c, r in zip(columns, rows, strict=True)),
        kind=_kind(plan, left, right, top, bottom, len(rows)),
        intermittent=intermittent,
        confidence=round(confidence, 3),
    )


def _kind(plan: Plan, left: int, right: int, top: int, bottom: int, cells: int) -> ZoneKind:
    across, down = (right - left + 1) / plan.grid.columns, (bottom - top + 1) / plan.grid.rows
    at = {
        "left": left == 0,
        "right": right == plan.grid.columns - 1,
        "top": top == 0,
        "bottom": bottom == plan.grid.rows - 1,
    }
    if cells >= SPANS * plan.grid.columns * plan.grid.rows:
        return "all"
    ways = (
        (across, down, bottom - top + 1, at["top"] or at["bottom"], "row"),
        (down, across, right - left + 1, at["left"] or at["right"], "column"),
    )
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
