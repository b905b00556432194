"""What stands where in a simulated shot: the camera, its place, what lies on the glass and what the glass mirrors."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.records.base import Record

FILM_DIAGONAL_MM = 43.27


class Camera(Record):
    """What the camera does to light. Levels are shares of full scale; ``contrast`` bends the tone curve, sRGB at 0, to an S that is
    steeper by that share in its middle; the shutter rolls, ``row_time_us`` from one row of the sensor to the next. ``specks`` on lens or sensor
    are soft spots: x, y and sigma in photo px, share of the light that each takes."""

    width: int = 4000
    height: int = 3000
    blur_px: float = 0.8
    barrel: float = 0.0
    vignetting: float = 0.25
    white_level: float = 0.72
    full_well_e: float = 6000.0
    read_noise_e: float = 3.0
    sharpening: float = 0.3
    contrast: float = 0.0
    exposure_s: float = 1 / 60
    row_time_us: float = 10.0
    f_number: float = 1.8
    iso: int = 50
    focal_length_35mm: float = 26.0
    jpeg_quality: int = 92
    orientation: int = 1
    hot_pixels: tuple[tuple[int, int], ...] = ()
    specks: tuple[tuple[float, float, float, float], ...] = ()

    @property
    def focal_length_px(self) -> float:
        """From the equivalent on film of 36 x 24 mm, diagonal by diagonal (CIPA DCG-001, from memory)."""
        return self.focal_length_35mm / FILM_DIAGONAL_MM * math.hypot(self.width, self.height)


class Dimming(Record):
    """A backlight dimmed by pulses: how often a second, and the share of the time that it is lit; ``depth`` of it goes out."""

    hz: float
    duty: float = 0.5
    depth: float = 1.0

    def light(self, opened_s: NDArray[np.float64], open_s: float) -> NDArray[np.float64]:
        """Mean light, 1 on average, in the time that a row of the sensor is open."""
        turns = np.stack([opened_s, opened_s + open_s]) * self.hz
        lit = np.floor(turns) * self.duty + np.minimum(turns - np.floor(turns), self.duty)
        return np.asarray(1 - self.depth + self.depth * (lit[1] - lit[0]) / (open_s * self.hz * self.duty), float)

    def contrast(self, open_s: float) -> float:
        """Michelson's contrast of the bars in a photo: none where a row is open for whole periods."""
        light = self.light(np.linspace(0, 1 / self.hz, 1000), open_s)
        return float((light.max() - light.min()) / (light.max() + light.min()))


class Pose(Record):
    """Outer corners of the active area in the upright photo: top-left, top-right, bottom-right, bottom-left; and where the camera
    stood, in panel px from the panel's top-left pixel and above it (None: too far away for the glass's thickness to show)."""

    corners: tuple[tuple[float, float], ...]
    eye: tuple[float, float, float] | None = None


class Reflection(Record):
    """Something bright that the glass mirrors: a soft spot in the photo, ``level`` in shares of full white's light. Places and
    sizes are shares of the frame's width."""

    x: float
    y: float
    size_x: float
    size_y: float
    level: float


class Glass(NamedTuple):
    """What stands between pixels and camera: (H, W) float32 share of light that gets ``through`` the glass to a camera straight
    above, how far it lies ``above_px`` the pixels, in panel px, refraction counted in (thickness / refractive index / pitch), and the
    share of light that the cells lose at 45 degrees."""

    through: NDArray[np.float32]
    above_px: float
    view_loss: float


class Shot(Record):
    """A photo and its truth: ``data`` is the JPEG, corners are after the EXIF orientation and the lens."""

    data: bytes
    corners: tuple[tuple[float, float], ...]
