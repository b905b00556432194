"""A photo of a trail that was drawn line by line in a notes or setup screen: where the lines are, and where they stop side by side.

Nobody knows when the finger was where, so a line that is not there proves nothing. What tells is that lines which are there stop at one place and
go on (or do not) at another, three of them and more, one below the other, as a person's own lifts hardly do.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.panel import Panel
from lens.photo import lit_corners
from lens.photo_file import decode
from lens.records import Trail
from lens.records.inspection import Point
from lens.touch import eye_grid

TRAIL = "trail"  # stands where a photo's pattern is named
CELL_PX = 24  # of a cell of the grid that places are marked on
LEAST_CODES, SIGMAS = 14.0, 6.0  # by which a trail must differ from the page around it
MOST_COVERED = 0.35  # of the screen; lines a finger apart cover a fifth at most
LEAST_AREA_PX = 2500  # of the screen in the photo: fewer show no lines
THICK = 0.7  # of a cell: what is thicker is a button or a picture, or a line that runs across
NEAR, BRIDGED = 0.35, 0.4  # of a cell: a line's wander from column to column; what a crossing line hides of it
LEAST_LINE, LEAST_PIECE = 1.5, 0.5  # cells: of its longest piece, and of any
ONE_LINE = 0.6  # of a cell: so far aside a line goes on behind a gap
LEAST_LINES = 3  # that stop side by side (as at lens.touch: one gap is a lifted finger)
APART = 3.0  # cells between two lines that are neighbours
ENDS = 0.1  # of a cell: so much of a cell beside a gap may be drawn on
LEAST_GAP, LEAST_AT_RIM = (
    0.5,
    2.0,
)  # cells: nobody begins right at the rim, and bars of the screen's own cannot be drawn on
Mask = NDArray[np.bool_]


class TrailRead(NamedTuple):
    trail: Trail


class _Line(NamedTuple):
    """A line across the screen: its usual place down the screen, and the stretches where it is drawn, in cells."""

    y: float
    drawn: tuple[tuple[float, float], ...]


def read_trail(data: bytes, panel: Panel, corners: tuple[Point, ...] | None = None) -> TrailRead:
    """Where a trail was drawn and where its lines stop side by side, on the grid that places are marked on by eye.

    Raises
    ------
    BadInput
        when the screen's outline is not found and no corners are given, or no line is seen.
    """
    pixels = decode(data).pixels
    quad = np.asarray(corners, float) if corners else lit_corners(pixels)
    if quad is None:
        raise BadInput(
            "The lit screen's four sides were not found, so it is not known where the trail is. Give the corners.",
            "trail_corners",
        )
    if not cv2.isContourConvex(quad.astype(np.float32)) or cv2.contourArea(quad.astype(np.float32)) < LEAST_AREA_PX:
        raise BadInput(
            "These corners make no screen: give top left, top right, bottom right and bottom left.", "trail_corners"
        )
    grid = eye_grid(panel)
    mask = _trail_mask(_upright(pixels, quad, grid.columns, grid.rows))
    if mask.mean() > MOST_COVERED:
        raise BadInput(
            "The page under the trail is not blank. Draw on an empty one, without pictures or print, and shoot again.",
            "no_trail",
        )
    across, down = _lines(mask), _lines(mask.T)
    if _length(down) > _length(across):
        lines, size, turned = down, (grid.rows, grid.columns), True
    else:
        lines, size, turned = across, (grid.columns, grid.rows), False
    if not lines:
        raise BadInput(
            "No line of a trail was seen. Draw on a blank page, dark on white or light on black, and photograph the whole screen.",
            "no_trail",
        )
    drawn, broken = _cells(lines, *size)
    if turned:
        drawn, broken = drawn.T, broken.T
    return TrailRead(
        Trail(
            columns=grid.columns,
            rows=grid.rows,
            lines=len(lines),
            drawn=tuple((int(c), int(r)) for r, c in np.argwhere(drawn)),
            broken=tuple((int(c), int(r)) for r, c in np.argwhere(broken)),
        )
    )


def _upright(pixels: NDArray[np.uint8], quad: NDArray[np.float64], columns: int, rows: int) -> NDArray[np.float32]:
    """(rows x 24, columns x 24, 3) the screen, seen straight on."""
    w, h = columns * CELL_PX, rows * CELL_PX
    target = np.array([(0, 0), (w, 0), (w, h), (0, h)], np.float32) - 0.5
    to_screen = cv2.getPerspectiveTransform(quad.astype(np.float32), target)
    coarse = max(np.hypot(*(quad[1] - quad[0])) / w, np.hypot(*(quad[3] - quad[0])) / h)
    soft = cv2.GaussianBlur(pixels, (0, 0), max(0.5, 0.5 * float(coarse)))
    return cv2.warpPerspective(soft, to_screen, (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(
        np.float32
    )


def _trail_mask(screen: NDArray[np.float32]) -> Mask:
    """(h, w) where the screen differs from the page around it."""
    page = np.stack([cv2.medianBlur(screen[..., c].astype(np.uint8), 2 * CELL_PX - 1) for c in range(3)], axis=-1)
    off = np.abs(screen - page).max(axis=2)
    noise = float(np.median(off)) / 0.6745
    strong = off > max(LEAST_CODES, SIGMAS * noise)
    return np.asarray(cv2.morphologyEx(strong.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)), bool)


def _runs(column: Mask) -> list[float]:
    """Middles of what one column shows of lines, in px."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], column.astype(np.int8), [0]])))
    begins, ends = edges[::2], edges[1::2]
    thin = (ends - begins) < THICK * CELL_PX
    return [float(middle) for middle in (begins[thin] + ends[thin] - 1) / 2]


def _stretches(mask: Mask) -> list[list[tuple[int, float]]]:
    """Lines followed from column to column: (x, y) of each, where it does not break off for longer than a crossing line hides."""
    open_: list[list[tuple[int, float]]] = []
    done: list[list[tuple[int, float]]] = []
    for x in range(mask.shape[1]):
        still: list[list[tuple[int, float]]] = []
        for one in open_:
            (still if x - one[-1][0] <= BRIDGED * CELL_PX else done).append(one)
        open_ = still
        for y in _runs(mask[:, x]):
            near = min(open_, key=lambda one: abs(one[-1][1] - y), default=None)
            if near is not None and abs(near[-1][1] - y) < NEAR * CELL_PX and near[-1][0] < x:
                near.append((x, y))
            else:
                open_.append([(x, y)])
    return [one for one in (*done, *open_) if one[-1][0] - one[0][0] >= LEAST_PIECE * CELL_PX]


def _lines(mask: Mask) -> list[_Line]:
    """Stretches that go on behind a gap put together, from the top down."""
    left = sorted(_stretches(mask), key=lambda one: one[0][0])
    lines: list[list[list[tuple[int, float]]]] = []
    for one in left:
        fitting = [
            line
            for line in lines
            if line[-1][-1][0] < one[0][0] and abs(_end(line[-1], -1) - _end(one, 0)) < ONE_LINE * CELL_PX
        ]
        if fitting:
            min(fitting, key=lambda line: abs(_end(line[-1], -1) - _end(one, 0))).append(one)
        else:
            lines.append([one])
    told = [
        _Line(
            float(np.median([y for one in line for _, y in one])) / CELL_PX,
            tuple((one[0][0] / CELL_PX, (one[-1][0] + 1) / CELL_PX) for one in line),
        )
        for line in lines
    ]
    long = [line for line in told if max(end - begin for begin, end in line.drawn) >= LEAST_LINE]
    return sorted(long, key=lambda line: line.y)


def _end(stretch: list[tuple[int, float]], at: int) -> float:
    part = stretch[:CELL_PX] if at == 0 else stretch[-CELL_PX:]
    return float(np.median([y for _, y in part]))


def _length(lines: list[_Line]) -> float:
    return sum(end - begin for line in lines for begin, end in line.drawn)


def _gaps(line: _Line, columns: int) -> list[tuple[float, float]]:
    """Where a line is not drawn, the rims included, in cells."""
    ends = [0.0, *(value for stretch in line.drawn for value in stretch), float(columns)]
    told = []
    for begin, end in zip(ends[::2], ends[1::2], strict=True):
        at_rim = begin == 0 or end == columns
        if end - begin > (LEAST_AT_RIM if at_rim else LEAST_GAP):
            told.append((begin, end))
    return told


def _cells(lines: list[_Line], columns: int, rows: int) -> tuple[Mask, Mask]:
    """(rows, columns) drawn on, and missed by lines that stop side by side."""
    drawn, broken = np.zeros((2, rows, columns), bool)
    for line in lines:
        row = min(rows - 1, max(0, int(line.y)))
        for begin, end in line.drawn:
            drawn[row, int(round(begin)) : max(int(round(end)), int(round(begin)) + 1)] = True
    missed = np.zeros((len(lines), columns), bool)
    for n, line in enumerate(lines):
        for begin, end in _gaps(line, columns):
            missed[n, max(0, int(np.ceil(begin - ENDS))) : int(np.floor(end + ENDS))] = True
    for column in range(columns):
        for side_by_side in _together(lines, missed[:, column]):
            top, bottom = (min(rows - 1, max(0, int(lines[n].y))) for n in (side_by_side[0], side_by_side[-1]))
            broken[top : bottom + 1, column] = True
    return drawn, broken & ~drawn


def _together(lines: list[_Line], missed: Mask) -> list[list[int]]:
    """Numbers of neighbouring lines that all miss a column, three and more."""
    found: list[list[int]] = [[]]
    for n, line in enumerate(lines):
        near = bool(found[-1]) and line.y - lines[found[-1][-1]].y <= APART
        if missed[n] and near:
            found[-1].append(n)
        else:
            found.append([n] if missed[n] else [])
    return [held for held in found if len(held) >= LEAST_LINES]
