"""Blur of a photo from the markers' straight edges (slanted edge, ISO 12233, with a Gaussian edge model)."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from lens.panel import Panel
from lens.patterns import Pattern, marker_layout
from lens.patterns.markers import PLACES
from lens.photo.light import bilinear_light
from lens.photo.registration import Registration

SIGMAS_PX = np.geomspace(0.4, 8.0, 48)
BIN_PX, BINS_REACH_PX = 0.125, 16.0
MIN_SAMPLES, MIN_CONTRAST = 200, 0.02
ACROSS, ALONG = 17, 12


class Edges(NamedTuple):
    """Samples around marker edges: (edges, samples) photo coordinates, distance to the edge in photo px, positive outside."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    distance: NDArray[np.float64]


def marker_edges(panel: Panel, pattern: Pattern, marker_ids: list[int], registration: Registration) -> Edges | None:
    """The outer edges of all markers that lie whole in the photo, None when there are none."""
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    groups, steps = [], []
    for marker_id in marker_ids:
        marker = layout[marker_id % PLACES]
        side, module = marker.side_px, marker.module_px
        # the border is one module wide: inward half a module and outward one module see nothing but this edge
        a, t = np.meshgrid(np.linspace(-0.9, 1.5, ACROSS) * module, np.linspace(1.2 * module, side - 1.2 * module, ALONG))
        left, top = marker.x - 0.5, marker.y - 0.5
        for x, y in ((left - a, top + t), (left + side + a, top + t), (left + t, top - a), (left + t, top + side + a)):
            groups.append(np.stack([x.ravel(), y.ravel()], axis=1))
            steps.append(a.ravel())
    if not groups:
        return None
    points = np.concatenate(groups)
    at = registration.to_photo(points).reshape(len(groups), -1, 2)
    scale = registration.scale_at(np.array([group.mean(axis=0) for group in groups]))
    whole = ((at >= 1).all(axis=(1, 2)) & (at[..., 0] < registration.width - 2).all(axis=1) & (at[..., 1] < registration.height - 2).all(axis=1))
    if not whole.any():
        return None
    return Edges(at[whole, :, 0], at[whole, :, 1], (np.array(steps) * scale[:, None])[whole])


def measure_blur(edges: Edges | None, pixels: NDArray[np.uint8], channel: int) -> float | None:
    """Sigma in photo px of the edge spread of one channel (0 B, 1 G, 2 R), None when no marker edge shows in it.

    The bilinear look-up adds about 0.41 px (a unit triangle) to the spread, which is taken off again.
    """
    if edges is None:
        return None
    light = bilinear_light(pixels, channel, edges.x, edges.y)
    low, high = np.percentile(light, (5, 95), axis=1)
    clear = high - low >= MIN_CONTRAST
    if edges.x[clear].size < MIN_SAMPLES:
        return None
    value = ((light[clear] - low[clear, None]) / (high - low)[clear, None]).ravel()
    # all edges fall into bins of an eighth of a pixel, so that each sigma is tried on a few dozen numbers
    number = np.round(np.clip(edges.distance[clear].ravel(), -BINS_REACH_PX, BINS_REACH_PX) / BIN_PX).astype(int) + int(BINS_REACH_PX / BIN_PX)
    weight = np.bincount(number)
    filled = np.flatnonzero(weight)
    mean = np.bincount(number, value)[filled] / weight[filled]
    root = np.sqrt(weight[filled])
    distance = (filled - BINS_REACH_PX / BIN_PX) * BIN_PX
    edges_at = ndtr(distance[None, :] / SIGMAS_PX[:, None]) * root
    best = float(SIGMAS_PX[int(np.argmin(_left_over(edges_at, root, mean * root)))])
    return float(np.sqrt(max(best**2 - 1 / 6, 0.3**2)))


def _left_over(shapes: NDArray[np.float64], ground: NDArray[np.float64], seen: NDArray[np.float64]) -> NDArray[np.float64]:
    """(N,) squared error that each of (N, bins) shapes leaves of what is seen, ground and height being free."""
    unit = ground / np.linalg.norm(ground)
    free = shapes - (shapes @ unit)[:, None] * unit
    rest = seen - (seen @ unit) * unit
    return np.asarray(rest @ rest - (free @ rest) ** 2 / np.maximum((free**2).sum(axis=1), 1e-12), float)
