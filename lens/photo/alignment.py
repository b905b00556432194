"""The registration fitted again to what each marker looks like: every marker is aligned to its own drawing by least squares
(Lucas and Kanade 1981), blur included."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import MARKER_MODULES, Marker, Pattern, marker_layout
from lens.patterns.markers import PLACES, marker_modules
from lens.photo.light import light_at
from lens.photo.markers_seen import MIN_MARKERS, lit_channel
from lens.photo.registration import Registration, fit


class _Template(NamedTuple):
    """A marker as it should look: (N, 2) panel points around ``centre``, and what the light at them is made of, (N, 10): a gain, a ground and
    its two slopes, and what the marker's affine shift changes at gain 1; ``normal`` are the products of these with each other."""

    centre: NDArray[np.float64]
    side_px: int
    module_px: int
    points: NDArray[np.float64]
    parts: NDArray[np.float64]
    normal: NDArray[np.float64]


def _template(marker_id: int, marker: Marker, scale: float, blur_px: float) -> _Template:
    sub = int(np.clip(round(marker.module_px * scale / 1.5), 3, 4))
    plan = np.ones((MARKER_MODULES + 4, MARKER_MODULES + 4), np.float32)
    plan[2:-2, 2:-2] = ~marker_modules(marker_id)
    # one module of ground is kept around the marker, one more feeds the blur
    drawing = cv2.GaussianBlur(np.kron(plan, np.ones((sub, sub), np.float32)), (0, 0), max(blur_px / scale * sub / marker.module_px, 0.3))
    inner = drawing[sub:-sub, sub:-sub]
    step = marker.module_px / sub
    slope_y, slope_x = (np.asarray(g, float)[sub:-sub, sub:-sub].ravel() / step for g in np.gradient(drawing))
    axis = (np.arange(inner.shape[0]) - (inner.shape[0] - 1) / 2) * step
    x, y = (a.ravel() for a in np.meshgrid(axis, axis))
    u, v = x / marker.side_px, y / marker.side_px
    centre = np.array([marker.x + (marker.side_px - 1) / 2, marker.y + (marker.side_px - 1) / 2])
    parts = np.stack(
        [inner.ravel(), np.ones_like(u), u, v, -slope_x, -slope_x * u, -slope_x * v, -slope_y, -slope_y * u, -slope_y * v], axis=1)
    return _Template(centre, marker.side_px, marker.module_px, np.stack([x, y], axis=1) + centre, parts, parts.T @ parts)


_CORNERS = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])


def _corner_shifts(template: _Template, seen: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """(4, 2) panel px by which the marker's corners lie elsewhere, None where less than half of what is seen is explained.

    Least squares by the normal equations: the parts are few and well conditioned, and an SVD takes 20 times as long.
    """
    told = template.parts.T @ seen
    gain = np.linalg.lstsq(template.normal[:4, :4], told[:4], rcond=None)[0][0]
    if abs(gain) < 1e-4:
        return None
    solution = np.linalg.lstsq(template.normal, told, rcond=None)[0]
    # the ground takes up the mean of what is left over
    if (seen @ seen - solution @ told) / len(seen) > 0.5 * seen.var():
        return None
    affine = solution[4:].reshape(2, 3) / gain
    shifts = affine[:, 0] + _CORNERS @ affine[:, 1:].T
    shifts[np.abs(shifts).max(axis=1) > 1.5 * template.module_px] = 0
    return np.asarray(shifts, float)


def align_markers(
    panel: Panel, pattern: Pattern, marker_ids: list[int], pixels: NDArray[np.uint8], registration: Registration,
    blur_px: float,
) -> Registration:
    """Fit again to every marker's own best affine position, two rounds.

    A marker that explains less than half of what is seen at its place (hidden, clipped, misread) is left out.
    """
    if len(marker_ids) < MIN_MARKERS:
        return registration
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    channel = lit_channel(pattern)
    markers = [layout[i % PLACES] for i in marker_ids]
    scales = registration.scale_at(np.array([(m.x + m.side_px / 2, m.y + m.side_px / 2) for m in markers]))
    templates = [_template(i, m, float(s), blur_px) for i, m, s in zip(marker_ids, markers, scales, strict=True)]
    ends = np.cumsum([len(t.points) for t in templates])
    for _ in range(2):
        source, target = [], []
        photo_points = np.split(registration.to_photo(np.concatenate([t.points for t in templates])), ends[:-1])
        for template, at in zip(templates, photo_points, strict=True):
            seen = light_at(pixels, channel, at)
            shifts = None if seen is None else _corner_shifts(template, seen)
            if shifts is not None:
                source.append(template.centre + _CORNERS * template.side_px)
                target.append(source[-1] + shifts)
        if len(source) < MIN_MARKERS:
            return registration
        photo_corners = registration.to_photo(np.concatenate(target))
        registration = fit(np.concatenate(source), photo_corners, (registration.width, registration.height), 0.2)
    return registration._replace(residuals=_left_over(registration, np.array(source), photo_corners.reshape(-1, 4, 2)))


def _left_over(
    registration: Registration, source: NDArray[np.float64], seen: NDArray[np.float64],
) -> tuple[tuple[float, float, float, float], ...]:
    """The middle of each marker, and how far from where the fit puts it it is seen, panel px."""
    middle = source.mean(axis=1)
    off = (seen - registration.to_photo(source.reshape(-1, 2)).reshape(-1, 4, 2)).mean(axis=1) / registration.scale_at(middle)[:, None]
    return tuple((float(x), float(y), float(dx), float(dy)) for (x, y), (dx, dy) in zip(middle, off, strict=True))
