"""Barcodes, QR and Data Matrix codes in a photo, by a library."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.records.base import Record

TRIED_SCALES = (1.0, 0.5, 2.0)  # small modules are found enlarged, blurred large ones reduced
LARGEST_ENLARGED_PX = 4_000_000


class Code(Record):
    """``corners``: in photo pixels, in the code's own order."""

    format: str
    text: str
    corners: tuple[tuple[float, float], ...] = ()


def read_codes(grey: NDArray[np.uint8]) -> tuple[Code, ...]:
    """Every code of a grey photo, once each; the first scale that shows any is taken."""
    import zxingcpp  # only where labels are read

    for scale in TRIED_SCALES:
        if scale > 1 and grey.size > LARGEST_ENLARGED_PX:
            continue
        sized = (
            grey
            if scale == 1
            else cv2.resize(
                grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC
            )
        )
        found: dict[tuple[str, str], Code] = {}
        for one in zxingcpp.read_barcodes(np.ascontiguousarray(sized)):
            name, text = one.format.name, one.text.strip()
            if not one.valid or not text:
                continue
            at = one.position
            corners = tuple(
                (p.x / scale, p.y / scale) for p in (at.top_left, at.top_right, at.bottom_right, at.bottom_left)
            )
            found.setdefault((name, text), Code(format=name, text=text[:500], corners=corners))
        if found:
            return tuple(found.values())
    return ()
