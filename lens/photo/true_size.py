"""Whether one pixel of the pattern is one pixel of the panel, told from the lattice of the panel's own pixels in the photo.

The stripes between a panel's pixels are far finer than a phone resolves, but they repeat without a fault over the whole panel, so
their wave adds up over a million samples where noise does not (a lock-in, or matched filter for a known wave). In panel coordinates
its frequency is one cycle a pixel where the picture is shown at its true size, and another where it is scaled.
"""

from collections.abc import Sequence
from functools import cache
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.medians import median
from lens.panel import Panel
from lens.photo.registration import Registration

# Widths and heights that panels are made in, and the usual steps of enlarging (common practice).
MADE_WIDTHS, MADE_HEIGHTS = (
    (1280, 1366, 1440, 1536, 1600, 1680, 1920, 2160, 2256, 2560, 2880, 3000, 3200, 3840),
    (720, 768, 800, 864, 900, 1050, 1080, 1200, 1440, 1504, 1600, 1800, 2000, 2160, 2400),
)
USUAL_STEPS = (1.1, 1.25, 1.5, 1.75)
LEAST_PX_PER_PX, MOST_BLUR_PX = (
    1.5,
    0.75,
)  # camera px a pattern px, and sigma in the panel's own px: beyond either the lattice drowns
TILE_PX, BLOCK_PX, FEW_TILES, TILES = 192, 16, (2, 2), (5, 3)  # few are enough where the lattice is clear
FROM, TO = 0.5, 1.9  # below two: stripes that are not alike make a wave of twice their own frequency
CLEAR, ABSENT = 8.0, 3.0  # times the noise around it
# Frequencies at which that noise is taken, in cycles a tile: beyond the main lobe of the tile's window, where the wave itself is not.
ASIDE = np.concatenate([-np.arange(6, 22), np.arange(6, 22)]) * 0.31


class _Tile(NamedTuple):
    """(T, T) of light without what is coarser than pixels; for each axis the (T, T) panel px where a photo pixel lies, and the
    (frequencies, blocks) turn of a block's phase at the frequency sought, which is the first, and at those around it."""

    light: NDArray[np.float32]
    places: tuple[NDArray[np.float32], NDArray[np.float32]]
    turns: tuple[NDArray[np.complex64], NDArray[np.complex64]]


def panel_px_per_pattern_px(
    panel: Panel, pixels: NDArray[np.uint8], registration: Registration, px_per_px: float, blur_px: float
) -> tuple[float, float] | None:
    """How many panel pixels a pattern pixel is wide and high where that is surely not one; None where it is one, or cannot be told.

    pixels : (h, w, 3) uint8 photo of an even, lit pattern
    """
    if px_per_px < LEAST_PX_PER_PX:
        return None
    if _strength(_tiles(panel, pixels, registration, FEW_TILES), 0, 1.0) > CLEAR:
        return None
    tiles = _tiles(panel, pixels, registration, TILES)
    if any(_strength(tiles, axis, 1.0) > ABSENT for axis in (0, 1)):
        return None
    told = []
    for axis, (size, made) in enumerate(((panel.width, MADE_WIDTHS), (panel.height, MADE_HEIGHTS))):
        steps = {length / size for length in made} | {f for step in USUAL_STEPS for f in (step, 1 / step)}
        most = min(TO, MOST_BLUR_PX * px_per_px / blur_px)
        strength = {
            scale: _strength(tiles, axis, scale)
            for scale in steps
            if FROM <= scale <= most and abs(scale - 1) > 4 / size
        }
        told.append(max(((height, scale) for scale, height in strength.items()), default=(0.0, 1.0)))
    (across, x), (down, y) = told
    if max(across, down) < CLEAR:
        return None
    # rows are parted less than columns and may show no lattice: then they are enlarged as the others are
    return x if across >= CLEAR else y, y if down >= CLEAR else x


def _tiles(panel: Panel, pixels: NDArray[np.uint8], registration: Registration, grid: tuple[int, int]) -> list[_Tile]:
    """Squares all over the panel, as many across and down as ``grid`` says."""
    height, width = pixels.shape[:2]
    window = np.outer(np.hanning(TILE_PX), np.hanning(TILE_PX)).astype(np.float32)
    across, down = (
        np.linspace(0.1, 0.9, count) * size for count, size in zip(grid, (panel.width, panel.height), strict=True)
    )
    middles = np.stack(np.meshgrid(across, down), axis=-1).reshape(-1, 2)
    corners = (registration.to_photo(middles) - TILE_PX / 2).astype(int)
    whole = (corners >= 0).all(axis=1) & (corners + TILE_PX <= [width, height]).all(axis=1)
    if not whole.any():
        return []
    middles, corners = middles[whole], corners[whole]
    tiles = []
    for (x, y), (across_px, down_px) in zip(corners, _places(registration, middles, corners), strict=True):
        light = pixels[y : y + TILE_PX, x : x + TILE_PX, 1].astype(np.float32)
        light -= cv2.GaussianBlur(light, (0, 0), 3)
        limit = 4 * median(np.abs(light[::2, ::2])) + 1
        turns = (
            _turns(across_px, float(np.ptp(across_px[TILE_PX // 2]))),
            _turns(down_px, float(np.ptp(down_px[:, TILE_PX // 2]))),
        )
        tiles.append(_Tile(np.clip(light, -limit, limit) * window, (across_px, down_px), turns))
    return tiles


def _turns(place: NDArray[np.float32], side_px: float) -> NDArray[np.complex64]:
    middle = place[BLOCK_PX // 2 :: BLOCK_PX, BLOCK_PX // 2 :: BLOCK_PX].ravel()
    phase = (-2 * np.pi / side_px * np.concatenate([[0.0], ASIDE])[:, None] * middle).astype(np.float32)
    return np.asarray(np.cos(phase) + 1j * np.sin(phase), np.complex64)


def _places(
    registration: Registration, middles: NDArray[np.float64], corners: NDArray[np.intp]
) -> list[tuple[NDArray[np.float32], NDArray[np.float32]]]:
    """Panel coordinates of the pixels of tiles with these middles (panel px) and corners (photo px), (N, 2): exact on nine by nine nodes, a
    quadratic through them."""
    nodes = np.stack(np.meshgrid(np.linspace(0, TILE_PX - 1, 9), np.linspace(0, TILE_PX - 1, 9)), axis=-1).reshape(
        -1, 2
    )
    wanted = (corners[:, None] + nodes).reshape(-1, 2)
    at = np.repeat(middles, len(nodes), axis=0)
    for _ in range(3):  # Newton's, on the forward map, which is nearly straight here
        here = registration.to_photo(at)
        slopes = np.stack(
            [registration.to_photo(at + [1, 0]) - here, registration.to_photo(at + [0, 1]) - here], axis=-1
        )
        at = at + np.linalg.solve(slopes, (wanted - here)[..., None])[..., 0]
    each = np.linalg.lstsq(
        _quadratic(nodes / TILE_PX - 0.5), np.concatenate(np.split(at, len(middles)), axis=1), rcond=None
    )[0]
    pixels = (_every_pixel() @ each).T.astype(np.float32).reshape(len(middles), 2, TILE_PX, TILE_PX)
    return [(across, down) for across, down in pixels]


@cache
def _every_pixel() -> NDArray[np.float64]:
    return _quadratic(
        np.stack(np.meshgrid(np.arange(TILE_PX), np.arange(TILE_PX)), axis=-1).reshape(-1, 2) / TILE_PX - 0.5
    )


def _quadratic(at: NDArray[np.float64]) -> NDArray[np.float64]:
    x, y = at.T
    return np.stack([np.ones(len(at)), x, y, x * x, x * y, y * y], axis=1)


def _strength(tiles: Sequence[_Tile], axis: int, scale: float) -> float:
    """Height of the wave of ``scale`` cycles a pattern px over the noise at frequencies around it."""
    sums = np.zeros(len(ASIDE) + 1, complex)
    for tile in tiles:
        parts = cv2.polarToCart(tile.light, tile.places[axis] * np.float32(-2 * np.pi * scale))
        real, imaginary = (
            cv2.resize(part, None, fx=1 / BLOCK_PX, fy=1 / BLOCK_PX, interpolation=cv2.INTER_AREA) for part in parts
        )
        sums += (tile.turns[axis] * (real + 1j * imaginary).ravel()).sum(axis=1)
    noise = float(np.sqrt((np.abs(sums[1:]) ** 2).mean()))
    return float(abs(sums[0])) / max(noise, 1e-9)
