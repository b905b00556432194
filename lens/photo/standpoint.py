"""Where the camera stood, from the registration: what lies on the glass shifts against the pixels with it."""

import numpy as np
from numpy.typing import NDArray

from lens.photo.registration import Registration

# Phones' main cameras see as wide as a 26 mm lens on film of 36 x 24 mm (common practice); used where the file does not say.
USUAL_FOCAL_35MM, FILM_DIAGONAL_MM = 26.0, 43.27


def standpoint(registration: Registration, focal_35mm: float | None = None) -> NDArray[np.float64]:
    """(3,) the camera's place in panel px: x right, y down from pixel 0,0, and its distance in front of the panel.

    The homography of a plane is the camera's rotation and place (Zhang 2000), the focal length being known: ``focal_35mm`` is that of
    the lens that would see as wide on film of 36 x 24 mm; the principal point is taken as the photo's centre.
    """
    columns = _columns(registration, focal_35mm)
    columns = columns / ((np.linalg.norm(columns[:, 0]) + np.linalg.norm(columns[:, 1])) / 2)
    columns = columns if columns[2, 2] > 0 else -columns
    axes = np.stack([columns[:, 0], columns[:, 1], np.cross(columns[:, 0], columns[:, 1])], axis=1)
    left, _, right = np.linalg.svd(axes)
    eye = -(left @ right).T @ columns[:, 2]
    return np.array([eye[0], eye[1], -eye[2]])


def axis_lengths(registration: Registration, focal_35mm: float | None = None) -> tuple[float, float]:
    """How long a panel px looks across and down to that lens, in one unit: alike when the panel's width and height are right."""
    across, down, _ = np.linalg.norm(_columns(registration, focal_35mm), axis=0)
    return float(across), float(down)


def _columns(registration: Registration, focal_35mm: float | None) -> NDArray[np.float64]:
    """The homography seen by a lens of unit focal length."""
    diagonal_px = float(np.hypot(registration.width, registration.height))
    focal_px = (focal_35mm or USUAL_FOCAL_35MM) / FILM_DIAGONAL_MM * diagonal_px
    inside_out = np.array(
        [
            [1 / focal_px, 0, -(registration.width - 1) / 2 / focal_px],
            [0, 1 / focal_px, -(registration.height - 1) / 2 / focal_px],
            [0, 0, 1],
        ]
    )
    return np.asarray(inside_out @ registration.homography, float)
