"""Moire of the camera's own lattice, told from where each panel pixel falls on it, and taken off.

A sensor samples red and blue at every second photosite, and a JPEG file keeps colour for two by two pixels: both have a period of two photo
pixels. The panel's pixels beat with it. What a sound pixel seems to give therefore depends on where its centre falls in that period, so on
the harmonics of period two in the photo's own x and y, with amplitudes that change as slowly over the panel as scale and blur do. They are
demodulated over wide surroundings (least squares, weighted with the pattern's light), so that of a fault, which no lattice repeats, nothing
goes with them: a pixel keeps all but 1 / 1000, a line all but 1 %.
"""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.photo.blocks import BLOCK_PX, Image
from lens.photo.registration import NODE_PX as TILE_PX
from lens.photo.registration import Registration
from lens.robust import tukey_fit

Complex = NDArray[np.complex64]

# cycles in two photo pixels, across and down. Higher ones were below 3 % of what is left after these (seeds 74001 to 74003, 1.3 to 2.3 px/px)
HARMONICS = np.array([(1, 0), (0, 1), (1, 1), (1, -1), (2, 0), (0, 2)])
SURROUNDINGS_TILES = 15  # 240 panel px: as good as 60 on those seeds, and 16 times as little of a fault is lost
EVERY = 2  # tile across and down is looked at: amplitudes change slowly, and looking costs time
STRIP_TILES = 4
SLOWEST_PX = 24.0  # a beat as slow as this cannot be told from a band or a blot of the panel: it stays
FEWEST_TILES = 5.0  # with less to be seen around it, a harmonic's amplitude is not told
LEAST_SHARE = 0.01  # of the limit: a twenty-fifth of a standard deviation, squared, is nothing
RIM_PX = 3  # rows and columns that the filter mixes with the dark around the panel
LEAST_KNOWN = 0.1  # share of a line's surroundings
LEAST_STANDING, LEAST_PERIODS = (
    0.05,
    2.0,
)  # share of the panel where a slow beat stands in its light; periods over the panel
FITS, TUKEY = 6, 5.0
MOST_SPREAD = 0.05  # of logarithms of light: in a picture that is all but dark nothing is told
LEAST_LIGHT = 1e-6
BLOCKS_APART = 3  # every third block is enough to fit a few amplitudes


class _Beat(NamedTuple):
    """Each harmonic over tiles of the panel: ``phase`` (h, w, k) in a tile's middle; ``across`` and ``down`` (h, w, k, TILE_PX), how it turns
    from there along a row and down a column."""

    phase: Complex
    across: Complex
    down: Complex

    @property
    def parts(self) -> Image:
        """(h, w, 2 k, TILE_PX) the real and the imaginary part of what it does along a row."""
        return np.concatenate([self.across.real, self.across.imag], axis=2)


class _Lattice(NamedTuple):
    """(2, h, w) where the tiles' middles are in the photo, and by how much each photo coordinate grows from panel pixel to panel pixel."""

    middle: NDArray[np.float64]
    by_x: NDArray[np.float64]
    by_y: NDArray[np.float64]

    def phase(self) -> Complex:
        """(h, w, k) of each harmonic in the tiles' middles."""
        return np.exp(1j * (np.moveaxis(self.middle, 0, -1) @ (np.pi * HARMONICS.T))).astype(np.complex64)

    def beat(self, rows: slice, columns: slice = slice(None), which: NDArray[np.intp] = HARMONICS) -> _Beat:
        """Some harmonics over some tiles."""
        place, by_x, by_y = (np.moveaxis(one[:, rows, columns], 0, -1) @ (np.pi * which.T) for one in self)
        return _Beat(np.exp(1j * place).astype(np.complex64), _turning(by_x), _turning(by_y))

    def periods_px(self) -> NDArray[np.float64]:
        """(h, w, k) panel px in which each harmonic beats once with the panel's pixels."""
        turns = [np.moveaxis(one, 0, -1) @ HARMONICS.T / 2 for one in (self.by_x, self.by_y)]
        return np.asarray(1 / np.maximum(np.hypot(*(turn - np.round(turn) for turn in turns)), 1e-6), float)


def _turning(step: NDArray[np.float64]) -> Complex:
    """(..., TILE_PX) exp(i step d) for every pixel d from a tile's middle."""
    out = np.empty((*step.shape, TILE_PX), np.complex64)
    out[..., 0] = np.exp(-1j * step * (TILE_PX - 1) / 2)
    turn = np.exp(1j * step).astype(np.complex64)
    for n in range(1, TILE_PX):
        np.multiply(out[..., n - 1], turn, out=out[..., n])
    return out


def take_off_moire(
    planes: Image,
    valid: NDArray[np.bool_],
    level: Image,
    limits: list[float],
    panel: Panel,
    registration: Registration,
    threads: int,
) -> None:
    """Take the moire off (3, H, W) what differs from the pattern's slowly varying light, in place.

    valid : (H, W) what shows the pattern
    level : (h, w, 3) that light, on BLOCK_PX blocks
    limits : of each plane, above which a value counts as an outlier and tells nothing
    registration : where the panel's pixels are in the photo
    """
    light = _of_tiles(level, planes.shape[1:])
    middle = registration.nodes(panel).of_blocks(TILE_PX)
    lattice = _Lattice(middle, *(np.gradient(middle, axis=axis) / TILE_PX for axis in (2, 1)))
    bound = np.array(limits, np.float32)[:, None, None]
    fits = np.zeros((*light.shape[:2], 3, len(HARMONICS)), np.complex64)
    seen = np.zeros(light.shape[:2], np.float32)

    def look(row: int) -> None:
        some = slice(None, None, EVERY)
        rows = slice(row * TILE_PX, (row + 1) * TILE_PX)
        own, known = planes[:, rows], valid[rows]
        cut = _tiles(np.where((np.abs(own) < bound) & known, own, np.float32(0)), some)
        beat = lattice.beat(slice(row, row + 1), some)
        along = (cut.reshape(*cut.shape[:1], -1, TILE_PX) @ beat.parts[0].swapaxes(-1, -2)).reshape(*cut.shape[:3], -1)
        count = len(HARMONICS)
        told = np.einsum("tcyk,tky->tck", along[..., :count] - 1j * along[..., count:], beat.down[0].conj())
        fits[row, some] = told * beat.phase[0].conj()[:, None]
        seen[row, some] = _tiles(known[None].astype(np.float32), some).mean(axis=(1, 2, 3))

    def clean(first: int) -> None:
        rows = slice(first, min(first + STRIP_TILES, len(light)))
        beat = lattice.beat(rows, which=HARMONICS[strong])
        turned = (amplitudes[rows] * beat.phase[:, :, None])[:, :, :, None] * beat.down.swapaxes(-1, -2)[:, :, None]
        left = np.concatenate([turned.real, -turned.imag], axis=-1)
        put = left.reshape(*left.shape[:2], -1, left.shape[-1]) @ beat.parts
        _subtract(planes, put.reshape(*put.shape[:2], 3, TILE_PX, TILE_PX), first * TILE_PX)

    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(look, range(0, len(light), EVERY)))
        periods = lattice.periods_px()
        amplitudes = _amplitudes(fits, seen, light, periods > SLOWEST_PX)
        rms = np.sqrt(np.square(np.abs(amplitudes)).mean(axis=(0, 1)) / 2)
        strong = np.flatnonzero((rms > LEAST_SHARE * bound[:, :, 0]).any(axis=0))
        amplitudes = amplitudes[..., strong]
        if len(strong):
            list(pool.map(clean, range(0, len(light), STRIP_TILES)))
    if (periods > SLOWEST_PX).any():
        blocks = np.moveaxis(registration.nodes(panel).of_blocks(BLOCK_PX), 0, -1)
        _take_off_slow(level, lattice.phase(), periods, blocks)
    if len(strong):
        _clean_rim(planes, valid, bound, registration, HARMONICS[strong])


def _take_off_slow(level: Image, phase: Complex, periods: NDArray[np.float64], blocks: NDArray[np.float64]) -> None:
    """Take off the (h, w, 3) light on blocks, in place, the harmonics that beat so slowly that they stand in it; ``phase`` and ``periods`` are
    those of tiles, ``blocks`` (h, w, 2) the blocks' middles in the photo.

    Their phases are known everywhere, so the logarithm of light is fitted with a smooth surface and one amplitude a harmonic (robust least
    squares with Tukey's weights); a harmonic that does not swing often enough over the panel is not told from the panel's own light.
    """
    stands = np.clip(periods / SLOWEST_PX - 1, 0, 1)
    which = [k for k in range(phase.shape[2]) if stands[..., k].mean() > LEAST_STANDING and _swings(phase[..., k])]
    if not which:
        return
    cells, shape = TILE_PX // BLOCK_PX, level.shape[:2]
    own_stands = np.repeat(np.repeat(stands[..., which], cells, axis=0), cells, axis=1)[: shape[0], : shape[1]]
    turned = np.exp(1j * (blocks @ (np.pi * HARMONICS[which].T))) * own_stands
    beats = np.concatenate([turned.real, turned.imag], axis=-1)
    y, x = np.meshgrid(*(np.linspace(-1, 1, n) for n in shape), indexing="ij")
    smooth = np.stack([x**m * y**n for m in range(4) for n in range(4 - m)])
    row, column = np.indices(shape)
    some = (column + row * (BLOCKS_APART - 1)) % BLOCKS_APART == 0  # so that none lie in line with a beat
    basis = np.concatenate([smooth[:, some], beats[some].T])
    for c in range(3):
        told, spread = tukey_fit(basis, np.log(np.maximum(level[some, c].astype(float), LEAST_LIGHT)), TUKEY, FITS)
        if spread <= MOST_SPREAD:
            level[..., c] *= np.exp(-(beats @ told[len(smooth) :])).astype(np.float32)


def _swings(phase: Complex) -> bool:
    """Whether a harmonic goes through a few periods over the panel, so that no smooth surface looks like it."""
    turns = [
        np.angle(phase[1:] * phase[:-1].conj()).sum(axis=0),
        np.angle(phase[:, 1:] * phase[:, :-1].conj()).sum(axis=1),
    ]
    return max(float(np.abs(one).max()) for one in turns) > 2 * np.pi * LEAST_PERIODS


def _clean_rim(
    planes: Image, valid: NDArray[np.bool_], bound: Image, registration: Registration, which: NDArray[np.intp]
) -> None:
    """Take off what is left in the outermost rows and columns, whose light comes from one side only, so that their moire is another one.
    Along a line two harmonics may be one: they are taken off one after the other."""
    height, width = valid.shape
    for axis, (count, length) in enumerate(((height, width), (width, height))):
        for n in (*range(RIM_PX), *range(count - RIM_PX, count)):
            own, known = planes.take(n, axis=1 + axis), valid.take(n, axis=axis)
            along = np.arange(length, dtype=float)
            points = np.stack([along, np.full(length, float(n))][:: 1 if axis == 0 else -1], axis=1)
            _clean_line(own, known, bound[:, 0], registration.to_photo(points) @ (np.pi * which.T))
            planes[(slice(None), n) if axis == 0 else (slice(None), slice(None), n)] = own


def _clean_line(own: Image, known: NDArray[np.bool_], bound: Image, phases: NDArray[np.float64]) -> None:
    size = (SURROUNDINGS_TILES * TILE_PX + 1, 1)
    share = cv2.blur(known.astype(np.float32)[None], size, borderType=cv2.BORDER_CONSTANT)
    for phase in phases.T:
        turn = np.exp(1j * phase).astype(np.complex64)
        cut = np.where((np.abs(own) < bound) & known, own, np.float32(0)) * turn.conj()
        told = [
            cv2.blur(np.ascontiguousarray(part), size, borderType=cv2.BORDER_CONSTANT) for part in (cut.real, cut.imag)
        ]
        own -= 2 * ((told[0] + 1j * told[1]) * turn).real / np.maximum(share, LEAST_KNOWN)


def _amplitudes(fits: Complex, seen: Image, light: Image, slow: NDArray[np.bool_]) -> Complex:
    """(h, w, 3, k) of each tile, from sums over tiles. Light being w and what a sound pixel seems to give w Re(a exp(i phase)), least squares
    make a the sum of values times w exp(-i phase), over half the sum of w^2."""
    size = (SURROUNDINGS_TILES, SURROUNDINGS_TILES)

    def around(values: Image) -> Image:
        return np.asarray(
            cv2.boxFilter(np.ascontiguousarray(values), -1, size, normalize=False, borderType=cv2.BORDER_CONSTANT),
            np.float32,
        )

    out = np.zeros_like(fits)
    enough = around(seen) > FEWEST_TILES
    for c in range(fits.shape[2]):
        power = around(seen * light[..., c] ** 2) * np.float32(TILE_PX**2 / 2)
        share = np.where(enough, light[..., c] / np.maximum(power, 1e-30), 0)
        for k in range(fits.shape[3]):
            weighted = fits[..., c, k] * light[..., c]
            told = around(weighted.real) + 1j * around(weighted.imag)
            out[..., c, k] = np.where(slow[..., k], 0, told * share)
    return out


def _tiles(images: Image, some: slice) -> Image:
    """(tiles, images, rows, TILE_PX) of (images, rows, W), whose last tile is filled up with nothing; rows too."""
    count, height, width = images.shape
    padded = np.zeros((count, TILE_PX, math.ceil(width / TILE_PX) * TILE_PX), np.float32)
    padded[:, :height, :width] = images
    return np.ascontiguousarray(padded.reshape(count, TILE_PX, -1, TILE_PX)[:, :, some].transpose(2, 0, 1, 3))


def _subtract(planes: Image, tiles: Image, top: int) -> None:
    """Take (h, w, 3, TILE_PX, TILE_PX) tiles off the planes, from a row on."""
    width = planes.shape[2]
    for n, row in enumerate(tiles):
        own = planes[:, top + n * TILE_PX : top + (n + 1) * TILE_PX]
        whole = width // TILE_PX
        inner = own[:, :, : whole * TILE_PX].reshape(*own.shape[:2], whole, TILE_PX)
        inner -= row[:whole, :, : own.shape[1]].transpose(1, 2, 0, 3)
        if whole < len(row):
            own[:, :, whole * TILE_PX :] -= row[whole, :, : own.shape[1], : width - whole * TILE_PX]


def _of_tiles(level: Image, shape: tuple[int, ...]) -> Image:
    """(h, w, 3) light on tiles from that on blocks; never nothing."""
    cells = TILE_PX // BLOCK_PX
    size = (math.ceil(shape[1] / TILE_PX), math.ceil(shape[0] / TILE_PX))
    padded = cv2.copyMakeBorder(
        level, 0, size[1] * cells - level.shape[0], 0, size[0] * cells - level.shape[1], cv2.BORDER_REPLICATE
    )
    return np.maximum(cv2.resize(padded, size, interpolation=cv2.INTER_AREA), np.float32(LEAST_LIGHT))
