"""Blur of a photo from the markers' straight edges (slanted edge, ISO 12233, with a Gaussian edge model)."""

from collections.abc import Sequence
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
_DISTANCES_PX = np.arange(2 * int(BINS_REACH_PX / BIN_PX) + 1) * BIN_PX - BINS_REACH_PX
_EDGES = ndtr(_DISTANCES_PX[None, :] / SIGMAS_PX[:, None])  # (sigmas, bins) light across an edge of each sigma


class Edges(NamedTuple):
    """Samples around marker edges: (edges, samples) photo coordinates, distance to the edge in photo px, positive outside; ``place`` (edges,) is
    the place of the marker that each belongs to."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    distance: NDArray[np.float64]
    place: NDArray[np.intp]

    def of(self, marker_ids: Sequence[int]) -> "Edges":
        """Those of some markers."""
        own = np.isin(self.place, [marker_id % PLACES for marker_id in marker_ids])
        return Edges(self.x[own], self.y[own], self.distance[own], self.place[own])


def marker_edges(panel: Panel, pattern: Pattern, registration: Registration) -> Edges:
    """The outer edges of all markers that lie whole in the photo, those of each together."""
    markers = marker_layout(panel, pattern)
    side, module = (
        np.array(values, float)[:, None, None]
        for values in zip(*((m.side_px, m.module_px) for m in markers), strict=True)
    )
    left, top = (
        np.array(values, float)[:, None, None] - 0.5 for values in zip(*((m.x, m.y) for m in markers), strict=True)
    )
    # the border is one module wide: inward half a module and outward one module see nothing but this edge
    out, along = np.meshgrid(np.linspace(-0.9, 1.5, ACROSS), np.linspace(0.0, 1.0, ALONG))
    a, t = out * module, 1.2 * module + along * (side - 2.4 * module)
    edges = [
        np.stack([x, y], axis=-1)
        for x, y in ((left - a, top + t), (left + side + a, top + t), (left + t, top - a), (left + t, top + side + a))
    ]
    points = np.stack(edges, axis=1).reshape(4 * len(markers), -1, 2)
    at = registration.to_photo(points.reshape(-1, 2)).reshape(points.shape)
    distance = np.repeat(a.reshape(len(markers), -1), 4, axis=0) * registration.scale_at(points.mean(axis=1))[:, None]
    place = np.repeat([m.place for m in markers], 4)
    whole = (at >= 1).all(axis=(1, 2)) & (at < [registration.width - 2, registration.height - 2]).all(axis=(1, 2))
    return Edges(at[whole, :, 0], at[whole, :, 1], distance[whole], place[whole])


class _Profile(NamedTuple):
    """(edges, samples) light across edges, 0 to 1, of those that show clearly, and the number of the bin that each falls into."""

    value: NDArray[np.float64]
    number: NDArray[np.intp]
    place: NDArray[np.intp]


def _profile(edges: Edges, pixels: NDArray[np.uint8], channel: int) -> _Profile:
    light = bilinear_light(pixels, channel, edges.x, edges.y)
    ordered = np.sort(light, axis=1)
    low, high = (ordered[:, round(share * (light.shape[1] - 1))] for share in (0.05, 0.95))
    clear = high - low >= MIN_CONTRAST
    value = (light[clear] - low[clear, None]) / (high - low)[clear, None]
    # all edges fall into bins of an eighth of a pixel, so that each sigma is tried on a few dozen numbers
    number = np.round(np.clip(edges.distance[clear], -BINS_REACH_PX, BINS_REACH_PX) / BIN_PX).astype(int) + int(
        BINS_REACH_PX / BIN_PX
    )
    return _Profile(value, number, edges.place[clear])


def measure_blur(edges: Edges, pixels: NDArray[np.uint8], channel: int) -> float | None:
    """Sigma in photo px of the edge spread of one channel (0 B, 1 G, 2 R), None when no marker edge shows in it.

    The bilinear look-up adds about 0.41 px (a unit triangle) to the spread, which is taken off again.
    """
    if not len(edges.x):
        return None
    seen = _profile(edges, pixels, channel)
    return _sigma(seen.value.ravel(), seen.number.ravel())


def measure_blur_of_each(edges: Edges, pixels: NDArray[np.uint8], channel: int) -> list[float]:
    """The same for each marker whose edges show."""
    if not len(edges.x):
        return []
    seen = _profile(edges, pixels, channel)
    each = (
        _sigma(seen.value[own].ravel(), seen.number[own].ravel())
        for own in (seen.place == place for place in np.unique(seen.place))
    )
    return [sigma for sigma in each if sigma is not None]


def _sigma(value: NDArray[np.float64], number: NDArray[np.intp]) -> float | None:
    if value.size < MIN_SAMPLES:
        return None
    weight = np.bincount(number)
    filled = np.flatnonzero(weight)
    mean = np.bincount(number, value)[filled] / weight[filled]
    root = np.sqrt(weight[filled])
    best = float(SIGMAS_PX[int(np.argmin(_left_over(_EDGES[:, filled] * root, root, mean * root)))])
    return float(np.sqrt(max(best**2 - 1 / 6, 0.3**2)))


def _left_over(
    shapes: NDArray[np.float64], ground: NDArray[np.float64], seen: NDArray[np.float64]
) -> NDArray[np.float64]:
    """(N,) squared error that each of (N, bins) shapes leaves of what is seen, ground and height being free."""
    unit = ground / np.linalg.norm(ground)
    free = shapes - (shapes @ unit)[:, None] * unit
    rest = seen - (seen @ unit) * unit
    return np.asarray(rest @ rest - (free @ rest) ** 2 / np.maximum((free**2).sum(axis=1), 1e-12), float)
