"""The bench's own plan for a panel: finger-wide lines along both directions, the rims, and two soaks with hands off."""

from lens.panel import Panel
from lens.touch.session import Grid, Plan, Step

CELL_MM, USUAL_PITCH_MM = 7.0, 0.15  # a finger's width; where the diagonal is not known
PACE_MM_S = 150.0
SOAK_MS, PAUSE_MS, HOLD_MS = 60_000.0, 900.0, 4_000.0
LEAST_CELLS, MOST_CELLS = 6, 80


def standard_plan(panel: Panel, soak_ms: float = SOAK_MS) -> Plan:
    """Steps one after the other, times in ms from the session's start."""
    pitch = panel.pitch_mm or USUAL_PITCH_MM
    columns, rows = (min(MOST_CELLS, max(LEAST_CELLS, round(px * pitch / CELL_MM))) for px in (panel.width, panel.height))
    steps: list[Step] = []
    clock = 0.0

    def add(name: str, kind: str, path: list[tuple[float, float]], took_ms: float, charging: bool | None = None) -> None:
        nonlocal clock
        steps.append(Step.model_validate({
            "id": name, "kind": kind, "path": path, "start_ms": round(clock, 1), "end_ms": round(clock + took_ms, 1), "charging": charging}))
        clock += took_ms + PAUSE_MS

    def along(path: list[tuple[float, float]]) -> float:
        way = sum(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in zip(path, path[1:], strict=False))
        return way * pitch / PACE_MM_S * 1000

    down = [(x, y) for y, x in _serpentine(_turned(panel), rows, columns)]
    for name, path in (("lines across", _serpentine(panel, columns, rows)), ("lines down", down)):
        add(name, "guided_path", path, along(path))
    rim = _rim(panel, columns, rows)
    add("rim", "edge", rim, along(rim))
    middle = ((panel.width - 1) / 2, (panel.height - 1) / 2)
    add("hold", "hold", [middle, middle], HOLD_MS)
    add("hands off", "hands_off", [], soak_ms, False)
    add("hands off, charger in", "hands_off", [], soak_ms, True)
    return Plan(grid=Grid(columns=columns, rows=rows), steps=tuple(steps))


def _turned(panel: Panel) -> Panel:
    return panel.model_copy(update={"width": panel.height, "height": panel.width})


def _serpentine(panel: Panel, columns: int, rows: int) -> list[tuple[float, float]]:
    """Through the middle of every row of cells, to and fro."""
    wide, high = panel.width / columns, panel.height / rows
    path = []
    for row in range(rows):
        ends = (wide / 2 - 0.5, panel.width - wide / 2 - 0.5)
        y = (row + 0.5) * high - 0.5
        path += [(x, y) for x in (ends if row % 2 == 0 else ends[::-1])]
    return [(round(x, 1), round(y, 1)) for x, y in path]


def _rim(panel: Panel, columns: int, rows: int) -> list[tuple[float, float]]:
    x, y = panel.width / columns / 2 - 0.5, panel.height / rows / 2 - 0.5
    right, bottom = panel.width - 1 - x, panel.height - 1 - y
    return [(round(a, 1), round(b, 1)) for a, b in ((x, y), (right, y), (right, bottom), (x, bottom), (x, y))]
