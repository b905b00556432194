"""The photo smoothed with the shape that one panel pixel has in it and looked up at the centre of every panel pixel."""

import math
from concurrent.futures import ThreadPoolExecutor
from itertools import product
from queue import SimpleQueue

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.photo.blocks import Image
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE
from lens.photo.registration import NODE_PX, Registration

CLIPPED_CODE = 254
REACH_SIGMAS = (
    3.0  # of the filter, to the outer edge of its last tap: what is cut off is under a hundredth of its weight
)
LEAST_TAPS = 5
LEAST_SIDE_PX = 16
TILE_PX = (
    288,
    480,
)  # rows and columns sampled at a time: a whole photo in floats would take hundreds of megabytes, and wide ones lie aslant
_LIGHT_OF_CODE = (LINEAR_OF_CODE / FULL_SCALE).astype(np.float32).reshape(256, 1)


class _Rooms:
    """Memory that one thread works on tile after tile in: fresh memory costs more than the arithmetic done in it."""

    def __init__(self) -> None:
        self._rooms: dict[str, Image] = {}

    def of(self, name: str, shape: tuple[int, ...]) -> Image:
        size = math.prod(shape)
        if name not in self._rooms or self._rooms[name].size < size:
            self._rooms[name] = np.empty(size, np.float32)
        return self._rooms[name][:size].reshape(shape)


def _parts(size: int, most: int) -> list[slice]:
    """Parts of about one size, of at most so many pixels, that begin with a cell of the lattice of nodes."""
    step = math.ceil(size / math.ceil(size / most) / NODE_PX) * NODE_PX
    return [slice(start, min(start + step, size)) for start in range(0, size, step)]


def filtered(
    panel: Panel, pixels: NDArray[np.uint8], registration: Registration, filter_px: float, threads: int
) -> tuple[Image, NDArray[np.bool_], NDArray[np.uint8]]:
    """(3, H, W) float32 of linear light after the matched filter, B, G, R; pixels inside the photo; and at which pixels which channels are at
    the end of the scale, bit 0 for the first.

    pixels : (h, w, 3) uint8
    filter_px : sigma of the filter, photo px
    threads : that share the work
    """
    height, width = pixels.shape[:2]
    nodes = registration.nodes(panel)
    inside, clipped = np.ones((panel.height, panel.width), bool), np.zeros((panel.height, panel.width), np.uint8)
    planes = np.zeros((3, *inside.shape), np.float32)
    taps = max(LEAST_TAPS, 2 * math.ceil(REACH_SIGMAS * filter_px - 0.5) + 1)
    pad = taps // 2 + 2
    idle = SimpleQueue[_Rooms]()
    for _ in range(threads):
        idle.put(_Rooms())

    def look_up(tile: tuple[slice, slice]) -> None:
        own = nodes.part(*tile)
        (left, upper), (right, lower) = own.bounds
        if left <= 1 or upper <= 1 or right >= width - 2 or lower >= height - 2:
            x, y = cv2.split(own.dense())
            inside[tile] = (x > 1) & (x < width - 2) & (y > 1) & (y < height - 2)
        x0, y0 = max(0, int(left) - pad), max(0, int(upper) - pad)
        crop = pixels[y0 : int(lower) + pad, x0 : int(right) + pad] if right > 0 and lower > 0 else pixels[:0, :0]
        if min(crop.shape[:2]) < LEAST_SIDE_PX:
            return
        at = own.dense(x0, y0)
        if crop.max() >= CLIPPED_CODE:
            ends = cv2.threshold(crop, CLIPPED_CODE - 1, 1, cv2.THRESH_BINARY)[1]
            spread = cv2.dilate(ends, np.ones((3, 3), np.uint8))
            seen_ends = np.asarray(cv2.remap(spread, at, None, cv2.INTER_NEAREST), np.uint8)
            clipped[tile] = seen_ends[..., 0] | seen_ends[..., 1] << 1 | seen_ends[..., 2] << 2
        rooms = idle.get()
        try:
            light = cv2.LUT(crop, _LIGHT_OF_CODE, dst=rooms.of("light", crop.shape))
            light = cv2.GaussianBlur(light, (taps, taps), filter_px, dst=rooms.of("smooth", crop.shape))
            seen = cv2.remap(
                light,
                at,
                None,
                cv2.INTER_LINEAR,
                dst=rooms.of("seen", (*at.shape[:2], 3)),
                borderMode=cv2.BORDER_REPLICATE,
            )
            cv2.split(seen, [plane[tile] for plane in planes])
        finally:
            idle.put(rooms)

    with ThreadPoolExecutor(threads) as pool:
        for _ in pool.map(look_up, product(_parts(panel.height, TILE_PX[0]), _parts(panel.width, TILE_PX[1]))):
            pass
    return planes, inside, clipped
