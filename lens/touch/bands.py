"""Dead rows and columns that run over the whole panel, however thin: there every stroke across breaks off at the same place.

Cell by cell such a strip may hide, since a finger that wanders by half a cell gives reports beside it; all strokes together place it.
"""

import numpy as np
from numpy.typing import NDArray

from lens.touch.passes import Passes
from lens.touch.session import Plan, Session

STEEP = 3.0  # a gap along a column is this much longer down than across
LEAST_STROKES, BROKEN_SHARE = 5, 0.8  # of the strokes across that must break off
SOME_OF_CELL, MEAN_OF_CELL, WHOLE_OF_CELL = 0.15, 0.3, 0.6


def dead_bands(session: Session, plan: Plan, passes: Passes) -> NDArray[np.bool_]:
    """(rows, columns) true for the rows and columns of cells in which nearly every stroke across them broke off."""
    wide, high = session.panel.width / plan.grid.columns, session.panel.height / plan.grid.rows
    gaps = [(gap.x, gap.y, gap.to_x, gap.to_y) for gap in passes.gaps]
    lines = np.array(passes.lines) if passes.lines else np.zeros((1, plan.grid.rows, plan.grid.columns), bool)
    rows = _broken(gaps, lines, wide, high)
    columns = _broken([(y, x, to_y, to_x) for x, y, to_x, to_y in gaps], lines.transpose(0, 2, 1), high, wide)
    return np.asarray(rows[:, None] | columns[None, :])


def _broken(
    gaps: list[tuple[float, float, float, float]], lines: NDArray[np.bool_], wide: float, high: float
) -> NDArray[np.bool_]:
    """Which rows are broken off at, by gaps (x, y, to x, to y) of strokes down the columns."""
    rows, columns = lines[0].shape
    silent, strokes = np.zeros((rows, columns)), np.zeros(columns)
    for line in lines:
        across = np.flatnonzero(line.any(axis=0))
        if len(across) == 1 and line.sum() > 2:
            strokes[across[0]] += 1
    edges = np.arange(rows + 1) * high - 0.5
    for x, y, to_x, to_y in gaps:
        if abs(to_y - y) < STEEP * abs(to_x - x):
            continue
        column = int(np.clip((x + to_x + 1) / 2 / wide, 0, columns - 1))
        low, top = min(y, to_y), max(y, to_y)
        silent[:, column] += np.clip(np.minimum(edges[1:], top) - np.maximum(edges[:-1], low), 0, None) / high
    drawn = strokes > 0
    if drawn.sum() < LEAST_STROKES:
        return np.zeros(rows, bool)
    share = silent[:, drawn] / strokes[drawn]
    broken = (share >= SOME_OF_CELL).mean(axis=1) >= BROKEN_SHARE
    mean = np.minimum(share, 1).mean(axis=1)
    # of the rows that a thin strip reaches into, the one that it fills most
    padded = np.pad(mean, 1)
    most = (mean >= padded[:-2]) & (mean >= padded[2:])
    return np.asarray(broken & ((mean >= WHOLE_OF_CELL) | (most & (mean >= MEAN_OF_CELL))))
