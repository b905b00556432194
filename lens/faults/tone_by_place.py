"""What a camera does that holds its tones by place: it lifts what lies in the dark and dims what lies beside the bright.

Phones develop so (tone mapping by place; common practice). Around a lit panel all is dark, so its rims and corners come out too bright, and
around a bright zone there is a dark halo: neither is the panel's. Such a camera multiplies each place with a power of the mean light around it.
The rim tells which: a panel's own light runs smoothly out to its edge, but the mean light around a place falls to a half there and to a
quarter in the corners. So the logarithm of light is fitted with a smooth surface and the logarithm of that mean (robust least squares with
Tukey's weights, over a few widths), and what the second makes of it is taken off.
"""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.medians import median
from lens.robust import tukey_fit

Field = NDArray[np.float64]

WIDTHS_BLOCKS = (3.0, 5.0, 8.0, 12.0)  # sigma: 24 to 96 panel px; phones take 2 to 6 % of the frame (from memory)
FLOOR = 0.05  # of the usual light: what such a camera takes for dark at least
MOST_POWER = 0.35
LEAST_POWER = 0.02  # weaker is not told from a panel's own rim
LEAST_GAIN = 0.05  # of the spread that is left, by which it must fall
OUTER_BLOCKS = 1  # the rim's own blocks are read less well
THIN, FITS, TUKEY = 2, 8, 6.0


class ByPlace(NamedTuple):
    """``power`` of the mean light around a place that a photo's light was divided by, and (h, w) the logarithm of what that made of it."""

    power: float
    lift: Field


def tone_by_place(log: Field, smooth: Field) -> ByPlace | None:
    """What tone mapping by place did to a field of logarithms of light, (h, w); None where nothing tells of it. ``smooth`` are (n, h, w) the terms
    of a panel's own smooth light."""
    light = np.exp(np.clip(log - median(log), -3, 3)).astype(np.float32)
    inner = np.zeros(log.shape, bool)
    inner[OUTER_BLOCKS:-OUTER_BLOCKS:THIN, OUTER_BLOCKS:-OUTER_BLOCKS:THIN] = True
    if inner.sum() < 8 * len(smooth):
        return None
    plain = smooth[:, inner]
    _, usual = tukey_fit(plain, log[inner], TUKEY, FITS)
    best: tuple[float, float, Field] | None = None
    for sigma in WIDTHS_BLOCKS:
        around = cv2.GaussianBlur(light, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT)
        mean = np.log(around.astype(float) + FLOOR)
        mean -= median(mean)
        told, spread = tukey_fit(np.concatenate([plain, mean[inner][None]]), log[inner], TUKEY, FITS)
        if best is None or spread < best[0]:
            best = spread, -float(told[-1]), mean
    if best is None or best[0] > (1 - LEAST_GAIN) * usual or best[1] < LEAST_POWER:
        return None
    power = min(best[1], MOST_POWER)
    return ByPlace(power, -power * best[2])
