"""Grouping what passed the survey: places that belong together, told apart by their extent."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

LINE_MIN_LENGTH_PX = 20
LINE_MAX_WIDTH_PX = 3
SPOT_MIN_SIDE_PX = 10
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


def _boxes(snr: NDArray[np.float32]) -> list[tuple[slice, slice, NDArray[np.bool_]]]:
    """Rows, columns and members of each set of touching places; gaps of one pixel are bridged.

    Places are joined on a map of half the size, which is four times cheaper and bridges the gaps by itself.
    """
    y, x = np.nonzero(snr)
    if not len(y):
        return []
    half = np.zeros((snr.shape[0] // 2 + 1, snr.shape[1] // 2 + 1), np.uint8)
    half[y // 2, x // 2] = 1
    _, labels = cv2.connectedComponents(half, connectivity=8)
    own = labels[y // 2, x // 2]
    order = np.argsort(own, kind="stable")
    out = []
    for part in np.split(order, np.flatnonzero(np.diff(own[order])) + 1):
        rows, columns = slice(y[part].min(), y[part].max() + 1), slice(x[part].min(), x[part].max() + 1)
        inside = np.zeros((rows.stop - rows.start, columns.stop - columns.start), bool)
        inside[y[part] - rows.start, x[part] - columns.start] = True
        out.append((rows, columns, inside))
    return out


def group(snr: NDArray[np.float32]) -> list[Group]:
    """Groups of an (H, W) map that is 0 where nothing passed, strongest first."""
    found = []
    for rows, columns, members in _boxes(snr):
        x0, y0, w, h = int(columns.start), int(rows.start), int(columns.stop - columns.start), int(rows.stop - rows.start)
        inside = np.where(members, snr[rows, columns], 0)
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
