"""The light of the markers themselves: their ink and the ground beside it, read where the registration says they stand."""

import math

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import Marker, Pattern, marker_layout
from lens.patterns.markers import PLACES
from lens.photo.light import light_at
from lens.photo.registration import Registration

INK_ROW, GROUND_ROW = 0.5, -0.75  # in modules from a marker's upper edge: the middle of its border, and the ground above it


def _levels(
    marker: Marker, row: float, pixels: NDArray[np.uint8], registration: Registration,
) -> list[float] | None:
    """Median linear light, B, G, R, along a row of a marker, away from its ends; None where it leaves the photo."""
    along = np.linspace(1.5, 5.5, 9) * marker.module_px + marker.x - 0.5
    points = np.stack([along, np.full_like(along, marker.y + row * marker.module_px - 0.5)], axis=1)
    at = registration.to_photo(points)
    rows = [light for c in range(3) if (light := light_at(pixels, c, at)) is not None]
    return [float(np.median(light)) for light in rows] if len(rows) == 3 else None


def ink_level(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, marker_ids: list[int],
) -> NDArray[np.float64] | None:
    """(3,) linear light, B, G, R, of the markers' lit ink on a dark pattern: the only known light in a black photo."""
    if max(pattern.drive) > 0 or not marker_ids:
        return None
    places = {i % PLACES for i in marker_ids}
    told = (_levels(marker, INK_ROW, pixels, registration) for marker in marker_layout(panel, pattern) if marker.place in places)
    levels = [level for level in told if level is not None]
    return np.median(np.array(levels), axis=0) if levels and math.isfinite(levels[0][0]) else None


def dark_share(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, marker_ids: list[int],
) -> float | None:
    """How bright the darker of ink and ground is against the lighter, in the channel that differs most: near 0 on a panel that
    lights itself, most of 1 where only light from outside shows the picture."""
    places = {i % PLACES for i in marker_ids}
    shares = []
    for marker in marker_layout(panel, pattern):
        if marker.place in places:
            ink, ground = (_levels(marker, row, pixels, registration) for row in (INK_ROW, GROUND_ROW))
            if ink is not None and ground is not None:
                shares.append(min(min(a, b) / max(a, b, 1e-6) for a, b in zip(ink, ground, strict=True)))
    return float(np.median(shares)) if shares else None
