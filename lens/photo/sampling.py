"""From a registered photo to the panel's own grid: one matched-filter value per panel pixel and camera channel.

The photo is smoothed with the shape that one panel pixel has in it (a matched filter for white noise: North 1943), then
looked up at the centre of every panel pixel. The slowly varying light of the pattern is taken off; what is left is told
in units of its local standard deviation, so that one threshold serves the whole panel.
"""

import math
from concurrent.futures import ThreadPoolExecutor
from queue import SimpleQueue
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from lens.panel import Panel
from lens.patterns import Pattern, Probe, marker_mask, probe_layout
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE
from lens.photo.registration import Registration
from lens.photo.trust import BORDER_PX, distrust_border, distrust_ripples

BLOCK_PX = 8
CLIPPED_CODE = 254
CLOSEUP_OUTSIDE = 0.1
TAIL_PX = 0.35  # of the filter's reach of three sigma that is cut off: under a hundredth of its weight
HIDDEN_SIGMAS = 3.5  # how far the image of a marker reaches over the panel around it
Image = NDArray[np.float32]
BAND_PX = 256  # rows of the panel that are sampled at a time: a whole photo in floats would take hundreds of megabytes
_LIGHT_OF_CODE = (LINEAR_OF_CODE / FULL_SCALE).astype(np.float32).reshape(256, 1)


class ProbeSeen(NamedTuple):
    """A probe in a photo. ``change`` is (2 r + 1, 2 r + 1, 3): what it does to the filtered light around it (B, G, R), per
    share of a panel pixel's light and local brightness."""

    probe: Probe
    change: NDArray[np.float64]


class PanelView(NamedTuple):
    """One photo in panel coordinates. Channels are the camera's, in B, G, R order.

    For one panel pixel whose light changes by the vector ``a`` (camera channels, in units of ``level``'s photo at its
    median), the log-likelihood ratio against no fault is a . response - a . information a / 2.

    response : (H, W, 3) float32, 0 where nothing is seen
    energy : (H, W) float32, twice the log-likelihood ratio of the best fitting change at each pixel
    information : (h, w, 3, 3) float32 on BLOCK_PX blocks
    trust : (H, W) float32, factor 0..1 on the information: 0 under markers, outside the photo and where it is clipped
    probes : the photo's own reference faults
    level : (h, w, 3) float32 on blocks, local light of the pattern, linear 0..1
    spread_px : (3, 2) sigma in x and y of one pixel's image after the filter, panel px
    """

    response: Image
    energy: Image
    information: Image
    trust: Image
    probes: tuple[ProbeSeen, ...]
    level: Image
    spread_px: NDArray[np.float64]
    clipped_fraction: float
    outside_fraction: float

    @property
    def whole(self) -> bool:
        """False for a close-up of a part of the panel."""
        return self.outside_fraction < CLOSEUP_OUTSIDE


def block_means(image: NDArray[np.float32]) -> Image:
    """Means over BLOCK_PX squares; the last ones are filled up by repeating the rim."""
    height, width = image.shape[:2]
    padded: NDArray[np.generic] = image
    if height % BLOCK_PX or width % BLOCK_PX:
        padded = cv2.copyMakeBorder(image, 0, -height % BLOCK_PX, 0, -width % BLOCK_PX, cv2.BORDER_REFLECT)
    size = (padded.shape[1] // BLOCK_PX, padded.shape[0] // BLOCK_PX)
    return np.asarray(cv2.resize(padded, size, interpolation=cv2.INTER_AREA), np.float32)


def _unblock(blocks: Image, height: int, width: int, room: Image | None = None) -> Image:
    """Blocks spread over the pixels again, bilinear; ``room`` is memory to do it in, of whole blocks."""
    size = (blocks.shape[1] * BLOCK_PX, blocks.shape[0] * BLOCK_PX)
    full = cv2.resize(blocks, size, dst=room, interpolation=cv2.INTER_LINEAR)
    return np.asarray(full[:height, :width], np.float32)


def _smooth_known(total: Image, weight: Image, size: int) -> Image:
    """Mean of known blocks around each block; where none is known near, of ever wider surroundings."""
    sums, weights = cv2.boxFilter(total, -1, (size, size)), cv2.boxFilter(weight, -1, (size, size))
    out = np.where(weights > 0.02, sums / np.maximum(weights, 1e-6), np.nan)
    while np.isnan(out).any() and size < 4 * max(total.shape):
        size = 2 * size + 1
        sums, weights = cv2.boxFilter(total, -1, (size, size)), cv2.boxFilter(weight, -1, (size, size))
        out = np.where(np.isnan(out) & (weights > 1e-4), sums / np.maximum(weights, 1e-6), out)
    return np.nan_to_num(out).astype(np.float32)


def _unfade(seen: Image, sigma_px: float, back: bool = False) -> None:
    """Give the outermost rows and columns the light that the filter let out into the dark around the panel, or take it ``back``."""
    reach = math.ceil(4 * sigma_px)
    share = ndtr((np.arange(reach) + 0.5) / sigma_px).astype(np.float32)
    share = share if back else 1 / share
    for lines in (seen, seen.T):
        lines[:reach] *= share[:len(lines), None]
        lines[-reach:] *= share[:len(lines)][::-1, None]


def _filtered(
    panel: Panel, pixels: NDArray[np.uint8], registration: Registration, filter_px: float,
) -> tuple[list[Image], NDArray[np.bool_], NDArray[np.bool_]]:
    """Three (H, W) float32 of linear light after the matched filter; pixels inside the photo; clipped pixels."""
    map_x, map_y = registration.dense_map(panel)
    height, width = pixels.shape[:2]
    inside = (map_x > 1) & (map_x < width - 2) & (map_y > 1) & (map_y < height - 2)
    clipped = np.zeros(inside.shape, bool)
    planes = [np.zeros(inside.shape, np.float32) for _ in range(3)]
    taps = max(7, 2 * math.ceil(3 * filter_px - TAIL_PX) + 1)  # seven are twice as fast as nine
    pad = taps // 2 + 2
    for top in range(0, panel.height, BAND_PX):
        rows = slice(top, top + BAND_PX)
        x, y = map_x[rows], map_y[rows]
        x0, y0 = max(0, int(x.min()) - pad), max(0, int(y.min()) - pad)
        crop = pixels[y0:int(y.max()) + pad, x0:int(x.max()) + pad] if x.max() > 0 and y.max() > 0 else pixels[:0, :0]
        if min(crop.shape[:2]) < 16:
            continue
        x, y = x - np.float32(x0), y - np.float32(y0)
        if crop.max() >= CLIPPED_CODE:
            spread = cv2.dilate(cv2.bitwise_not(cv2.inRange(crop, (0, 0, 0), (CLIPPED_CODE - 1,) * 3)), np.ones((3, 3), np.uint8))
            clipped[rows] = np.asarray(cv2.remap(spread, x, y, cv2.INTER_NEAREST), np.uint8) > 0
        linear = cv2.GaussianBlur(cv2.LUT(crop, _LIGHT_OF_CODE), (taps, taps), filter_px)
        cv2.split(cv2.remap(linear, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), [plane[rows] for plane in planes])
    return planes, inside, clipped


def _take_off_border(difference: Image, limit: float) -> None:
    """Remove, along each of the outermost rows and columns, what varies slowly: a registration error of a tenth of a
    pixel looks like a light or dark rim there."""
    for lines in (difference, difference.T):
        reach = min(129, lines.shape[1] | 1)
        for row in (*range(BORDER_PX), *range(-BORDER_PX, 0)):
            line = np.ascontiguousarray(lines[row])
            for _ in range(2):
                rest = np.clip(line, -limit, limit)
                line = line - cv2.blur(rest[None], (reach, 1), borderType=cv2.BORDER_REFLECT).ravel()
            lines[row] = line


PROBE_REACH_PX, LIVE_SHARE, LIVE_PART = 2, 0.3, 0.9


def _see_probes(
    panel: Panel, pattern: Pattern, planes: list[Image], usable: NDArray[np.bool_], share: NDArray[np.float32], live: NDArray[np.bool_],
) -> tuple[ProbeSeen, ...]:
    seen, r = [], PROBE_REACH_PX
    for probe in probe_layout(panel, pattern):
        rows, columns = slice(probe.y - r, probe.y + r + 1), slice(probe.x - r, probe.x + r + 1)
        # under ink, and where the panel is dead, there is no light that a probe could change
        if probe.y < r or probe.x < r or not usable[rows, columns].all() or not live[probe.y // BLOCK_PX, probe.x // BLOCK_PX]:
            continue
        patch = np.stack([plane[rows, columns] for plane in planes], axis=-1).astype(float)
        if patch.shape == (2 * r + 1, 2 * r + 1, 3):
            seen.append(ProbeSeen(probe, patch / share[probe.y // BLOCK_PX, probe.x // BLOCK_PX]))
    return tuple(seen)


def view_panel(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, blur_px: NDArray[np.float64], threads: int = 1,
) -> PanelView:
    """The photo in panel coordinates.

    pixels : (h, w, 3) uint8, B, G, R
    blur_px : (3,) sigma of each channel, photo px
    threads : that work on its channels; each takes the memory of two more
    """
    height, width = panel.height, panel.width
    centre = np.array([[(width - 1) / 2, (height - 1) / 2]])
    scale = float(registration.scale_at(centre)[0])
    filter_px = math.sqrt(float(blur_px[1]) ** 2 + scale**2 / 12)
    planes, inside, clipped = _filtered(panel, pixels, registration, filter_px)
    spread = np.stack([
        np.sqrt(filter_px**2 + blur_px**2 + (scale / 3) ** 2 / 12), np.sqrt(filter_px**2 + blur_px**2 + scale**2 / 12),
    ], axis=1) / scale
    reach = math.ceil(HIDDEN_SIGMAS * float(spread.max()))
    valid = inside & ~clipped & ~marker_mask(panel, pattern, reach)
    hidden = np.flatnonzero(~valid.ravel())
    weight = valid.astype(np.float32)
    weight_blocks = block_means(weight)
    level = np.empty((*weight_blocks.shape, 3), np.float32)
    lit = max(pattern.drive) > 0
    live = _live(planes) if lit else np.ones(weight_blocks.shape, bool)
    fade_px = math.hypot(filter_px, float(blur_px[1])) / scale
    # two scratch images a thread serve all steps: fresh memory costs more than the arithmetic done in it
    whole = (weight_blocks.shape[0] * BLOCK_PX, weight_blocks.shape[1] * BLOCK_PX)
    rooms = SimpleQueue[tuple[Image, Image]]()
    for _ in range(threads):
        rooms.put((np.empty((height, width), np.float32), np.empty(whole, np.float32)))

    def flatten(channel: int) -> float:
        """Take the slowly varying light of the pattern off one channel; the limit above which the rest counts as an outlier."""
        seen, (scratch, room) = planes[channel], rooms.get()
        if lit:
            _unfade(seen, fade_px)
        np.copyto(scratch, seen)
        scratch.ravel()[hidden] = 0
        base = _smooth_known(block_means(scratch), weight_blocks, 3)
        np.subtract(seen, _unblock(base, height, width, room), out=scratch)
        limit = 3.0 * _robust_sigma(scratch, valid, live)
        np.clip(scratch, -limit, limit, out=scratch)
        scratch.ravel()[hidden] = 0
        base += _smooth_known(block_means(scratch), weight_blocks, 3)
        level[..., channel] = base
        seen -= _unblock(base, height, width, room)
        if lit:
            _unfade(seen, fade_px, back=True)
        limit = 4 * _robust_sigma(seen, valid, live)
        _take_off_border(seen, limit)
        rooms.put((scratch, room))
        return limit

    with ThreadPoolExecutor(threads) as pool:
        limits = list(pool.map(flatten, range(len(planes))))
    unit = _pixel_share(registration, scale, spread, weight_blocks.shape)
    if lit:
        main = int(np.argmax(np.median(level, axis=(0, 1))))
        unit *= level[..., main, None] / max(float(np.median(level[..., main])), 1e-6)
    probes = _see_probes(panel, pattern, planes, inside & ~clipped, unit, live)

    def in_noise(channel: int) -> None:
        """From here on the light of a channel is told in units of its local noise."""
        plane, limit, (scratch, room) = planes[channel], limits[channel], rooms.get()
        np.multiply(plane, plane, out=scratch)
        np.minimum(scratch, limit * limit, out=scratch)
        scratch.ravel()[hidden] = 0
        sigma = np.sqrt(_smooth_known(block_means(scratch), weight_blocks, 5))
        sigma = np.maximum(sigma, max(0.5 * float(np.median(sigma)), 0.2 / FULL_SCALE)).astype(np.float32)
        unit[..., channel] /= sigma
        plane *= _unblock(1 / sigma, height, width, room)
        rooms.put((scratch, room))

    with ThreadPoolExecutor(threads) as pool:
        list(pool.map(in_noise, range(len(planes))))
    trust = distrust_ripples(panel, pattern, planes, weight, reach)
    for plane in planes:
        distrust_border(plane, trust)
    for plane in planes:
        plane *= trust
    scores = cv2.merge(planes)
    planes.clear()
    inverse = np.linalg.inv(_correlation(scores, valid, live))
    response = cv2.transform(scores, inverse.astype(np.float32))
    # where the photo is trusted in part only, this is too low by the trust; such pixels are looked at in any case
    energy = cv2.transform(cv2.multiply(scores, response, dst=scores), np.ones((1, 3), np.float32))
    response *= _unblock(unit, height, width)
    information = unit[..., :, None] * unit[..., None, :] * inverse.astype(np.float32)
    return PanelView(
        response=np.asarray(response, np.float32), energy=np.asarray(energy, np.float32), information=information,
        trust=trust, probes=probes, level=level, spread_px=spread,
        clipped_fraction=float(clipped.mean()), outside_fraction=float(1 - inside.mean()))


def _pixel_share(
    registration: Registration, scale: float, spread: NDArray[np.float64], shape: tuple[int, ...],
) -> NDArray[np.float32]:
    """(h, w, 3) share of a panel pixel's light that the filter finds at its centre."""
    # the scale is smooth: about every fourth block is asked
    rows, columns = (max(2, count // 4) for count in shape[:2])
    x, y = np.meshgrid((np.arange(columns) + 0.5) * shape[1] / columns * BLOCK_PX, (np.arange(rows) + 0.5) * shape[0] / rows * BLOCK_PX)
    asked = registration.scale_at(np.stack([x.ravel(), y.ravel()], axis=1)).reshape(x.shape)
    local = cv2.resize(asked.astype(np.float32), (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR)
    share = (local / scale)[..., None] ** 2 / (2 * math.pi * spread[:, 0] * spread[:, 1])
    return np.asarray(share, np.float32)


def _correlation(scores: Image, valid: NDArray[np.bool_], live: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(3, 3) correlation of the channels' noise, from a thinned, clipped sample of what is lit as it should; kept off singularity."""
    rows, columns = slice(1, None, 9), slice(1, None, 5)
    some = np.clip(scores[rows, columns][_thinned(valid, live, rows, columns)], -4, 4).astype(float)
    if len(some) < 1000:
        return np.eye(3)
    matrix = np.corrcoef(some, rowvar=False)
    matrix = np.where(np.isfinite(matrix), matrix, 0.0)
    return 0.9 * matrix + 0.1 * np.eye(3)


def _live(planes: list[Image]) -> NDArray[np.bool_]:
    """(h, w) on blocks: what is lit as it should be, and not under ink or in a dead part, where there is less noise too."""
    brightest = max((block_means(plane) for plane in planes), key=lambda blocks: float(np.quantile(blocks, LIVE_PART)))
    return np.asarray(brightest > LIVE_SHARE * np.quantile(brightest, LIVE_PART), bool)


def _thinned(valid: NDArray[np.bool_], live: NDArray[np.bool_], rows: slice, columns: slice) -> NDArray[np.bool_]:
    """The valid and live places among every so many rows and columns."""
    y, x = (np.arange(size)[some] // BLOCK_PX for size, some in zip(valid.shape, (rows, columns), strict=True))
    return np.asarray(valid[rows, columns] & live[y][:, x], bool)


def _robust_sigma(values: Image, valid: NDArray[np.bool_], live: NDArray[np.bool_]) -> float:
    """Standard deviation from the median absolute deviation of a thinned sample (1.4826 MAD)."""
    rows, columns = slice(1, None, 7), slice(2, None, 9)
    some = values[rows, columns][_thinned(valid, live, rows, columns)]
    if some.size == 0:
        return 1.0
    return max(1.4826 * float(np.median(np.abs(some - np.median(some)))), 1e-6)
