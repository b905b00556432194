"""Grouping what passed the survey: places that belong together, told apart by their extent."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

LONG_PX = 20
SPOT_MIN_SIDE_PX = 10
HALO_SHARE = 0.12


class Group(NamedTuple):
    """Touching places above the threshold: its box in panel pixels and the strongest pixel in it."""

    x0: int
    y0: int
    width: int
    height: int
    peak: tuple[int, int]
    shape: Literal["compact", "area"]


def _boxes(snr: NDArray[np.float32]) -> list[tuple[slice, slice, NDArray[np.bool_]]]:
    """Rows, columns and members of each set of touching places; gaps of one pixel are bridged.

    Places are joined on a map of half the size, which is four times cheaper and bridges the gaps by itself.
    """
    y, x = np.divmod(np.flatnonzero(snr.ravel() > 0), snr.shape[1])
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


def _extent(members: NDArray[np.bool_]) -> tuple[int, int]:
    """Rows and columns that members reach over."""
    return int(np.ptp(np.flatnonzero(members.any(axis=1)))) + 1, int(np.ptp(np.flatnonzero(members.any(axis=0)))) + 1


def group(snr: NDArray[np.float32]) -> list[Group]:
    """Groups of an (H, W) map that is 0 where nothing passed, strongest first."""
    found = []
    for rows, columns, members in _boxes(snr):
        x0, y0, w, h = (
            int(columns.start),
            int(rows.start),
            int(columns.stop - columns.start),
            int(rows.stop - rows.start),
        )
        inside = np.where(members, snr[rows, columns], 0)
        at = np.unravel_index(int(np.argmax(inside)), inside.shape)
        # far around a bright fault its image passes the threshold too; what stands out beside its peak tells its extent
        high, wide = _extent(inside >= HALO_SHARE * inside[at]) if min(w, h) >= SPOT_MIN_SIDE_PX else (h, w)
        long = max(w, h) >= LONG_PX and max(w, h) >= 3 * min(w, h)
        shape: Literal["compact", "area"] = "area" if long or min(wide, high) >= SPOT_MIN_SIDE_PX else "compact"
        found.append(Group(x0, y0, w, h, (int(at[1]) + x0, int(at[0]) + y0), shape))
    return sorted(found, key=lambda g: -float(snr[g.peak[1], g.peak[0]]))
