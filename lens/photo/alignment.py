"""The registration fitted again to what each marker looks like: every marker is aligned to its own drawing by least squares
(Lucas and Kanade 1981), blur included."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import MARKER_MODULES, Marker, Pattern, marker_layout
from lens.patterns.markers import PLACES, marker_modules
from lens.photo.light import bilinear_light, inside
from lens.photo.markers_seen import MIN_MARKERS
from lens.photo.registration import Registration, fit

LEAST_GAIN = 1e-4  # of a marker's light against its ground


class _Templates(NamedTuple):
    """Markers as they should look: (M, N, 2) panel points around their (M, 2) centres, and what the light at them is made of, (M, N, 10): a
    gain, a ground and its two slopes, and what the marker's affine shift changes at gain 1; (M, 10, 10) ``inverse`` solves for these by the
    normal equations, as they are few and well conditioned, and ``ground`` (M, 4, 4) for the first four alone. All are of one size."""

    centres: NDArray[np.float64]
    side_px: int
    module_px: int
    points: NDArray[np.float64]
    parts: NDArray[np.float64]
    inverse: NDArray[np.float64]
    ground: NDArray[np.float64]


def _templates(marker_ids: list[int], markers: list[Marker], scales: NDArray[np.float64], blur_px: float) -> _Templates:
    side, module = markers[0].side_px, markers[0].module_px
    sub = int(np.clip(round(module * float(np.median(scales)) / 1.5), 3, 4))
    plans = np.ones((len(markers), MARKER_MODULES + 4, MARKER_MODULES + 4), np.float32)
    plans[:, 2:-2, 2:-2] = [~marker_modules(marker_id) for marker_id in marker_ids]
    # one module of ground is kept around the marker, one more feeds the blur
    drawings = np.stack(
        [
            cv2.GaussianBlur(plan, (0, 0), max(blur_px / scale * sub / module, 0.3))
            for plan, scale in zip(plans.repeat(sub, axis=1).repeat(sub, axis=2), scales, strict=True)
        ]
    ).astype(float)
    step = module / sub
    inner, slope_y, slope_x = (
        image[:, sub:-sub, sub:-sub].reshape(len(markers), -1)
        for image in (drawings, *np.gradient(drawings, step, axis=(1, 2)))
    )
    axis = (np.arange(drawings.shape[1] - 2 * sub) - (drawings.shape[1] - 2 * sub - 1) / 2) * step
    x, y = (a.ravel() for a in np.meshgrid(axis, axis))
    u, v = (np.broadcast_to(values / side, inner.shape) for values in (x, y))
    centres = np.array([(m.x, m.y) for m in markers]) + (side - 1) / 2
    parts = np.stack(
        [inner, np.ones_like(u), u, v, -slope_x, -slope_x * u, -slope_x * v, -slope_y, -slope_y * u, -slope_y * v],
        axis=-1,
    )
    normal = parts.transpose(0, 2, 1) @ parts
    inverse, ground = (np.linalg.pinv(some, hermitian=True) for some in (normal, normal[:, :4, :4]))
    return _Templates(centres, side, module, np.stack([x, y], axis=1) + centres[:, None], parts, inverse, ground)


_CORNERS = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])


def _corner_shifts(
    templates: _Templates, pixels: NDArray[np.uint8], channel: int, registration: Registration
) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    """(M, 4, 2) panel px by which the corners of markers lie elsewhere, and which markers these are: those whole in the photo of which half
    of what is seen or more is explained."""
    at = registration.to_photo(templates.points.reshape(-1, 2)).reshape(templates.points.shape)
    own = inside(pixels, at)
    seen = bilinear_light(pixels, channel, at[own, :, 0], at[own, :, 1])
    told = (seen[:, None] @ templates.parts[own])[:, 0]
    gain = (templates.ground[own, 0] * told[:, :4]).sum(axis=1)
    solution = (templates.inverse[own] @ told[..., None])[..., 0]
    # the ground takes up the mean of what is left over
    left = ((seen**2).sum(axis=1) - (solution * told).sum(axis=1)) / seen.shape[1]
    good = (np.abs(gain) >= LEAST_GAIN) & (left <= 0.5 * seen.var(axis=1))
    affine = solution[good, 4:].reshape(-1, 2, 3) / gain[good, None, None]
    shifts = affine[:, None, :, 0] + _CORNERS @ affine[..., 1:].transpose(0, 2, 1)
    shifts[np.abs(shifts).max(axis=2) > 1.5 * templates.module_px] = 0
    return shifts, own[good]


def align_markers(
    panel: Panel,
    pattern: Pattern,
    marker_ids: list[int],
    pixels: NDArray[np.uint8],
    registration: Registration,
    blur_px: float,
    channel: int,
) -> Registration:
    """Fit again to every marker's own best affine position (Lucas and Kanade 1981), two rounds.

    A marker that explains less than half of what is seen at its place (hidden, clipped, misread) is left out.
    """
    if len(marker_ids) < MIN_MARKERS:
        return registration
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    markers = [layout[i % PLACES] for i in marker_ids]
    scales = registration.scale_at(np.array([(m.x + m.side_px / 2, m.y + m.side_px / 2) for m in markers]))
    templates = _templates(marker_ids, markers, scales, blur_px)
    for _ in range(2):
        shifts, own = _corner_shifts(templates, pixels, channel, registration)
        if len(own) < MIN_MARKERS:
            return registration
        source = templates.centres[own, None] + _CORNERS * templates.side_px
        photo_corners = registration.to_photo((source + shifts).reshape(-1, 2))
        registration = fit(source.reshape(-1, 2), photo_corners, (registration.width, registration.height), 0.2)
    return registration._replace(residuals=_left_over(registration, source, photo_corners.reshape(-1, 4, 2)))


def _left_over(
    registration: Registration, source: NDArray[np.float64], seen: NDArray[np.float64]
) -> tuple[tuple[float, float, float, float], ...]:
    """The middle of each marker, and how far from where the fit puts it it is seen, panel px."""
    middle = source.mean(axis=1)
    off = (seen - registration.to_photo(source.reshape(-1, 2)).reshape(-1, 4, 2)).mean(axis=1) / registration.scale_at(
        middle
    )[:, None]
    return tuple((float(x), float(y), float(dx), float(dy)) for (x, y), (dx, dy) in zip(middle, off, strict=True))
