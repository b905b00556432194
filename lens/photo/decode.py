"""Photo files to pixels, defensively: type by content, size limits, EXIF orientation, no location data."""

import contextlib
import io
import json
import sys
import warnings
from collections.abc import Iterator
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import ExifTags, Image, ImageFile, ImageOps
from pillow_heif import register_heif_opener

from lens.errors import BadInput
from lens.records import Problem

register_heif_opener()

MAX_BYTES = 60 * 1024 * 1024
MAX_PIXELS = 110_000_000
SAMPLE_DOWN_ABOVE_PX = 50_000_000
MIN_SIDE_PX = 200
PLAUSIBLE_35MM = (8, 400)
ACCEPTED = ("JPEG", "PNG", "WEBP", "HEIF", "TIFF", "MPO")
# told by their first bytes alone; nothing of them is parsed
OTHERS = {
    b"GIF8": "GIF",
    b"BM": "BMP",
    b"%!PS": "PostScript",
    b"%PDF": "PDF",
    b"\x00\x00\x01\x00": "ICO",
    b"PK\x03\x04": "ZIP",
}
KEPT_TAGS = (
    ExifTags.Base.ExposureTime,
    ExifTags.Base.ISOSpeedRatings,
    ExifTags.Base.FNumber,
    ExifTags.Base.FocalLength,
    ExifTags.Base.FocalLengthIn35mmFilm,
    ExifTags.Base.WhiteBalance,
    ExifTags.Base.CustomRendered,
    ExifTags.Base.SceneCaptureType,
    ExifTags.Base.DigitalZoomRatio,
)
NIGHT_SCENE = 3  # EXIF 2.3, SceneCaptureType
COMPOSED = 2  # EXIF 2.3 knows 0 and 1 of CustomRendered; cameras use further ones for HDR, portrait and panorama pictures (common practice)
ZOOMED = 1.05
GAIN_MAP = (
    b"urn:iso:std:iso:ts:21496",
    b"hdrgm:",
)  # ISO 21496-1, and the namespace that came before it: in the segments before the picture
HEAD_BYTES = 256 * 1024
_HOW = "Send a JPEG, PNG, WebP, HEIC or TIFF photo straight from the camera."


class Decoded(NamedTuple):
    """``pixels`` is (h, w, 3) uint8 in B, G, R order, upright; ``exposure_s`` (at ISO 100 and f/1) and ``focal_35mm`` (of the lens that
    sees as wide on film of 36 x 24 mm) are None when the file does not say; so is ``balance_locked``, whether the white balance was set by
    hand; ``composed`` when the camera changed light by place."""

    pixels: NDArray[np.uint8]
    exposure_s: float | None
    problems: tuple[Problem, ...]
    focal_35mm: float | None = None
    balance_locked: bool | None = None
    composed: bool = False


def _open(data: bytes) -> Image.Image:
    if not data:
        raise BadInput(f"The file is empty. {_HOW}", "empty_file")
    if len(data) > MAX_BYTES:
        raise BadInput(
            f"The file has {len(data) / 2**20:.0f} MB; at most 60 MB can be read. Save it as JPEG or at a lower resolution.",
            "file_too_large",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # Pillow warns of large pictures; the limit below is ours
            image = Image.open(
                io.BytesIO(data), formats=ACCEPTED
            )  # others are not even looked at: some would start programs
    except Image.DecompressionBombError:
        raise BadInput(
            "The picture has more than 110 million pixels. Shoot at a lower resolution.", "too_many_pixels"
        ) from None
    except Exception:  # decoders raise whatever a damaged file leads them to
        other = next((name for head, name in OTHERS.items() if data.startswith(head)), None)
        words = f"{other} files are not read." if other else "This is not a photo that can be read."
        raise BadInput(f"{words} {_HOW}", "not_an_image") from None
    if getattr(image, "n_frames", 1) > 1 and image.format != "MPO":
        raise BadInput("The file holds several pictures (animated or multi-page). Send single photos.", "animated")
    width, height = image.size
    if width * height > MAX_PIXELS:
        raise BadInput(
            f"The picture has {width}x{height} pixels; at most 110 million can be read. Shoot at a lower resolution.",
            "too_many_pixels",
        )
    if min(width, height) < MIN_SIDE_PX:
        raise BadInput(
            f"The picture has only {width}x{height} pixels, too few to show a panel. Send the original photo, not a preview.",
            "too_small",
        )
    return image


def _with_pillow(image: Image.Image) -> NDArray[np.uint8]:
    upright = ImageOps.exif_transpose(image)
    return np.ascontiguousarray(np.asarray(upright.convert("RGB"))[..., ::-1])


def _checked_load(image: Image.Image) -> None:
    try:
        image.load()
    except Exception:
        raise _truncated() from None


def _truncated() -> BadInput:
    return BadInput(
        "The file is cut short or damaged, so part of the picture is missing. Send the photo again.", "truncated"
    )


def decode(data: bytes) -> Decoded:
    """Pixels of a photo file, upright, in at most 50 million pixels.

    Raises
    ------
    BadInput
        when the file is empty, too large, cut short, animated, in a colour space that is not RGB, or no picture.
    """
    with _guarded():
        return _decode(data)


@contextlib.contextmanager
def _guarded() -> Iterator[None]:
    """Whatever a decoder raises over a damaged file is bad input; what the machine lacks is not."""
    try:
        yield
    except (BadInput, MemoryError):
        raise
    except Exception:
        raise _truncated() from None


def _decode(data: bytes) -> Decoded:
    image = _open(data)
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
    exposure_s = _exposure(image)
    if image.format in ("JPEG", "MPO"):
        pixels = _jpeg(data, image)
    else:
        _checked_load(image)
        pixels = _with_pillow(image)
    if pixels.shape[0] * pixels.shape[1] > SAMPLE_DOWN_ABOVE_PX:
        was = pixels.shape
        pixels = np.asarray(cv2.resize(pixels, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.uint8)
        problems.append(
            Problem(
                code="sampled_down",
                message=f"The photo has {was[1]}x{was[0]} pixels and was read at half that size; up to 50 million are read in full.",
            )
        )
    processed = _processed(data, image)
    return Decoded(
        pixels=pixels,
        exposure_s=exposure_s,
        problems=(*problems, *processed),
        focal_35mm=_focal(image),
        balance_locked=_balance_locked(image),
        composed=any(problem.code == "composed" for problem in processed),
    )


def upright_size(data: bytes) -> tuple[int, int]:
    """(width, height) in pixels of a photo as it is shown, from its head alone; raises BadInput."""
    with _guarded():
        image = _open(data)
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
        image = _open(data)
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
        _checked_load(image)
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)  # obeys the EXIF orientation
    if pixels is None:
        raise BadInput("The file is damaged and cannot be read. Send the photo again.", "truncated")
    return np.asarray(pixels, np.uint8)


def _exif(image: Image.Image, tag: ExifTags.Base) -> float | None:
    """A number of the EXIF block, None where it lacks it or holds no number there."""
    try:
        value = image.getexif().get_ifd(ExifTags.IFD.Exif)[tag]
        number = float(value[0] if isinstance(value, tuple) else value)
    except (KeyError, ValueError, TypeError, ZeroDivisionError, SyntaxError, OSError, IndexError):
        return None
    return number if np.isfinite(number) else None


def _exposure(image: Image.Image) -> float | None:
    """Light gathered, in seconds at ISO 100 and f/1: t * (S / 100) / N^2 (ISO 2720), None when EXIF lacks one of the three."""
    time_s, speed, stop = (
        _exif(image, tag) for tag in (ExifTags.Base.ExposureTime, ExifTags.Base.ISOSpeedRatings, ExifTags.Base.FNumber)
    )
    if not (time_s and speed and stop and min(time_s, speed) > 0 and stop * stop > 0):
        return None
    value = time_s * speed / 100 / (stop * stop)
    return value if np.isfinite(value) and value > 0 else None


def _focal(image: Image.Image) -> float | None:
    value = _exif(image, ExifTags.Base.FocalLengthIn35mmFilm)
    return value if value is not None and PLAUSIBLE_35MM[0] <= value <= PLAUSIBLE_35MM[1] else None


def _balance_locked(image: Image.Image) -> bool | None:
    """EXIF 2.3, WhiteBalance: 0 is automatic, 1 by hand."""
    told = _exif(image, ExifTags.Base.WhiteBalance)
    return None if told is None else {0: False, 1: True}.get(int(told))


def _has_gain_map(data: bytes) -> bool:
    return any(name in data[:HEAD_BYTES] for name in GAIN_MAP)


def _processed(data: bytes, image: Image.Image) -> list[Problem]:
    """What the camera says it did to the picture beyond developing it."""
    problems = []
    if (
        _has_gain_map(data)
        or (_exif(image, ExifTags.Base.CustomRendered) or 0) >= COMPOSED
        or _exif(image, ExifTags.Base.SceneCaptureType) == NIGHT_SCENE
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
    zoom = _exif(image, ExifTags.Base.DigitalZoomRatio) or 1.0
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


def strip_metadata(data: bytes) -> bytes:
    """The same photo without location and personal data: pixels untouched, orientation and exposure kept.

    JPEG keeps its compressed data byte for byte; only its APP1, APP2+ (except colour profile and Adobe) and comment segments are
    replaced. Other formats are written anew, losslessly.
    """
    with _guarded():
        return _strip(data)


def _strip(data: bytes) -> bytes:
    image = _open(data)
    kept = Image.Exif()
    source = image.getexif()
    if ExifTags.Base.Orientation in source:
        kept[ExifTags.Base.Orientation] = source[ExifTags.Base.Orientation]
    try:
        block, target = source.get_ifd(ExifTags.IFD.Exif), kept.get_ifd(ExifTags.IFD.Exif)
        for tag in KEPT_TAGS:
            if tag in block:
                target[tag] = block[tag]
        if _has_gain_map(data):  # the map goes with the other segments, what it says of the picture stays
            target[ExifTags.Base.CustomRendered] = COMPOSED
    except (SyntaxError, OSError, ValueError):
        pass  # a damaged EXIF block says nothing worth keeping
    if image.format in ("JPEG", "MPO"):
        return _jpeg_without_segments(data, kept.tobytes())
    _checked_load(image)
    buffer = io.BytesIO()
    upright = ImageOps.exif_transpose(image)
    if upright.mode not in ("RGB", "L"):
        upright = upright.convert("RGB")
    upright.info.clear()
    upright.save(buffer, "PNG", compress_level=1)
    return buffer.getvalue()


def _jpeg_without_segments(data: bytes, exif: bytes) -> bytes:
    out, at = bytearray(b"\xff\xd8"), 2
    payload = exif if exif.startswith(b"Exif\x00\x00") else b"Exif\x00\x00" + exif
    out += b"\xff\xe1" + (len(payload) + 2).to_bytes(2, "big") + payload
    while at + 4 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == 0xFF:
            at += 1
            continue
        size = int.from_bytes(data[at + 2 : at + 4], "big")
        segment = data[at : at + 2 + size]
        if marker == 0xDA:
            end = data.rfind(b"\xff\xd9")
            return bytes(out + (data[at : end + 2] if end > at else data[at:]))
        personal = marker == 0xFE or (
            0xE1 <= marker <= 0xEF and marker != 0xEE and not segment[4:].startswith(b"ICC_PROFILE")
        )
        if not personal:
            out += segment
        at += 2 + size
    return bytes(out + data[at:])


def main() -> int:
    """Strip the photo on standard input as a process of its own, which may be given limits; exit 2 with code and message for bad input."""
    try:
        sys.stdout.buffer.write(strip_metadata(sys.stdin.buffer.read()))
    except BadInput as problem:
        print(json.dumps([problem.code, problem.message]), file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
