"""The mosaic of a phone's sensor as a raw photo in the DNG form (DNG specification 1.4, from memory), uncompressed, 12 of 16 bits."""

import struct
from fractions import Fraction

import numpy as np

from lens.simulate.developing import SENSITIVITY
from lens.simulate.exposing import Exposure, Float, Phone

BLACK, WHITE = 256, 4095  # of the converter's numbers
BYTE, ASCII, SHORT, LONG, RATIONAL, UNDEFINED, SIGNED_RATIONAL = 1, 2, 3, 4, 5, 7, 10
SIZES = {BYTE: 1, ASCII: 1, SHORT: 2, LONG: 4, RATIONAL: 8, UNDEFINED: 1, SIGNED_RATIONAL: 8}
Field = tuple[int, int, bytes]
# sRGB's primaries in XYZ, D65 (IEC 61966-2-1)
XYZ_OF_SRGB = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])


def _numbers(tag: int, kind: int, *values: float) -> Field:
    if kind in (RATIONAL, SIGNED_RATIONAL):
        parts = [Fraction(float(value)).limit_denominator(10_000_000) for value in values]
        code = "2I" if kind == RATIONAL else "2i"
        return tag, kind, b"".join(struct.pack(f"<{code}", one.numerator, one.denominator) for one in parts)
    code = {BYTE: "B", UNDEFINED: "B", SHORT: "H", LONG: "I"}[kind]
    return tag, kind, struct.pack(f"<{len(values)}{code}", *(int(value) for value in values))


def _directory(fields: list[Field], at: int) -> bytes:
    """A directory that stands at ``at``, its longer values behind it."""
    beyond = at + 2 + 12 * len(fields) + 4
    entries, values = b"", b""
    for tag, kind, data in sorted(fields):
        told = data.ljust(4, b"\0") if len(data) <= 4 else struct.pack("<I", beyond + len(values))
        entries += struct.pack("<HHI", tag, kind, len(data) // SIZES[kind]) + told
        if len(data) > 4:
            values += data + b"\0" * (len(data) % 2)
    return struct.pack("<H", len(fields)) + entries + struct.pack("<I", 0) + values


def dng_of(mosaic: Float, phone: Phone, exposure: Exposure) -> bytes:
    """The file of a (h, w) mosaic, 1 where the converter ends, order RGGB; with its exposure and what white looks like to the sensor."""
    height, width = mosaic.shape
    codes = np.clip(np.rint(mosaic * (WHITE - BLACK) + BLACK), 0, WHITE).astype("<u2").tobytes()
    white = SENSITIVITY.sum(axis=1) / SENSITIVITY[1].sum()
    neutral = (float(white[0] / phone.balance[0]), 1.0, float(white[2] / phone.balance[1]))
    matrix = (SENSITIVITY / SENSITIVITY[1].sum()) @ np.linalg.inv(XYZ_OF_SRGB)
    exif = [
        _numbers(33434, RATIONAL, exposure.time_s),
        _numbers(33437, RATIONAL, phone.camera.f_number),
        _numbers(34855, SHORT, exposure.iso),
        _numbers(41989, SHORT, round(phone.camera.focal_length_35mm)),
    ]
    main = [
        _numbers(254, LONG, 0),
        _numbers(256, LONG, width),
        _numbers(257, LONG, height),
        _numbers(258, SHORT, 16),
        _numbers(259, SHORT, 1),
        _numbers(262, SHORT, 32803),
        _numbers(273, LONG, 0),
        _numbers(274, SHORT, 1),
        _numbers(277, SHORT, 1),
        _numbers(278, LONG, height),
        _numbers(279, LONG, len(codes)),
        _numbers(284, SHORT, 1),
        _numbers(33421, SHORT, 2, 2),
        _numbers(33422, BYTE, 0, 1, 1, 2),
        _numbers(34665, LONG, 0),
        _numbers(50706, BYTE, 1, 4, 0, 0),
        _numbers(50707, BYTE, 1, 3, 0, 0),
        (50708, ASCII, b"Simulated phone\0"),
        _numbers(50714, SHORT, BLACK),
        _numbers(50717, SHORT, WHITE),
        _numbers(50721, SIGNED_RATIONAL, *matrix.ravel()),
        _numbers(50728, RATIONAL, *neutral),
        _numbers(50778, SHORT, 21),
    ]
    exif_at = 8 + len(_directory(main, 8))
    codes_at = exif_at + len(_directory(exif, exif_at))
    main = [
        _numbers(tag, LONG, {273: codes_at, 34665: exif_at}[tag]) if tag in (273, 34665) else (tag, kind, data)
        for tag, kind, data in main
    ]
    return b"II*\0" + struct.pack("<I", 8) + _directory(main, 8) + _directory(exif, exif_at) + codes
