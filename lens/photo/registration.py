"""Registration: where each panel pixel is in a photo.

The map is a homography followed by radial distortion about the photo's centre, fitted to marker corners by robust least
squares (Hartley and Zisserman, Multiple View Geometry, 2nd ed., sections 4 and 7.4).
"""

import math
from collections.abc import Callable
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel

Points = NDArray[np.float64]
NODE_PX = 16
DEGENERATE = 1e-12  # of its largest number: a homography whose last one is less is none
MOST_STEPS, SETTLED, ROUGHLY_SETTLED = (
    50,
    1e-9,
    1e-4,
)  # of a fit: the share of its cost by which a step must still lower it
LEAST_DAMPING, LARGEST_DAMPING = 1e-10, 1e8  # the least still tells apart what points that lie together do not


class Registration(NamedTuple):
    """Panel to photo. ``residual_px`` is the RMS of the fit in panel px over ``anchors`` points; ``residuals`` are the place of each marker
    and how far from the fit it is seen, right and down in the photo, all in panel px."""

    homography: Points
    k1: float
    k2: float
    width: int
    height: int
    residual_px: float
    anchors: int
    residuals: tuple[tuple[float, float, float, float], ...] = ()

    def to_photo(self, points: Points) -> Points:
        """(N, 2) panel coordinates to (N, 2) photo coordinates."""
        return _project(self.homography, self.k1, self.k2, self.width, self.height, np.asarray(points, float))

    def scale_at(self, points: Points) -> NDArray[np.float64]:
        """sqrt(|det J|), photo px per panel px, at (N, 2) panel points."""
        p = np.asarray(points, float)
        step = 0.5
        dx = self.to_photo(p + [step, 0]) - self.to_photo(p - [step, 0])
        dy = self.to_photo(p + [0, step]) - self.to_photo(p - [0, step])
        return np.sqrt(np.abs(dx[:, 0] * dy[:, 1] - dx[:, 1] * dy[:, 0]))

    def nodes(self, panel: Panel) -> "Nodes":
        """The photo's coordinates on a lattice over the panel, from which those of every pixel are told."""
        columns, rows = math.ceil(panel.width / NODE_PX) + 2, math.ceil(panel.height / NODE_PX) + 2
        xs = (np.arange(columns) - 0.5) * NODE_PX - 0.5
        ys = (np.arange(rows) - 0.5) * NODE_PX - 0.5
        grid = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
        return Nodes(self.to_photo(grid).reshape(rows, columns, 2), panel.width, panel.height)


class Nodes(NamedTuple):
    """Where every panel pixel is in the photo: exact on a lattice of NODE_PX, bilinear between. ``at`` is (rows, columns, 2); the first
    row and column lie half a cell outside."""

    at: Points
    width: int
    height: int

    def part(self, rows: slice, columns: slice) -> "Nodes":
        """The nodes of some rows and columns of the panel, of which the first are a cell's first."""
        down, across = (slice(some.start // NODE_PX, math.ceil(some.stop / NODE_PX) + 2) for some in (rows, columns))
        return Nodes(self.at[down, across], columns.stop - columns.start, rows.stop - rows.start)

    @property
    def bounds(self) -> tuple[Points, Points]:
        """The least and the greatest x and y."""
        flat = self.at.reshape(-1, 2)
        return flat.min(axis=0), flat.max(axis=0)

    def of_blocks(self, block_px: int) -> Points:
        """(2, h, w) photo coordinates, x and y, of the centres of blocks of so many pixels a side, a part of NODE_PX."""
        cells = NODE_PX // block_px
        full = cv2.resize(self.at, (self.at.shape[1] * cells, self.at.shape[0] * cells), interpolation=cv2.INTER_LINEAR)
        own = full[cells : cells + math.ceil(self.height / block_px), cells : cells + math.ceil(self.width / block_px)]
        return np.ascontiguousarray(np.moveaxis(own, -1, 0), float)

    def dense(self, left: float = 0.0, top: float = 0.0, scale: int = 1) -> NDArray[np.float32]:
        """(scale * height, scale * width, 2) photo coordinates of every pixel, from a point of the photo on; each pixel in ``scale`` parts a side."""
        nodes, cell = (self.at - [left, top]).astype(np.float32), scale * NODE_PX
        full = cv2.resize(nodes, (nodes.shape[1] * cell, nodes.shape[0] * cell), interpolation=cv2.INTER_LINEAR)
        return np.asarray(full[cell : cell + scale * self.height, cell : cell + scale * self.width], np.float32)


def _unscaled(start: Points | None, unit: Points, photo_points: Points) -> Points:
    """A homography with 1 as its last number. Points on a line fix none: then a plain scale and shift to begin with."""
    if start is not None and np.isfinite(start).all() and abs(start[2, 2]) > DEGENERATE * np.abs(start).max():
        return np.asarray(start / start[2, 2], float)
    scale = max(float(np.ptp(photo_points, axis=0).max()), 1.0) / 2
    middle = photo_points.mean(axis=0) - scale * unit.mean(axis=0)
    return np.array([[scale, 0, middle[0]], [0, scale, middle[1]], [0, 0, 1.0]])


def _project(h: Points, k1: float, k2: float, width: int, height: int, points: Points) -> Points:
    # x and y on their own: numpy is several times slower along an axis of two
    x, y, q = h[:, :2] @ points.T + h[:, 2:]
    middle_x, middle_y = (width - 1) / 2, (height - 1) / 2
    x, y = x / q - middle_x, y / q - middle_y
    r2 = (x * x + y * y) / (middle_x**2 + middle_y**2)
    stretch = 1 + (k1 + k2 * r2) * r2
    return np.stack([x * stretch + middle_x, y * stretch + middle_y], axis=-1)


def _slopes(h: Points, k1: float, k2: float, width: int, height: int, points: Points) -> Points:
    """(2 N, 10) change of the projected points, x and y in turn, with the eight free homography numbers, k1 and k2."""
    q = points @ h[:, :2].T + h[:, 2]
    centre = np.array([(width - 1) / 2, (height - 1) / 2])
    flat = q[:, :2] / q[:, 2:]
    ideal = flat - centre
    c2 = centre @ centre
    r2 = (ideal**2).sum(axis=1) / c2
    by_ideal = np.einsum("ni,nj->nij", ideal, ideal) * ((k1 + 2 * k2 * r2) * 2 / c2)[:, None, None]
    by_ideal += (1 + k1 * r2 + k2 * r2 * r2)[:, None, None] * np.eye(2)
    with_one = np.concatenate([points, np.ones((len(points), 1))], axis=1) / q[:, 2:]
    by_h = np.zeros((len(points), 2, 8))
    by_h[:, 0, 0:3] = by_h[:, 1, 3:6] = with_one
    by_h[:, :, 6:8] = -flat[:, :, None] * with_one[:, None, :2]
    by_k = ideal[:, :, None] * np.stack([r2, r2 * r2], axis=1)[:, None, :]
    return np.concatenate([by_ideal @ by_h, by_k], axis=2).reshape(2 * len(points), 10)


def _robust_least_squares(
    residual: Callable[[Points], Points],
    slopes: Callable[[Points], Points],
    begin: Points,
    scale: float,
    settled: float,
) -> Points:
    """The parameters of least cost, the sum of 2 (sqrt(1 + (r / scale)^2) - 1), by Levenberg and Marquardt's steps with weights that
    follow the residuals (Huber 1981); a fit takes half the time that it takes with a general solver."""

    def cost(r: Points) -> float:
        return float((np.sqrt(1 + (r / scale) ** 2) - 1).sum())

    at, left, damping = begin, residual(begin), 1e-4
    least = cost(left)
    for _ in range(MOST_STEPS):
        jacobian, weight = slopes(at), 1 / np.sqrt(1 + (left / scale) ** 2)
        size = np.sqrt((jacobian**2).sum(axis=0)) + 1e-12
        jacobian /= size
        normal, pull = (jacobian.T * weight) @ jacobian, -(jacobian.T * weight) @ left
        before = least
        while damping < LARGEST_DAMPING:
            tried = at + np.linalg.solve(normal + damping * np.diag(np.diag(normal) + 1e-12), pull) / size
            over = residual(tried)
            if cost(over) < least:
                at, left, least, damping = tried, over, cost(over), max(damping / 10, LEAST_DAMPING)
                break
            damping *= 10
        if before - least <= settled * before:
            break
    return at


def fit(
    panel_points: Points,
    photo_points: Points,
    size: tuple[int, int],
    robust_px: float = 0.5,
    most_radial: int = 2,
    settled: float = SETTLED,
) -> Registration:
    """Fit the map to (N, 2) correspondences; ``size`` is the photo's (width, height).

    Radial terms join as the points allow, ``most_radial`` of them at most: k1 from 6 points spread over the panel, k2 from 24. Outliers are
    damped (soft L1).
    """
    width, height = size
    count = len(panel_points)
    # normalised panel units keep the eight homography numbers of one size
    centre, spread = panel_points.mean(axis=0), max(float(np.ptp(panel_points, axis=0).max()) / 2, 1.0)
    normal = np.array([[1 / spread, 0, -centre[0] / spread], [0, 1 / spread, -centre[1] / spread], [0, 0, 1]])
    unit = (panel_points - centre) / spread
    start, _ = cv2.findHomography(unit, photo_points, 0 if count < 8 else cv2.RANSAC, 6.0)
    if start is None:
        start, _ = cv2.findHomography(unit, photo_points, 0)
    start = _unscaled(start, unit, photo_points)
    radial = min(most_radial, 0 if count < 6 else 1 if count < 24 else 2)

    def unpack(p: Points) -> tuple[Points, float, float]:
        return (
            np.append(p[:8], 1.0).reshape(3, 3),
            float(p[8]) if radial > 0 else 0.0,
            float(p[9]) if radial > 1 else 0.0,
        )

    def residual(p: Points) -> Points:
        difference: Points = (_project(*unpack(p), width, height, unit) - photo_points).ravel()
        return difference

    def slopes(p: Points) -> Points:
        return _slopes(*unpack(p), width, height, unit)[:, : len(p)]

    begin = np.concatenate([start.ravel()[:8], np.zeros(radial)])
    if 2 * count > len(begin):
        solved = _robust_least_squares(residual, slopes, begin, robust_px, settled)
    else:
        solved = begin
    h, k1, k2 = unpack(solved)
    found = Registration(h @ normal, k1, k2, width, height, 0.0, count)
    error = found.to_photo(panel_points) - photo_points
    scale = float(found.scale_at(centre[None, :])[0])
    spare = max(1.0, (2 * count - len(begin)) / (2 * count)) if count <= 4 else (2 * count - len(begin)) / (2 * count)
    rms = math.sqrt(float((error**2).sum(axis=1).mean()) / spare) / max(scale, 1e-6)
    return found._replace(residual_px=rms)
