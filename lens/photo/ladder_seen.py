"""The grey ladder in a photo: which code values its patches have, and the white around each."""

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import Patch, ladder_patches
from lens.photo.registration import Registration

EDGE_PHOTO_PX, EDGE_BLURS = 4.0, 4.0  # the sharpened, blurred rim of a patch is left out
MIN_PHOTO_PX = 60


class PatchSeen(NamedTuple):
    """Shares of the photo's pixels with each code, (256, 3), B, G, R: inside the patch, and in the white around it."""

    patch: Patch
    inside: NDArray[np.float64]
    around: NDArray[np.float64]


def see_ladder(
    panel: Panel, pixels: NDArray[np.uint8], registration: Registration, px_per_px: float, blur_px: float
) -> tuple[PatchSeen, ...]:
    """Every patch that the photo shows whole and large enough.

    pixels : (h, w, 3) uint8, B, G, R
    """
    edge = (EDGE_PHOTO_PX + EDGE_BLURS * blur_px) / px_per_px
    seen = []
    for patch in ladder_patches(panel):
        inner, outer = _outline(registration, patch.box, -edge), _outline(registration, patch.box, edge)
        cell = _outline(registration, patch.cell, -edge)
        if cell.min() < 0 or (cell.max(axis=0) > (registration.width - 1, registration.height - 1)).any():
            continue
        left, top = np.floor(cell.min(axis=0)).astype(int)
        right, bottom = np.ceil(cell.max(axis=0)).astype(int) + 1
        part = pixels[top:bottom, left:right]
        inside, around = (
            _codes(part, [polygon - (left, top) for polygon in polygons]) for polygons in ([inner], [cell, outer])
        )
        if inside is not None and around is not None:
            seen.append(PatchSeen(patch, inside, around))
    return tuple(seen)


def _outline(registration: Registration, box: tuple[int, int, int, int], grow_px: float) -> NDArray[np.float64]:
    """(4, 2) the box's corners in the photo, moved outward by ``grow_px`` panel px."""
    left, top, right, bottom = (
        box[0] - 0.5 - grow_px,
        box[1] - 0.5 - grow_px,
        box[2] - 0.5 + grow_px,
        box[3] - 0.5 + grow_px,
    )
    return registration.to_photo(np.array([[left, top], [right, top], [right, bottom], [left, bottom]]))


def _codes(part: NDArray[np.uint8], polygons: Sequence[NDArray[np.float64]]) -> NDArray[np.float64] | None:
    """(256, 3) shares of the codes inside the first polygon and outside the others."""
    mask = np.zeros(part.shape[:2], np.uint8)
    for number, polygon in enumerate(polygons):
        cv2.fillConvexPoly(mask, np.round(polygon).astype(np.int32), 0 if number else 255)
    count = int(np.count_nonzero(mask))
    if count < MIN_PHOTO_PX:
        return None
    return (
        np.stack(
            [cv2.calcHist([part], [channel], mask, [256], [0, 256]).ravel() for channel in range(3)], axis=1
        ).astype(float)
        / count
    )
