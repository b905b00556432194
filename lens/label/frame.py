"""The panel in a photo of its back: its outline, straightened."""

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.label.outline import (
    SIDE_SAMPLES,
    SMALL_PX,
    Points,
    Side,
    barrel_of,
    crossing,
    edge_points,
    fit_side,
    lab,
    panel_quad,
    unbarrel,
)

FOCAL_SHARE = 0.77  # of the photo's width: a phone's main camera (26 to 28 mm in 35 mm terms; common practice)
FEWEST_POINTS, COVERED_SHARE = 8, 0.35
LAST_PART = 0.07  # of a side, looked at closely for where it ends: brackets stand out by 1 to 3 % of it
ON_LINE = 0.002  # of a side's length: barrel that is left over takes less
LEAST_GAP = 0.006  # of a side's length, by which it ends short of the next one: the rounding of corners is less
BRACKET_LEFT_OUT, BRACKET_ENDS = (
    0.4,
    0.004,
)  # of the gap: the search goes out by twice that, short of the bracket's edge


class Frame(NamedTuple):
    """The panel in the photo: corners without barrel, clockwise from the photo's top left; ``covered``: sides of which a bracket hides the most."""

    corners: Points
    barrel: float
    sides: tuple[Side, ...]
    rough: Points
    covered: tuple[bool, ...]


def find_frame(pixels: NDArray[np.uint8], picture: NDArray[np.float32]) -> Frame | None:
    """The panel's outline, or None where all of it is not in the photo."""
    factor = SMALL_PX / max(pixels.shape)
    small = np.asarray(cv2.resize(pixels, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
    rough = panel_quad(lab(small))
    if rough is None:
        return None
    rough = rough / factor
    reach = 0.045 * float(np.linalg.norm(rough[1] - rough[0]))
    points = [edge_points(picture, rough[n], rough[(n + 1) % 4], reach) for n in range(4)]
    if any(len(one) < FEWEST_POINTS for one in points):
        return None
    barrel = barrel_of(points, pixels.shape)
    sides = [fit_side(unbarrel(one, barrel, pixels.shape)) for one in points]
    if any(side is None for side in sides):
        return None
    told = [side for side in sides if side is not None]
    covered = [len(one) < COVERED_SHARE * SIDE_SAMPLES for one in points]
    for n in range(4):
        own = _behind_bracket(picture, _corners(told), n)
        if own is None:
            continue
        side = fit_side(unbarrel(own, barrel, pixels.shape))
        if side is not None:
            told[n], covered[n] = side, True
    return Frame(_corners(told), barrel, tuple(told), rough, tuple(covered))


def _corners(sides: Sequence[Side]) -> Points:
    return np.array([crossing(sides[n - 1], sides[n]) for n in range(4)])


def _behind_bracket(picture: NDArray[np.float32], corners: Points, n: int) -> Points | None:
    """Points of the panel's own edge where side ``n`` was fitted to a bracket beside it: both neighbours of the side end short of it then, and
    the edge is seen where the bracket does not reach. None where the side is the panel's."""
    start, end, before, after = corners[n], corners[(n + 1) % 4], corners[n - 1], corners[(n + 2) % 4]
    first, last = _end_of(picture, before, start), _end_of(picture, after, end, back=True)
    if first is None or last is None:
        return None
    gaps = [float(np.linalg.norm(one - corner)) for one, corner in ((first, start), (last, end))]
    lengths = [float(np.linalg.norm(corner - far)) for corner, far in ((start, before), (end, after))]
    if min(gap / length for gap, length in zip(gaps, lengths, strict=True)) < LEAST_GAP or max(gaps) > 2 * min(gaps):
        return None
    # not as far out as the bracket's own edge
    own = edge_points(picture, first, last, min(gaps) * BRACKET_LEFT_OUT, BRACKET_ENDS)
    return own if len(own) >= FEWEST_POINTS else None


def _end_of(picture: NDArray[np.float32], far: Points, corner: Points, back: bool = False) -> Points | None:
    """The last point of an edge that runs from ``far`` to ``corner``; ``back``: the side runs from the corner away, clockwise."""
    near = corner + LAST_PART * (far - corner)
    reach = 0.25 * float(np.linalg.norm(near - corner))
    told = edge_points(picture, corner, near, reach, 0.0) if back else edge_points(picture, near, corner, reach, 0.0)
    way = (corner - far) / float(np.linalg.norm(corner - far))
    # an ear or a board beside the end has an edge too, but not on this line
    off = np.abs((told - corner) @ np.array([-way[1], way[0]]))
    told = told[off < ON_LINE * float(np.linalg.norm(corner - far))]
    if not len(told):
        return None
    return np.asarray(told[int(np.argmin(np.linalg.norm(told - corner, axis=1)))], float)


def homography(frame: Frame) -> NDArray[np.float64]:
    """From photo without barrel to the panel as the unit square."""
    unit = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    return cv2.getPerspectiveTransform(frame.corners.astype(np.float32), unit).astype(np.float64)


def aspect_of(frame: Frame, shape: tuple[int, ...]) -> float:
    """Width over height of the panel by its perspective, for a usual lens (Zhang and He 2007, whiteboards)."""
    back = np.linalg.inv(homography(frame))
    focal = FOCAL_SHARE * max(shape[:2])
    k = np.array([[focal, 0, shape[1] / 2], [0, focal, shape[0] / 2], [0, 0, 1.0]])
    ways = np.linalg.solve(k, back)
    return float(np.linalg.norm(ways[:, 0]) / np.linalg.norm(ways[:, 1]))
