"""The panel in a photo of its back: its outline, straightened."""

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
    told = tuple(side for side in sides if side is not None)
    corners = np.array([crossing(told[n - 1], told[n]) for n in range(4)])
    return Frame(corners, barrel, told, rough, tuple(len(one) < COVERED_SHARE * SIDE_SAMPLES for one in points))


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
