"""Registration by the outline of the lit area, for photos whose markers cannot be read.

The lit area is roughly found by its light, then its border is measured along all four sides to a fraction of a photo pixel, and
the map is fitted to the distances from that border: a homography and one radial term, which the sides' bending tells.
"""

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from lens.panel import Panel
from lens.patterns import Pattern
from lens.photo.blur import Edges
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE, bilinear_light
from lens.photo.markers_seen import brightest_channel, lit_channel, read_in_place
from lens.photo.registration import Registration
from lens.photo.standpoint import USUAL_FOCAL_35MM, axis_lengths

SEARCH_LONG_SIDE_PX = 1000
LIT_SHARE = 0.4  # of the lit area's usual light: below it is not lit
LEAST_AREA = 0.05  # of the photo
OWN_PIECE, LIT_OF_HULL = (
    0.05,
    0.8,
)  # of the largest piece, which a further one must have; of what all lie in, that must be lit
FOUR_SIDED = 0.97  # of the outline that four sides must hold, and the other way round
POSITIONS, REACH_PX, STEP_PX = 120, 14.0, 0.5  # along a side; around it, in photo px
CLEAR_SIDE = 0.6  # of the positions along a side that must show its border
BLUR_REACH_PX, BLUR_SAMPLES, GROUP = 8.0, 33, 20
ROBUST_PX, LARGEST_RESIDUAL_PX = 0.3, 1.0  # panel px
OWN_SHAPE = 0.01  # by which width to height may differ from the panel's: more is another panel, or a part of one
FOCAL_SHARES = (0.85, 1.15)  # how far the focal length may be from what the file says
Points = NDArray[np.float64]


class Outlined(NamedTuple):
    """What the lit area's border tells: the map, the numbers of the markers that can be read with it, and samples across the border."""

    registration: Registration
    marker_ids: list[int]
    edges: Edges


def lit_corners(pixels: NDArray[np.uint8]) -> Points | None:
    """(4, 2) rough corners of the one lit area, clockwise from the photo's top left; None where there is no four-sided one."""
    factor = min(1.0, SEARCH_LONG_SIDE_PX / max(pixels.shape[:2]))
    small = np.asarray(cv2.resize(pixels, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
    light = (LINEAR_OF_CODE[brightest_channel(small)] / FULL_SCALE).astype(np.float32)
    split, _ = cv2.threshold(np.asarray(np.round(255 * np.sqrt(light)), np.uint8), 0, 255, cv2.THRESH_OTSU)
    inner = light[light > (split / 255) ** 2]
    if inner.size < LEAST_AREA * light.size:
        return None
    lit = (light > LIT_SHARE * float(np.median(inner))).astype(np.uint8)
    # markers and dead parts are holes, dead bands part the lit area
    closed = cv2.morphologyEx(lit, cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
    outlines, _ = cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    largest = max((cv2.contourArea(piece) for piece in outlines), default=0.0)
    pieces = [piece for piece in outlines if cv2.contourArea(piece) > OWN_PIECE * largest]
    covered = sum(cv2.contourArea(piece) for piece in pieces)
    if covered < LEAST_AREA * light.size:
        return None
    hull = cv2.convexHull(np.concatenate(pieces))
    quad = np.asarray(cv2.approxPolyN(hull, 4), float).reshape(-1, 2)
    both = cv2.contourArea(hull) / max(cv2.contourArea(quad.astype(np.float32)), 1.0)
    if len(quad) != 4 or not FOUR_SIDED < both < 1 / FOUR_SIDED or covered < LIT_OF_HULL * cv2.contourArea(hull):
        return None
    middle = quad.mean(axis=0)
    clockwise = quad[np.argsort(np.arctan2(*(quad - middle).T[::-1]))]
    start = int(np.argmin((clockwise - middle).sum(axis=1)))
    return (np.roll(clockwise, -start, axis=0) + 0.5) / factor - 0.5


def _border(pixels: NDArray[np.uint8], channel: int, begin: Points, end: Points) -> tuple[Points, Points] | None:
    """Points of one side of the lit area in the photo, where the light falls to half, and their normals to the outside."""
    along = end - begin
    length = float(np.hypot(*along))
    normal = np.array([along[1], -along[0]]) / length
    share = np.linspace(0.03, 0.97, POSITIONS)
    reach = np.arange(-REACH_PX, REACH_PX + STEP_PX, STEP_PX)
    at = begin + share[:, None] * along
    for _ in range(2):
        # a bent side strays from the straight one: the second look follows what the first has found
        x, y = (at[:, None, i] + reach * normal[i] for i in (0, 1))
        height, width = pixels.shape[:2]
        whole = ((x > 1) & (y > 1) & (x < width - 3) & (y < height - 3)).all(axis=1)
        if whole.mean() < CLEAR_SIDE:
            return None
        light = bilinear_light(pixels, channel, x[whole], y[whole])
        quarter = len(reach) // 4
        inside, outside = np.median(light[:, :quarter], axis=1), np.median(light[:, -quarter:], axis=1)
        over = light > ((inside + outside) / 2)[:, None]
        last = len(reach) - 1 - np.argmax(over[:, ::-1], axis=1)
        clear = (inside > 2 * outside + 0.01) & over[:, 0] & (last < len(reach) - 1)
        if clear.sum() < CLEAR_SIDE * POSITIONS:
            return None
        rows, last = np.flatnonzero(clear), last[clear]
        high, low, half = light[rows, last], light[rows, last + 1], ((inside + outside) / 2)[clear]
        off = reach[last] + STEP_PX * (high - half) / np.maximum(high - low, 1e-9)
        found, places = at[whole][clear] + off[:, None] * normal, share[whole][clear]
        curve = np.polynomial.Polynomial.fit(places, off, 2)
        at = at + curve(share)[:, None] * normal
    return found, np.broadcast_to(normal, found.shape)


def _to_panel(p: Points, width: int, height: int, points: Points) -> Points:
    """(N, 2) places on a panel of unit size, from -1 to 1, of photo points: the lens's bending undone, then a homography."""
    centre = np.array([(width - 1) / 2, (height - 1) / 2])
    seen = points - centre
    ideal = seen
    for _ in range(6):
        ideal = seen / (1 + p[8] * (ideal**2).sum(axis=1, keepdims=True) / (centre @ centre))
    q = np.column_stack([ideal / np.hypot(*centre), np.ones(len(ideal))]) @ np.append(p[:8], 1.0).reshape(3, 3).T
    return np.asarray(q[:, :2] / q[:, 2:], float)


def find_outline(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], focal_35mm: float | None = None
) -> Outlined | None:
    """Register a photo of a lit pattern by the border of what is lit, None where no whole lit area of the panel's shape is seen.

    A border does not tell which way up a panel is. A single marker that can be read in place does; without one the photo is taken as
    held upright. Good to about half a panel px where all four sides are sharp; a mirrored photo cannot be told.

    pixels : (h, w, 3) uint8, B, G, R, upright
    focal_35mm : as in ``standpoint``; the panel's shape is checked with it
    """
    if not pattern.outlined:
        return None
    quad = lit_corners(pixels)
    if quad is None:
        return None
    sides = [_border(pixels, lit_channel(pattern), quad[n], quad[(n + 1) % 4]) for n in range(4)]
    if any(side is None for side in sides):
        return None
    border, normals = (np.concatenate([side[n] for side in sides if side is not None]) for n in (0, 1))
    counts = [len(side[0]) for side in sides if side is not None]
    size = (pixels.shape[1], pixels.shape[0])
    upright = _fit(panel, quad, border, counts, size)
    told = [
        (read_in_place(panel, pattern, pixels, turned, inverted=False), turned) for turned in _turned(panel, upright)
    ]
    likely = [(ids, -n, turned) for n, (ids, turned) in enumerate(told) if _has_own_shape(turned, focal_35mm)]
    if not likely or upright.residual_px > LARGEST_RESIDUAL_PX:
        return None
    ids, _, registration = max(likely, key=lambda one: (len(one[0]), one[1]))
    return Outlined(registration, ids, _across(border, normals, size))


def _across(border: Points, normals: Points, size: tuple[int, int]) -> Edges:
    """Samples across the border, its points in groups, for the measurement of blur."""
    reach = np.linspace(-BLUR_REACH_PX, BLUR_REACH_PX, BLUR_SAMPLES)
    at = border[:, None] + reach[:, None] * normals[:, None]
    whole = ((at >= 1) & (at < np.array(size) - 2)).all(axis=(1, 2))
    at = at[whole][: np.count_nonzero(whole) // GROUP * GROUP]
    x, y = (at[..., n].reshape(-1, GROUP * BLUR_SAMPLES) for n in (0, 1))
    return Edges(x, y, np.broadcast_to(-np.tile(reach, GROUP), x.shape), np.zeros(len(x), int))


def _fit(panel: Panel, quad: Points, border: Points, counts: list[int], size: tuple[int, int]) -> Registration:
    """The map whose panel border runs through the points, told side by side: top, right, bottom, left."""
    width, height = size
    centre, radius = np.array([(width - 1) / 2, (height - 1) / 2]), math.hypot(width - 1, height - 1) / 2
    square = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], np.float32)
    begin, _ = cv2.findHomography((quad - centre) / radius, square, 0)
    ends = np.cumsum(counts)[:-1]
    half = np.array([panel.width, panel.height]) / 2

    def residual(p: Points) -> Points:
        top, right, bottom, left = np.split(_to_panel(p, width, height, border), ends)
        return np.concatenate(
            [
                (top[:, 1] + 1) * half[1],
                (right[:, 0] - 1) * half[0],
                (bottom[:, 1] - 1) * half[1],
                (left[:, 0] + 1) * half[0],
            ]
        )

    solved = least_squares(
        residual, np.append(begin.ravel()[:8] / begin[2, 2], 0.0), loss="soft_l1", f_scale=ROBUST_PX, x_scale="jac"
    )
    to_unit = np.append(solved.x[:8], 1.0).reshape(3, 3) @ np.array(
        [[1 / radius, 0, -centre[0] / radius], [0, 1 / radius, -centre[1] / radius], [0, 0, 1]]
    )
    to_panel = np.array([[half[0], 0, half[0] - 0.5], [0, half[1], half[1] - 0.5], [0, 0, 1]]) @ to_unit
    homography = np.linalg.inv(to_panel)
    rms = math.sqrt(float(np.mean(np.minimum(residual(solved.x) ** 2, 1.0))))
    return Registration(homography / homography[2, 2], float(solved.x[8]), 0.0, width, height, rms, 4)


def _turned(panel: Panel, upright: Registration) -> list[Registration]:
    """The same border with the panel as it is held, then turned by half, by a quarter either way."""
    w, h = panel.width, panel.height
    unit = np.array([[w / 2, 0, w / 2 - 0.5], [0, h / 2, h / 2 - 0.5], [0, 0, 1]])
    turns = [np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]]) for c, s in ((1, 0), (-1, 0), (0, 1), (0, -1))]
    return [upright._replace(homography=upright.homography @ unit @ turn @ np.linalg.inv(unit)) for turn in turns]


def _has_own_shape(registration: Registration, focal_35mm: float | None) -> bool:
    """Whether what is seen is as wide for its height as the panel: a plane's two axes look equally long to a known lens (Zhang 2000).

    Seen straight the lens does not matter; the further from the side, the more its unsure focal length is allowed for."""
    focal = focal_35mm or USUAL_FOCAL_35MM
    lengths = [axis_lengths(registration, focal * share) for share in (1.0, *FOCAL_SHARES)]
    ratio, *others = (math.log(across / down) for across, down in lengths)
    return abs(ratio) < OWN_SHAPE + max(abs(other - ratio) for other in others)
