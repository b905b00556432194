"""Straight outlines in a photo: the panel against the desk, the card on the panel, the lens's barrel from their straightness."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize_scalar

SMALL_PX = 900  # larger side of the picture in which things are found first
SIDE_SAMPLES = 240
LEAST_SUPPORT = 0.03  # share of a side's samples that a level needs to count as the edge
MOST_BARREL = 0.03
INLIER_PX = 2.5
DEEPEST_SHARE = 0.55  # of the reach: brackets stand out by less than 8 mm (common practice)
OUTSIDE_SHARE = 0.3  # of a profile across an edge that is ground for certain
LEVEL_OVER_GROUND = 1.8  # what is not ground differs by so much more than the ground differs from itself
Points = NDArray[np.float64]


class Side(NamedTuple):
    """A line a x + b y = c through undistorted points, with the scatter of its points."""

    a: float
    b: float
    c: float
    scatter_px: float
    points: int


def lab(pixels: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(h, w, 3) CIELAB of a B, G, R picture."""
    return np.asarray(cv2.cvtColor(pixels.astype(np.float32) / 255, cv2.COLOR_BGR2LAB), np.float32)


def panel_quad(small: NDArray[np.float32]) -> Points | None:
    """(4, 2) rough corners of the panel in a small CIELAB picture, or None where it does not stand out or is cut off."""
    height, width, _ = small.shape
    ring = max(4, int(0.025 * width))
    edge = np.concatenate(
        [
            small[:ring].reshape(-1, 3),
            small[-ring:].reshape(-1, 3),
            small[:, :ring].reshape(-1, 3),
            small[:, -ring:].reshape(-1, 3),
        ]
    )
    desk = np.median(edge, axis=0)
    spread = 1.4826 * np.median(np.abs(edge - desk), axis=0) + np.array([2.0, 1.0, 1.0])
    away = np.sqrt((((cv2.GaussianBlur(small, (0, 0), 2.0) - desk) / spread) ** 2).sum(axis=2))
    mask = (away > max(3.5, float(_otsu(np.minimum(away, 12))) * 0.6)).astype(np.uint8)
    mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
    thick = int(0.05 * width) | 1
    mask = cv2.morphologyEx(
        cv2.copyMakeBorder(mask, 1, 1, 1, 1, cv2.BORDER_CONSTANT), cv2.MORPH_OPEN, np.ones((thick, thick), np.uint8)
    )[1:-1, 1:-1]
    shapes, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not shapes:
        return None
    shape = max(shapes, key=cv2.contourArea)
    if cv2.contourArea(shape) < 0.12 * height * width:
        return None
    points = shape[:, 0, :]
    touching = (
        (points[:, 0] < 3) | (points[:, 0] > width - 4) | (points[:, 1] < 3) | (points[:, 1] > height - 4)
    ).mean()
    return None if touching > 0.02 else _four_corners(shape)


def _otsu(values: NDArray[np.float32]) -> float:
    top = float(values.max()) or 1.0
    level, _ = cv2.threshold((values * (255 / top)).astype(np.uint8), 0, 255, cv2.THRESH_OTSU)
    return float(level) * top / 255


def _four_corners(shape: NDArray[np.int32]) -> Points | None:
    """The four corners of a roughly four-sided shape, clockwise from the top left of the photo."""
    hull = cv2.convexHull(shape)
    around = cv2.arcLength(hull, True)
    for share in (0.01, 0.02, 0.03, 0.05, 0.08):
        found = cv2.approxPolyDP(hull, share * around, True)[:, 0, :].astype(float)
        if len(found) == 4:
            return ordered(found)
    return None


def ordered(corners: Points) -> Points:
    """Clockwise as seen in the photo, beginning at the corner nearest to the top left."""
    middle = corners.mean(axis=0)
    turn = np.argsort(np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0]))
    told = corners[turn]
    return np.roll(told, -int((told.sum(axis=1)).argmin()), axis=0)


def edge_points(
    picture: NDArray[np.float32], start: Points, end: Points, reach_px: float, ends: float = 0.008
) -> Points:
    """Points where the ground outside of a side ends, looking inwards from outside along its normal.

    Parameters
    ----------
    start, end : the side's rough ends, clockwise: inside is to the right of the way from start to end
    reach_px : so far inside, and twice as far outside, it is looked for: a dark board on a dark desk is easily taken for desk
    ends : share of the side left out at each end
    """
    way = end - start
    inward = np.array([-way[1], way[0]]) / np.hypot(*way)
    at = start + np.linspace(ends, 1 - ends, SIDE_SAMPLES)[:, None] * way
    offsets = np.arange(-2 * reach_px, reach_px + 1)
    places = at[:, None, :] + offsets[None, :, None] * inward
    profile = cv2.remap(
        picture,
        places[..., 0].astype(np.float32),
        places[..., 1].astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    outside = max(5, int(OUTSIDE_SHARE * len(offsets)))
    ground = np.median(profile[:, :outside], axis=1, keepdims=True)
    away = np.sqrt(((profile - ground) ** 2).sum(axis=2))
    level = max(LEVEL_OVER_GROUND * float(np.percentile(away[:, :outside], 93)), 5.0)
    over = away > level
    held = over & np.roll(over, -1, axis=1) & np.roll(over, -2, axis=1)
    first = held.argmax(axis=1)
    fits = held.any(axis=1) & (first > 8) & (first < len(offsets) - 9)
    told = []
    for n in np.flatnonzero(fits):
        # the highest mean of three: a rim may be a few pixels wide only
        plateau = float(np.convolve(away[n, first[n] : first[n] + 9], np.full(3, 1 / 3), "valid").max())
        row = away[n, first[n] - 6 : first[n] + 6]
        above = np.flatnonzero(row >= plateau / 2)
        if not len(above) or above[0] == 0:
            continue
        k = int(above[0])
        share = (plateau / 2 - row[k - 1]) / max(row[k] - row[k - 1], 1e-6)
        told.append((n, offsets[first[n] - 6 + k - 1] + share))
    if len(told) < 8:
        return np.empty((0, 2))
    index, depth = np.array([n for n, _ in told]), np.array([d for _, d in told])
    keep = _innermost(index.astype(float), depth, DEEPEST_SHARE * reach_px)
    return np.asarray(at[index[keep]] + depth[keep, None] * inward)


def _innermost(index: NDArray[np.float64], depth: NDArray[np.float64], deepest_px: float) -> NDArray[np.bool_]:
    """The samples of the level farthest in that has support: brackets and tabs stand out from the edge, nothing stands in.

    ``deepest_px``: so far inside of most samples at the most. Levels run along the line that most samples lie on
    (found by trying pairs of them, as RANSAC does, but all pairs of a fixed stride).
    """
    one, other = np.meshgrid(np.arange(0, len(index), 5), np.arange(0, len(index), 5))
    apart = index[other] - index[one]
    pairs = apart > SIDE_SAMPLES / 4
    if not pairs.any():
        return np.ones(len(index), bool)
    slope = (depth[other] - depth[one])[pairs] / apart[pairs]
    start = depth[one][pairs] - slope * index[one][pairs]
    near = np.abs(depth[None, :] - start[:, None] - slope[:, None] * index[None, :]) < INLIER_PX
    best = int(near.sum(axis=1).argmax())
    level = depth - start[best] - slope[best] * index
    counts, edges = np.histogram(level, np.arange(level.min() - 3, level.max() + 9, 3.0))
    wide = np.convolve(counts, np.ones(3), "same")
    enough = np.flatnonzero((wide >= max(8, LEAST_SUPPORT * SIDE_SAMPLES)) & (edges[:-1] < deepest_px))
    middle = 0.0
    if len(enough):
        last = int(enough[-1])
        while last > 0 and wide[last - 1] > wide[last]:
            last -= 1
        middle = float(edges[last]) + 1.5
    return np.abs(level - middle) < 8


def unbarrel(points: Points, barrel: float, shape: tuple[int, ...]) -> Points:
    """Points with the lens's barrel taken out; radius 1 is the photo's half diagonal."""
    middle = np.array([shape[1] / 2, shape[0] / 2])
    radius = np.hypot(*middle)
    off = (points - middle) / radius
    return np.asarray(middle + off * (1 + barrel * (off**2).sum(axis=1, keepdims=True)) * radius)


def barrel_of(sides: list[Points], shape: tuple[int, ...]) -> float:
    """The barrel with which long straight sides are straightest (plumb-line method, Brown 1971)."""

    def bent(barrel: float) -> float:
        total = 0.0
        for points in sides:
            side = fit_side(unbarrel(points, barrel, shape))
            total += side.scatter_px**2 * side.points if side else 0.0
        return total

    return float(minimize_scalar(bent, bounds=(-MOST_BARREL, MOST_BARREL), method="bounded").x)


def fit_side(points: Points) -> Side | None:
    """A line through points by least squares, outliers left out in three rounds; None with too few."""
    kept = points
    for _ in range(3):
        if len(kept) < 8:
            return None
        middle = kept.mean(axis=0)
        _, _, axes = np.linalg.svd(kept - middle, full_matrices=False)
        a, b = axes[1]
        off = (points - middle) @ axes[1]
        scale = max(INLIER_PX / 2, 1.4826 * float(np.median(np.abs((kept - middle) @ axes[1]))))
        kept = points[np.abs(off) < 2.5 * scale]
    if len(kept) < 8:
        return None
    rest = kept @ np.array([a, b]) - middle @ np.array([a, b])
    return Side(float(a), float(b), float(middle @ np.array([a, b])), float(rest.std()), len(kept))


def crossing(one: Side, other: Side) -> Points:
    """Where two sides meet."""
    return np.linalg.solve(np.array([[one.a, one.b], [other.a, other.b]]), np.array([one.c, other.c]))
