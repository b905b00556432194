"""Pixel or dirt: is a dark dot one pixel of the grid, or something softer that lies on the glass?"""

from typing import NamedTuple

import numpy as np

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
    dx, dy = np.arange(left, right) - x, np.arange(top, bottom) - y
    best = (np.inf, DotShape(1.0, 0.0))
    for width in WIDTHS:
        for ox in OFFSETS_PX:
            for oy in OFFSETS_PX:
                drawn = np.exp(
                    -((dy[:, None] - oy) ** 2) / (2 * (width * spread[1]) ** 2) - (dx[None, :] - ox) ** 2 / (2 * (width * spread[0]) ** 2))
                drawn = drawn * (weight > 0)
                power = float((drawn * drawn).sum())
                amplitude = float((drawn * seen).sum()) / max(power, 1e-9)
                error = float(((seen - amplitude * drawn) ** 2).sum())
                if error < best[0]:
                    best = (error, DotShape(width, float(np.hypot(ox, oy))))
    return best[1]
