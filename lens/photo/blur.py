"""Blur of a photo from the markers' straight edges (slanted edge, ISO 12233, with a Gaussian edge model)."""

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from lens.panel import Panel
from lens.patterns import Pattern, marker_layout
from lens.patterns.markers import PLACES
from lens.photo.markers_seen import light_at
from lens.photo.registration import Registration

SIGMAS_PX = np.geomspace(0.4, 8.0, 32)


def _edge_samples(
    panel: Panel, pattern: Pattern, marker_ids: list[int], pixels: NDArray[np.uint8], channel: int, registration: Registration,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Distance from the edge (photo px, positive outside the marker) and normalised light of samples around all markers."""
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    distances, values = [], []
    for marker_id in marker_ids:
        marker = layout[marker_id % PLACES]
        side, module = marker.side_px, marker.module_px
        # the border is one module wide: inward half a module and outward one module see nothing but this edge
        across = np.linspace(-0.9, 1.5, 17) * module
        along = np.linspace(1.2 * module, side - 1.2 * module, 12)
        left, top = marker.x - 0.5, marker.y - 0.5
        for nx, ny in ((-1, 0), (1, 0), (0, -1), (0, 1)):
            a, t = np.meshgrid(across, along)
            if nx:
                x, y = (left - a if nx < 0 else left + side + a), top + t
            else:
                x, y = left + t, (top - a if ny < 0 else top + side + a)
            points = np.stack([x.ravel(), y.ravel()], axis=1)
            light, whole = light_at(pixels, channel, registration, points)
            if not whole:
                continue
            scale = float(registration.scale_at(points.mean(axis=0)[None, :])[0])
            low, high = np.percentile(light, (5, 95))
            if high - low < 0.02:
                continue
            distances.append(a.ravel() * scale)
            values.append((light - low) / (high - low))
    if not distances:
        return np.empty(0), np.empty(0)
    return np.concatenate(distances), np.concatenate(values)


def measure_blur(
    panel: Panel, pattern: Pattern, marker_ids: list[int], pixels: NDArray[np.uint8], channel: int, registration: Registration,
) -> float | None:
    """Sigma in photo px of the edge spread of one channel (0 B, 1 G, 2 R), None when no marker edge is in the photo.

    The bilinear look-up adds about 0.41 px (a unit triangle) to the spread, which is taken off again.
    """
    distance, value = _edge_samples(panel, pattern, marker_ids, pixels, channel, registration)
    if distance.size < 200:
        return None
    errors = []
    for sigma in SIGMAS_PX:
        edge = ndtr(distance / sigma)
        basis = np.stack([edge, np.ones_like(edge)], axis=1)
        _, left, *_ = np.linalg.lstsq(basis, value, rcond=None)
        errors.append(float(left[0]) if left.size else np.inf)
    best = int(np.argmin(errors))
    return float(np.sqrt(max(SIGMAS_PX[best] ** 2 - 1 / 6, 0.3**2)))
