"""A simulated hand camera: pose, lens, sensor, tone curve and JPEG, from an explicit random generator."""

import io
import math

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from lens.panel import Panel
from lens.records.base import Record

# Rows: how much the camera's red, green and blue see of the panel's red, green and blue.
CROSSTALK = np.array([[1.00, 0.14, 0.02], [0.10, 1.00, 0.13], [0.01, 0.16, 1.00]])
RASTER_X, RASTER_Y = 3, 2  # cells a panel pixel is cut into: its three stripes, and two halves down


class Camera(Record):
    """What the camera does to light. Levels are shares of full scale; ``contrast`` bends the tone curve, sRGB at 0, to an S that is
    steeper by that share in its middle; the shutter rolls, ``row_time_us`` from one row of the sensor to the next."""

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
    jpeg_quality: int = 92
    orientation: int = 1
    hot_pixels: tuple[tuple[int, int], ...] = ()


class Dimming(Record):
    """A backlight dimmed by pulses: how often a second, and the share of the time that it is lit; ``depth`` of it goes out."""

    hz: float
    duty: float = 0.5
    depth: float = 1.0


class Pose(Record):
    """Outer corners of the active area in the upright photo: top-left, top-right, bottom-right, bottom-left."""

    corners: tuple[tuple[float, float], ...]


class Shot(Record):
    """A photo and its truth: ``data`` is the JPEG, corners are after the EXIF orientation and the lens."""

    data: bytes
    corners: tuple[tuple[float, float], ...]


def random_camera(rng: np.random.Generator, width: int = 4000, height: int = 3000) -> Camera:
    """An ordinary phone: blur 0.6-1.0 px, up to 0.6 % radial distortion, JPEG 88-95."""
    return Camera(
        width=width, height=height, blur_px=float(rng.uniform(0.6, 1.0)), barrel=float(rng.uniform(-0.006, 0.006)),
        vignetting=float(rng.uniform(0.15, 0.35)), jpeg_quality=int(rng.integers(88, 96)),
    )


def random_pose(panel: Panel, camera: Camera, rng: np.random.Generator, fill: float | None = None, tilt_deg: float = 6.0) -> Pose:
    """A handheld pose: the panel fills 75-92 % of the frame, tilted by up to ``tilt_deg`` about a random axis."""
    share = fill if fill is not None else float(rng.uniform(0.78, 0.92))
    tilt, axis = math.radians(float(rng.uniform(0, tilt_deg))), float(rng.uniform(0, 2 * math.pi))
    roll = math.radians(float(rng.uniform(-2, 2)))
    half = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * np.array([panel.width, panel.height]) / 2
    scale = share * min(camera.width / panel.width, camera.height / panel.height)
    distance = 1.6 * math.hypot(panel.width, panel.height)
    depth = (half[:, 0] * math.cos(axis) + half[:, 1] * math.sin(axis)) * math.sin(tilt)
    seen = half * (distance / (distance + depth))[:, None]
    turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
    points = seen @ turn.T * scale
    room = (np.array([camera.width, camera.height]) - np.ptp(points, axis=0)) / 2
    points += -(points.max(axis=0) + points.min(axis=0)) / 2 + np.array([camera.width, camera.height]) / 2 - 0.5
    points += rng.uniform(-0.5, 0.5, 2) * np.maximum(room - 40, 0)
    return Pose(corners=tuple((float(x), float(y)) for x, y in points))


def closeup_pose(panel: Panel, camera: Camera, part: tuple[float, float, float, float], rng: np.random.Generator) -> Pose:
    """A handheld pose that shows a part of the panel: its left, top, right and bottom edge as shares of width and height."""
    left, top, right, bottom = part
    scale = 0.96 * min(camera.width / ((right - left) * panel.width), camera.height / ((bottom - top) * panel.height))
    middle = np.array([(left + right) / 2 * panel.width, (top + bottom) / 2 * panel.height])
    outline = np.array([[0, 0], [panel.width, 0], [panel.width, panel.height], [0, panel.height]]) - middle
    tilt, axis, roll = math.radians(float(rng.uniform(0, 3))), float(rng.uniform(0, 2 * math.pi)), math.radians(float(rng.uniform(-1.5, 1.5)))
    distance = 1.6 * math.hypot((right - left) * panel.width, (bottom - top) * panel.height)
    depth = (outline[:, 0] * math.cos(axis) + outline[:, 1] * math.sin(axis)) * math.sin(tilt)
    seen = outline * (distance / (distance + depth))[:, None]
    turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
    points = seen @ turn.T * scale + np.array([camera.width, camera.height]) / 2 - 0.5
    return Pose(corners=tuple((float(x), float(y)) for x, y in points))


def _panel_coordinates(camera: Camera, to_panel: NDArray[np.float64], rows: slice) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
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


def _bent(camera: Camera, point: tuple[float, float]) -> tuple[float, float]:
    """Where the lens puts an ideal photo point: the inverse of the stretch above, by fixed-point steps."""
    cx, cy = (camera.width - 1) / 2, (camera.height - 1) / 2
    radius2 = cx * cx + cy * cy
    u, v = point[0] - cx, point[1] - cy
    x, y = u, v
    for _ in range(30):
        stretch = 1 + camera.barrel * (x * x + y * y) / radius2
        x, y = u / stretch, v / stretch
    return x + cx, y + cy


def _see(light: NDArray[np.float32], camera: Camera, pose: Pose) -> NDArray[np.float32]:
    """(h, w, 3) panel light per stripe colour, as the lens images it."""
    height, width, _ = light.shape
    outline = np.array([[-0.5, -0.5], [width - 0.5, -0.5], [width - 0.5, height - 0.5], [-0.5, height - 0.5]], np.float32)
    to_panel = cv2.getPerspectiveTransform(np.array(pose.corners, np.float32), outline).astype(np.float64)
    scale = math.sqrt(abs(cv2.contourArea(np.array(pose.corners, np.float32))) / (width * height))
    sensor_blur = math.hypot(camera.blur_px, 0.29)  # the square photosite adds the sigma of a unit box
    pad = 4
    seen = np.zeros((camera.height, camera.width, 3), np.float32)
    for channel in range(3):
        # each stripe lights a bit less than its third of the pixel: the rest is black matrix
        raster = np.zeros(((height + 2 * pad) * RASTER_Y, (width + 2 * pad) * RASTER_X), np.float32)
        inner = raster[pad * RASTER_Y:(height + pad) * RASTER_Y, pad * RASTER_X:(width + pad) * RASTER_X]
        inner[0::2, channel::RASTER_X] = 3.3 * light[..., channel]
        inner[1::2, channel::RASTER_X] = 2.7 * light[..., channel]
        blurred = cv2.GaussianBlur(
            raster, (0, 0), sigmaX=RASTER_X * sensor_blur / scale, sigmaY=RASTER_Y * sensor_blur / scale)
        for start in range(0, camera.height, 500):
            rows = slice(start, min(start + 500, camera.height))
            x, y = _panel_coordinates(camera, to_panel, rows)
            seen[rows, :, channel] = cv2.remap(
                blurred, (x + 0.5 + pad) * RASTER_X - 0.5, (y + 0.5 + pad) * RASTER_Y - 0.5, cv2.INTER_LINEAR)
    return seen


def _orient(image: NDArray[np.uint8], orientation: int) -> NDArray[np.uint8]:
    """The stored picture whose EXIF orientation turns it back into ``image``."""
    turns = {1: image, 3: image[::-1, ::-1], 6: np.rot90(image, 1), 8: np.rot90(image, -1)}
    return np.ascontiguousarray(turns[orientation])


def _dimmed(camera: Camera, dimming: Dimming, open_s: float, start_s: float) -> NDArray[np.float32]:
    """(rows, 1) or (1, columns) mean light of the dimmed backlight while each row of the sensor is open."""
    turned = camera.orientation in (6, 8)
    opened = start_s + np.arange(camera.width if turned else camera.height) * camera.row_time_us * 1e-6

    turns = np.stack([opened, opened + open_s]) * dimming.hz
    lit = np.floor(turns) * dimming.duty + np.minimum(turns - np.floor(turns), dimming.duty)
    share = (lit[1] - lit[0]) / (open_s * dimming.hz * dimming.duty)
    light = (1 - dimming.depth + dimming.depth * share).astype(np.float32)
    return light[None, :] if turned else light[:, None]


def photograph(
    light: NDArray[np.float32], camera: Camera, pose: Pose, rng: np.random.Generator, exposure: float = 1.0, dimming: Dimming | None = None,
) -> Shot:
    """A JPEG of a panel's (H, W, 3) light.

    ``exposure`` scales the light gathered: 1 puts full white at ``camera.white_level``. Bayer order is RGGB.
    """
    seen = _see(light, camera, pose)
    y, x = np.ogrid[:camera.height, :camera.width]
    r2 = ((x - camera.width / 2) ** 2 + (y - camera.height / 2) ** 2) / (camera.width**2 + camera.height**2) * 4
    fall = (1 - camera.vignetting * r2).astype(np.float32)
    balance = CROSSTALK.sum(axis=1)
    mosaic = np.empty((camera.height, camera.width), np.float32)
    for (dy, dx), colour in {(0, 0): 0, (0, 1): 1, (1, 0): 1, (1, 1): 2}.items():
        part = seen[dy::2, dx::2] @ (CROSSTALK[colour] / balance[colour]).astype(np.float32)
        mosaic[dy::2, dx::2] = part
    del seen
    if dimming is not None:
        fall = fall * _dimmed(camera, dimming, camera.exposure_s * exposure, float(rng.uniform(0, 1)))
    mosaic *= fall * np.float32(camera.white_level * exposure)
    sigma = np.sqrt(mosaic / camera.full_well_e + (camera.read_noise_e / camera.full_well_e) ** 2)
    mosaic += rng.standard_normal(mosaic.shape, dtype=np.float32) * sigma
    for hot_x, hot_y in camera.hot_pixels:
        mosaic[hot_y, hot_x] = 1.0
    raw = np.clip(mosaic * 60000 + 1000, 0, 65535).astype(np.uint16)
    colour_image = cv2.demosaicing(raw, cv2.COLOR_BayerRGGB2RGB_EA)
    linear = (colour_image.astype(np.float32) - 1000) / 60000
    if camera.sharpening:
        linear += camera.sharpening * (linear - cv2.GaussianBlur(linear, (0, 0), 1.2))
    np.clip(linear, 0, 1, out=linear)
    codes = np.arange(4096) / 4095
    curve = np.where(codes <= 0.0031308, 12.92 * codes, 1.055 * codes ** (1 / 2.4) - 0.055)
    curve = curve - camera.contrast * np.sin(2 * np.pi * curve) / (2 * np.pi)
    picture = np.round(curve * 255).astype(np.uint8)[(linear * 4095 + 0.5).astype(np.uint16)]
    buffer = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = camera.orientation
    exif.get_ifd(0x8769)[0x829A] = camera.exposure_s * exposure
    Image.fromarray(_orient(picture, camera.orientation)).save(
        buffer, "JPEG", quality=camera.jpeg_quality, subsampling="4:2:0", exif=exif)
    return Shot(data=buffer.getvalue(), corners=tuple(_bent(camera, corner) for corner in pose.corners))
