"""The sRGB transfer function (IEC 61966-2-1)."""

import numpy as np
from numpy.typing import ArrayLike, NDArray


def srgb_to_linear(code: ArrayLike) -> NDArray[np.float64]:
    """Linear light 0..1 of sRGB code values 0..1."""
    value = np.asarray(code, float)
    return np.where(value <= 0.04045, value / 12.92, ((np.maximum(value, 0.04045) + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(light: ArrayLike) -> NDArray[np.uint8]:
    """8-bit sRGB codes of linear light, clipped to 0..1."""
    value = np.clip(np.asarray(light, float), 0, 1)
    code = np.where(value <= 0.0031308, 12.92 * value, 1.055 * np.maximum(value, 0.0031308) ** (1 / 2.4) - 0.055)
    return np.asarray(np.round(255 * code), np.uint8)
