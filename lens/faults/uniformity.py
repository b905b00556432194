"""Light at five, nine and thirteen points and colour at nine (VESA FPDM 2.0, ISO 9241-305; from memory), from the light field of all
photos.

What of the lens's fall-off the photos could not tell from the panel's goes into the stated uncertainty.
"""

import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import Field, LightField, block_centres
from lens.panel import Panel
from lens.photo import BLOCK_PX
from lens.records import Colour, Uniformity, UniformityPoint

SHARES = (0.1, 0.5, 0.9)
BETWEEN = (
    0.3,
    0.7,
)  # the four points that make thirteen of nine: half way from the middle to the corners (common practice)
FIVE = (0, 2, 4, 6, 8)  # of the nine: corners and middle
SRGB_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])  # IEC 61966-2-1
WITHIN_90 = 1.645  # standard deviations in half of a two-sided 90 % interval
FORM_UNCERTAINTY = 0.012  # no lens falls off with exactly the square of the radius


def nine_points(panel: Panel) -> NDArray[np.float64]:
    """(9, 2) panel coordinates at 10, 50 and 90 % of width and height, row by row."""
    return np.array([(u * panel.width - 0.5, v * panel.height - 0.5) for v in SHARES for u in SHARES])


def thirteen_points(panel: Panel) -> NDArray[np.float64]:
    """(13, 2) panel coordinates: the nine, then the four between."""
    return np.concatenate(
        [nine_points(panel), [(u * panel.width - 0.5, v * panel.height - 0.5) for v in BETWEEN for u in BETWEEN]]
    )


def disc_means(panel: Panel, field: Field, points: NDArray[np.float64]) -> Field:
    """(n, ...) means of a (h, w, ...) field over a disc of 1/20 of the height at each of (n, 2) points."""
    centres = block_centres(panel, field.shape)
    radius = max(panel.height / 40, float(BLOCK_PX))
    means = []
    for x, y in points:
        rows, columns = (
            slice(max(0, int((at - radius) // BLOCK_PX)), int((at + radius) // BLOCK_PX) + 1) for at in (y, x)
        )
        near = np.hypot(centres[rows, columns, 0] - x, centres[rows, columns, 1] - y) <= radius
        means.append(field[rows, columns][near].mean(axis=0))
    return np.array(means)


def measure_uniformity(panel: Panel, field: LightField | None) -> tuple[Uniformity | None, Colour | None]:
    """Uniformity and colour difference; None where no photo tells them."""
    if field is None:
        return None, None
    where = thirteen_points(panel)
    luminance = np.maximum(disc_means(panel, field.light, where), 1e-6)
    radius2 = disc_means(panel, field.radius2, where)
    nine, ratio = luminance[:9], _ratio(luminance[:9])
    points = tuple(
        UniformityPoint(x=float(x), y=float(y), level=round(float(value / nine.max()), 3))
        for (x, y), value in zip(where[:9], nine, strict=True)
    )
    uniformity = Uniformity(
        ratio=round(ratio, 3),
        uncertainty=round(_uncertainty(field, nine, radius2[:9]), 3),
        points=points,
        ratio_of_five=round(_ratio(luminance[list(FIVE)]), 3),
        ratio_of_thirteen=round(_ratio(luminance), 3),
    )
    colours = None if field.rgb is None else np.maximum(disc_means(panel, field.rgb.mean(axis=0), where[:9]), 1e-6)
    return uniformity, None if colours is None else _colour(colours)


def _ratio(luminance: Field) -> float:
    return float(luminance.min() / luminance.max())


def _uncertainty(field: LightField, luminance: Field, radius2: Field) -> float:
    """Half-width at 90 % of the ratio: the lens's fall-off between its two points, noise, and the camera's tone curve."""
    dark, bright, ratio = int(np.argmin(luminance)), int(np.argmax(luminance)), _ratio(luminance)
    lever = abs(float(radius2[dark] - radius2[bright])) / max(1 - field.fall_off * float(radius2.max()), 0.2)
    parts = (field.fall_off_sd * lever * ratio, field.noise, field.slope_sd * ratio * abs(float(np.log(ratio))))
    return WITHIN_90 * float(np.linalg.norm(parts)) + FORM_UNCERTAINTY


def uv_of(xyz: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 2) u'v' of (n, 3) XYZ (CIE 1976 uniform chromaticity scale)."""
    total = xyz @ np.array([1.0, 15.0, 3.0])
    return np.stack([4 * xyz[:, 0] / total, 9 * xyz[:, 1] / total], axis=1)


def _colour(rgb: NDArray[np.float64]) -> Colour:
    xyz = rgb @ SRGB_TO_XYZ.T
    uv = uv_of(xyz)
    distance = np.linalg.norm(uv[:, None] - uv[None], axis=2)
    lab = _lab(xyz / xyz[4] * np.array([0.9505, 1.0, 1.089]))
    e00 = max(delta_e00(lab[i], lab[j]) for i in range(9) for j in range(i))
    return Colour(max_delta_uv=round(float(distance.max()), 4), max_delta_e00=round(e00, 1), uncertainty=0.006)


def _lab(xyz: NDArray[np.float64]) -> NDArray[np.float64]:
    t = xyz / np.array([0.9505, 1.0, 1.089])
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)


def delta_e00(first: NDArray[np.float64], second: NDArray[np.float64]) -> float:
    """CIEDE2000 colour difference of two CIE Lab colours (ISO/CIE 11664-6; Sharma, Wu, Dalal 2005)."""
    (l1, a1, b1), (l2, a2, b2) = first, second
    c_mean7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(c_mean7 / (c_mean7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    dh = 0.0 if c1 * c2 == 0 else (h2 - h1 + 180) % 360 - 180
    d_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh) / 2)
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    h_mean = h1 + h2 if c1 * c2 == 0 else (h1 + h2) / 2 if abs(h1 - h2) <= 180 else ((h1 + h2 + 360) / 2) % 360
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.2 * np.cos(np.radians(4 * h_mean - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    r_c = 2 * np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7))
    r_t = -np.sin(np.radians(60 * np.exp(-(((h_mean - 275) / 25) ** 2)))) * r_c
    kl, kc, kh = (l2 - l1) / s_l, (c2 - c1) / s_c, d_h / s_h
    return float(np.sqrt(kl**2 + kc**2 + kh**2 + r_t * kc * kh))
