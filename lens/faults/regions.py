"""Places where a field of light stands out: each told by the contour at half of its peak."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import Field
from lens.panel import Panel
from lens.photo import BLOCK_PX

PEAK_SHARE = 0.97
MIN_BLOCKS, MAX_ZONES = 6, 20


class Region(NamedTuple):
    """A place where a field stands out: the box of its half-depth contour (blocks), its peak and the blocks inside."""

    x0: int
    y0: int
    width: int
    height: int
    peak: float
    inside: NDArray[np.bool_]

    @property
    def fill(self) -> float:
        return float(self.inside.mean())


def regions(field: Field, threshold: float) -> list[Region]:
    """Where a (h, w) field exceeds a threshold, each told by the contour at half of its peak."""
    found: list[Region] = []
    count, labels, stats, _ = cv2.connectedComponentsWithStats((field > threshold).astype(np.uint8), connectivity=4)
    for n in range(1, count):
        if stats[n, cv2.CC_STAT_AREA] < MIN_BLOCKS:
            continue
        own = labels == n
        # one block may be noise or dirt: the peak is what three of a hundred exceed
        peak = float(np.percentile(field[own], 100 * PEAK_SHARE))
        half = (field > peak / 2).astype(np.uint8)
        top = np.unravel_index(int(np.argmax(np.where(own, field, -np.inf))), field.shape)
        _, parts = cv2.connectedComponents(half, connectivity=4)
        mine = parts == parts[top]
        ys, xs = np.nonzero(mine)
        x0, y0 = int(xs.min()), int(ys.min())
        if any(one.inside.shape == (np.ptp(ys) + 1, np.ptp(xs) + 1) and (one.x0, one.y0) == (x0, y0) for one in found):
            continue  # two peaks of one region
        found.append(
            Region(x0, y0, int(np.ptp(xs)) + 1, int(np.ptp(ys)) + 1, peak, mine[y0 : ys.max() + 1, x0 : xs.max() + 1])
        )
    return sorted(found, key=lambda r: -r.peak * r.inside.sum())[:MAX_ZONES]


def region_box(panel: Panel, region: Region) -> dict[str, float]:
    """Centre and size of a region in panel px."""
    left, top = region.x0 * BLOCK_PX, region.y0 * BLOCK_PX
    right, bottom = min(panel.width, left + region.width * BLOCK_PX), min(panel.height, top + region.height * BLOCK_PX)
    return {"x": (left + right - 1) / 2, "y": (top + bottom - 1) / 2, "w": right - left, "h": bottom - top}
