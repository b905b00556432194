"""Finding the coded markers in a photo, and a first fit of the registration to them.

Markers are sought on reduced copies first (cheap), their corners refined at full size, and wrong readings thrown out by
geometry.
"""

import math
from collections.abc import Sequence
from functools import cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import MARKER_MODULES, Marker, Pattern, Reading, get_pattern, marker_layout, read_symbols
from lens.patterns.markers import PLACES, RUN_BASE, detector_dictionary, marker_modules
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE, bilinear_light, inside
from lens.photo.registration import ROUGHLY_SETTLED, Registration, fit

SEARCH_LONG_SIDES_PX = (1600, 3000, 800)
ALL_WINDOWS_PX, ONE_WINDOW_PX = (9, 39), (21, 21)  # the latter reads most in a third of the time
ENOUGH_MARKERS = 8
MIN_MARKERS = 3
TOP_PERCENTILE = 99.95  # small markers fill a five-hundredth of the photo
DARKEST_TOP = 24.0  # code of the brightest light that is still blown up to full contrast
LOCAL_SHARE, LEAST_SPREAD = 40, 1.5  # of the long side; in codes: less is the coder's
GROW_MODULES, ROUGH_PX = 3.0, 2.0
MOST_WRONG = 2  # modules of a marker's 49 that may be read wrongly


class Sighting(NamedTuple):
    """Markers read in a photo: id to (4, 2) corners in photo px. ``inverted`` when they shine on black; ``repeats`` are further
    places of markers that stand in it more than once."""

    corners: dict[int, NDArray[np.float64]]
    inverted: bool
    repeats: tuple[tuple[int, NDArray[np.float64]], ...] = ()


def brightest_channel(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w) uint8, the largest of the three channels: markers stand out on every colour alike."""
    blue, green, red = cv2.split(pixels)
    return np.asarray(cv2.max(cv2.max(blue, green), red), np.uint8)


def luma(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w) uint8 luma, several times cheaper than the brightest channel; blue patterns are dim in it, but mostly seen."""
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGR2GRAY), np.uint8)


def local_contrast(light: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w) uint8 with the surroundings' light and contrast made even: a picture that only a torch shows has little of either."""
    size = (max(light.shape) // LOCAL_SHARE) | 1
    seen = light.astype(np.float32)
    mean = cv2.boxFilter(seen, -1, (size, size))
    spread = np.sqrt(np.maximum(cv2.sqrBoxFilter(seen, cv2.CV_32F, (size, size)) - mean * mean, 0))
    return np.asarray(np.clip(128 + 64 * (seen - mean) / np.maximum(spread, LEAST_SPREAD), 0, 255), np.uint8)


def _detector(windows_px: tuple[int, int]) -> cv2.aruco.ArucoDetector:
    p = cv2.aruco.DetectorParameters()
    p.adaptiveThreshWinSizeMin, p.adaptiveThreshWinSizeMax = windows_px
    p.adaptiveThreshWinSizeStep = 15
    p.minMarkerPerimeterRate, p.maxMarkerPerimeterRate = 0.02, 1.0
    p.polygonalApproxAccuracyRate = 0.06
    p.errorCorrectionRate = 0.5
    p.perspectiveRemovePixelPerCell = (
        8  # markers are small: at the usual 4 samples a module, bits next to an edge are misread
    )
    p.minOtsuStdDev = 3.0
    p.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_NONE
    return cv2.aruco.ArucoDetector(detector_dictionary(), p)


def _detect(
    view: NDArray[np.uint8], inverted: bool, windows_px: tuple[int, int] = ALL_WINDOWS_PX
) -> list[tuple[int, NDArray[np.float64]]]:
    if inverted:
        # in linear light: in code values the light of lit modules would drown the dark ones between them
        linear = LINEAR_OF_CODE / FULL_SCALE
        top = max(float(np.percentile(view[::3, ::3], TOP_PERCENTILE)), DARKEST_TOP)
        table = 255 - np.clip(np.round(220 * linear / linear[int(top)]), 0, 255).astype(np.uint8)
        view = np.asarray(cv2.LUT(view, table), np.uint8)
    corners, ids, _ = _detector(windows_px).detectMarkers(view)
    if ids is None:
        return []
    return [(int(i), np.asarray(c, float).reshape(4, 2)) for i, c in zip(np.ravel(ids), corners, strict=True)]


def find_markers(
    light: NDArray[np.uint8],
    long_sides_px: Sequence[int] = SEARCH_LONG_SIDES_PX,
    inversions: Sequence[bool] = (False, True),
    windows_px: tuple[int, int] = ALL_WINDOWS_PX,
) -> Sighting:
    """Look for markers on copies of several sizes, dark on light (False) and light on dark (True); the richest sighting wins.

    Parameters
    ----------
    light : (h, w) uint8, the brightest channel
    windows_px : smallest and largest surroundings by which a place is called light or dark
    """
    best = Sighting({}, inversions[0])
    long_side = max(light.shape)
    for side in long_sides_px:
        factor = min(1.0, side / long_side)
        view = light
        if factor <= 0.5 and light.shape[0] % 2 == light.shape[1] % 2 == 0:
            # exact halves are several times cheaper than other shares
            view = np.asarray(cv2.resize(view, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.uint8)
        if factor < 1.0:
            size = (round(light.shape[1] * factor), round(light.shape[0] * factor))
            view = np.asarray(cv2.resize(view, size, interpolation=cv2.INTER_AREA), np.uint8)
        for inverted in inversions:
            seen = _detect(view, inverted, windows_px)
            first: dict[int, NDArray[np.float64]] = {}
            repeats = []
            for i, c in seen:
                place = (c + 0.5) / factor - 0.5  # pixel centres sit at integers on both sizes
                if first.setdefault(i, place) is not place:
                    repeats.append((i, place))
            if len(first) > len(best.corners):
                best = Sighting(first, inverted, tuple(repeats))
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
        tolerance = 0.12 * float(
            np.median([math.sqrt(cv2.contourArea(c.astype(np.float32))) for c in sighting.corners.values()])
        )
        found, inliers = cv2.findHomography(source, target, cv2.RANSAC, max(2.5, tolerance))
        if found is None:
            continue
        good = np.asarray(inliers).reshape(-1, 4).sum(axis=1) >= 3
        kept = {i: sighting.corners[i] for i, ok in zip(ids, good, strict=True) if ok}
        if len(kept) > len(best):
            best = kept
        if len(best) == len(ids):
            break
    return best


def read_in_place(
    panel: Panel,
    pattern: Pattern,
    pixels: NDArray[np.uint8],
    registration: Registration,
    inverted: bool,
    channel: int | None = None,
) -> list[int]:
    """Numbers of all markers that can be read where the registration says they stand.

    This finds markers that the search missed; places that are hidden or cut off are left out. ``channel``: 0 B, 1 G, 2 R; by default the one
    that shows the pattern's markers best on most cameras.
    """
    read_in = lit_channel(pattern) if channel is None else channel
    told = _read_near(marker_layout(panel, pattern), pixels, read_in, registration, inverted, np.zeros((1, 2)))
    return [found[0] for found in told if found is not None]


def _read_near(
    markers: Sequence[Marker],
    pixels: NDArray[np.uint8],
    channel: int,
    registration: Registration,
    inverted: bool,
    shifts: NDArray[np.float64],
) -> list[tuple[int, NDArray[np.float64]] | None]:
    """Number of each marker at one of (N, 2) shifts in modules from where it should stand, and that shift."""
    size, corner = (
        np.array([m.module_px for m in markers], float)[:, None],
        np.array([(m.x, m.y) for m in markers], float),
    )
    steps = np.add.outer(np.arange(MARKER_MODULES) + 0.5, [-0.15, 0.15]).ravel()
    inner = np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2)
    modules = (inner[None] + shifts[:, None]).reshape(-1, 2)
    at = registration.to_photo((modules * size[..., None] - 0.5 + corner[:, None]).reshape(-1, 2)).reshape(
        len(markers), -1, 2
    )
    seen = inside(pixels, at)
    told: list[tuple[int, NDArray[np.float64]] | None] = [None] * len(markers)
    if not len(seen):
        return told
    light = bilinear_light(pixels, channel, at[seen, :, 0], at[seen, :, 1])
    cells = light.reshape(len(seen), len(shifts), MARKER_MODULES, 2, MARKER_MODULES, 2).mean(axis=(3, 5))
    low, high = np.percentile(cells, (10, 95), axis=(2, 3), keepdims=True)
    inked = (cells > (low + high) / 2) if inverted else (cells < (low + high) / 2)
    for n, own, contrast in zip(seen, inked, (high - low)[..., 0, 0], strict=True):
        wrong = (_drawings_of_place(markers[n].place)[None] != own[:, None]).sum(axis=(2, 3))
        first, best = np.unravel_index(int(np.argmin(wrong)), wrong.shape)
        if wrong[first, best] <= MOST_WRONG:
            # at the right shift the modules are also the clearest: of equally right ones the clearest is taken
            alike = np.flatnonzero(wrong[:, best] == wrong[first, best])
            told[n] = (markers[n].place + PLACES * int(best), shifts[alike[int(np.argmax(contrast[alike]))]])
    return told


def grow_markers(
    panel: Panel,
    pattern: Pattern,
    pixels: NDArray[np.uint8],
    kept: dict[int, NDArray[np.float64]],
    registration: Registration,
    inverted: bool,
    channel: int,
) -> tuple[list[int], Registration]:
    """From a few markers to all that can be read: the nearest missing one is looked for around its place, the fit follows.

    A fit to a few small markers points ever further astray with the distance, so the others are not where it says; radial terms, which
    grow fastest outside of what they were fitted to, join late.
    """
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    anchors = {i: (np.array(layout[i % PLACES].corners), corners) for i, corners in kept.items()}
    missing = [m for m in layout.values() if m.place not in {i % PLACES for i in kept}]
    reach = np.arange(-GROW_MODULES, GROW_MODULES + 0.25, 0.5)
    shifts = np.stack(np.meshgrid(reach, reach), axis=-1).reshape(-1, 2)
    shifts = shifts[np.argsort(np.abs(shifts).sum(axis=1), kind="stable")]
    size = (registration.width, registration.height)

    def fitted() -> Registration:
        source, target = (np.concatenate([pair[n] for pair in anchors.values()]) for n in (0, 1))
        return fit(source, target, size, ROUGH_PX, most_radial=int(len(anchors) >= ENOUGH_MARKERS))

    registration = fitted()
    while missing:
        known = np.array([corners.mean(axis=0) for corners, _ in anchors.values()])
        marker = min(missing, key=lambda m: float(np.hypot(*(known - np.mean(m.corners, axis=0)).T).min()))
        missing.remove(marker)
        (found,) = _read_near([marker], pixels, channel, registration, inverted, shifts)
        if found is not None:
            corners = np.array(marker.corners)
            anchors[found[0]] = (corners, registration.to_photo(corners + found[1] * marker.module_px))
            registration = fitted()
    return list(anchors), registration


@cache
def _drawings_of_place(place: int) -> NDArray[np.bool_]:
    """(83, 7, 7) bool: the ink of every symbol that may stand at a place."""
    return np.stack([marker_modules(place + PLACES * symbol) for symbol in range(RUN_BASE)])


def read_markers(panel: Panel, marker_ids: list[int]) -> Reading:
    """Pattern and run that the agreeing markers tell."""
    return read_symbols(panel, marker_ids)


def first_fit(
    panel: Panel, pattern: Pattern, kept: dict[int, NDArray[np.float64]], light: NDArray[np.uint8]
) -> Registration:
    """Registration from the markers' outer corners, refined to a fraction of a photo pixel."""
    layout = {m.place: m for m in marker_layout(panel, pattern)}
    source = np.array([layout[i % PLACES].corners for i in kept]).reshape(-1, 2)
    target = np.array(list(kept.values())).reshape(-1, 1, 2).astype(np.float32)
    side = math.sqrt(float(np.median([cv2.contourArea(c.astype(np.float32)) for c in kept.values()])))
    window = int(np.clip(side / MARKER_MODULES * 0.7, 2, 12))
    inside = (
        (target[..., 0] > window + 2)
        & (target[..., 0] < light.shape[1] - window - 3)
        & (target[..., 1] > window + 2)
        & (target[..., 1] < light.shape[0] - window - 3)
    )
    chosen = inside.ravel()
    refined = target.copy()
    if chosen.any():
        some = np.ascontiguousarray(target[chosen])
        criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.01)
        moved = cv2.cornerSubPix(light, some.copy(), (window, window), (-1, -1), criteria)
        jump = np.abs(moved - some).max(axis=(1, 2)) > window
        moved[jump] = some[jump]
        refined[chosen] = moved
    return fit(source, refined.reshape(-1, 2).astype(float), (light.shape[1], light.shape[0]), settled=ROUGHLY_SETTLED)


def lit_channel(pattern: Pattern) -> int:
    """Index in B, G, R of the channel that shows the pattern's markers best, and where they are.

    Green, whose filter has most photosites and whose subpixel is the middle one of its pixel. Under a pale blue it is red: a sensor's green
    photosites see blue light too, the camera's colour matrix takes it off again, and of a green that blue outweighs twenty times little more
    than the errors of that remain, at the place of the blue subpixels (0.17 to 0.30 panel px aside through the phone of `lens.simulate`; by red
    -0.04 to 0.07). Red photosites see hardly any blue.
    """
    red, green, blue = pattern.drive if max(pattern.drive) else pattern.ink
    if green and not (red and blue > max(red, green)):
        return 1
    return 2 if red else 0


def lit_channels(pattern: Pattern) -> list[int]:
    """The channels, of B, G, R, that the pattern lights, that of its markers first."""
    drive = pattern.drive if max(pattern.drive) else pattern.ink
    return sorted((c for c in range(3) if drive[2 - c]), key=lambda c: c != lit_channel(pattern))


def clearest_channel(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, inverted: bool
) -> int:
    """The channel in which the markers of this photo are read: the pattern's own, unless too few can be read in it and more in another, as where
    the camera drove the colour out of its gamut and one channel to nothing."""
    best, most = lit_channel(pattern), -1
    for channel in lit_channels(pattern):
        count = len(read_in_place(panel, pattern, pixels, registration, inverted, channel))
        if count > most:
            best, most = channel, count
        if most >= ENOUGH_MARKERS:
            break
    return best
