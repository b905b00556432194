"""Markers that stand where they should not: the picture on the panel is not the one that was sent."""

from collections.abc import Collection, Sequence
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import Pattern, marker_layout
from lens.patterns.markers import PLACES
from lens.photo.markers_seen import Sighting
from lens.photo.registration import Registration

NEAR_SHARE, NEAR_SIDES = 0.01, 0.5  # of the panel's side, and of a marker's: how well a misplaced marker is located
INVERSE_STEPS = 6
FAINT_COPY = 0.6  # of the contrast of what it copies
Distortion = Literal["shifted", "torn", "repeated", "ghost"]


class Misplaced(NamedTuple):
    """What the markers say is wrong with the picture; ``offset_px`` is how far a part of it lies from the rest, whole turns left out."""

    kind: Distortion
    offset_px: tuple[float, float]


def find_misplaced(
    panel: Panel,
    pattern: Pattern,
    registration: Registration,
    sighting: Sighting,
    kept: Collection[int],
    light: NDArray[np.uint8],
) -> Misplaced | None:
    """How the markers that do not agree with the registration are displaced; None when they do not agree with each other either.

    light : (h, w) uint8 that the markers were sought in
    """
    layout = {marker.place: marker for marker in marker_layout(panel, pattern)}
    middle = {place: np.mean(marker.corners, axis=0) for place, marker in layout.items()}
    near = max(NEAR_SHARE * max(panel.width, panel.height), NEAR_SIDES * next(iter(layout.values())).side_px)
    twice = {i for i, _ in sighting.repeats}
    double = [*sighting.repeats, *((i, corners) for i, corners in sighting.corners.items() if i in twice)]
    again = [_offset(registration, corners, middle[i % PLACES]) for i, corners in double]
    # which of two is the copy is not known: all are told as lying to the right, or below
    again = [
        offset * np.sign(offset[np.argmax(np.abs(offset))]) for offset in again if float(np.abs(offset).max()) > near
    ]
    common = _common(again, near)
    if common is not None:
        pairs = [
            sorted((_contrast(light, corners), _contrast(light, sighting.corners[i])))
            for i, corners in sighting.repeats
        ]
        faint = float(np.median([low / max(high, 1.0) for low, high in pairs])) < FAINT_COPY
        return Misplaced("ghost" if faint else "repeated", common)
    stray = [
        _offset(registration, corners, middle[i % PLACES]) for i, corners in sighting.corners.items() if i not in kept
    ]
    stray = [offset for offset in stray if float(np.abs(offset).max()) > near]
    size = np.array([panel.width, panel.height], float)
    # what leaves one side may come in at the other
    common = _common([offset - size * np.round(offset / size) for offset in stray], near)
    if common is None:
        return None
    return Misplaced("shifted" if np.hypot(*common) <= near else "torn", common)


def _contrast(light: NDArray[np.uint8], corners: NDArray[np.float64]) -> float:
    """Codes between the dark and the light of a marker."""
    mask = np.zeros(light.shape, np.uint8)
    cv2.fillConvexPoly(mask, np.round(corners).astype(np.int32), 1)
    x, y, width, height = cv2.boundingRect(np.round(corners).astype(np.int32))
    part = (slice(max(0, y), y + height), slice(max(0, x), x + width))
    inside = light[part][mask[part] > 0]
    return float(np.subtract(*np.percentile(inside, (90, 10)))) if inside.size else 0.0


def _common(offsets: Sequence[NDArray[np.float64]], near: float) -> tuple[float, float] | None:
    """The offset that at least two share, and that most share; None without one."""
    if len(offsets) < 2:
        return None
    middle = np.median(np.array(offsets), axis=0)
    alike = sum(float(np.abs(offset - middle).max()) <= near for offset in offsets)
    return (float(middle[0]), float(middle[1])) if alike >= max(2, 0.6 * len(offsets)) else None


def _offset(registration: Registration, corners: NDArray[np.float64], home: NDArray[np.float64]) -> NDArray[np.float64]:
    """(2,) panel px from where a marker belongs to where it is seen."""
    seen = corners.mean(axis=0)
    place = home.copy()
    for _ in range(INVERSE_STEPS):  # Newton's, on the forward map
        around = registration.to_photo(np.stack([place, place + [1, 0], place + [0, 1]]))
        slopes = np.stack([around[1] - around[0], around[2] - around[0]], axis=1)
        place = place + np.linalg.solve(slopes, seen - around[0])
    return np.asarray(place - home, float)
