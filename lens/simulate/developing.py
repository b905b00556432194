"""From light on a phone's sensor to the picture that it makes for the eye: photons, colours, denoising by gain, tone mapping, sharpening."""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.simulate.camera import row_light, shade_by_specks
from lens.simulate.exposing import BASE_ISO, HIGHEST_ISO, LUMA, METER_GREY, METER_K, Exposure, Float, Phone
from lens.simulate.scene import Dimming

# raw red, green and blue of the sensor for the panel's red, green and blue (typical silicon with organic filters; from memory)
SENSITIVITY = np.array([[0.52, 0.13, 0.02], [0.14, 0.80, 0.16], [0.02, 0.17, 0.62]], np.float32)
FULL_WELL_E, READ_NOISE_E = 6500.0, 2.2  # photosites of 1.4 um at base gain (from memory)
RESPONSE_SPREAD = 0.005  # photo-response non-uniformity, one sigma
HOT_SHARE, HOT_E_A_SECOND = 2e-5, 4000.0
BLACK_LEVEL, FULL_LEVEL = 4000, 60000  # of the converter's numbers
STEP = 16  # of the grid for tone mapping by place, px
BAND_ROWS, MARGIN_ROWS = 256, 16


def exposed(
    seen_cd_m2: Float, phone: Phone, exposure: Exposure, rng: np.random.Generator, dimming: Dimming | None = None
) -> Float:
    """(h, w) mosaic, 1 where the converter ends: photons, photosites, gain, row by row as the shutter rolls. Bayer order is RGGB."""
    camera = phone.camera
    # full scale of green at base gain for this much white: what puts METER_GREY where the meter wants it
    to_scale = METER_GREY * exposure.time_s * BASE_ISO * exposure.gain / (METER_K * camera.f_number**2)
    x = (np.arange(camera.width, dtype=np.float32) - camera.width / 2)[None, :]
    y = (np.arange(camera.height, dtype=np.float32) - camera.height / 2)[:, None]
    mosaic = np.empty((camera.height, camera.width), np.float32)
    green = float(SENSITIVITY[1].sum())
    for (dy, dx), colour in {(0, 0): 0, (0, 1): 1, (1, 0): 1, (1, 1): 2}.items():
        mosaic[dy::2, dx::2] = seen_cd_m2[dy::2, dx::2] @ (SENSITIVITY[colour] / green)
    fall = (x * x + y * y) * np.float32(-camera.vignetting * 4 / (camera.width**2 + camera.height**2))
    fall += 1
    fall *= np.float32(to_scale)
    mosaic *= fall
    del fall
    if dimming is not None:
        mosaic *= row_light(camera, dimming, exposure.time_s, float(rng.uniform(0, 1)))
    shade_by_specks(mosaic, camera)
    well = FULL_WELL_E / exposure.gain  # electrons at full scale
    # photons, reader and unlike photosites are independent: one draw has the sum of their variances
    sigma = mosaic * np.float32(RESPONSE_SPREAD**2)
    sigma += np.float32(1 / well)
    sigma *= mosaic
    sigma += np.float32((READ_NOISE_E / well) ** 2)
    np.sqrt(sigma, out=sigma)
    sigma *= rng.standard_normal(mosaic.shape, dtype=np.float32)
    mosaic += sigma
    many = rng.poisson(HOT_SHARE * mosaic.size)
    at = rng.integers(0, mosaic.size, many)
    mosaic.ravel()[at] += rng.exponential(HOT_E_A_SECOND * exposure.time_s / well, many).astype(np.float32)
    return np.asarray(np.clip(mosaic, -0.05, 1.0, out=mosaic))


class _Colours(NamedTuple):
    """How raw numbers become linear sRGB: balance, then a (3, 3) matrix whose rows sum to 1, so that white stays white."""

    gains: Float
    matrix: Float

    def of(self, raw: NDArray[np.uint16]) -> Float:
        """(h, w, 3) linear light of demosaiced numbers, cut where phones cut: at white after the balance."""
        linear = raw.astype(np.float32)
        linear -= BLACK_LEVEL
        linear *= self.gains / np.float32(FULL_LEVEL)
        np.clip(linear, -0.05, 1.0, out=linear)
        return np.asarray(cv2.transform(linear, self.matrix), np.float32)


def drawn(phone: Phone, rng: np.random.Generator) -> Float:
    """(3, 3) errors of the colour matrix: all that chance has in developing."""
    return np.asarray(rng.normal(0, phone.matrix_error, (3, 3)))


def _colours(phone: Phone, rng: np.random.Generator) -> _Colours:
    white = SENSITIVITY.sum(axis=1) / SENSITIVITY[1].sum()
    gains = np.array([phone.balance[0] / white[0], 1.0, phone.balance[1] / white[2]], np.float32)
    balanced = SENSITIVITY / SENSITIVITY.sum(axis=1, keepdims=True)
    matrix = np.linalg.inv(balanced) @ (np.eye(3) + drawn(phone, rng))
    return _Colours(gains, (matrix / matrix.sum(axis=1, keepdims=True)).astype(np.float32))


def developed(mosaic: Float, phone: Phone, exposure: Exposure, rng: np.random.Generator) -> NDArray[np.uint8]:
    """(h, w, 3) uint8 sRGB of a mosaic: demosaicing, colours, denoising by gain, tone mapping by place, tone curve, sharpening; in bands of
    rows, since a whole photo in floating point takes too much memory."""
    colours = _colours(phone, rng)
    mosaic *= FULL_LEVEL
    mosaic += BLACK_LEVEL + 0.5
    raw = cv2.demosaicing(np.clip(mosaic, 0, 65535).astype(np.uint16), cv2.COLOR_BayerRGGB2RGB_EA)
    height, width = mosaic.shape
    lift = _lift(
        colours.of(
            np.asarray(cv2.resize(raw, (width // STEP, height // STEP), interpolation=cv2.INTER_AREA), np.uint16)
        ),
        phone,
        width,
    )
    out = np.empty((height, width, 3), np.uint8)

    def band(start: int) -> None:
        first, last = max(0, start - MARGIN_ROWS), min(height, start + BAND_ROWS + MARGIN_ROWS)
        linear = _denoised(colours.of(raw[first:last]), phone, exposure)
        if lift is not None:
            rows = np.clip((np.arange(first, last, dtype=np.float32) + 0.5) / STEP - 0.5, 0, lift.shape[0] - 1)
            columns = (np.arange(width, dtype=np.float32) + 0.5) / STEP - 0.5
            x, y = np.meshgrid(columns, rows)
            linear *= cv2.remap(lift, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[..., None]
        out[start : start + BAND_ROWS] = _toned(linear, phone, exposure)[start - first : start - first + BAND_ROWS]

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(band, range(0, height, BAND_ROWS)))
    return out


def _lift(small: Float, phone: Phone, width: int) -> Float | None:
    """What tone mapping by place multiplies each part of the picture with, on a grid of ``STEP``."""
    if phone.local_tone <= 0:
        return None
    base = cv2.GaussianBlur(np.clip(small @ LUMA, 0, None), (0, 0), width / 25 / STEP)
    return np.clip(((base + 0.02) / 0.25) ** np.float32(-phone.local_tone), 0.7, 2.0).astype(np.float32)


def _strength(phone: Phone, exposure: Exposure) -> float:
    """Of denoising: it grows with the gain."""
    return phone.denoise * min(1.0, math.log2(max(exposure.gain, 1)) / math.log2(HIGHEST_ISO / BASE_ISO))


def _denoised(linear: Float, phone: Phone, exposure: Exposure) -> Float:
    strength = _strength(phone, exposure)
    np.clip(linear, 0, None, out=linear)
    if strength <= 0.05:
        return linear
    luma = linear @ LUMA
    linear -= luma[..., None]
    linear = np.asarray(cv2.GaussianBlur(linear, (0, 0), 0.6 + 2.2 * strength), np.float32)
    root = np.sqrt(np.clip(luma, 0, 1.5))
    calm = cv2.bilateralFilter(root, 5, 0.02 + 0.12 * strength, 1.0 + strength)
    root *= 1 - strength
    root += np.float32(strength) * calm
    linear += (root * root)[..., None]
    np.clip(linear, 0, None, out=linear)
    return linear


def _toned(linear: Float, phone: Phone, exposure: Exposure) -> NDArray[np.uint8]:
    np.clip(linear, 0, 1, out=linear)
    codes = np.arange(4096) / 4095
    curve = np.where(codes <= 0.0031308, 12.92 * codes, 1.055 * codes ** (1 / 2.4) - 0.055)  # sRGB (IEC 61966-2-1)
    curve = curve - phone.s_curve * np.sin(2 * np.pi * curve) / (2 * np.pi)
    linear *= 4095
    linear += 0.5
    picture = (curve * 255).astype(np.float32).take(linear.astype(np.uint16))
    if phone.sharpening:
        strength = np.float32(phone.sharpening * (1 - 0.6 * _strength(phone, exposure)))
        soft = cv2.GaussianBlur(picture, (0, 0), 1.1)
        cv2.addWeighted(picture, float(1 + strength), soft, float(-strength), 0.5, dst=picture)
    else:
        picture += 0.5
    return np.clip(picture, 0, 255).astype(np.uint8)
