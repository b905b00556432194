"""Photo files to pixels, upright, with what the file says of its exposure."""

import contextlib
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image, ImageFile, ImageOps

from lens.errors import BadInput
from lens.photo_file.opening import (
    COMPOSED,
    SAMPLE_DOWN_ABOVE_PX,
    checked_load,
    checked_raw_size,
    exif_number,
    guarded,
    has_gain_map,
    opened,
)
from lens.records import Problem
from lens.tiff import is_dng

NIGHT_SCENE = 3  # EXIF 2.3, SceneCaptureType
ZOOMED = 1.05
PLAUSIBLE_35MM = (8, 400)


class Decoded(NamedTuple):
    """``pixels`` is (h, w, 3) uint8 in B, G, R order, upright; ``exposure_s`` (at ISO 100 and f/1) and ``focal_35mm`` (of the lens that
    sees as wide on film of 36 x 24 mm) are None when the file does not say; so is ``balance_locked``, whether the white balance was set by
    hand; ``composed`` when the camera changed light by place; ``linear`` when the codes are exactly sRGB codes of the sensor's own light (a
    raw photo), whose white looks white when linear B, G, R are multiplied with ``balance``."""

    pixels: NDArray[np.uint8]
    exposure_s: float | None
    problems: tuple[Problem, ...]
    focal_35mm: float | None = None
    balance_locked: bool | None = None
    composed: bool = False
    linear: bool = False
    balance: tuple[float, float, float] = (1.0, 1.0, 1.0)


def _with_pillow(image: Image.Image) -> NDArray[np.uint8]:
    upright = ImageOps.exif_transpose(image)
    return np.ascontiguousarray(np.asarray(upright.convert("RGB"))[..., ::-1])


def decode(data: bytes) -> Decoded:
    """Pixels of a photo file, upright, in at most 50 million pixels.

    Raises
    ------
    BadInput
        when the file is empty, too large, cut short, animated, in a colour space that is not RGB, or no picture.
    """
    with guarded():
        return _decode(data)


def _decode(data: bytes) -> Decoded:
    if is_dng(data):
        return _decode_raw(data)
    image = opened(data)
    problems = []
    if image.mode in ("CMYK", "YCCK", "LAB"):
        raise BadInput(
            f"The picture is in {image.mode} colours, which are made for print. Save it as an ordinary sRGB photo.",
            "colour_space",
        )
    if image.mode in ("1", "L", "LA", "I", "F", "I;16"):
        problems.append(
            Problem(
                code="no_colour",
                message="The photo has no colour, so single subpixels cannot be told apart. Shoot in colour.",
            )
        )
    exif = image.getexif()
    exposure_s = _exposure(exif)
    if image.format in ("JPEG", "MPO"):
        pixels = _jpeg(data, image)
    else:
        checked_load(image)
        pixels = _with_pillow(image)
    if pixels.shape[0] * pixels.shape[1] > SAMPLE_DOWN_ABOVE_PX:
        was = pixels.shape
        pixels = np.asarray(cv2.resize(pixels, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.uint8)
        problems += _sampled_down(was[1], was[0])
    processed = _processed(data, exif)
    return Decoded(
        pixels=pixels,
        exposure_s=exposure_s,
        problems=(*problems, *processed),
        focal_35mm=_focal(exif),
        balance_locked=_balance_locked(exif),
        composed=any(problem.code == "composed" for problem in processed),
    )


def _decode_raw(data: bytes) -> Decoded:
    from lens.photo_file.raw_file import read_raw  # only who gets a raw photo loads what reads one

    width, height = checked_raw_size(data)
    half = width * height > SAMPLE_DOWN_ABOVE_PX
    picture = read_raw(data, half)
    problems = _sampled_down(width, height) if half else []
    if picture.developed:
        problems.append(
            Problem(
                code="composed",
                message=(
                    "This DNG holds no sensor data but a picture that a program made of them, perhaps of several exposures: it proves no evenness, "
                    "brightness or greys. Save plain raw photos, without HDR or night mode."
                ),
            )
        )
    exif = Image.Exif()
    with contextlib.suppress(Exception):  # the picture is whole without it
        exif.load(b"Exif\0\0" + data)
    return Decoded(
        pixels=picture.pixels,
        exposure_s=_exposure(exif),
        problems=tuple(problems),
        focal_35mm=_focal(exif),
        balance_locked=True,  # no balance was applied
        composed=picture.developed,
        linear=True,
        balance=(float(picture.balance[0]), float(picture.balance[1]), float(picture.balance[2])),
    )


def _sampled_down(width: int, height: int) -> list[Problem]:
    message = (
        f"The photo has {width}x{height} pixels and was read at half that size; up to 50 million are read in full."
    )
    return [Problem(code="sampled_down", message=message)]


def for_the_eye(decoded: Decoded) -> NDArray[np.uint8]:
    """Its pixels as they are shown to people: of a raw photo, with white looking white."""
    if not decoded.linear:
        return decoded.pixels
    from lens.photo_file.raw_file import as_the_eye

    return as_the_eye(decoded.pixels, np.array(decoded.balance))


def upright_size(data: bytes) -> tuple[int, int]:
    """(width, height) in pixels of a photo as it is shown, from its head alone; raises BadInput."""
    with guarded():
        if is_dng(data):
            return checked_raw_size(data)
        image = opened(data)
        turned = image.getexif().get(ExifTags.Base.Orientation, 1) in (
            5,
            6,
            7,
            8,
        )  # EXIF 2.3: rows and columns exchanged
        return (image.height, image.width) if turned else image.size


def early_luma(data: bytes) -> NDArray[np.uint8] | None:
    """(h, w) uint8 luma of a JPEG that ``decode`` reads in full, in less than half the time, upright; None of anything else."""
    try:
        image = opened(data)
    except Exception:  # what is wrong with it is told by who decodes it in full
        return None
    if image.format not in ("JPEG", "MPO") or image.mode != "RGB" or image.width * image.height > SAMPLE_DOWN_ABOVE_PX:
        return None
    light = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE)
    return None if light is None else np.asarray(light, np.uint8)


def _jpeg(data: bytes, image: Image.Image) -> NDArray[np.uint8]:
    # OpenCV decodes a cut JPEG to a half grey picture without a word. Every whole file ends with EOI (FF D9); phones may
    # append data of their own behind it, so the last 64 kB without one are taken as a sign and Pillow has the last word.
    if b"\xff\xd9" not in data[-65536:]:
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        checked_load(image)
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)  # obeys the EXIF orientation
    if pixels is None:
        raise BadInput("The file is damaged and cannot be read. Send the photo again.", "truncated")
    return np.asarray(pixels, np.uint8)


def _exposure(exif: Image.Exif) -> float | None:
    """Light gathered, in seconds at ISO 100 and f/1: t * (S / 100) / N^2 (ISO 2720), None when EXIF lacks one of the three."""
    time_s, speed, stop = (
        exif_number(exif, tag)
        for tag in (ExifTags.Base.ExposureTime, ExifTags.Base.ISOSpeedRatings, ExifTags.Base.FNumber)
    )
    if not (time_s and speed and stop and min(time_s, speed) > 0 and stop * stop > 0):
        return None
    value = time_s * speed / 100 / (stop * stop)
    return value if np.isfinite(value) and value > 0 else None


def _focal(exif: Image.Exif) -> float | None:
    value = exif_number(exif, ExifTags.Base.FocalLengthIn35mmFilm)
    return value if value is not None and PLAUSIBLE_35MM[0] <= value <= PLAUSIBLE_35MM[1] else None


def _balance_locked(exif: Image.Exif) -> bool | None:
    """EXIF 2.3, WhiteBalance: 0 is automatic, 1 by hand."""
    told = exif_number(exif, ExifTags.Base.WhiteBalance)
    return None if told is None else {0: False, 1: True}.get(int(told))


def _processed(data: bytes, exif: Image.Exif) -> list[Problem]:
    """What the camera says it did to the picture beyond developing it."""
    problems = []
    if (
        has_gain_map(data)
        or (exif_number(exif, ExifTags.Base.CustomRendered) or 0) >= COMPOSED
        or exif_number(exif, ExifTags.Base.SceneCaptureType) == NIGHT_SCENE
    ):
        problems.append(
            Problem(
                code="composed",
                message=(
                    "The camera composed this picture of several (HDR, night or portrait mode), which changes light by place: it proves no evenness, "
                    "brightness or greys. Switch such modes off, or use the camera's manual mode, and shoot again."
                ),
            )
        )
    zoom = exif_number(exif, ExifTags.Base.DigitalZoomRatio) or 1.0
    if zoom > ZOOMED:
        problems.append(
            Problem(
                code="zoomed",
                message=(
                    f"Enlarged {zoom:.1f} times by the camera's digital zoom, which adds pixels but nothing to see. Go closer, or use the lens "
                    "that is made for it."
                ),
            )
        )
    return problems
