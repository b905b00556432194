"""Sets of a clean panel whose photos are not fit for it: how many pass in spite of it (none may), and what is said of the photos."""

import io
from collections import Counter
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image

from benchmarks.zones import PANEL, SOLIDS, camera_for
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import encode_png, get_pattern, render
from lens.photo_file import decode
from lens.simulate import Camera, FaultyPanel, Pose, emit, photograph, random_camera, random_pose, shoot

Make = Callable[[str, Camera, np.random.Generator], bytes]
CLEAN = FaultyPanel(panel=PANEL)
BLUR_PX, SOFT_PX, EXPOSURE, ZOOM = 4.5, 4.0, 2.2, 2.0


def _jpeg(pixels: NDArray[np.uint8]) -> bytes:
    return bytes(cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 92])[1].tobytes())


def _coarse(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    return shoot(CLEAN, name, camera.model_copy(update={"width": 1100, "height": 825}), rng).data


def _blurred(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    return shoot(CLEAN, name, camera.model_copy(update={"blur_px": BLUR_PX}), rng).data


def _clipped(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    return photograph(
        emit(CLEAN, render(PANEL, get_pattern(name))), camera, random_pose(PANEL, camera, rng), rng, exposure=EXPOSURE
    ).data


def _cut(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    """The right fifth of the panel lies outside."""
    pose = random_pose(PANEL, camera, rng)
    away = (
        camera.width
        - min(x for x, _ in (pose.corners[1], pose.corners[2]))
        + (pose.corners[1][0] - pose.corners[0][0]) / 5
    )
    moved = Pose(corners=tuple((x + away, y) for x, y in pose.corners))
    return shoot(CLEAN, name, camera, rng, pose=moved).data


def _part_soft(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    """As portrait mode does it."""
    pixels = decode(shoot(CLEAN, name, camera, rng).data).pixels
    half = pixels.shape[1] // 2
    pixels[:, half:] = cv2.GaussianBlur(pixels, (0, 0), SOFT_PX)[:, half:]
    return _jpeg(pixels)


def _zoomed(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    """A quarter of the sensor, enlarged to the whole by the camera."""
    small = camera.model_copy(update={"width": int(camera.width / ZOOM), "height": int(camera.height / ZOOM)})
    pixels = decode(shoot(CLEAN, name, small, rng).data).pixels
    return _jpeg(np.asarray(cv2.resize(pixels, None, fx=ZOOM, fy=ZOOM, interpolation=cv2.INTER_CUBIC), np.uint8))


def _scaled(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    """A picture for this panel on one that has 1.25 times the pixels each way."""
    real = make_panel(PANEL.width * 5 // 4, PANEL.height * 5 // 4)
    shown = np.asarray(
        cv2.resize(render(PANEL, get_pattern(name)), (real.width, real.height), interpolation=cv2.INTER_LINEAR),
        np.uint8,
    )
    larger = random_camera(rng, 2600, 1950)
    return photograph(emit(FaultyPanel(panel=real), shown), larger, random_pose(real, larger, rng), rng).data


def _screenshot(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    return encode_png(render(PANEL, get_pattern(name)))


def _composed(name: str, camera: Camera, rng: np.random.Generator) -> bytes:
    """Said by the file to be an HDR picture."""
    image = Image.open(io.BytesIO(shoot(CLEAN, name, camera, rng).data))
    exif, out = image.getexif(), io.BytesIO()
    exif.get_ifd(ExifTags.IFD.Exif)[ExifTags.Base.CustomRendered] = 3
    image.save(out, "JPEG", quality=95, exif=exif)
    return out.getvalue()


UNFIT: tuple[tuple[str, Make], ...] = (
    ("coarse, 0.9 px/px", _coarse),
    ("blurred, 4.5 px", _blurred),
    ("over-exposed", _clipped),
    ("a fifth cut off", _cut),
    ("half blurred", _part_soft),
    ("digital zoom", _zoomed),
    ("scaled 1.25", _scaled),
    ("screenshots", _screenshot),
    ("HDR", _composed),
)


def print_unfit(sets: int, first_seed: int) -> None:
    """The rows; ``sets`` each."""
    print("\nunfit photos of a clean panel   sets   pass  false/set  proven   said of the photos")
    for title, make in UNFIT:
        passes = false = 0
        proven, said = [], Counter[str]()
        for number in range(sets):
            rng = np.random.default_rng(first_seed + number)
            camera = camera_for(rng)
            result = inspect_files(PANEL, [PhotoFile(f"{name}.jpg", make(name, camera, rng)) for name in SOLIDS])
            passes += result.verdict.result == "pass"
            false += len(result.findings)
            proven.append(result.proven.subpixels)
            said.update(problem.code for photo in result.photos for problem in photo.problems)
        words = ", ".join(f"{code} {count}" for code, count in said.most_common(3)) or "nothing"
        print(
            f"{title:30s} {sets:5d} {passes:6d} {false / sets:10.2f} {np.mean(proven):7.3f}   {words} of {sets * len(SOLIDS)}",
            flush=True,
        )
