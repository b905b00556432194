"""A place of the panel as the photo shows it: cut out, upright, enlarged, beside a clean neighbourhood."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.panel import Panel
from lens.photo.registration import Registration
from lens.records import PhotoMap

GAP_PX, SIDE_PX = 6, 208
SPAN, LEAST_SPAN = 80, 12  # codes: what differs by less is noise and is not blown up to full contrast
MIN_REACH_PX, MAX_REACH_PX = 6.0, 400.0
NEIGHBOUR_REACHES = 2.5


def registration_of(photo_map: PhotoMap) -> Registration:
    """The registration that a report's map was made from."""
    return Registration(
        np.array(photo_map.homography, float).reshape(3, 3),
        photo_map.k1,
        photo_map.k2,
        photo_map.width,
        photo_map.height,
        0.0,
        0,
    )


def closeup(
    pixels: NDArray[np.uint8], panel: Panel, photo_map: PhotoMap, x: float, y: float, reach_px: float
) -> NDArray[np.uint8]:
    """(h, w, 3) uint8, B, G, R: the square of ``reach_px`` panel px around a place, then its neighbourhood, light stretched alike.

    Raises
    ------
    BadInput
        when the place is not on the panel or not in the photo.
    """
    if not (-0.5 <= x <= panel.width - 0.5 and -0.5 <= y <= panel.height - 0.5):
        raise BadInput(f"({x:g}, {y:g}) is not on the panel of {panel.width}x{panel.height} pixels.", "place")
    reach = float(np.clip(reach_px, MIN_REACH_PX, MAX_REACH_PX))
    registration = registration_of(photo_map)
    # the neighbourhood lies towards the middle, where there is panel in any case
    aside = NEIGHBOUR_REACHES * reach * (1 if x < panel.width / 2 else -1)
    views = [_cut(pixels, registration, centre, y, reach) for centre in (x, x + aside)]
    both = np.concatenate(views, axis=1).astype(np.float32)
    ground = np.median(both, axis=(0, 1))
    differs = both - ground
    # the strongest difference sets the gain, so that noise stays as faint beside it as it is
    gain = SPAN / max(float(np.abs(cv2.blur(differs, (5, 5))).max()), LEAST_SPAN)
    shown = np.clip(np.clip(ground, SPAN, 255 - SPAN) + gain * differs, 0, 255).astype(np.uint8)
    stretched = (shown[:, :SIDE_PX], shown[:, SIDE_PX:])
    gap = np.full((SIDE_PX, GAP_PX, 3), 128, np.uint8)
    return np.concatenate([stretched[0], gap, stretched[1]], axis=1)


def _cut(pixels: NDArray[np.uint8], registration: Registration, x: float, y: float, reach: float) -> NDArray[np.uint8]:
    across = np.linspace(-reach, reach, SIDE_PX)
    grid = np.stack(np.meshgrid(x + across, y + across), axis=-1).reshape(-1, 2)
    at = registration.to_photo(grid).reshape(SIDE_PX, SIDE_PX, 2).astype(np.float32)
    x0, y0 = max(0, int(at[..., 0].min()) - 3), max(0, int(at[..., 1].min()) - 3)
    crop = pixels[y0 : int(at[..., 1].max()) + 4, x0 : int(at[..., 0].max()) + 4]
    if crop.size == 0:
        raise BadInput("This place is outside the photo.", "place")
    cut = cv2.remap(
        crop,
        at[..., 0] - x0,
        at[..., 1] - y0,
        cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_CONSTANT,
        borderValue=(128, 128, 128),
    )
    return np.asarray(cut, np.uint8)
