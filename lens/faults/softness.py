"""Pixel or dirt: is a dark dot one pixel of the grid, or something softer that lies on the glass?"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import Evidence

WIDTHS = (1.0, 1.1, 1.2, 1.3, 1.45, 1.6, 1.75, 2.0, 2.2, 2.5, 2.8, 3.6)
OFFSETS_PX = np.linspace(-0.8, 0.8, 17)
SOFT_WIDTH, OFF_GRID_PX = (
    1.25,
    0.45,
)  # dead pixels stay under 1.1 and 0.35 where pixels share nothing, at 2 px of blur and at 1.3 px/px too
BROAD, BROAD_OFF_GRID_PX = 1.2, 0.25  # shared pixels look 1.1 wide and 0.3 off at times
REACH_PX = 6


class DotShape(NamedTuple):
    """``width`` is in units of one pixel's image, ``off_grid_px`` the distance of its centre from the pixel's centre."""

    width: float
    off_grid_px: float

    @property
    def soft(self) -> bool:
        return (
            self.width >= SOFT_WIDTH
            or self.off_grid_px >= OFF_GRID_PX
            or (self.width >= BROAD and self.off_grid_px >= BROAD_OFF_GRID_PX)
        )


class DotImage(NamedTuple):
    """(h, w) what all photos together say of a dot around its place, whether they see each pixel, and how a pixel there looks: its
    strength and its spread down and across, px; ``x`` and ``y`` are the columns and rows relative to the dot."""

    seen: NDArray[np.float64]
    trusted: NDArray[np.bool_]
    power: float
    sigma_y: float
    sigma_x: float
    y: NDArray[np.int_]
    x: NDArray[np.int_]


def dot_image(evidence: Evidence, x: int, y: int, hypothesis: int) -> DotImage:
    """The surroundings of a dot over all photos that show it."""
    left, top = max(0, x - REACH_PX), max(0, y - REACH_PX)
    right, bottom = min(evidence.panel.width, x + REACH_PX + 1), min(evidence.panel.height, y + REACH_PX + 1)
    seen = np.zeros((bottom - top, right - left))
    weight = np.zeros_like(seen)
    spread, share = np.zeros(2), 0.0
    for k, photo in enumerate(evidence.photos):
        seen += evidence.response[k][top:bottom, left:right] @ evidence.signature[k][hypothesis]
        power = float(evidence.at(x, y)[1][k, hypothesis])
        weight += power * photo.view.trust[top:bottom, left:right]
        spread += power * np.array(evidence.spread[k])
        share += power
    spread /= max(share, 1e-9)
    trusted = weight > 0
    return DotImage(
        seen * trusted,
        trusted,
        share,
        float(spread[1]),
        float(spread[0]),
        np.arange(top - y, bottom - y),
        np.arange(left - x, right - x),
    )


def dot_shape(image: DotImage) -> DotShape:
    """Least-squares width and place of a dot (Gaussian image of one pixel, from the probes)."""
    tall, wide = _profiles(image.y, image.sigma_y), _profiles(image.x, image.sigma_x)
    # every width with every offset down (a) and across (b), as products of the two profiles
    across = wide.transpose(0, 2, 1)
    along, power = tall @ image.seen @ across, tall**2 @ image.trusted.astype(float) @ across**2
    explained = np.where(power > 1e-9, along**2 / np.maximum(power, 1e-9), 0)
    w, a, b = np.unravel_index(int(np.argmax(explained)), explained.shape)
    return DotShape(WIDTHS[int(w)], float(np.hypot(OFFSETS_PX[a], OFFSETS_PX[b])))


def _profiles(at: NDArray[np.int_], sigma: float) -> NDArray[np.float64]:
    """(widths, offsets, pixels) one-dimensional Gaussian profiles."""
    widths = np.array(WIDTHS)[:, None, None] * sigma
    return np.exp(-((at[None, None, :] - OFFSETS_PX[None, :, None]) ** 2) / (2 * widths**2))
