"""The flat-field shot: an evenly lit white surface, out of focus, that shows the lens's fall-off alone."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE
from lens.photo_file import decode

FLAT = "flat"  # stands where a photo's pattern is named
LONG_SIDE = 96
LEAST_FALL_OFF, MOST_FALL_OFF = -0.05, 0.8
MOST_UNEVEN = 0.03  # what is left over when a lean and the fall-off are taken off
LEAST_LIGHT, MOST_CLIPPED = 0.05, 0.02
FORM_SD = 0.015  # of what paper, light and focus leave in it


class FlatField(NamedTuple):
    """The lens's fall-off: ln of the share of light that is left is -(``square`` r^2 + ``fourth`` r^4), r = 1 in the frame's corner;
    ``sd`` is the standard deviation of the share lost there."""

    square: float
    fourth: float
    sd: float

    def log_share(self, r2: NDArray[np.float64]) -> NDArray[np.float64]:
        """Logarithm of the share of light that is left at squared distances from the frame's centre."""
        return np.asarray(-(self.square * r2 + self.fourth * r2 * r2), float)

    @property
    def fall_off(self) -> float:
        """Share of light lost in the corner."""
        return 1 - float(np.exp(-self.square - self.fourth))


def read_flat(data: bytes) -> FlatField:
    """The fall-off of a flat-field shot: ln L = lean - a r^2 - b r^4 by least squares, twice, outliers left out the second time.

    Light from a window or lamp leans; the lean is fitted along with the fall-off and left aside.

    Raises
    ------
    BadInput
        when the photo is too dark, over-exposed, or of something that is not evenly white.
    """
    decoded = decode(data)
    if decoded.composed:
        raise BadInput(
            "The camera composed the flat-field shot of several pictures, which changes light by place. Switch HDR and night mode off and shoot "
            "again.",
            "flat_composed",
        )
    pixels = decoded.pixels
    height, width = pixels.shape[:2]
    if float((pixels.max(axis=2)[::5, ::5] >= 254).mean()) > MOST_CLIPPED:
        raise BadInput(
            "The flat-field shot is over-exposed. Shoot an evenly lit white surface with less exposure.", "flat_clipped"
        )
    factor = LONG_SIDE / max(width, height)
    green = (LINEAR_OF_CODE[pixels[..., 1]] / FULL_SCALE).astype(np.float32)
    small = np.asarray(cv2.resize(green, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), float)
    if float(np.median(small)) < LEAST_LIGHT:
        raise BadInput(
            "The flat-field shot is too dark. Shoot an evenly lit white surface so that it comes out light grey.",
            "flat_dark",
        )
    log = np.log(np.maximum(small, 1e-4)).ravel()
    y, x = np.meshgrid(
        np.linspace(-1, 1, small.shape[0]) * height, np.linspace(-1, 1, small.shape[1]) * width, indexing="ij"
    )
    r2 = ((x**2 + y**2) / (width**2 + height**2)).ravel()
    terms = np.stack([np.ones(log.size), x.ravel() / width, y.ravel() / height, -r2, -r2 * r2], axis=1)
    kept = np.ones(log.size, bool)
    for _ in range(2):
        solution = np.linalg.lstsq(terms[kept], log[kept], rcond=None)[0]
        rest = log - terms @ solution
        spread = 1.4826 * float(np.median(np.abs(rest)))
        kept = np.abs(rest) <= 3 * spread + 1e-4
    told = FlatField(float(solution[3]), float(solution[4]), float(np.hypot(FORM_SD, spread)))
    if spread > MOST_UNEVEN or not LEAST_FALL_OFF <= told.fall_off <= MOST_FALL_OFF:
        raise BadInput(
            "The flat-field shot does not show an even white surface. Hold white paper over the whole frame, out of focus, without shadows.",
            "flat_uneven",
        )
    return told
