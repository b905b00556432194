"""Grouping what passed the survey: places that belong together, told apart by their extent."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

LINE_MIN_LENGTH_PX = 20
LINE_MAX_WIDTH_PX = 3
SPOT_MIN_SIDE_PX = 12
FILLED_SHARE = 0.6  # of its length, that a line must show


class Group(NamedTuple):
    """Touching places above the threshold: its box in panel pixels and the strongest pixel in it."""

    x0: int
    y0: int
    width: int
    height: int
    peak: tuple[int, int]
    shape: Literal["compact", "row", "column", "area"]
    thickness: int


def _thickness(part: NDArray[np.float32], axis: int) -> tuple[int, float]:
    """Width across a line (profile above half of its peak) and the share of its length at the strongest track."""
    profile = part.mean(axis=axis)
    peak = int(np.argmax(profile))
    along = part[:, peak] if axis == 0 else part[peak]
    return int((profile > profile[peak] / 2).sum()), float((along > 0).mean())


def group(snr: NDArray[np.float32]) -> list[Group]:
    """Groups of an (H, W) map that is 0 where nothing passed, strongest first; gaps of one pixel are bridged."""
    joined = cv2.dilate((snr > 0).astype(np.uint8), np.ones((3, 3), np.uint8))
    count, labels, boxes, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    found = []
    for label in range(1, count):
        x0, y0, w, h = (int(v) for v in boxes[label][:4])
        # the bridging grew every box by a pixel, but not beyond the panel
        left, top = x0 + (x0 > 0), y0 + (y0 > 0)
        right, bottom = x0 + w - (x0 + w < snr.shape[1]), y0 + h - (y0 + h < snr.shape[0])
        x0, y0, w, h = left, top, right - left, bottom - top
        inside = np.where(labels[y0:y0 + h, x0:x0 + w] == label, snr[y0:y0 + h, x0:x0 + w], 0)
        at = np.unravel_index(int(np.argmax(inside)), inside.shape)
        shape: Literal["compact", "row", "column", "area"] = "compact"
        thickness = 0
        if max(w, h) >= LINE_MIN_LENGTH_PX and max(w, h) >= 3 * min(w, h):
            upright = h > w
            thickness, share = _thickness(inside, 0 if upright else 1)
            shape = ("column" if upright else "row") if share >= FILLED_SHARE else "area"
        elif min(w, h) >= SPOT_MIN_SIDE_PX:
            shape = "area"
        found.append(Group(x0, y0, w, h, (int(at[1]) + x0, int(at[0]) + y0), shape, thickness))
    return sorted(found, key=lambda g: -float(snr[g.peak[1], g.peak[0]]))
