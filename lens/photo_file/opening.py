"""A photo file opened, defensively: its type by its content, its size from its head, before anything is decoded."""

import contextlib
import io
import warnings
from collections.abc import Iterator

import numpy as np
from PIL import ExifTags, Image
from pillow_heif import register_heif_opener

from lens.errors import BadInput

register_heif_opener()

MAX_BYTES = 60 * 1024 * 1024
MAX_PIXELS = 110_000_000
SAMPLE_DOWN_ABOVE_PX = 50_000_000
MIN_SIDE_PX = 200
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
COMPOSED = 2  # EXIF 2.3 knows 0 and 1 of CustomRendered; cameras use further ones for HDR, portrait and panorama pictures (common practice)
GAIN_MAP = (
    b"urn:iso:std:iso:ts:21496",
    b"hdrgm:",
)  # ISO 21496-1, and the namespace that came before it: in the segments before the picture
HEAD_BYTES = 256 * 1024
_HOW = "Send a JPEG, PNG, WebP, HEIC, TIFF or DNG photo straight from the camera."


def check_bytes(data: bytes) -> None:
    if not data:
        raise BadInput(f"The file is empty. {_HOW}", "empty_file")
    if len(data) > MAX_BYTES:
        raise BadInput(
            f"The file has {len(data) / 2**20:.0f} MB; at most 60 MB can be read. Save it as JPEG or at a lower resolution.",
            "file_too_large",
        )


def check_size(width: int, height: int) -> None:
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


def opened(data: bytes) -> Image.Image:
    check_bytes(data)
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
    check_size(*image.size)
    return image


def checked_load(image: Image.Image) -> None:
    try:
        image.load()
    except Exception:
        raise truncated() from None


def truncated() -> BadInput:
    return BadInput(
        "The file is cut short or damaged, so part of the picture is missing. Send the photo again.", "truncated"
    )


@contextlib.contextmanager
def guarded() -> Iterator[None]:
    """Whatever a decoder raises over a damaged file is bad input; what the machine lacks is not."""
    try:
        yield
    except (BadInput, MemoryError):
        raise
    except Exception:
        raise truncated() from None


def exif_number(exif: Image.Exif, tag: ExifTags.Base) -> float | None:
    """A number of the EXIF block, None where it lacks it or holds no number there."""
    try:
        value = exif.get_ifd(ExifTags.IFD.Exif)[tag]
        number = float(value[0] if isinstance(value, tuple) else value)
    except (KeyError, ValueError, TypeError, ZeroDivisionError, SyntaxError, OSError, IndexError):
        return None
    return number if np.isfinite(number) else None


def has_gain_map(data: bytes) -> bool:
    return any(name in data[:HEAD_BYTES] for name in GAIN_MAP)


def checked_raw_size(data: bytes) -> tuple[int, int]:
    from lens.photo_file.raw_file import raw_size

    check_bytes(data)
    width, height = raw_size(data)
    check_size(width, height)
    return width, height
