"""The light of the markers themselves: their ink and the ground beside it, read where the registration says they stand."""

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import Pattern, marker_layout
from lens.patterns.markers import PLACES
from lens.photo.light import bilinear_light
from lens.photo.registration import Registration

ALONG = np.linspace(1.5, 5.5, 9)  # in modules
# Darker than this share of what is beside it is ink, however blurred; and a difference below one code in the dark is none.
LEAST_INK, LEAST_LIGHT = 0.85, 0.002
INK_ROW, GROUND_ROW = (
    0.5,
    -0.75,
)  # in modules from a marker's upper edge: the middle of its border, and the ground above it


def _levels(
    panel: Panel,
    pattern: Pattern,
    pixels: NDArray[np.uint8],
    registration: Registration,
    marker_ids: list[int],
    row: float,
) -> NDArray[np.float64]:
    """(markers, 3) median linear light, B, G, R, along a row of each marker that lies in the photo, away from the row's ends."""
    places = {i % PLACES for i in marker_ids}
    own = [marker for marker in marker_layout(panel, pattern) if marker.place in places]
    points = [(along * m.module_px + m.x - 0.5, m.y + row * m.module_px - 0.5) for m in own for along in ALONG]
    at = registration.to_photo(np.array(points, float).reshape(-1, 2)).reshape(len(own), len(ALONG), 2)
    inside = ((at > 2) & (at < np.array(pixels.shape[1::-1]) - 3)).all(axis=(1, 2))
    x, y = at[inside].reshape(-1, 2).T
    light = np.stack([bilinear_light(pixels, c, x, y) for c in range(3)], axis=-1)
    return np.asarray(np.median(light.reshape(-1, len(ALONG), 3), axis=1), float)


def ink_level(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, marker_ids: list[int]
) -> NDArray[np.float64] | None:
    """(3,) linear light, B, G, R, of the markers' lit ink on a dark pattern: the only known light in a black photo."""
    if max(pattern.drive) > 0:
        return None
    levels = _levels(panel, pattern, pixels, registration, marker_ids, INK_ROW)
    return np.median(levels, axis=0) if len(levels) else None


def dark_share(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, marker_ids: list[int]
) -> float | None:
    """How bright the darker of ink and ground is against the lighter, in the channel that differs most: near 0 on a panel that
    lights itself, most of 1 where only light from outside shows the picture."""
    ink, ground = (_levels(panel, pattern, pixels, registration, marker_ids, row) for row in (INK_ROW, GROUND_ROW))
    if not len(ink) or not len(ground):
        return None
    both = np.stack([np.median(ink, axis=0), np.median(ground, axis=0)])
    return float((both.min(axis=0) / np.maximum(both.max(axis=0), 1e-6)).min())


def shows_ink(panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration) -> bool:
    """Does anything stand where the pattern's markers would, if blurred? A colour that a device has built in has neither ink nor probes."""
    every = [marker.place for marker in marker_layout(panel, pattern)]
    ink, ground = (_levels(panel, pattern, pixels, registration, every, row) for row in (INK_ROW, GROUND_ROW))
    if not len(ink) or not len(ground):
        return False
    both = np.stack([np.median(ink, axis=0), np.median(ground, axis=0)])
    # in the brightest channel: the ratio of two dark ones is noise
    told = both[:, int(np.argmax(both.max(axis=0)))]
    return bool(told.min() < LEAST_INK * told.max() and np.ptp(told) > LEAST_LIGHT)
