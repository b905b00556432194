"""Light at the upper end of a camera's scale: it tells 'at least so much', and no more.

A small place at the end of the scale is bright, whatever it would have measured: a lit pixel on black, which a camera that exposes by itself
shows many times too long, is seen all the better for it, and keeps the value that it has. Where the ground itself stands there, nothing
that is a little brighter or darker shows: the channel is closed, and likelihoods leave it out; the other channels go on telling.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.photo.blocks import BLOCK_PX, Image, block_means

CHANNELS = 3
# A lit pixel that is exposed eighty times too long is clipped 5 panel px wide (Gaussian image, sigma 0.8 px: 2 x 0.8 x sqrt(2 ln 80)),
# a line of three 7; what is clipped over more each way is ground.
GROUND_PX = 9
CLOSED_SHARE = 0.05  # of a block at the end of the scale: single noisy pixels stand there before the ground does


def ground_at_ceiling(clipped: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(H, W) bit c set where channel c is at the end of the scale all around; ``clipped`` the same for each pixel alone."""
    if not clipped.any():
        return clipped
    square = np.ones((GROUND_PX, GROUND_PX), np.uint8)
    out = np.zeros_like(clipped)
    for bit in (1 << c for c in range(CHANNELS)):
        opened = cv2.morphologyEx(clipped & bit, cv2.MORPH_OPEN, square, borderType=cv2.BORDER_REFLECT)
        out |= np.asarray(opened, np.uint8)
    return out


def closed_channels(ground: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w) bit c set on blocks where channel c is closed."""
    out = np.zeros((-(-ground.shape[0] // BLOCK_PX), -(-ground.shape[1] // BLOCK_PX)), np.uint8)
    if ground.any():
        for c in range(CHANNELS):
            out |= (block_means((ground >> c & 1).astype(np.float32)) > CLOSED_SHARE).astype(np.uint8) << c
    return out


def inverses(correlation: NDArray[np.float64]) -> Image:
    """(8, 3, 3) inverse of the open channels' correlation, by the bits of the closed ones; closed rows and columns are 0."""
    out = np.zeros((1 << CHANNELS, CHANNELS, CHANNELS), np.float32)
    for closed in range(1 << CHANNELS):
        own = np.flatnonzero([not closed >> c & 1 for c in range(CHANNELS)])
        if own.size:
            out[closed][np.ix_(own, own)] = np.linalg.inv(correlation[np.ix_(own, own)])
    return out
