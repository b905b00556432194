"""A whole photo as the panel shows it: upright, in the panel's own pixels, cut into tiles of several sizes, so that it is looked at down to the
pixel without the whole of it being loaded. Beside the photo itself, what in it differs from what was sent."""

import math
from collections.abc import Iterator
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import Pattern, render
from lens.photo.closeup import registration_of
from lens.records import PhotoMap
from lens.srgb import srgb_to_linear

View = Literal["photo", "difference"]
VIEWS: tuple[View, ...] = ("photo", "difference")
TILE_PX = 512
STRIP_PX = 256  # panel rows at a time, a multiple of the registration's nodes: a strip of a 3840 px wide panel at twice its size takes 12 MB
MOST_PX = 40_000_000  # of the rectified photo: one byte a colour, 120 MB
JPEG_QUALITY = 88
SURROUNDINGS_SHARE = 1 / 6  # of the panel's width: what is wider than this is the light's own fall-off, not a fault
LIT_SHARE = 0.05  # of full drive, linear: darker than this there is no light to hold a place to
FULL_COLOUR = 0.25  # of the light around it: a stuck subpixel of a white pixel takes a third
FULL_COLOUR_DARK = 0.02  # of white: in a dark pattern light is told against the white of its own markers
DARKER, EVEN, BRIGHTER = (255.0, 150.0, 40.0), (52.0, 52.0, 52.0), (30.0, 160.0, 255.0)  # B, G, R


class Size(NamedTuple):
    """``scale``: px of the finest level per panel px, a power of two; ``levels``: each half as large as the one before."""

    scale: int
    width: int
    height: int
    levels: int


class Tile(NamedTuple):
    """Level 0 is the finest. ``jpeg`` is at most TILE_PX a side."""

    level: int
    column: int
    row: int
    jpeg: bytes


def rectified_size(panel: Panel, photo_map: PhotoMap) -> Size:
    """How large the rectified photo is: no detail of the photo is lost, and none is made up beyond the next power of two."""
    middle = np.array([[panel.width / 2, panel.height / 2]])
    px_per_px = float(registration_of(photo_map).scale_at(middle)[0])
    scale = 1
    while scale < 4 and scale < 0.8 * px_per_px and (2 * scale) ** 2 * panel.width * panel.height <= MOST_PX:
        scale *= 2
    width, height = scale * panel.width, scale * panel.height
    return Size(scale, width, height, 1 + max(0, math.ceil(math.log2(max(width, height) / TILE_PX))))


def rectified(pixels: NDArray[np.uint8], panel: Panel, photo_map: PhotoMap, scale: int) -> NDArray[np.uint8]:
    """(scale * height, scale * width, 3) uint8, B, G, R; what the photo does not show is grey.

    Each panel px is ``scale`` px a side: the centre of panel pixel 0 lies at (scale - 1) / 2.
    """
    nodes = registration_of(photo_map).nodes(panel)
    out = np.full((scale * panel.height, scale * panel.width, 3), 128, np.uint8)
    for top in range(0, panel.height, STRIP_PX):
        below = min(panel.height, top + STRIP_PX)
        strip = nodes.part(slice(top, below), slice(0, panel.width))
        least, most = strip.bounds
        x0, y0 = (max(0, math.floor(value) - 3) for value in least)
        x1, y1 = (math.ceil(value) + 4 for value in most)
        crop = pixels[y0 : max(y0, y1), x0 : max(x0, x1)]
        if crop.size == 0:
            continue
        at = strip.dense(x0, y0, scale)
        out[scale * top : scale * below] = cv2.remap(
            crop, at[..., 0], at[..., 1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT, borderValue=(128, 128, 128)
        )
    return out


def _luminance(bgr: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(h, w) linear light, Rec. 709 weights, 0 to 1."""
    table = srgb_to_linear(np.arange(256)).astype(np.float32)
    return np.asarray(cv2.transform(table[bgr], np.array([[0.0722, 0.7152, 0.2126]], np.float32)), np.float32)


def difference(flat: NDArray[np.uint8], panel: Panel, pattern: Pattern, run: int, scale: int) -> NDArray[np.uint8]:
    """What differs from what was sent, as colours: orange is brighter, blue darker than it should be by what surrounds it.

    Where the pattern is lit, full colour is a quarter of the light around; where it is dark, 2 % of the photo's brightest light.

    Parameters
    ----------
    flat : as `rectified` gives it
    run : the run's own code, which the markers carry
    """
    seen = _luminance(flat)
    size = (seen.shape[1], seen.shape[0])
    sent = _luminance(np.ascontiguousarray(render(panel, pattern, run)[..., ::-1]))
    sent = np.asarray(cv2.resize(sent, size, interpolation=cv2.INTER_LINEAR), np.float32)
    window = max(9, int(SURROUNDINGS_SHARE * size[0]) | 1)
    around, sent_around = (cv2.blur(part, (window, window)) for part in (seen, sent))
    lit = sent > LIT_SHARE
    # a gain that follows the light where something was sent; what is dark in a lit pattern is held to the same gain
    gain = around / np.maximum(sent_around, 1e-4)
    if float(lit.mean()) > 0.5:
        off = (seen / np.maximum(gain * sent, 1e-4) - 1) / FULL_COLOUR
        off = np.where(lit, off, (seen - gain * sent) / np.maximum(around, 1e-4) / FULL_COLOUR)
    else:
        brightest = max(float(np.percentile(seen, 99.9)), 1e-3)
        dark = np.where(lit, 0, seen)
        ground = cv2.blur(dark, (window, window)) / np.maximum(
            cv2.blur((~lit).astype(np.float32), (window, window)), 1e-3
        )
        off = np.where(lit, 0, (seen - ground) / brightest / FULL_COLOUR_DARK)
    share = np.clip(off, -1, 1)[..., None].astype(np.float32)
    even, darker, brighter = (np.array(colour, np.float32) for colour in (EVEN, DARKER, BRIGHTER))
    return np.where(share < 0, even - share * (darker - even), even + share * (brighter - even)).astype(np.uint8)


def tiles(picture: NDArray[np.uint8], levels: int) -> Iterator[Tile]:
    """The picture in tiles, the finest level first; each level is half of the one before."""
    for level in range(levels):
        for row, top in enumerate(range(0, picture.shape[0], TILE_PX)):
            for column, left in enumerate(range(0, picture.shape[1], TILE_PX)):
                cut = np.ascontiguousarray(picture[top : top + TILE_PX, left : left + TILE_PX])
                done, data = cv2.imencode(".jpg", cut, [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY])
                if not done:
                    raise RuntimeError("the JPEG encoder refused a tile")
                yield Tile(level, column, row, data.tobytes())
        half = (max(1, math.ceil(picture.shape[1] / 2)), max(1, math.ceil(picture.shape[0] / 2)))
        picture = np.asarray(cv2.resize(picture, half, interpolation=cv2.INTER_AREA), np.uint8)
