"""Bar codes that lie askew: a line of pixels crosses a low, wide code only where it lies level, so each field of parallel bars is turned upright
first. Its direction is that of the structure tensor (Bigun and Granlund 1987, from memory)."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

WORKED_SIDE_PX = 1200  # the photo is reduced to this: a field of bars stays one at half its sharpness
WINDOW_SHARE = 1 / 80  # of the longer side: a window of two bars and their gaps
LEAST_COHERENCE = 0.7  # edges in one direction; print has edges in all of them (0.2 to 0.5)
LEAST_ENERGY_SHARE = 0.12  # of the strongest edges in the photo
LEAST_LENGTH_SHARE, LEAST_BARS_HEIGHT_SHARE = 0.06, 0.008  # of the longer side
QUIET_SHARE = 0.12  # kept at both ends: bar codes want ten modules of white there
LARGEST_FIELDS = 6
UPRIGHT_HEIGHT_PX = 60  # rows over which bars are looked for; more of them say nothing new


class BarField(NamedTuple):
    """A field of parallel bars turned upright. ``to_photo``: 2 x 3, from its pixels to the photo's."""

    grey: NDArray[np.uint8]
    to_photo: NDArray[np.float64]


def bar_fields(grey: NDArray[np.uint8], enlarge: float = 2.0) -> list[BarField]:
    """Fields of parallel bars, the largest first, each with its bars upright and ``enlarge`` times as large as in the photo."""
    side = max(grey.shape)
    reduce = min(1.0, WORKED_SIDE_PX / side)
    small = cv2.resize(grey, None, fx=reduce, fy=reduce, interpolation=cv2.INTER_AREA).astype(np.float32)
    dx, dy = cv2.Sobel(small, cv2.CV_32F, 1, 0), cv2.Sobel(small, cv2.CV_32F, 0, 1)
    window = max(3.0, WINDOW_SHARE * max(small.shape))
    xx, yy, xy = (cv2.GaussianBlur(part, (0, 0), window / 2) for part in (dx * dx, dy * dy, dx * dy))
    energy = xx + yy
    coherence = np.hypot(xx - yy, 2 * xy) / np.maximum(energy, 1e-6)
    strong = energy > LEAST_ENERGY_SHARE * float(np.percentile(energy, 99.5))
    mask = ((coherence > LEAST_COHERENCE) & strong).astype(np.uint8)
    fields = []
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask)
    largest = sorted(range(1, count), key=lambda n: -int(stats[n, cv2.CC_STAT_AREA]))[:LARGEST_FIELDS]
    for n in largest:
        inside = labels == n
        across = 0.5 * float(
            np.arctan2(2 * xy[inside].sum(), (xx - yy)[inside].sum())
        )  # along which the bars follow one another
        rows, columns = np.nonzero(inside)
        along = np.array([np.cos(across), np.sin(across)])
        places = np.stack([columns, rows], 1) @ np.stack([along, [-along[1], along[0]]], 1)
        low, high = places.min(0), places.max(0)
        length, tall = high - low
        if length < LEAST_LENGTH_SHARE * max(small.shape) or tall < LEAST_BARS_HEIGHT_SHARE * max(small.shape):
            continue
        fields.append(_upright(grey, low / reduce, high / reduce, along, enlarge))
    return fields


def _upright(
    grey: NDArray[np.uint8],
    low: NDArray[np.float64],
    high: NDArray[np.float64],
    along: NDArray[np.float64],
    enlarge: float,
) -> BarField:
    """The field between ``low`` and ``high``, px along and across the code, as a picture with upright bars."""
    quiet = QUIET_SHARE * (high[0] - low[0])
    start, length = low[0] - quiet, high[0] - low[0] + 2 * quiet
    middle = 0.5 * (low[1] + high[1])
    tall = min(high[1] - low[1], UPRIGHT_HEIGHT_PX / enlarge)
    normal = np.array([-along[1], along[0]])
    corner = along * start + normal * (middle - tall / 2)
    to_photo = np.column_stack([along / enlarge, normal / enlarge, corner])
    size = int(np.ceil(length * enlarge)), int(np.ceil(tall * enlarge))
    picture = cv2.warpAffine(
        grey, to_photo, size, flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE
    )
    return BarField(np.asarray(picture, np.uint8), to_photo)
