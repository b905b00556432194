"""Patterns as they lie in a frame buffer of 32 bits a pixel, packed."""

import gzip
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import PatternSet, patterns_of, render

# the plain colours for a frame buffer that is not the panel's size: enough for its largest, 7680 x 4320 at 4 bytes
ENDLESS_BYTES = 7680 * 4320 * 4
PART_PIXELS = 1 << 18
COLOURS = {
    "white": (255, 255, 255),
    "black": (0, 0, 0),
    "red": (255, 0, 0),
    "green": (0, 255, 0),
    "blue": (0, 0, 255),
    "grey": (128, 128, 128),
}


def frame_bytes(image: NDArray[np.uint8]) -> bytes:
    """(H, W, 3) sRGB to rows of blue, green, red and an empty byte: the order that UEFI calls PixelBlueGreenRedReserved8BitPerColor."""
    height, width, _ = image.shape
    frame = np.zeros((height, width, 4), np.uint8)
    frame[..., :3] = image[..., ::-1]
    return frame.tobytes()


def _packed(data: bytes) -> bytes:
    return gzip.compress(data, 6, mtime=0)


def pattern_frames(panel: Panel, chosen: PatternSet, run: int) -> Iterator[tuple[str, bytes]]:
    """Name and packed frame of each pattern, numbered in the order in which they are shown."""
    for number, pattern in enumerate(patterns_of(chosen), 1):
        yield f"{number:02d}-{pattern.id}.gz", _packed(frame_bytes(render(panel, pattern, run)))


def colour_frames() -> Iterator[tuple[str, bytes]]:
    """Name and packed bytes of each plain colour, ENDLESS_BYTES of it and up to a part more: the first program cuts it to the frame buffer."""
    for number, (name, (red, green, blue)) in enumerate(COLOURS.items(), 1):
        part = _packed(bytes((blue, green, red, 0)) * PART_PIXELS)
        yield (
            f"{number:02d}-{name}.gz",
            part * -(-ENDLESS_BYTES // (PART_PIXELS * 4)),
        )  # packed parts may follow each other (RFC 1952, 2.2)
