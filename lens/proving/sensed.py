"""What a device can show of its own functions: a tone that its loudspeaker plays and its microphone hears, a picture of its camera.

Only 'good' is measured. What is not heard or not seen may have other reasons (a volume that is down, a cover over the lens, a permission that was
not given): then a person tests it by hand.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.records.base import Record

SenseId = Literal["tone", "front_camera", "rear_camera"]
# functions that a sense speaks for
SPEAKS_FOR: Mapping[SenseId, tuple[str, ...]] = MappingProxyType(
    {"tone": ("loudspeaker", "microphone"), "front_camera": ("camera",), "rear_camera": ("rear_camera",)}
)
TONES_HZ = (1100.0, 2300.0)  # apart from mains hum, and neither a multiple of the other
HEARD_DB = 12.0  # over the same band without the tone, and over the bands beside it: a phone on a bench gives 20 to 50 (common practice)
BESIDE_HZ = (
    -240.0,
    -180.0,
    -120.0,
    120.0,
    180.0,
    240.0,
)  # the window's main lobe reaches 8 Hz to each side over a quarter of a second
LEAST_S, MOST_S = 0.25, 3.0
RATES_HZ = (8_000, 96_000)
DARK_LEVEL, LIVE_SPREAD = 6.0, 3.0  # of 255: a covered lens; a picture of anything at all
FLAT_SPREAD = 9.0  # haze, a film or a covered lens leave less than this of a lit bench
LEAST_SIDE, MOST_SIDE = 24, 640


class Sensed(Record):
    """``good`` None: it cannot be told, with what to do. ``figure``: what was measured, in words."""

    good: bool | None
    figure: str
    text: str


def band_power(samples: NDArray[np.float64], rate_hz: float, tone_hz: float) -> float:
    """Mean square of a Hann-windowed signal in the band of a tone: Goertzel's sum at the tone, scaled to the window (G. Goertzel, 1958)."""
    window = np.hanning(len(samples))
    phase = np.exp(-2j * np.pi * tone_hz / rate_hz * np.arange(len(samples)))
    return float(np.abs(np.sum(samples * window * phase)) ** 2 / np.sum(window) ** 2)


def tone_heard(quiet: NDArray[np.float64], played: NDArray[np.float64], rate_hz: float) -> Sensed:
    """Whether the microphone heard what the loudspeaker played.

    Parameters
    ----------
    quiet, played : (N,) samples in -1 to 1, recorded without and with both tones of ``TONES_HZ``
    rate_hz : samples a second

    Raises
    ------
    BadInput
        for a recording that is too short, too long, or at a rate that no device has.
    """
    if not RATES_HZ[0] <= rate_hz <= RATES_HZ[1]:
        raise BadInput("The recording's rate is none that a device has.", "sense_rate")
    for one in (quiet, played):
        if one.ndim != 1 or not LEAST_S <= len(one) / rate_hz <= MOST_S or not np.isfinite(one).all():
            raise BadInput("The recording is too short, too long, or damaged.", "sense_samples")
    # the noise of the room in the bands, and never less than what the last bit of a sample makes
    floor = 1e-9
    gains = []
    for hz in TONES_HZ:
        beside = float(np.median([band_power(played, rate_hz, hz + step) for step in BESIDE_HZ]))
        ground = max(band_power(quiet, rate_hz, hz), beside, floor)  # louder noise is no tone
        gains.append(10 * np.log10(max(band_power(played, rate_hz, hz), floor) / ground))
    least = float(min(gains))
    figure = f"{least:.0f} dB over the room at {TONES_HZ[int(np.argmin(gains))]:.0f} Hz"
    if not np.any(played):
        return Sensed(
            good=None, figure=figure, text="The microphone gave silence. Allow it in the browser, then try again."
        )
    if least >= HEARD_DB:
        return Sensed(good=True, figure=figure, text=f"Loudspeaker and microphone work: {figure}.")
    return Sensed(
        good=None,
        figure=figure,
        text=f"The tone was not heard ({figure}). Volume up, hand off the microphone, then try again; else test it by ear.",
    )


def camera_alive(luma: NDArray[np.uint8]) -> Sensed:
    """Whether a camera gives a picture, from one frame.

    Parameters
    ----------
    luma : (h, w), 0 to 255

    Raises
    ------
    BadInput
        for a frame of an impossible size.
    """
    if luma.ndim != 2 or not all(LEAST_SIDE <= side <= MOST_SIDE for side in luma.shape):
        raise BadInput("The frame has an impossible size.", "sense_frame")
    level, spread = float(np.median(luma)), float(np.std(luma.astype(np.float64)))
    figure = f"level {level:.0f}, spread {spread:.0f} of 255"
    if level < DARK_LEVEL and spread < LIVE_SPREAD:
        return Sensed(
            good=None,
            figure=figure,
            text="The frame is dark: something covers the lens, or the camera gives no picture.",
        )
    if spread < LIVE_SPREAD:
        return Sensed(
            good=None,
            figure=figure,
            text="The frame has one level all over: no picture, or a blank wall. Point it at the bench.",
        )
    if spread < FLAT_SPREAD:
        return Sensed(
            good=None,
            figure=figure,
            text="The picture is pale: fog, a film's edge, or a blank wall. Look at it by eye.",
        )
    return Sensed(
        good=True,
        figure=figure,
        text=f"The camera gives a picture ({figure}). Look yourself for dust, fog and sharpness.",
    )
