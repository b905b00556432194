"""The grey ladder: greys, and at some of their levels red, green and blue alone.

The light of a panel's three colours adds up, so at each level red, green and blue together must give the grey's light. Of all
tone curves of the camera only the true one makes them (the only additive functions are the linear ones: Cauchy), whatever the
panel's own gamma is. So the colours tell the camera's curve, and the curve tells the light of the greys.
"""

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.catalogue import Drive, get_pattern
from lens.patterns.cells import cells_between_markers
from lens.records.base import Record

GREY_LEVELS: tuple[int, ...] = (24, 40, 56, 68, 80, 96, 110, 130, 150, 175, 200, 228)
COLOUR_LEVELS: tuple[int, ...] = (56, 80, 110, 150, 200, 255)
BLACKS = 2
COLUMNS = 8
STRIDE = 11  # neighbours in the list stand far apart on the panel, so that no slope of light looks like a gamma


class Patch(Record):
    """A patch of the ladder, in panel pixels: its box and the box of its cell, which is white around it (left, top, right, bottom,
    the last two not included), and its 8-bit drive."""

    box: tuple[int, int, int, int]
    cell: tuple[int, int, int, int]
    drive: Drive

    @property
    def level(self) -> int:
        return max(self.drive)

    @property
    def channel(self) -> int | None:
        """0 red, 1 green, 2 blue; None for a grey."""
        return None if min(self.drive) == self.level else self.drive.index(self.level)


def _drives() -> list[Drive]:
    drives: list[Drive] = [(0, 0, 0)] * BLACKS + [(level, level, level) for level in GREY_LEVELS]
    for level in COLOUR_LEVELS:
        drives += [(level, 0, 0), (0, level, 0), (0, 0, level)]
    return drives


def ladder_patches(panel: Panel) -> tuple[Patch, ...]:
    """The 32 patches between the rows of markers (between their columns on an upright panel)."""
    drives = _drives()
    patches = []
    for row, column, x, y in cells_between_markers(panel, get_pattern("ladder"), COLUMNS):
        number = row * COLUMNS + column
        (left, right), (top, bottom) = _middle(*x), _middle(*y)
        patches.append(
            Patch(
                box=(left, top, right, bottom),
                cell=(x[0], y[0], x[1], y[1]),
                drive=drives[number * STRIDE % len(drives)],
            )
        )
    return tuple(patches)


def _middle(low: int, high: int) -> tuple[int, int]:
    """The middle half of a span."""
    return low + (high - low) // 4, high - (high - low) // 4


def draw_ladder(image: NDArray[np.uint8], panel: Panel) -> None:
    """Draw the patches into an (H, W, 3) white picture."""
    for patch in ladder_patches(panel):
        left, top, right, bottom = patch.box
        image[top:bottom, left:right] = patch.drive
