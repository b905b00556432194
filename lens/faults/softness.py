"""Pixel or dirt: is a dark dot one pixel of the grid, or something softer that lies on the glass?"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import Evidence

WIDTHS = (1.0, 1.2, 1.45, 1.75, 2.2, 2.8, 3.6)
OFFSETS_PX = np.linspace(-0.6, 0.6, 7)
SOFT_WIDTH, OFF_GRID_PX = 1.45, 0.45
REACH_PX = 6


class DotShape(NamedTuple):
    """``width`` is in units of one pixel's image, ``off_grid_px`` the distance of its centre from the pixel's centre."""

    width: float
    off_grid_px: float

    @property
    def soft(self) -> bool:
        return self.width >= SOFT_WIDTH or self.off_grid_px >= OFF_GRID_PX


def dot_shape(evidence: Evidence, x: int, y: int, hypothesis: int) -> DotShape:
    """Least-squares width and place of a dot over all photos that show it (Gaussian image of one pixel, from the probes)."""
    left, top = max(0, x - REACH_PX), max(0, y - REACH_PX)
    right, bottom = min(evidence.panel.width, x + REACH_PX + 1), min(evidence.panel.height, y + REACH_PX + 1)
    seen = np.zeros((bottom - top, right - left))
    weight = np.zeros_like(seen)
    spread, share = np.zeros(2), 0.0
    for k, photo in enumerate(evidence.photos):
        signature = evidence.signature[k][hypothesis]
        seen += evidence.response[k][top:bottom, left:right] @ signature
        power = float(evidence.at(x, y)[1][k, hypothesis])
        weight += power * photo.view.trust[top:bottom, left:right]
        spread += power * np.array(evidence.spread[k])
        share += power
    spread /= max(share, 1e-9)
    seen *= weight > 0
    tall = _profiles(np.arange(top - y, bottom - y), float(spread[1]))
    wide = _profiles(np.arange(left - x, right - x), float(spread[0]))
    # every width with every offset down (a) and across (b), as products of the two profiles
    along = np.einsum("wap,pq,wbq->wab", tall, seen, wide)
    power = np.einsum("wap,pq,wbq->wab", tall**2, (weight > 0).astype(float), wide**2)
    explained = np.where(power > 1e-9, along**2 / np.maximum(power, 1e-9), 0)
    w, a, b = np.unravel_index(int(np.argmax(explained)), explained.shape)
    return DotShape(WIDTHS[int(w)], float(np.hypot(OFFSETS_PX[a], OFFSETS_PX[b])))


def _profiles(at: NDArray[np.int_], sigma: float) -> NDArray[np.float64]:
    """(widths, offsets, pixels) one-dimensional Gaussian profiles."""
    widths = np.array(WIDTHS)[:, None, None] * sigma
    return np.exp(-((at[None, None, :] - OFFSETS_PX[None, :, None]) ** 2) / (2 * widths**2))
