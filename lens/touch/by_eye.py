"""Touch tried by eye, where a device cannot open our page: the places at which a slow drag stopped, marked by a person. Seen, never measured."""

from collections.abc import Iterable

import numpy as np
from pydantic import Field

from lens.errors import BadInput
from lens.panel import Panel
from lens.records.base import Record
from lens.touch.session import Grid, Plan
from lens.touch.zones import DeadZone, parts, zone_of

LONG_SIDE_CELLS, LEAST_CELLS = 20, 6  # a person who looks tells a place to about a twentieth (common practice)
SEEN = 0.8  # of such marks one in five was a lifted finger (from memory of benches; nothing was counted)
Cell = tuple[int, int]


class TouchSeen(Record):
    """``cells`` (column, row) that did not answer; the ``zones`` that they make, the largest first, each in words (``told``)."""

    columns: int
    rows: int
    cells: tuple[Cell, ...] = Field(default=(), max_length=LONG_SIDE_CELLS**2)
    zones: tuple[DeadZone, ...] = ()
    told: tuple[str, ...] = ()


def eye_grid(panel: Panel) -> Grid:
    """Square cells, twenty along the long side."""
    side = max(panel.width, panel.height) / LONG_SIDE_CELLS
    columns, rows = (max(LEAST_CELLS, round(px / side)) for px in (panel.width, panel.height))
    return Grid(columns=columns, rows=rows)


def touch_seen(panel: Panel, cells: Iterable[Cell]) -> TouchSeen:
    """What the marked cells come to. Raises BadInput for cells that the panel has not."""
    grid = eye_grid(panel)
    marked = np.zeros((grid.rows, grid.columns), np.bool_)
    for column, row in cells:
        if not (0 <= column < grid.columns and 0 <= row < grid.rows):
            raise BadInput(
                f"Places lie on {grid.columns} x {grid.rows} cells, counted from 0 at the top left; not {column}, {row}.",
                "touch_cell",
            )
        marked[row, column] = True
    plan = Plan(grid=grid)
    zones = sorted((zone_of(panel, plan, part, False, SEEN) for part in parts(marked)), key=lambda one: -len(one.cells))
    return TouchSeen(
        columns=grid.columns,
        rows=grid.rows,
        cells=tuple((int(c), int(r)) for r, c in np.argwhere(marked)),
        zones=tuple(zones),
        told=tuple(_told(panel, zone) for zone in zones),
    )


def _told(panel: Panel, zone: DeadZone) -> str:
    across, down = (zone.x + 0.5) / panel.width, (zone.y + 0.5) / panel.height
    side = "left" if across < 0.5 else "right"
    end = "upper" if down < 0.5 else "lower"
    wide, high = zone.w / panel.width, zone.h / panel.height
    from_left, from_top = f"{100 * across:.0f} % from the left", f"{100 * down:.0f} % from the top"
    return {
        "all": "Nothing answers.",
        "half": f"The {end if wide > high else side} half does not answer.",
        "strip": f"A broad strip does not answer, {from_top if wide > high else from_left}.",
        "row": f"A row does not answer, {from_top}.",
        "column": f"A column does not answer, {from_left}.",
        "corner": f"The {end} {side} corner does not answer.",
        "edge": f"The rim does not answer, {from_left}, {from_top}.",
        "rectangle": f"A place does not answer, {from_left}, {from_top}.",
    }[zone.kind]
