"""Frames of a capture device and screenshot files: pictures without a camera, which need no registration."""

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.markers import Reading
from lens.photo.markers_seen import MIN_MARKERS, brightest_channel, find_markers, luma, read_markers
from lens.photo_file import decode


def decode_frame(data: bytes) -> NDArray[np.uint8]:
    """(h, w, 3) uint8, B, G, R; raises BadInput like a photo's decoder."""
    return decode(data).pixels


def read_frame_markers(panel: Panel, pixels: NDArray[np.uint8]) -> Reading:
    """What the markers in a frame say, wherever they stand."""
    sighting = find_markers(luma(pixels))
    if len(sighting.corners) < MIN_MARKERS:
        sighting = find_markers(brightest_channel(pixels))
    return read_markers(panel, list(sighting.corners))
