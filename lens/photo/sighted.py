"""A photo opened, and the markers that are found in it at first sight."""

from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.photo.markers_seen import (
    MIN_MARKERS,
    Sighting,
    brightest_channel,
    consistent,
    find_markers,
    local_contrast,
    luma,
)
from lens.photo_file import Decoded, decode, early_luma


class Sighted(NamedTuple):
    """The photo; the (h, w) uint8 light in which markers were found, and all of these; the ``kept`` ones agree on one panel."""

    decoded: Decoded
    light: NDArray[np.uint8]
    sighting: Sighting
    kept: dict[int, NDArray[np.float64]]


def sight(panel: Panel, data: bytes, threads: int) -> Sighted:
    """Open a photo and look for markers in its luma, then in its brightest colours, then in what a torch shows.

    Raises
    ------
    BadInput
        as ``decode``
    """
    decoded, light, sighting = _at_once(data, threads)
    kept = consistent(panel, sighting)
    if len(kept) < MIN_MARKERS:
        light = brightest_channel(decoded.pixels)
        sighting = find_markers(light)
        kept = consistent(panel, sighting)
    if len(kept) < MIN_MARKERS:
        sighting = find_markers(local_contrast(light))
        kept = consistent(panel, sighting)
    return Sighted(decoded, light, sighting, kept)


def _at_once(data: bytes, threads: int) -> tuple[Decoded, NDArray[np.uint8], Sighting]:
    """The photo, its luma and the markers in that; these are sought while the colours are still being decoded where threads allow."""

    def early() -> tuple[NDArray[np.uint8], Sighting] | None:
        light = early_luma(data)
        return None if light is None else (light, find_markers(light))

    with ThreadPoolExecutor(1) as beside:
        sought = beside.submit(early) if threads > 1 else None
        decoded = decode(data)
        told = sought.result() if sought else None
    if told is None:
        light = luma(decoded.pixels)
        told = light, find_markers(light)
    return decoded, *told
