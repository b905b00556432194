"""Means of the panel over small squares, and such means spread over the pixels again."""

import cv2
import numpy as np
from numpy.typing import NDArray

BLOCK_PX = 8
Image = NDArray[np.float32]


def block_means(image: NDArray[np.float32]) -> Image:
    """Means over BLOCK_PX squares of an (H, W) image; the last ones are filled up by reflecting the rim."""
    height, width = image.shape
    padded: NDArray[np.generic] = image
    if height % BLOCK_PX or width % BLOCK_PX:
        padded = cv2.copyMakeBorder(image, 0, -height % BLOCK_PX, 0, -width % BLOCK_PX, cv2.BORDER_REFLECT)
    size = (padded.shape[1] // BLOCK_PX, padded.shape[0] // BLOCK_PX)
    return np.asarray(cv2.resize(padded, size, interpolation=cv2.INTER_AREA), np.float32)


def unblocked(blocks: Image, rows: slice, width: int, room: Image | None = None) -> Image:
    """(rows, width) blocks spread over the pixels of some rows again, bilinear; the first row is a block's first. ``room`` is memory to do it
    in."""
    first = max(0, rows.start // BLOCK_PX - 1)
    near = blocks[first : -(-rows.stop // BLOCK_PX) + 1]
    size = (near.shape[1] * BLOCK_PX, near.shape[0] * BLOCK_PX)
    full = cv2.resize(near, size, dst=None if room is None else room[: size[0] * size[1]].reshape(size[::-1]))
    top = rows.start - first * BLOCK_PX
    return np.asarray(full[top : top + rows.stop - rows.start, :width], np.float32)


def smooth_known(total: Image, weight: Image, size: int) -> Image:
    """Mean of known blocks around each block; where none is known near, of ever wider surroundings."""
    sums, weights = cv2.boxFilter(total, -1, (size, size)), cv2.boxFilter(weight, -1, (size, size))
    out = np.where(weights > 0.02, sums / np.maximum(weights, 1e-6), np.nan)
    while np.isnan(out).any() and size < 4 * max(total.shape):
        size = 2 * size + 1
        sums, weights = cv2.boxFilter(total, -1, (size, size)), cv2.boxFilter(weight, -1, (size, size))
        out = np.where(np.isnan(out) & (weights > 1e-4), sums / np.maximum(weights, 1e-6), out)
    return np.nan_to_num(out).astype(np.float32)
