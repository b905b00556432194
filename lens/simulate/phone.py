"""A phone's camera as it is: it exposes by itself, and what it develops is made for the eye.

Light is absolute here. The steps are those of an ordinary phone; constants are typical ones, each with its source or 'from memory'. What this
camera does that the kind one in ``camera`` does not: automatic exposure from what it sees, noise at the gain that this takes, glare and bloom, white
balance that is a few per cent off, a colour matrix and its gamut, denoising by gain, local tone mapping, clipping where phones clip.
"""

import io
import math
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lens.panel import Panel
from lens.records.base import Record
from lens.simulate.camera import behind_glass, bent, image_of, mirrored, oriented
from lens.simulate.scene import Camera, Glass, Pose, Reflection, Shot

Float = NDArray[np.float32]

# raw red, green and blue of the sensor for the panel's red, green and blue (typical silicon with organic filters; from memory)
SENSITIVITY = np.array([[0.52, 0.13, 0.02], [0.14, 0.80, 0.16], [0.02, 0.17, 0.62]], np.float32)
# luminance of sRGB primaries (IEC 61966-2-1), by which meters weigh
LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
METER_GREY = 0.18  # of full scale: where a reflected-light meter puts what it sees (ISO 2720; K = 12.5 cd/m2, from memory)
METER_K = 12.5
CENTRE_SIGMA = 0.32  # of the frame: centre-weighted metering
GUARD_SHARE, GUARD_LEVEL = 0.02, 1.0  # at most this share of the frame may reach full scale; a marker is smaller, so it does not count
# so that night stays night, programmes aim lower in the dark (common practice; the figures give black 25 to 80 times white's exposure, as phones do)
DARK_CD_M2, DARK_EV_A_STOP, MOST_DARKER_EV = 30.0, 0.6, 3.0
BASE_ISO, HIGHEST_ISO = 50, 3200
SHORTEST_S, STEADY_S, LONGEST_S = 1 / 8000, 1 / 120, 1 / 12  # hand-held: what phones go down to
FULL_WELL_E, READ_NOISE_E = 6500.0, 2.2  # photosites of 1.4 um at base gain (from memory)
RESPONSE_SPREAD = 0.005  # photo-response non-uniformity, one sigma
HOT_SHARE, HOT_E_A_SECOND = 2e-5, 4000.0
VEIL_SHARES = ((0.006, 12.0), (0.004, 60.0))  # bloom: share of the light, sigma in px of a 4000 px wide frame
BLACK_LEVEL, FULL_LEVEL = 4000, 60000  # of the converter's numbers
STEP = 16  # of the grid for tone mapping by place, px
BAND_ROWS, MARGIN_ROWS = 256, 16
GLARE_SHARE = 0.006  # veiling glare: of the frame's mean light, everywhere (ISO 9358 measures 0.5 to 3 % on phones; from memory)


class Phone(Record):
    """One phone in one hand. ``blur_px`` in ``camera`` is the lens at its best; ``defocus_px`` the radius of a disc, ``shake_px`` the length of a
    streak in a tenth of a second, in photo px. ``white_cd_m2`` is what the panel gives at full white, ``room_cd_m2`` what the glass sends back
    of a room that is not quite dark. ``balance`` are the errors of automatic white balance for red and blue, ``matrix_error`` the colour
    matrix's, ``local_tone`` the strength of tone mapping by place, ``denoise`` its strength at the highest gain."""

    camera: Camera = Camera()
    white_cd_m2: float = 300.0
    room_cd_m2: float = 0.05
    defocus_px: float = 0.0
    shake_px: float = 0.3
    shake_deg: float = 20.0
    balance: tuple[float, float] = (1.0, 1.0)
    matrix_error: float = 0.02
    exposure_error_ev: float = 0.0
    local_tone: float = 0.15
    denoise: float = 0.7
    sharpening: float = 0.5
    s_curve: float = 0.25
    dirt: float = 0.0


class Exposure(NamedTuple):
    """What the automatics chose. ``gain`` is over base sensitivity."""

    time_s: float
    gain: float

    @property
    def iso(self) -> int:
        return round(BASE_ISO * self.gain)


def random_phone(rng: np.random.Generator, width: int = 4000, height: int = 3000) -> Phone:
    """An ordinary phone in an ordinary hand: nearly in focus, a little unsteady, its balance a few per cent off."""
    camera = Camera(
        width=width, height=height, blur_px=float(rng.uniform(0.5, 0.8)), barrel=float(rng.uniform(-0.006, 0.006)),
        vignetting=float(rng.uniform(0.15, 0.35)), jpeg_quality=int(rng.integers(88, 97)))
    return Phone(
        camera=camera, white_cd_m2=float(rng.uniform(180, 450)), room_cd_m2=float(rng.uniform(0.01, 0.15)),
        defocus_px=float(rng.uniform(0, 0.8)), shake_px=float(rng.uniform(0, 0.8)), shake_deg=float(rng.uniform(0, 180)),
        balance=(float(rng.normal(1, 0.03)), float(rng.normal(1, 0.03))), matrix_error=float(rng.uniform(0.01, 0.03)),
        exposure_error_ev=float(rng.normal(0, 0.12)), local_tone=float(rng.uniform(0.05, 0.22)), denoise=float(rng.uniform(0.5, 0.9)),
        sharpening=float(rng.uniform(0.3, 0.8)), s_curve=float(rng.uniform(0.1, 0.35)))


def natural_light(panel: Panel, rng: np.random.Generator) -> Float:
    """(H, W, 3) share of its light that a sound panel gives by place: less towards edges and corners (5 to 15 %), a lean, faint tints."""
    x = np.linspace(-1, 1, panel.width, dtype=np.float32)[None, :]
    y = np.linspace(-1, 1, panel.height, dtype=np.float32)[:, None]
    fall = float(rng.uniform(0.05, 0.15)) / 2
    lean = rng.normal(0, 0.015, 2)
    light = 1 - fall * (x**2 + y**2) + np.float32(lean[0]) * x + np.float32(lean[1]) * y
    tint = rng.normal(0, 0.006, (3, 3)).astype(np.float32)
    colours = [light * (1 + tint[c, 0] * x + tint[c, 1] * y + tint[c, 2] * x * y) for c in range(3)]
    return np.stack(colours, axis=-1).astype(np.float32)


def metered(seen_cd_m2: Float, phone: Phone) -> Exposure:
    """What centre-weighted automatics choose for a frame: the meter's grey, but highlights guarded, the hand and the gain having their limits."""
    small = cv2.resize(seen_cd_m2 @ LUMA, (64, 48), interpolation=cv2.INTER_AREA)
    x, y = np.linspace(-0.5, 0.5, 64)[None, :], np.linspace(-0.5, 0.5, 48)[:, None]
    weight = np.exp(-(x**2 + y**2) / (2 * CENTRE_SIGMA**2))
    mean = float((small * weight).sum() / weight.sum()) + 1e-6
    # L = K N^2 / (t S) puts L at grey; from memory as ISO 2720 has it
    wanted = METER_K * phone.camera.f_number**2 / mean
    bright = float(np.quantile(small, 1 - GUARD_SHARE)) / mean * METER_GREY
    darker_ev = min(DARK_EV_A_STOP * max(0.0, math.log2(DARK_CD_M2 / mean)), MOST_DARKER_EV)
    wanted *= min(1.0, GUARD_LEVEL / max(bright, 1e-6)) * 2.0 ** (phone.exposure_error_ev - darker_ev)
    # base gain until a time that a hand holds, then time and gain by equal stops, then gain alone (common practice of phones' programmes)
    time_s = max(wanted / BASE_ISO, SHORTEST_S)
    if time_s > STEADY_S:
        time_s = min(math.sqrt(time_s * STEADY_S), LONGEST_S)
    return Exposure(time_s, min(max(wanted / (time_s * BASE_ISO), 1.0), HIGHEST_ISO / BASE_ISO))


def _through_lens(seen: Float, phone: Phone, time_s: float) -> None:
    """Defocus, shake, bloom and glare, on light of the scene, in place: a picture takes 144 MB."""
    _defocus(seen, phone.defocus_px)
    length = phone.shake_px * min(3.0, time_s / 0.1 + 0.3)
    if length > 0.2:
        cv2.filter2D(seen, -1, _streak(length, phone.shake_deg), dst=seen)
    step = 8
    small = cv2.resize(seen, (seen.shape[1] // step, seen.shape[0] // step), interpolation=cv2.INTER_AREA)
    veil = np.zeros_like(small)
    for share, sigma_px in VEIL_SHARES:
        veil += np.float32(share) * cv2.GaussianBlur(small, (0, 0), sigma_px * seen.shape[1] / 4000 / step)
    veil += np.float32(GLARE_SHARE * (1 + 3 * phone.dirt)) * small.mean(axis=(0, 1))
    kept = np.float32(1 - sum(share for share, _ in VEIL_SHARES))
    seen *= kept
    for channel in range(3):  # one after the other: a whole veil is as large as the picture
        seen[..., channel] += cv2.resize(veil[..., channel], (seen.shape[1], seen.shape[0]), interpolation=cv2.INTER_LINEAR)


def _defocus(seen: Float, radius_px: float) -> None:
    """A disc's worth of blur, in place."""
    if radius_px < 0.35:
        return
    reach = math.ceil(radius_px + 0.5)
    y, x = np.mgrid[-reach:reach + 1, -reach:reach + 1]
    kernel = np.clip(radius_px + 0.5 - np.hypot(x, y), 0, 1)
    cv2.filter2D(seen, -1, (kernel / kernel.sum()).astype(np.float32), dst=seen)


def _streak(length_px: float, angle_deg: float) -> Float:
    reach = math.ceil(length_px / 2 + 1)
    kernel = np.zeros((2 * reach + 1, 2 * reach + 1), np.float32)
    for at in np.linspace(-length_px / 2, length_px / 2, 33):
        x, y = reach + at * math.cos(math.radians(angle_deg)), reach + at * math.sin(math.radians(angle_deg))
        fx, fy = x - math.floor(x), y - math.floor(y)
        for dy, wy in ((0, 1 - fy), (1, fy)):
            for dx, wx in ((0, 1 - fx), (1, fx)):
                kernel[min(math.floor(y) + dy, 2 * reach), min(math.floor(x) + dx, 2 * reach)] += wx * wy
    return kernel / kernel.sum()


def _sensor(seen_cd_m2: Float, phone: Phone, exposure: Exposure, rng: np.random.Generator) -> Float:
    """(h, w) mosaic, 1 where the converter ends: photons, photosites, gain. Bayer order is RGGB."""
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


def _colours(phone: Phone, rng: np.random.Generator) -> _Colours:
    white = SENSITIVITY.sum(axis=1) / SENSITIVITY[1].sum()
    gains = np.array([phone.balance[0] / white[0], 1.0, phone.balance[1] / white[2]], np.float32)
    balanced = SENSITIVITY / SENSITIVITY.sum(axis=1, keepdims=True)
    matrix = np.linalg.inv(balanced) @ (np.eye(3) + rng.normal(0, phone.matrix_error, (3, 3)))
    return _Colours(gains, (matrix / matrix.sum(axis=1, keepdims=True)).astype(np.float32))


def _for_the_eye(mosaic: Float, phone: Phone, exposure: Exposure, rng: np.random.Generator) -> NDArray[np.uint8]:
    """(h, w, 3) uint8 sRGB of a mosaic: demosaicing, colours, denoising by gain, tone mapping by place, tone curve, sharpening; in bands of
    rows, since a whole photo in floating point takes too much memory."""
    colours = _colours(phone, rng)
    mosaic *= FULL_LEVEL
    mosaic += BLACK_LEVEL + 0.5
    raw = cv2.demosaicing(np.clip(mosaic, 0, 65535).astype(np.uint16), cv2.COLOR_BayerRGGB2RGB_EA)
    height, width = mosaic.shape
    lift = _lift(colours.of(np.asarray(cv2.resize(raw, (width // STEP, height // STEP), interpolation=cv2.INTER_AREA), np.uint16)), phone, width)
    out = np.empty((height, width, 3), np.uint8)

    def band(start: int) -> None:
        first, last = max(0, start - MARGIN_ROWS), min(height, start + BAND_ROWS + MARGIN_ROWS)
        linear = _denoised(colours.of(raw[first:last]), phone, exposure)
        if lift is not None:
            rows = np.clip((np.arange(first, last, dtype=np.float32) + 0.5) / STEP - 0.5, 0, lift.shape[0] - 1)
            columns = (np.arange(width, dtype=np.float32) + 0.5) / STEP - 0.5
            x, y = np.meshgrid(columns, rows)
            linear *= cv2.remap(lift, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[..., None]
        out[start:start + BAND_ROWS] = _toned(linear, phone, exposure)[start - first:start - first + BAND_ROWS]

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


def photograph_by_phone(
    light: Float, phone: Phone, pose: Pose, rng: np.random.Generator, glass: Glass | None = None, reflections: tuple[Reflection, ...] = (),
) -> tuple[Shot, Exposure]:
    """A JPEG of a panel's (H, W, 3) light, 1 being full white, and what the automatics chose for it."""
    camera = phone.camera
    seen = image_of(light, camera, pose)
    if glass is not None:
        behind_glass(seen, glass, camera, pose)
    if reflections:
        seen += mirrored(camera, reflections)[..., None]
    seen *= np.float32(phone.white_cd_m2)
    seen += np.float32(phone.room_cd_m2)
    exposure = metered(seen, phone)
    _through_lens(seen, phone, exposure.time_s)
    mosaic = _sensor(seen, phone, exposure, rng)
    del seen
    picture = _for_the_eye(mosaic, phone, exposure, rng)
    return Shot(data=_file(picture, camera, exposure), corners=tuple(bent(camera, corner) for corner in pose.corners)), exposure


def _file(picture: NDArray[np.uint8], camera: Camera, exposure: Exposure) -> bytes:
    """JPEG with the tags of EXIF 2.3 that phones write: time, aperture, sensitivity, automatic balance, focal length on film."""
    exif = Image.Exif()
    exif[0x0112] = camera.orientation
    block = exif.get_ifd(0x8769)
    block[0x829A], block[0x829D], block[0x8827] = exposure.time_s, camera.f_number, exposure.iso
    block[0xA403] = 0
    block[0xA405] = round(camera.focal_length_35mm)
    buffer = io.BytesIO()
    Image.fromarray(oriented(picture, camera.orientation)).save(
        buffer, "JPEG", quality=camera.jpeg_quality, subsampling="4:2:0", exif=exif)
    return buffer.getvalue()
