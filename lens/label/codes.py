"""Barcodes, QR and Data Matrix codes in a photo, by a library."""

from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.label.bars import bar_fields
from lens.records.base import Record

TRIED_SCALES = (1.0, 0.5, 2.0)  # small modules are found enlarged, blurred large ones reduced
LARGEST_ENLARGED_PX = 4_000_000
SHARPEN_SIGMA_PX, SHARPEN_BY = 2.0, 2.0  # what a lens slightly out of focus takes from modules of four px

Seen = tuple[NDArray[np.uint8], NDArray[np.float64]]  # a picture, and 2 x 3 from its pixels to the photo's


class Code(Record):
    """``corners``: in photo pixels, in the code's own order."""

    format: str
    text: str
    corners: tuple[tuple[float, float], ...] = ()


def read_codes(grey: NDArray[np.uint8]) -> tuple[Code, ...]:
    """Every code of a grey photo, once each; the first way of looking that shows any is taken."""
    for seen in _ways(grey):
        found: dict[tuple[str, str], Code] = {}
        for picture, to_photo in seen:
            for code in _read(picture, to_photo):
                found.setdefault((code.format, code.text), code)
        if found:
            return tuple(found.values())
    return ()


def _ways(grey: NDArray[np.uint8]) -> Iterator[list[Seen]]:
    """Ways of looking at a photo, the cheap ones first: as it is together with its fields of bars turned upright, in other sizes, sharpened."""
    fields: list[Seen] = [(field.grey, field.to_photo) for field in bar_fields(grey)]
    for scale in TRIED_SCALES:
        if scale == 1:
            yield [(grey, np.eye(2, 3)), *fields]
        elif scale < 1 or grey.size <= LARGEST_ENLARGED_PX:
            way = cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC
            sized = np.asarray(cv2.resize(grey, None, fx=scale, fy=scale, interpolation=way), np.uint8)
            yield [(sized, np.array([[1 / scale, 0, 0], [0, 1 / scale, 0]]))]
    softer = [
        (_sharpened(picture, 2 * SHARPEN_SIGMA_PX), back) for picture, back in fields
    ]  # fields are enlarged twice
    yield [*softer, (_sharpened(grey, SHARPEN_SIGMA_PX), np.eye(2, 3))]


def _sharpened(grey: NDArray[np.uint8], sigma_px: float) -> NDArray[np.uint8]:
    return np.asarray(
        cv2.addWeighted(grey, 1 + SHARPEN_BY, cv2.GaussianBlur(grey, (0, 0), sigma_px), -SHARPEN_BY, 0), np.uint8
    )


def _read(picture: NDArray[np.uint8], to_photo: NDArray[np.float64]) -> Iterator[Code]:
    import zxingcpp  # only where labels are read

    for one in zxingcpp.read_barcodes(np.ascontiguousarray(picture)):
        text = one.text.strip()
        if not one.valid or not text:
            continue
        at = one.position
        corners = np.array([(p.x, p.y, 1.0) for p in (at.top_left, at.top_right, at.bottom_right, at.bottom_left)])
        placed = [(float(x), float(y)) for x, y in corners @ to_photo.T]
        yield Code(format=one.format.name, text=text[:500], corners=tuple(placed))
