"""The bench's own plan for a panel: finger-wide lines along both directions, the rims, diagonals and a slow circle, a hold, several
fingers, and two soaks with hands off; and what has to be drawn again where a session left something open."""

import math
from collections.abc import Iterable, Sequence

from pydantic import Field

from lens.panel import Panel
from lens.records.base import Record
from lens.touch.session import Grid, Plan, Step

CELL_MM, USUAL_PITCH_MM = 7.0, 0.15  # a finger's width; where the diagonal is not known
PACE_MM_S, SLOW_MM_S = 150.0, 80.0
SOAK_MS, PAUSE_MS, HOLD_MS, FINGERS_MS, FREE_MS = 60_000.0, 900.0, 4_000.0, 5_000.0, 20_000.0
LEAST_CELLS, MOST_CELLS = 6, 80
CIRCLE_SHARE, CIRCLE_POINTS = 0.36, 48  # of the shorter side
FINGERS_SHARE = 0.3
CLOSE_MM = 15.0  # two fingertips side by side (common practice)
MOST_FINGERS = 10
SOAKS = (("hands off", False), ("hands off, charger in", True))
RUN_UP_CELLS = 2  # a stroke that is drawn again is reported before and after what it is drawn for
Cell = tuple[int, int]
Path = list[tuple[float, float]]


class Outline(Record):
    """What is cut out of the rectangle: the radius of its rounded corners, and boxes (left, top, width, height) in panel px."""

    corner_px: float = Field(default=0.0, ge=0, le=2000)
    cutouts: tuple[tuple[float, float, float, float], ...] = Field(default=(), max_length=8)


def grid_for(panel: Panel, outline: Outline | None = None) -> Grid:
    """Cells about a finger wide, without those whose middle the outline leaves out."""
    pitch = panel.pitch_mm or USUAL_PITCH_MM
    columns, rows = (
        min(MOST_CELLS, max(LEAST_CELLS, round(px * pitch / CELL_MM))) for px in (panel.width, panel.height)
    )
    wide, high = panel.width / columns, panel.height / rows
    cells = ((column, row) for row in range(rows) for column in range(columns))
    hidden = tuple(
        (c, r) for c, r in cells if outline and _cut_out(panel, outline, (c + 0.5) * wide - 0.5, (r + 0.5) * high - 0.5)
    )
    return Grid(columns=columns, rows=rows, hidden=hidden)


def _cut_out(panel: Panel, outline: Outline, x: float, y: float) -> bool:
    radius = outline.corner_px
    across, down = radius - min(x + 0.5, panel.width - 0.5 - x), radius - min(y + 0.5, panel.height - 0.5 - y)
    if across > 0 and down > 0 and math.hypot(across, down) > radius:
        return True
    return any(left <= x <= left + w and top <= y <= top + h for left, top, w, h in outline.cutouts)


class _Steps:
    """Steps one after the other, times in ms from the session's start."""

    def __init__(self, panel: Panel) -> None:
        self.pitch = panel.pitch_mm or USUAL_PITCH_MM
        self.steps: list[Step] = []
        self.clock = 0.0

    def add(
        self, name: str, kind: str, path: Path, took_ms: float, charging: bool | None = None, fingers: int | None = None
    ) -> None:
        self.steps.append(
            Step.model_validate(
                {
                    "id": name,
                    "kind": kind,
                    "path": path,
                    "start_ms": round(self.clock, 1),
                    "end_ms": round(self.clock + took_ms, 1),
                    "charging": charging,
                    "fingers": fingers,
                }
            )
        )
        self.clock += took_ms + PAUSE_MS

    def draw(self, name: str, path: Path, kind: str = "guided_path", pace_mm_s: float = PACE_MM_S) -> None:
        way = sum(math.hypot(a[0] - b[0], a[1] - b[1]) for a, b in zip(path, path[1:], strict=False))
        self.add(name, kind, path, way * self.pitch / pace_mm_s * 1000)


def standard_plan(panel: Panel, soak_ms: float = SOAK_MS, fingers: int = 0, outline: Outline | None = None) -> Plan:
    """The whole plan; ``fingers`` as many as the device claims, from 2 to 10, else that step is left out."""
    grid = grid_for(panel, outline)
    steps = _Steps(panel)
    steps.draw("lines across", _rounded(_serpentine(panel, grid)))
    steps.draw("lines down", _rounded((x, y) for y, x in _serpentine(_turned(panel), _turned_grid(grid))))
    steps.draw("rim", _rim(panel, grid), "edge")
    (left, top), (right, _), _, (_, bottom), _ = _rim(panel, grid)
    steps.draw("diagonals", [(left, top), (right, bottom), (right, top), (left, bottom)])
    middle = ((panel.width - 1) / 2, (panel.height - 1) / 2)
    steps.draw(
        "circle",
        _ring(middle, CIRCLE_SHARE * min(panel.width, panel.height), CIRCLE_POINTS, closed=True),
        pace_mm_s=SLOW_MM_S,
    )
    steps.add("hold", "hold", [middle, middle], HOLD_MS)
    if fingers >= 2:
        count = min(fingers, MOST_FINGERS)
        steps.add(
            "several fingers",
            "multi_touch",
            _ring(middle, FINGERS_SHARE * min(panel.width, panel.height), count),
            FINGERS_MS,
            fingers=count,
        )
        apart = CLOSE_MM / steps.pitch / 2
        close = _rounded([(middle[0] - apart, middle[1]), (middle[0] + apart, middle[1])])
        steps.add("two fingers close together", "multi_touch", close, FINGERS_MS, fingers=2)
    for name, charging in SOAKS:
        steps.add(name, "hands_off", [], soak_ms, charging)
    return Plan(grid=grid, steps=tuple(steps.steps))


def free_step(panel: Panel) -> Step:
    """Drawing as one likes."""
    steps = _Steps(panel)
    steps.add("free drawing", "free", [], FREE_MS)
    return steps.steps[0]


def soak_steps(soak_ms: float = SOAK_MS) -> tuple[Step, ...]:
    """Hands off once more, the charger out and in."""
    steps = [Step(id=name, kind="hands_off", start_ms=0, end_ms=soak_ms, charging=charging) for name, charging in SOAKS]
    return tuple(steps)


def again_over(panel: Panel, grid: Grid, cells: Iterable[Cell], name: str) -> Step | None:
    """A guided step over just these cells, with a run-up on both sides of each stretch; None when there are none."""
    wide, high = panel.width / grid.columns, panel.height / grid.rows
    left = set(cells) - set(grid.hidden)
    path: Path = []
    while left:
        group = _connected(left, _nearest(left, path[-1], wide, high) if path else min(left))
        left -= group
        path += _over(group, grid, wide, high)
    if not path:
        return None
    steps = _Steps(panel)
    steps.draw(name, _rounded(path))
    return steps.steps[0]


def _nearest(cells: set[Cell], at: tuple[float, float], wide: float, high: float) -> Cell:
    return min(cells, key=lambda cell: ((cell[0] + 0.5) * wide - at[0]) ** 2 + ((cell[1] + 0.5) * high - at[1]) ** 2)


def _connected(cells: set[Cell], first: Cell) -> set[Cell]:
    group, ahead = {first}, [first]
    while ahead:
        column, row = ahead.pop()
        for near in ((column + 1, row), (column - 1, row), (column, row + 1), (column, row - 1)):
            if near in cells and near not in group:
                group.add(near)
                ahead.append(near)
    return group


def _over(group: set[Cell], grid: Grid, wide: float, high: float) -> Path:
    """To and fro through a group of cells, along its longer side."""
    columns, rows = [c for c, _ in group], [r for _, r in group]
    lying = max(columns) - min(columns) >= max(rows) - min(rows)
    along, size, line, most = (0, wide, high, grid.columns) if lying else (1, high, wide, grid.rows)
    path: Path = []
    for number, at in enumerate(sorted({cell[1 - along] for cell in group})):
        own = [cell[along] for cell in group if cell[1 - along] == at]
        ends = [max(0, min(own) - RUN_UP_CELLS), min(most - 1, max(own) + RUN_UP_CELLS)]
        for end in ends if number % 2 == 0 else reversed(ends):
            place = ((end + 0.5) * size - 0.5, (at + 0.5) * line - 0.5)
            path.append(place if lying else (place[1], place[0]))
    return path


def _turned(panel: Panel) -> Panel:
    return panel.model_copy(update={"width": panel.height, "height": panel.width})


def _turned_grid(grid: Grid) -> Grid:
    return Grid(columns=grid.rows, rows=grid.columns, hidden=tuple((r, c) for c, r in grid.hidden))


def _serpentine(panel: Panel, grid: Grid) -> Path:
    """Through the middle of every row of cells, to and fro, from the first cell that is there to the last."""
    wide, high = panel.width / grid.columns, panel.height / grid.rows
    hidden = set(grid.hidden)
    path: Path = []
    for row in range(grid.rows):
        there = [column for column in range(grid.columns) if (column, row) not in hidden]
        if not there:
            continue
        ends = ((there[0] + 0.5) * wide - 0.5, (there[-1] + 0.5) * wide - 0.5)
        y = (row + 0.5) * high - 0.5
        path += [(x, y) for x in (ends if row % 2 == 0 else ends[::-1])]
    return path


def _rim(panel: Panel, grid: Grid) -> Path:
    x, y = panel.width / grid.columns / 2 - 0.5, panel.height / grid.rows / 2 - 0.5
    right, bottom = panel.width - 1 - x, panel.height - 1 - y
    return _rounded(((x, y), (right, y), (right, bottom), (x, bottom), (x, y)))


def _ring(middle: tuple[float, float], radius: float, points: int, closed: bool = False) -> Path:
    angles: Sequence[float] = [2 * math.pi * n / points for n in range(points + closed)]
    return _rounded((middle[0] + radius * math.cos(a), middle[1] + radius * math.sin(a)) for a in angles)


def _rounded(path: Iterable[tuple[float, float]]) -> Path:
    return [(round(x, 1), round(y, 1)) for x, y in path]
