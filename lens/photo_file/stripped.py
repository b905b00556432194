"""Photos without location and personal data; also a program of its own, which may be given limits."""

import io
import json
import sys

from PIL import ExifTags, Image, ImageOps

from lens.errors import BadInput
from lens.photo_file.opening import COMPOSED, checked_load, checked_raw_size, guarded, has_gain_map, opened
from lens.tiff import GPS, is_dng, without_tags

# of a raw photo, which is kept as it came but for these: names, places, dates, numbers of body and lens, notes and pictures of the maker's own
PERSONAL_TAGS = frozenset(
    (
        *(
            270,
            306,
            315,
            316,
            700,
            33432,
            33723,
            34377,
            GPS,
            36867,
            36868,
            36880,
            36881,
            36882,
            37500,
            37510,
            37520,
            37521,
        ),
        *(37522, 42016, 42032, 42033, 42037, 50735, 50740, 50781, 50827, 50828),
    )
)
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


def strip_metadata(data: bytes) -> bytes:
    """The same photo without location and personal data: pixels untouched, orientation and exposure kept.

    JPEG keeps its compressed data byte for byte; only its APP1, APP2+ (except colour profile and Adobe) and comment segments are
    replaced. Other formats are written anew, losslessly.
    """
    with guarded():
        return _strip(data)


def _strip(data: bytes) -> bytes:
    if is_dng(data):
        checked_raw_size(data)
        return without_tags(data, PERSONAL_TAGS)
    image = opened(data)
    kept = Image.Exif()
    source = image.getexif()
    if ExifTags.Base.Orientation in source:
        kept[ExifTags.Base.Orientation] = source[ExifTags.Base.Orientation]
    try:
        block, target = source.get_ifd(ExifTags.IFD.Exif), kept.get_ifd(ExifTags.IFD.Exif)
        for tag in KEPT_TAGS:
            if tag in block:
                target[tag] = block[tag]
        if has_gain_map(data):  # the map goes with the other segments, what it says of the picture stays
            target[ExifTags.Base.CustomRendered] = COMPOSED
    except (SyntaxError, OSError, ValueError):
        pass  # a damaged EXIF block says nothing worth keeping
    if image.format in ("JPEG", "MPO"):
        return _jpeg_without_segments(data, kept.tobytes())
    checked_load(image)
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
