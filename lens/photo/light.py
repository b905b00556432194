"""Linear light of 8-bit photos, by tables."""

import numpy as np
from numpy.typing import NDArray

from lens.srgb import srgb_to_linear

FULL_SCALE = 65535  # linear light 1.0 in the 16-bit tables


LINEAR_OF_CODE: NDArray[np.uint16] = np.round(srgb_to_linear(np.arange(256) / 255) * FULL_SCALE).astype(np.uint16)
LINEAR_OF_CODE.setflags(write=False)


def bilinear_light(
    pixels: NDArray[np.uint8], channel: int, x: NDArray[np.float64], y: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Linear light 0..1 of one channel at photo coordinates, bilinear in linear light; all must lie inside the photo."""
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = x - x0, y - y0
    width, channels = pixels.shape[1:]
    flat, at = pixels.reshape(-1), (y0 * width + x0) * channels + channel
    near, far = (
        LINEAR_OF_CODE[flat[at + down]] * (1 - fx) + LINEAR_OF_CODE[flat[at + down + channels]] * fx
        for down in (0, width * channels)
    )
    return np.asarray((near * (1 - fy) + far * fy) / FULL_SCALE, float)


def inside(pixels: NDArray[np.uint8], at: NDArray[np.float64]) -> NDArray[np.intp]:
    """Which of M groups of photo points, (M, N, 2), lie in the photo whole, with room to look up between pixels."""
    return np.flatnonzero(
        (at >= 2).all(axis=(1, 2)) & (at <= [pixels.shape[1] - 3, pixels.shape[0] - 3]).all(axis=(1, 2))
    )


def drive_light(drive: tuple[int, int, int]) -> tuple[float, float, float]:
    """Nominal light of the three subpixels at 8-bit drive levels, 1 = full, for a panel with the sRGB curve."""
    red, green, blue = srgb_to_linear(np.array(drive) / 255)
    return float(red), float(green), float(blue)
