"""A simulated hand camera: lens, sensor, tone curve and JPEG, from an explicit random generator."""

import io
import math
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lens.panel import Panel
from lens.simulate.scene import Camera, Dimming, Glass, Pose, Reflection, Shot

# Rows: how much the camera's red, green and blue see of the panel's red, green and blue.
CROSSTALK = np.array([[1.00, 0.14, 0.02], [0.10, 1.00, 0.13], [0.01, 0.16, 1.00]])
RASTER_X, RASTER_Y = 3, 2  # cells a panel pixel is cut into: its three stripes, and two halves down


def _panel_coordinates(
    camera: Camera, to_panel: NDArray[np.float64], rows: slice
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Panel coordinates seen by each photo pixel of some rows; the lens moves a point outward by barrel * r^2."""
    cx, cy = (camera.width - 1) / 2, (camera.height - 1) / 2
    radius = math.hypot(cx, cy)
    x = np.arange(camera.width, dtype=np.float32)[None, :] - np.float32(cx)
    y = np.arange(rows.start, rows.stop, dtype=np.float32)[:, None] - np.float32(cy)
    stretch = 1 + np.float32(camera.barrel) * (x * x + y * y) / np.float32(radius * radius)
    u, v = x * stretch + np.float32(cx), y * stretch + np.float32(cy)
    h = to_panel.astype(np.float32)
    w = h[2, 0] * u + h[2, 1] * v + h[2, 2]
    return (h[0, 0] * u + h[0, 1] * v + h[0, 2]) / w, (h[1, 0] * u + h[1, 1] * v + h[1, 2]) / w


def bent(camera: Camera, point: tuple[float, float]) -> tuple[float, float]:
    """Where the lens puts an ideal photo point: the inverse of the stretch above, by fixed-point steps."""
    cx, cy = (camera.width - 1) / 2, (camera.height - 1) / 2
    radius2 = cx * cx + cy * cy
    u, v = point[0] - cx, point[1] - cy
    x, y = u, v
    for _ in range(30):
        stretch = 1 + camera.barrel * (x * x + y * y) / radius2
        x, y = u / stretch, v / stretch
    return x + cx, y + cy


def place_in_photo(panel: Panel, camera: Camera, pose: Pose, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """(N, 2) photo places of (N, 2) panel points, upright: the truth that a registration is held against."""
    to_photo = cv2.getPerspectiveTransform(np.array(panel.corners, np.float32), np.array(pose.corners, np.float32))
    ideal = np.asarray(cv2.perspectiveTransform(points[None].astype(np.float64), to_photo), float)[0]
    return np.array([bent(camera, (float(x), float(y))) for x, y in ideal])


def image_of(light: NDArray[np.float32], camera: Camera, pose: Pose) -> NDArray[np.float32]:
    """(h, w, 3) panel light per stripe colour, as the lens images it."""
    height, width, _ = light.shape
    outline = np.array(
        [[-0.5, -0.5], [width - 0.5, -0.5], [width - 0.5, height - 0.5], [-0.5, height - 0.5]], np.float32
    )
    to_panel = cv2.getPerspectiveTransform(np.array(pose.corners, np.float32), outline).astype(np.float64)
    scale = math.sqrt(abs(cv2.contourArea(np.array(pose.corners, np.float32))) / (width * height))
    sensor_blur = math.hypot(camera.blur_px, 0.29)  # the square photosite adds the sigma of a unit box
    pad = 4
    rasters = []
    for channel in range(3):
        # each stripe lights a bit less than its third of the pixel: the rest is black matrix
        raster = np.zeros(((height + 2 * pad) * RASTER_Y, (width + 2 * pad) * RASTER_X), np.float32)
        inner = raster[pad * RASTER_Y : (height + pad) * RASTER_Y, pad * RASTER_X : (width + pad) * RASTER_X]
        inner[0::2, channel::RASTER_X] = 3.3 * light[..., channel]
        inner[1::2, channel::RASTER_X] = 2.7 * light[..., channel]
        rasters.append(
            cv2.GaussianBlur(
                raster, (0, 0), sigmaX=RASTER_X * sensor_blur / scale, sigmaY=RASTER_Y * sensor_blur / scale
            )
        )
    seen = np.zeros((camera.height, camera.width, 3), np.float32)
    for start in range(0, camera.height, 500):
        rows = slice(start, min(start + 500, camera.height))
        x, y = _panel_coordinates(camera, to_panel, rows)
        x, y = (x + 0.5 + pad) * RASTER_X - 0.5, (y + 0.5 + pad) * RASTER_Y - 0.5
        for channel, raster in enumerate(rasters):
            seen[rows, :, channel] = cv2.remap(raster, x, y, cv2.INTER_LINEAR)
    return seen


def shared_light(light: NDArray[np.float32]) -> NDArray[np.float32]:
    """(H, W, 3) light of a panel whose pixels have a green subpixel each, and a red or a blue one in turn, twice as bright."""
    out = light.copy()
    y, x = np.ogrid[: light.shape[0], : light.shape[1]]
    odd = (x + y) % 2 == 1
    out[..., 0] = np.where(odd, 0, 2 * light[..., 0])
    out[..., 2] = np.where(odd, 2 * light[..., 2], 0)
    return out


def oriented(image: NDArray[np.uint8], orientation: int) -> NDArray[np.uint8]:
    """The stored picture whose EXIF orientation turns it back into ``image``."""
    turns = {1: image, 3: image[::-1, ::-1], 6: np.rot90(image, 1), 8: np.rot90(image, -1)}
    return np.ascontiguousarray(turns[orientation])


def row_light(camera: Camera, dimming: Dimming, open_s: float, start_s: float) -> NDArray[np.float32]:
    """(rows, 1) or (1, columns) mean light of the dimmed backlight while each row of the sensor is open, ``open_s`` from ``start_s`` on."""
    turned = camera.orientation in (6, 8)
    opened = start_s + np.arange(camera.width if turned else camera.height) * camera.row_time_us * 1e-6
    light = dimming.light(opened, open_s).astype(np.float32)
    return light[None, :] if turned else light[:, None]


def behind_glass(seen: NDArray[np.float32], glass: Glass, camera: Camera, pose: Pose) -> None:
    """Take what lies on the glass off the light: it stands above the pixels, so where it hides them depends on the view."""
    height, width = glass.through.shape
    outline = np.array(
        [[-0.5, -0.5], [width - 0.5, -0.5], [width - 0.5, height - 0.5], [-0.5, height - 0.5]], np.float32
    )
    to_panel = cv2.getPerspectiveTransform(np.array(pose.corners, np.float32), outline).astype(np.float64)
    scale = math.sqrt(abs(cv2.contourArea(np.array(pose.corners, np.float32))) / (width * height))
    through = cv2.GaussianBlur(glass.through, (0, 0), math.hypot(camera.blur_px, 0.29) / scale)
    for start in range(0, camera.height, 500):
        rows = slice(start, min(start + 500, camera.height))
        x, y = _panel_coordinates(camera, to_panel, rows)
        if pose.eye is not None:
            eye_x, eye_y, eye_z = (np.float32(v) for v in pose.eye)
            across, down = (eye_x - x) / eye_z, (eye_y - y) / eye_z
            seen[rows] *= (1 - np.float32(glass.view_loss) * (across**2 + down**2))[..., None]
            x, y = x + np.float32(glass.above_px) * across, y + np.float32(glass.above_px) * down
        seen[rows] *= cv2.remap(through, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=1)[
            ..., None
        ]


def mirrored(camera: Camera, reflections: Sequence[Reflection]) -> NDArray[np.float32]:
    """(h, w) white light that the glass throws back at the camera."""
    y, x = np.mgrid[: camera.height, : camera.width].astype(np.float32) / np.float32(camera.width)
    light = np.zeros(x.shape, np.float32)
    for r in reflections:
        light += np.float32(r.level) * np.exp(-(((x - r.x) / r.size_x) ** 2 + ((y - r.y) / r.size_y) ** 2) / 2).astype(
            np.float32
        )
    return light


def shade_by_specks(mosaic: NDArray[np.float32], camera: Camera) -> None:
    """Take off the (h, w) light of the sensor what the specks on lens or sensor hold back."""
    y, x = np.ogrid[: camera.height, : camera.width]
    for speck_x, speck_y, size_px, depth in camera.specks:
        across, down = (np.exp(-((at - middle) ** 2) / (2 * size_px**2)) for at, middle in ((x, speck_x), (y, speck_y)))
        mosaic *= (1 - np.float32(depth) * across * down).astype(np.float32)


def photograph(
    light: NDArray[np.float32],
    camera: Camera,
    pose: Pose,
    rng: np.random.Generator,
    exposure: float = 1.0,
    dimming: Dimming | None = None,
    glass: Glass | None = None,
    reflections: Sequence[Reflection] = (),
) -> Shot:
    """A JPEG of a panel's (H, W, 3) light.

    ``exposure`` scales the light gathered: 1 puts full white at ``camera.white_level``. Bayer order is RGGB.
    """
    seen = image_of(light, camera, pose)
    if glass is not None:
        behind_glass(seen, glass, camera, pose)
    if reflections:
        seen += mirrored(camera, reflections)[..., None]
    data = _develop(seen, camera, rng, exposure, dimming)
    return Shot(data=data, corners=tuple(bent(camera, corner) for corner in pose.corners))


def photograph_flat(camera: Camera, rng: np.random.Generator, lean: float = 0.0, lamp: Dimming | None = None) -> bytes:
    """A JPEG of an even white surface, brighter to the right by ``lean``: a flat-field shot, under a ``lamp`` that may pulse."""
    light = (1 + np.float32(lean) * np.linspace(-0.5, 0.5, camera.width, dtype=np.float32))[None, :, None]
    return _develop(np.broadcast_to(light, (camera.height, camera.width, 3)), camera, rng, 0.8, lamp)


def _develop(
    seen: NDArray[np.float32], camera: Camera, rng: np.random.Generator, exposure: float, dimming: Dimming | None
) -> bytes:
    """The JPEG of what the lens images."""
    y, x = np.ogrid[: camera.height, : camera.width]
    r2 = ((x - camera.width / 2) ** 2 + (y - camera.height / 2) ** 2) / (camera.width**2 + camera.height**2) * 4
    fall = (1 - camera.vignetting * r2).astype(np.float32)
    balance = CROSSTALK.sum(axis=1)
    mosaic = np.empty((camera.height, camera.width), np.float32)
    for (dy, dx), colour in {(0, 0): 0, (0, 1): 1, (1, 0): 1, (1, 1): 2}.items():
        part = seen[dy::2, dx::2] @ (CROSSTALK[colour] / balance[colour]).astype(np.float32)
        mosaic[dy::2, dx::2] = part
    if dimming is not None:
        fall = fall * row_light(camera, dimming, camera.exposure_s * exposure, float(rng.uniform(0, 1)))
    mosaic *= fall * np.float32(camera.white_level * exposure)
    sigma = np.sqrt(mosaic / camera.full_well_e + (camera.read_noise_e / camera.full_well_e) ** 2)
    mosaic += rng.standard_normal(mosaic.shape, dtype=np.float32) * sigma
    shade_by_specks(mosaic, camera)
    for hot_x, hot_y in camera.hot_pixels:
        mosaic[hot_y, hot_x] = 1.0
    raw = np.clip(mosaic * 60000 + 1000, 0, 65535).astype(np.uint16)
    colour_image = cv2.demosaicing(raw, cv2.COLOR_BayerRGGB2RGB_EA)
    linear = colour_image.astype(np.float32)
    linear -= 1000
    linear /= 60000
    if camera.sharpening:
        soft = cv2.GaussianBlur(linear, (0, 0), 1.2)
        np.subtract(linear, soft, out=soft)
        soft *= camera.sharpening
        linear += soft
    np.clip(linear, 0, 1, out=linear)
    codes = np.arange(4096) / 4095
    curve = np.where(codes <= 0.0031308, 12.92 * codes, 1.055 * codes ** (1 / 2.4) - 0.055)
    curve = curve - camera.contrast * np.sin(2 * np.pi * curve) / (2 * np.pi)
    linear *= 4095
    linear += 0.5
    picture = np.round(curve * 255).astype(np.uint8).take(linear.astype(np.uint16))
    buffer = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = camera.orientation
    exif.get_ifd(0x8769)[0x829A] = camera.exposure_s * exposure
    exif.get_ifd(0x8769)[0x829D], exif.get_ifd(0x8769)[0x8827] = camera.f_number, camera.iso
    exif.get_ifd(0x8769)[0xA403] = 1  # its balance follows from its colours alone, so it is always locked
    exif.get_ifd(0x8769)[0xA405] = round(camera.focal_length_35mm)
    Image.fromarray(oriented(picture, camera.orientation)).save(
        buffer, "JPEG", quality=camera.jpeg_quality, subsampling="4:2:0", exif=exif
    )
    return buffer.getvalue()
