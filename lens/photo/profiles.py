"""The light of every row and column of the panel as a whole: what is as long as the panel stands there to the pixel."""

import numpy as np
from numpy.typing import NDArray

from lens.photo.blocks import Image

LEAST_CLEAR = 0.2  # of the columns, that no marker hides anywhere: of fewer a mean would tell its own places


def light_profiles(planes: Image, valid: NDArray[np.bool_]) -> tuple[Image, Image]:
    """(H, planes) mean light of each row over the columns that are ``valid`` from end to end, and (W, planes) of each column over such rows: the
    same places everywhere, so that no marker makes a step. No rows, (0, planes), where there are too few of them.

    planes : (planes, H, W) linear light
    valid : (H, W)
    """
    columns, rows = valid.all(axis=0), valid.all(axis=1)
    empty = np.empty((0, len(planes)), np.float32)
    of_rows, of_columns = empty, empty
    if columns.mean() >= LEAST_CLEAR:
        share = columns.astype(np.float32) / np.float32(columns.sum())
        of_rows = np.stack([plane @ share for plane in planes], axis=1)
    if rows.mean() >= LEAST_CLEAR:
        share = rows.astype(np.float32) / np.float32(rows.sum())
        of_columns = np.stack([share @ plane for plane in planes], axis=1)
    return of_rows, of_columns
