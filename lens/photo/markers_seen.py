"""Finding the coded markers in a photo, and fitting the registration to them.

Markers are sought on reduced copies first (cheap), their corners refined at full size, wrong readings thrown out by
geometry, and each marker then aligned to its own drawing by least squares (Lucas and Kanade 1981), blur included.
"""

import math
from functools import cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import MARKER_MODULES, Pattern, Reading, get_pattern, marker_layout, read_symbols
from lens.patterns.markers import PLACES, RUN_BASE, detector_dictionary, marker_modules
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE
from lens.photo.registration import Registration, fit

SEARCH_LONG_SIDES_PX = (1600, 3000, 800)
ENOUGH_MARKERS = 8
MIN_MARKERS = 3


class Sighting(NamedTuple):
    """Markers read in a photo: id to (4, 2) corners in photo px. ``inverted`` when they shine on black."""

    corners: dict[int, NDArray[np.float64]]
    inverted: bool


def brightest_channel(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w) uint8, the largest of the three channels: markers stand out on every colour alike."""
    blue, green, red = cv2.split(pixels)
    return np.asarray(cv2.max(cv2.max(blue, green), red), np.uint8)


def luma(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w) uint8 luma, several times cheaper than the brightest channel; blue patterns are dim in it, but mostly seen."""
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGR2GRAY), np.uint8)


def _detector() -> cv2.aruco.ArucoDetector:
    p = cv2.aruco.DetectorParameters()
    p.adaptiveThreshWinSizeMin, p.adaptiveThreshWinSizeMax, p.adaptiveThreshWinSizeStep = 9, 39, 15
    p.minMarkerPerimeterRate, p.maxMarkerPerimeterRate = 0.02, 1.0
    p.polygonalApproxAccuracyRate = 0.06
    p.errorCorrectionRate = 0.5
    p.perspectiveRemovePixelPerCell = 8  # markers are small: at the usual 4 samples a module, bits next to an edge are misread
    p.minOtsuStdDev = 3.0
    p.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_NONE
    return cv2.aruco.ArucoDetector(detector_dictionary(), p)


def _detect(view: NDArray[np.uint8], inverted: bool) -> dict[int, NDArray[np.float64]]:
    if inverted:
        top = float(np.percentile(view[::7, ::7], 99.8))
        view = 255 - np.asarray(cv2.convertScaleAbs(view, alpha=min(8.0, 220 / max(top, 1.0))), np.uint8)
    corners, ids, _ = _detector().detectMarkers(view)
    if ids is None:
        return {}
    return {int(i): np.asarray(c, float).reshape(4, 2) for i, c in zip(np.ravel(ids), corners, strict=True)}


def find_markers(light: NDArray[np.uint8]) -> Sighting:
    """Look for markers on copies of several sizes, dark on light and light on dark; the richest sighting wins.

    light : (h, w) uint8, the brightest channel
    """
    best = Sighting({}, False)
    long_side = max(light.shape)
    for side in SEARCH_LONG_SIDES_PX:
        factor = min(1.0, side / long_side)
        view = light if factor == 1.0 else np.asarray(
            cv2.resize(light, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
        for inverted in (False, True):
            seen = _detect(view, inverted)
            if len(seen) > len(best.corners):
                # pixel centres sit at integers on both sizes
                best = Sighting({i: (c + 0.5) / factor - 0.5 for i, c in seen.items()}, inverted)
            if len(best.corners) >= ENOUGH_MARKERS:
                return best
    return best


def looks_mirrored(light: NDArray[np.uint8]) -> bool:
    """True when markers can be read only in the mirrored photo."""
    return len(find_markers(np.ascontiguousarray(light[:, ::-1])).corners) >= MIN_MARKERS


def consistent(panel: Panel, sighting: Sighting) -> dict[int, NDArray[np.float64]]:
    """The markers whose places agree on one homography, whatever pattern variant they belong to."""
    best: dict[int, NDArray[np.float64]] = {}
    for variant_pattern in ("white", "white-b"):
        layout = {m.place: m for m in marker_layout(panel, get_pattern(variant_pattern))}
        ids = list(sighting.corners)
        if len(ids) < 2:
            continue
        source = np.array([layout[i % PLACES].corners for i in ids]).reshape(-1, 2)
        target = np.array([sighting.corners[i] for i in ids]).reshape(-1, 2)
        tolerance = 0.12 * float(np.median([math.sqrt(cv2.contourArea(c.astype(np.float32))) for c in sighting.corners.values()]))
        found, inliers = cv2.findHomography(source, target, cv2.RANSAC, max(2.5, tolerance))
        if found is None:
            continue
        good = np.asarray(inliers).reshape(-1, 4).sum(axis=1) >= 3
        kept = {i: sighting.corners[i] for i, ok in zip(ids, good, strict=True) if ok}
        if len(kept) > len(best):
            best = kept
    return best


def read_in_place(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, inverted: bool,
) -> list[int]:
    """Numbers of all markers that can be read where the registration says they stand, at most two modules of 49 wrong.

    This finds markers that the search missed; places that are hidden or cut off are left out.
    """
    channel = lit_channel(pattern)
    found = []
    for marker in marker_layout(panel, pattern):
        axis = (np.arange(MARKER_MODULES) + 0.5) * marker.module_px - 0.5
        offsets = np.array([-0.15, 0.15]) * marker.module_px
        x, y = np.meshgrid(np.add.outer(axis, offsets).ravel() + marker.x, np.add.outer(axis, offsets).ravel() + marker.y)
        light, whole = light_at(pixels, channel, registration, np.stack([x.ravel(), y.ravel()], axis=1))
        if not whole:
            continue
        cells = light.reshape(MARKER_MODULES, 2, MARKER_MODULES, 2).mean(axis=(1, 3))
        low, high = np.percentile(cells, (10, 95))
        inked = (cells > (low + high) / 2) if inverted else (cells < (low + high) / 2)
        wrong = (_drawings_of_place(marker.place) != inked).sum(axis=(1, 2))
        best = int(np.argmin(wrong))
        if wrong[best] <= 2:
            found.append(marker.place + PLACES * best)
    return found


@cache
def _drawings_of_place(place: int) -> NDArray[np.bool_]:
    """(83, 7, 7) bool: the ink of every symbol that may stand at a place."""
    return np.stack([marker_modules(place + PLACES * symbol) for symbol in range(RUN_BASE)])


def read_markers(panel: Panel, marker_ids: list[int]) -> Reading:
    """Pattern and run that the agreeing markers tell."""
    return read_symbols(panel, marker_ids)


def first_fit(
    panel: Panel, pattern: Pattern, kept: dict[int, NDArray[np.float64]], light: NDArray[np.uint8],
) -> Registration:
    """Registration from the markers' outer corners, refined to a fraction of a photo pixel."""
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    source = np.array([layout[i % PLACES].corners for i in kept]).reshape(-1, 2)
    target = np.array(list(kept.values())).reshape(-1, 1, 2).astype(np.float32)
    side = math.sqrt(float(np.median([cv2.contourArea(c.astype(np.float32)) for c in kept.values()])))
    window = int(np.clip(side / MARKER_MODULES * 0.7, 2, 12))
    inside = (target[..., 0] > window + 2) & (target[..., 0] < light.shape[1] - window - 3) & \
        (target[..., 1] > window + 2) & (target[..., 1] < light.shape[0] - window - 3)
    chosen = inside.ravel()
    refined = target.copy()
    if chosen.any():
        some = np.ascontiguousarray(target[chosen])
        criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.01)
        moved = cv2.cornerSubPix(light, some.copy(), (window, window), (-1, -1), criteria)
        jump = np.abs(moved - some).max(axis=(1, 2)) > window
        moved[jump] = some[jump]
        refined[chosen] = moved
    return fit(source, refined.reshape(-1, 2).astype(float), (light.shape[1], light.shape[0]))


def lit_channel(pattern: Pattern) -> int:
    """Index in B, G, R of the channel that shows the pattern's markers best."""
    drive = pattern.drive if max(pattern.drive) else pattern.ink
    return 1 if drive[1] else (2 if drive[0] else 0)


def light_at(
    pixels: NDArray[np.uint8], channel: int, registration: Registration, points: NDArray[np.float64],
) -> tuple[NDArray[np.float64], bool]:
    """Linear light 0..1 of one channel at (N, 2) panel points, and whether all lie in the photo."""
    at = registration.to_photo(points).astype(np.float32)
    x0, y0 = np.floor(at.min(axis=0)).astype(int) - 2
    x1, y1 = np.ceil(at.max(axis=0)).astype(int) + 3
    if x0 < 0 or y0 < 0 or x1 > pixels.shape[1] or y1 > pixels.shape[0]:
        return np.zeros(len(points)), False
    crop = LINEAR_OF_CODE[pixels[y0:y1, x0:x1, channel]].astype(np.float32) / FULL_SCALE
    values = cv2.remap(crop, at[None, :, 0] - np.float32(x0), at[None, :, 1] - np.float32(y0), cv2.INTER_LINEAR)
    return values.ravel().astype(float), True


def _drawing(marker_id: int, module_px: int, blur_panel_px: float, sub: int) -> NDArray[np.float32]:
    """The marker with one module of ground around it, light = 1 where it is not inked, ``sub`` samples a module."""
    ground = np.ones((MARKER_MODULES + 4, MARKER_MODULES + 4), np.float32)
    ground[2:-2, 2:-2] = ~marker_modules(marker_id)
    fine = np.kron(ground, np.ones((sub, sub), np.float32))
    sigma = max(blur_panel_px * sub / module_px, 0.3)
    return np.asarray(cv2.GaussianBlur(fine, (0, 0), sigma), np.float32)


def align_markers(
    panel: Panel, pattern: Pattern, marker_ids: list[int], pixels: NDArray[np.uint8], registration: Registration,
    blur_px: float,
) -> Registration:
    """Fit again to every marker's own best affine position, two rounds.

    A marker that explains less than half of what is seen at its place (hidden, clipped, misread) is left out.
    """
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    channel = lit_channel(pattern)
    for _ in range(2):
        source, target = [], []
        for marker_id in marker_ids:
            marker = layout[marker_id % PLACES]
            centre = np.array([marker.x + (marker.side_px - 1) / 2, marker.y + (marker.side_px - 1) / 2])
            scale = float(registration.scale_at(centre[None, :])[0])
            sub = int(np.clip(round(marker.module_px * scale / 1.5), 3, 5))
            drawing = _drawing(marker_id, marker.module_px, blur_px / scale, sub)
            inner = drawing[sub:-sub, sub:-sub]
            n = inner.shape[0]
            axis = (np.arange(n) - (n - 1) / 2) * marker.module_px / sub
            gx, gy = np.meshgrid(axis, axis)
            points = np.stack([gx.ravel(), gy.ravel()], axis=1) + centre
            seen, whole = light_at(pixels, channel, registration, points)
            if not whole:
                continue
            step = marker.module_px / sub
            slope_y, slope_x = (np.asarray(g)[sub:-sub, sub:-sub].ravel() / step for g in np.gradient(drawing))
            u, v = gx.ravel() / marker.side_px, gy.ravel() / marker.side_px
            one = np.ones_like(u)
            gain = np.stack([inner.ravel(), one, u, v], axis=1)
            level, *_ = np.linalg.lstsq(gain, seen, rcond=None)
            if abs(level[0]) < 1e-4:
                continue
            basis = np.concatenate([
                gain, np.stack([-slope_x, -slope_x * u, -slope_x * v, -slope_y, -slope_y * u, -slope_y * v], axis=1) * level[0],
            ], axis=1)
            solution, *_ = np.linalg.lstsq(basis, seen, rcond=None)
            left = seen - basis @ solution
            if left.var() > 0.5 * seen.var():
                continue
            ax, bx, cx, ay, by, cy = solution[4:]
            for su, sv in ((-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)):
                corner = centre + np.array([su, sv]) * marker.side_px
                shift = np.array([ax + bx * su + cx * sv, ay + by * su + cy * sv])
                if np.abs(shift).max() > 1.5 * marker.module_px:
                    shift = np.zeros(2)
                source.append(corner)
                target.append(registration.to_photo((corner + shift)[None, :])[0])
        if len(source) < 4 * MIN_MARKERS:
            return registration
        registration = fit(np.array(source), np.array(target), (registration.width, registration.height), 0.2)
    return registration
