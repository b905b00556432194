"""A phone's camera as it is: it exposes by itself, and what it develops is made for the eye.

The steps are those of an ordinary phone; constants are typical ones, each with its source or 'from memory'. What this camera does that the kind
one in ``camera`` does not: automatic exposure from what it sees, noise at the gain that this takes, glare and bloom, white balance that is a few
per cent off, a colour matrix and its gamut, denoising by gain, local tone mapping, clipping where phones clip.
"""

import io
import math
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lens.panel import Panel
from lens.simulate.camera import behind_glass, bent, image_of, mirrored, oriented
from lens.simulate.developing import developed, drawn, exposed
from lens.simulate.exposing import Exposure, Float, Phone, metered
from lens.simulate.raw_file import dng_of
from lens.simulate.scene import Camera, Dimming, Glass, Pose, Reflection, Shot

VEIL_SHARES = ((0.006, 12.0), (0.004, 60.0))  # bloom: share of the light, sigma in px of a 4000 px wide frame
GLARE_SHARE = (
    0.006  # veiling glare: of the frame's mean light, everywhere (ISO 9358 measures 0.5 to 3 % on phones; from memory)
)


def random_phone(rng: np.random.Generator, width: int = 4000, height: int = 3000) -> Phone:
    """An ordinary phone in an ordinary hand: nearly in focus, a little unsteady, its balance a few per cent off."""
    camera = Camera(
        width=width,
        height=height,
        blur_px=float(rng.uniform(0.5, 0.8)),
        barrel=float(rng.uniform(-0.006, 0.006)),
        vignetting=float(rng.uniform(0.15, 0.35)),
        jpeg_quality=int(rng.integers(88, 97)),
    )
    return Phone(
        camera=camera,
        white_cd_m2=float(rng.uniform(180, 450)),
        room_cd_m2=float(rng.uniform(0.01, 0.15)),
        defocus_px=float(rng.uniform(0, 0.8)),
        shake_px=float(rng.uniform(0, 0.8)),
        shake_deg=float(rng.uniform(0, 180)),
        balance=(float(rng.normal(1, 0.03)), float(rng.normal(1, 0.03))),
        matrix_error=float(rng.uniform(0.01, 0.03)),
        exposure_error_ev=float(rng.normal(0, 0.12)),
        local_tone=float(rng.uniform(0.05, 0.22)),
        denoise=float(rng.uniform(0.5, 0.9)),
        sharpening=float(rng.uniform(0.3, 0.8)),
        s_curve=float(rng.uniform(0.1, 0.35)),
    )


def held_anew(phone: Phone, rng: np.random.Generator) -> Phone:
    """The same phone at its next photo: focused, held and metered once more."""
    fresh = random_phone(rng, phone.camera.width, phone.camera.height)
    return phone.model_copy(
        update={
            name: getattr(fresh, name)
            for name in ("defocus_px", "shake_px", "shake_deg", "balance", "exposure_error_ev")
        }
    )


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
        seen[..., channel] += cv2.resize(
            veil[..., channel], (seen.shape[1], seen.shape[0]), interpolation=cv2.INTER_LINEAR
        )


def _defocus(seen: Float, radius_px: float) -> None:
    """A disc's worth of blur, in place."""
    if radius_px < 0.35:
        return
    reach = math.ceil(radius_px + 0.5)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
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


def photograph_by_phone(
    light: Float,
    phone: Phone,
    pose: Pose,
    rng: np.random.Generator,
    glass: Glass | None = None,
    reflections: Sequence[Reflection] = (),
    raw: bool = False,
    dimming: Dimming | None = None,
) -> tuple[Shot, Exposure]:
    """A JPEG, or the ``raw`` photo as DNG, of a panel's (H, W, 3) light, 1 being full white, and what the automatics chose for it."""
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
    mosaic = exposed(seen, phone, exposure, rng, dimming)
    del seen
    if raw:
        data = dng_of(mosaic, phone, exposure)
        drawn(phone, rng)  # so that the next photo is the same as after a developed one
    else:
        data = _file(developed(mosaic, phone, exposure, rng), camera, exposure)
    return Shot(data=data, corners=tuple(bent(camera, corner) for corner in pose.corners)), exposure


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
        buffer, "JPEG", quality=camera.jpeg_quality, subsampling="4:2:0", exif=exif
    )
    return buffer.getvalue()
