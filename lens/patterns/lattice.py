"""The dots of the registration pattern."""

from lens.panel import Panel

LATTICE_COLUMNS, LATTICE_ROWS = 24, 14


def lattice_points(panel: Panel) -> list[tuple[int, int]]:
    """Top-left pixels of the registration pattern's dots, ``dot_px`` wide."""
    columns, rows = (LATTICE_COLUMNS, LATTICE_ROWS) if panel.width >= panel.height else (LATTICE_ROWS, LATTICE_COLUMNS)
    return [
        (round((c + 0.5) * panel.width / columns), round((r + 0.5) * panel.height / rows))
        for r in range(rows)
        for c in range(columns)
    ]


def dot_px(panel: Panel) -> int:
    """Side of a lattice dot: dots stay under 0.2 % of the panel."""
    return max(1, round(min(panel.width, panel.height) / 400))
