"""How long a camera takes from one row of its sensor to the next, learned from a light whose pulses are known."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.faults.flicker import BIN_PX, periodic
from lens.faults.light_field import detrended
from lens.photo_file import decode
from lens.records import RowTime
from lens.srgb import srgb_to_linear

# Lamps on 50 or 60 Hz mains pulse twice in a period (common practice); drivers of lamps and displays go up to tens of kHz.
HZ = (20.0, 50_000.0)
LEAST_LIGHT, MOST_CLIPPED = 0.02, 0.02
# Half-width at 90 %, as a share: over the square of the number of bars, and the least (tried on simulated photos).
OF_BARS, AT_LEAST = 0.06, 0.006
FEWEST_BARS = 2.0
HARMONICS, SHAPE_TERMS = 3, 4
REACHES, TRIES = (0.25, 0.02), 41  # shares of the period about it, coarse and fine


def learn_row_time(data: bytes, hz: float) -> RowTime:
    """The row time from a photo of an evenly lit surface under a lamp that pulses ``hz`` times a second, by the bars that it makes.

    The period in rows times the row time is the period of the light (common practice for rolling shutters).

    Raises
    ------
    BadInput
        when ``hz`` is out of bounds, or the photo is too dark, over-exposed or without bars.
    """
    if not HZ[0] <= hz <= HZ[1]:
        raise BadInput(
            f"A lamp pulses {HZ[0]:g} to {HZ[1]:g} times a second, got {hz:g}. On 50 Hz mains it is 100, on 60 Hz 120.",
            "lamp",
        )
    pixels = decode(data).pixels
    if float((pixels[::5, ::5].max(axis=2) >= 254).mean()) > MOST_CLIPPED:
        raise BadInput("The photo of the lamp's light is over-exposed. Shoot it with less exposure.", "lamp")
    height, width = (side // BIN_PX for side in pixels.shape[:2])
    small = cv2.resize(pixels[: height * BIN_PX, : width * BIN_PX, 1], (width, height), interpolation=cv2.INTER_AREA)
    light = srgb_to_linear(small / 255)
    if float(np.median(light)) < LEAST_LIGHT:
        raise BadInput("The photo of the lamp's light is too dark. Shoot plain white paper close to the lamp.", "lamp")
    log = np.log(np.maximum(light, 1e-4))
    rest = detrended(log)
    y, x = (np.mgrid[:height, :width] + 0.5) * BIN_PX
    found = [
        (told[1], _refined(told[0], log.mean(axis=across)), pixels.shape[1 - across])
        for place, other, across in ((y, x, 1), (x, y, 0))
        if (told := periodic(rest, place.ravel(), other.ravel())) is not None
    ]
    if not found:
        raise BadInput(
            "The photo shows no bars. Shoot plain white paper under the lamp, close and out of focus, exposed for 1/250 s or shorter.",
            "lamp",
        )
    _, period, span = max(found)
    if span < FEWEST_BARS * period:
        raise BadInput(
            f"The photo holds fewer than {FEWEST_BARS:g} bars, too few to measure. Send the whole photo, not a part, or use a faster lamp.",
            "lamp",
        )
    row_us, share = 1e6 / (hz * period), OF_BARS * (period / span) ** 2 + AT_LEAST
    return RowTime(
        row_time_us=float(f"{row_us:.3g}"),
        uncertainty_us=float(f"{row_us * share:.1g}"),
        period_px=round(period, 1),
        bars=round(span / period, 1),
    )


def _refined(period: float, profile: NDArray[np.float64]) -> float:
    """The period that leaves the least of the light along the bars when it is fitted together with the lens's fall-off and leaning light,
    which few bars are mixed up with."""
    place = (np.arange(len(profile)) + 0.5) * BIN_PX
    middle = 2 * place / place[-1] - 1

    def left(tried: float) -> float:
        turns = 2 * np.pi * place[:, None] / tried * np.arange(1, HARMONICS + 1)
        basis = np.column_stack([np.vander(middle, SHAPE_TERMS), np.cos(turns), np.sin(turns)])
        solution = np.linalg.lstsq(basis, profile, rcond=None)[0]
        return float(np.sum((profile - basis @ solution) ** 2))

    for reach in REACHES:
        tried = period * (1 + np.linspace(-reach, reach, TRIES))
        period = float(tried[int(np.argmin([left(one) for one in tried]))])
    return period
