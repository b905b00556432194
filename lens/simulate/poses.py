"""Where a simulated camera is held, and which camera it is, from an explicit random generator."""

import math

import numpy as np

from lens.panel import Panel
from lens.simulate.scene import Camera, Pose


def random_camera(rng: np.random.Generator, width: int = 4000, height: int = 3000) -> Camera:
    """An ordinary phone: blur 0.6-1.0 px, up to 0.6 % radial distortion, JPEG 88-95."""
    return Camera(
        width=width,
        height=height,
        blur_px=float(rng.uniform(0.6, 1.0)),
        barrel=float(rng.uniform(-0.006, 0.006)),
        vignetting=float(rng.uniform(0.15, 0.35)),
        jpeg_quality=int(rng.integers(88, 96)),
    )


def random_pose(
    panel: Panel, camera: Camera, rng: np.random.Generator, fill: float | None = None, tilt_deg: float = 6.0
) -> Pose:
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


def standing_pose(
    panel: Panel,
    camera: Camera,
    rng: np.random.Generator,
    tilt_deg: tuple[float, float] = (0.0, 6.0),
    fill: float | None = None,
) -> Pose:
    """A handheld pinhole camera that looks at the panel's middle from a place ``tilt_deg`` off its normal."""
    share = fill if fill is not None else float(rng.uniform(0.78, 0.88))
    tilt, axis, roll = (
        math.radians(float(rng.uniform(*tilt_deg))),
        float(rng.uniform(0, 2 * math.pi)),
        math.radians(float(rng.uniform(-2, 2))),
    )
    middle = np.array([(panel.width - 1) / 2, (panel.height - 1) / 2, 0.0])
    focal_px = camera.focal_length_px
    distance = focal_px / (share * min(camera.width / panel.width, camera.height / panel.height))
    back = np.array([math.sin(tilt) * math.cos(axis), math.sin(tilt) * math.sin(axis), math.cos(tilt)])
    eye = middle + distance * back
    across = np.cross([0.0, 1.0, 0.0], back)
    across /= np.linalg.norm(across)
    down = np.cross(back, across)
    outline = np.array(
        [
            [-0.5, -0.5, 0],
            [panel.width - 0.5, -0.5, 0],
            [panel.width - 0.5, panel.height - 0.5, 0],
            [-0.5, panel.height - 0.5, 0],
        ]
    )
    seen = (
        np.stack([(outline - eye) @ across, (outline - eye) @ down], axis=1)
        / ((eye - outline) @ back)[:, None]
        * focal_px
    )
    turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
    points = seen @ turn.T + np.array([camera.width - 1, camera.height - 1]) / 2
    return Pose(
        corners=tuple((float(x), float(y)) for x, y in points), eye=(float(eye[0]), float(eye[1]), float(eye[2]))
    )


def closeup_pose(
    panel: Panel, camera: Camera, part: tuple[float, float, float, float], rng: np.random.Generator
) -> Pose:
    """A handheld pose that shows a part of the panel: its left, top, right and bottom edge as shares of width and height."""
    left, top, right, bottom = part
    scale = 0.96 * min(camera.width / ((right - left) * panel.width), camera.height / ((bottom - top) * panel.height))
    middle = np.array([(left + right) / 2 * panel.width, (top + bottom) / 2 * panel.height])
    outline = np.array([[0, 0], [panel.width, 0], [panel.width, panel.height], [0, panel.height]]) - middle
    tilt, axis, roll = (
        math.radians(float(rng.uniform(0, 3))),
        float(rng.uniform(0, 2 * math.pi)),
        math.radians(float(rng.uniform(-1.5, 1.5))),
    )
    distance = 1.6 * math.hypot((right - left) * panel.width, (bottom - top) * panel.height)
    depth = (outline[:, 0] * math.cos(axis) + outline[:, 1] * math.sin(axis)) * math.sin(tilt)
    seen = outline * (distance / (distance + depth))[:, None]
    turn = np.array([[math.cos(roll), -math.sin(roll)], [math.sin(roll), math.cos(roll)]])
    points = seen @ turn.T * scale + np.array([camera.width, camera.height]) / 2 - 0.5
    return Pose(corners=tuple((float(x), float(y)) for x, y in points))
