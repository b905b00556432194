"""The data bits: for each bit of red, green and blue a chequer of two levels that differ in that bit alone.

A bit that is lost makes its chequer vanish, bits in the wrong order make each look like another's, and where a whole lane is open its
bits vanish together. A chequer is told from slow changes of light, so neither lens nor panel can pass for it.
"""

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.catalogue import get_pattern
from lens.patterns.cells import cells_between_markers
from lens.records.base import Record

BASE, BASE_OF_SIX = 64, 48  # what the bit is added to: light enough to be seen, dark enough that the lowest bit shows
BITS = 8
# rows of cells: (channel, bit) by column; the last row shows the lowest bits once more
ROWS: tuple[tuple[tuple[int, int], ...], ...] = (
    *(tuple((channel, bit) for bit in range(BITS)) for channel in range(3)),
    ((0, 0), (1, 0), (2, 0), (0, 1), (1, 1), (2, 1), (1, 0), (2, 0)),
)
LEAST_SQUARE_PX, SQUARES_ACROSS = 6, 6
FILL = 0.84


class BitCell(Record):
    """A chequer, in panel pixels: its box (left, top, right, bottom, the last two not included), made of squares of ``square_px``."""

    box: tuple[int, int, int, int]
    square_px: int
    channel: int
    bit: int

    @property
    def codes(self) -> tuple[int, int]:
        """The level without the bit and with it."""
        base = BASE_OF_SIX if self.bit == 6 else BASE
        return base, base | 1 << self.bit

    @property
    def squares(self) -> tuple[int, int]:
        """Columns and rows of squares."""
        left, top, right, bottom = self.box
        return (right - left) // self.square_px, (bottom - top) // self.square_px


def bit_cells(panel: Panel) -> tuple[BitCell, ...]:
    """The cells between the rows of markers (between their columns on an upright panel)."""
    cells = []
    for row, column, x, y in cells_between_markers(panel, get_pattern("bits"), BITS):
        channel, bit = ROWS[row][column]
        square = max(LEAST_SQUARE_PX, int(FILL * min(x[1] - x[0], y[1] - y[0])) // SQUARES_ACROSS)
        (left, right), (top, bottom) = (_whole(*span, square) for span in (x, y))
        cells.append(BitCell(box=(left, top, right, bottom), square_px=square, channel=channel, bit=bit))
    return tuple(cells)


def _whole(low: int, high: int, square: int) -> tuple[int, int]:
    """The middle of a span, of whole squares."""
    size = max(1, int(FILL * (high - low)) // square) * square
    first = low + (high - low - size) // 2
    return first, first + size


def draw_bits(image: NDArray[np.uint8], panel: Panel) -> None:
    """Draw the chequers into an (H, W, 3) white picture."""
    for cell in bit_cells(panel):
        left, top, right, bottom = cell.box
        y, x = np.mgrid[: bottom - top, : right - left] // cell.square_px
        part = np.zeros((bottom - top, right - left, 3), np.uint8)
        part[..., cell.channel] = np.where((x + y) % 2, cell.codes[1], cell.codes[0])
        image[top:bottom, left:right] = part
