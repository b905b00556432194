"""A table of cells between the rows of markers, between their columns on an upright panel."""

from collections.abc import Iterator

from lens.panel import Panel
from lens.patterns.catalogue import Pattern
from lens.patterns.markers import marker_layout, probe_room_px

BANDS, ROWS_A_BAND = 2, 2
Span = tuple[int, int]


def cells_between_markers(panel: Panel, pattern: Pattern, columns: int) -> Iterator[tuple[int, int, Span, Span]]:
    """(row, column, x, y) of every cell of four rows, the spans in panel px, their ends not included."""
    upright = panel.height > panel.width
    along = panel.height if upright else panel.width
    markers = marker_layout(panel, pattern)
    starts = sorted({marker.x if upright else marker.y for marker in markers})
    side, gap = markers[0].side_px, probe_room_px(panel)
    for row in range(BANDS * ROWS_A_BAND):
        band, part = divmod(row, ROWS_A_BAND)
        low, high = starts[band] + side + gap, starts[band + 1] - gap
        across = (low + (high - low) * part // ROWS_A_BAND, low + (high - low) * (part + 1) // ROWS_A_BAND)
        for column in range(columns):
            down = (along * column // columns, along * (column + 1) // columns)
            yield (row, column, across, down) if upright else (row, column, down, across)
