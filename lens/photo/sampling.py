"""From a registered photo to the panel's own grid: one matched-filter value per panel pixel and camera channel.

The photo is smoothed with the shape that one panel pixel has in it (a matched filter for white noise: North 1943), then
looked up at the centre of every panel pixel. The slowly varying light of the pattern is taken off; what is left is told
in units of its local standard deviation, so that one threshold serves the whole panel.
"""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from lens.panel import Panel
from lens.patterns import Pattern, Probe, marker_mask, probe_layout
from lens.photo.light import FULL_SCALE, LINEAR_OF_CODE
from lens.photo.registration import Registration

BLOCK_PX = 8
CLIPPED_CODE = 254
BORDER_PX = 4
OWN_PX = 7
RIPPLE_PX, RIPPLE_TRUST = 6, 0.35
HIDDEN_SIGMAS = 3.5  # how far the image of a marker reaches over the panel around it
Image = NDArray[np.float32]


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
    information : (h, w, 3, 3) float32 on BLOCK_PX blocks
    trust : (H, W) float32, factor 0..1 on the information: 0 under markers, outside the photo and where it is clipped
    probes : the photo's own reference faults
    level : (h, w, 3) float32 on blocks, local light of the pattern, linear 0..1
    spread_px : (3, 2) sigma in x and y of one pixel's image after the filter, panel px
    """

    response: Image
    information: Image
    trust: Image
    probes: tuple[ProbeSeen, ...]
    level: Image
    spread_px: NDArray[np.float64]
    clipped_fraction: float
    outside_fraction: float


def _blocks(image: NDArray[np.float32]) -> Image:
    """Means over BLOCK_PX squares; the last ones are filled up by repeating the rim."""
    height, width = image.shape[:2]
    padded = cv2.copyMakeBorder(image, 0, -height % BLOCK_PX, 0, -width % BLOCK_PX, cv2.BORDER_REFLECT)
    size = (padded.shape[1] // BLOCK_PX, padded.shape[0] // BLOCK_PX)
    return np.asarray(cv2.resize(padded, size, interpolation=cv2.INTER_AREA), np.float32)


def unblock(blocks: Image, height: int, width: int) -> Image:
    """Blocks spread over the pixels again, bilinear."""
    full = cv2.resize(blocks, (blocks.shape[1] * BLOCK_PX, blocks.shape[0] * BLOCK_PX), interpolation=cv2.INTER_LINEAR)
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


def _edge_profile(count: int, sigma_px: float) -> Image:
    """Share of the smoothed light that is left at each pixel centre between two dark surroundings."""
    at = np.arange(count, dtype=float)
    return (ndtr((at + 0.5) / sigma_px) * ndtr((count - 0.5 - at) / sigma_px)).astype(np.float32)


def _filtered(
    panel: Panel, pixels: NDArray[np.uint8], registration: Registration, filter_px: float,
) -> tuple[Image, NDArray[np.bool_], NDArray[np.bool_]]:
    """(H, W, 3) float32 linear light after the matched filter; pixels inside the photo; clipped pixels."""
    map_x, map_y = registration.dense_map(panel)
    height, width = pixels.shape[:2]
    inside = (map_x > 1) & (map_x < width - 2) & (map_y > 1) & (map_y < height - 2)
    pad = 12
    x0, y0 = max(0, int(map_x.min()) - pad), max(0, int(map_y.min()) - pad)
    x1, y1 = min(width, int(map_x.max()) + pad), min(height, int(map_y.max()) + pad)
    if x1 - x0 < 16 or y1 - y0 < 16:
        return np.zeros((panel.height, panel.width, 3), np.float32), np.zeros_like(inside), np.zeros_like(inside)
    crop = pixels[y0:y1, x0:x1]
    np.subtract(map_x, np.float32(x0), out=map_x)
    np.subtract(map_y, np.float32(y0), out=map_y)
    clipped = np.zeros(inside.shape, bool)
    blue, green, red = cv2.split(crop)
    over = cv2.inRange(cv2.max(cv2.max(blue, green), red), CLIPPED_CODE, 255)
    if cv2.countNonZero(over) > 20:
        spread = cv2.dilate(over, np.ones((3, 3), np.uint8))
        clipped = np.asarray(cv2.remap(spread, map_x, map_y, cv2.INTER_NEAREST), np.uint8) > 0
    linear = cv2.LUT(crop, LINEAR_OF_CODE.reshape(256, 1))
    linear = cv2.GaussianBlur(linear, (0, 0), filter_px)
    sampled = cv2.remap(linear, map_x, map_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return sampled.astype(np.float32) * np.float32(1 / FULL_SCALE), inside, clipped


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


def _distrust_border(scores: Image, trust: Image) -> None:
    """Lower the trust of outermost rows and columns by how much their noise exceeds 1."""
    for lines, shares in ((scores, trust), (scores.T, trust.T)):
        reach = min(129, lines.shape[1] | 1)
        for row in (*range(BORDER_PX), *range(-BORDER_PX, 0)):
            square = np.minimum(np.ascontiguousarray(lines[row]) ** 2, 100.0)[None]
            wide, near = (cv2.blur(square, (size, 1), borderType=cv2.BORDER_REFLECT).ravel() for size in (reach, OWN_PX))
            # one fault is no noise: a pixel's own surroundings do not speak against it
            variance = (wide * reach - near * OWN_PX) / (reach - OWN_PX)
            shares[row] = np.minimum(shares[row], 1 / np.maximum(variance, 1.0))


PROBE_REACH_PX = 2


def _see_probes(
    panel: Panel, pattern: Pattern, planes: list[Image], usable: NDArray[np.bool_], share: NDArray[np.float32],
) -> tuple[ProbeSeen, ...]:
    seen, r = [], PROBE_REACH_PX
    for probe in probe_layout(panel, pattern):
        rows, columns = slice(probe.y - r, probe.y + r + 1), slice(probe.x - r, probe.x + r + 1)
        if probe.y < r or probe.x < r or not usable[rows, columns].all():
            continue
        patch = np.stack([plane[rows, columns] for plane in planes], axis=-1).astype(float)
        if patch.shape == (2 * r + 1, 2 * r + 1, 3):
            seen.append(ProbeSeen(probe, patch / share[probe.y // BLOCK_PX, probe.x // BLOCK_PX]))
    return tuple(seen)


def view_panel(
    panel: Panel, pattern: Pattern, pixels: NDArray[np.uint8], registration: Registration, blur_px: NDArray[np.float64],
) -> PanelView:
    """The photo in panel coordinates.

    pixels : (h, w, 3) uint8, B, G, R
    blur_px : (3,) sigma of each channel, photo px
    """
    height, width = panel.height, panel.width
    centre = np.array([[(width - 1) / 2, (height - 1) / 2]])
    scale = float(registration.scale_at(centre)[0])
    filter_px = math.sqrt(float(blur_px[1]) ** 2 + scale**2 / 12)
    light, inside, clipped = _filtered(panel, pixels, registration, filter_px)
    spread = np.stack([
        np.sqrt(filter_px**2 + blur_px**2 + (scale / 3) ** 2 / 12), np.sqrt(filter_px**2 + blur_px**2 + scale**2 / 12),
    ], axis=1) / scale
    reach = math.ceil(HIDDEN_SIGMAS * float(spread.max()))
    valid = inside & ~clipped & ~marker_mask(panel, pattern, reach)
    across, down = _edge_profile(width, math.hypot(filter_px, float(blur_px[1])) / scale), _edge_profile(
        height, math.hypot(filter_px, float(blur_px[1])) / scale)
    weight = valid.astype(np.float32)
    weight_blocks = _blocks(weight)
    level = np.empty((*weight_blocks.shape, 3), np.float32)
    edge = None if max(pattern.drive) == 0 else down[:, None] * across[None, :]

    def flatten(channel: int, seen: Image) -> tuple[Image, float]:
        """What differs from the slowly varying light of one channel, and the limit above which it counts as an outlier."""
        flat = seen.copy() if edge is None else seen / edge
        base = _smooth_known(_blocks(flat * weight), weight_blocks, 3)
        flat -= unblock(base, height, width)
        limit = 3.0 * _robust_sigma(flat, valid)
        np.clip(flat, -limit, limit, out=flat)
        flat *= weight
        base += _smooth_known(_blocks(flat), weight_blocks, 3)
        level[..., channel] = base
        local = unblock(base, height, width)
        if edge is not None:
            local *= edge
        np.subtract(seen, local, out=seen)
        limit = 4 * _robust_sigma(seen, valid)
        _take_off_border(seen, limit)
        return seen, limit

    with ThreadPoolExecutor(3) as pool:
        planes = list(pool.map(flatten, range(3), cv2.split(light)))
    # lens and JPEG coder leave ripples around the markers; what is told there counts less, and so less is proven there
    beside = marker_mask(panel, pattern, reach + RIPPLE_PX)
    trust = np.where(beside, weight * np.float32(RIPPLE_TRUST), weight)
    area = _pixel_share(registration, scale, spread, weight_blocks.shape)
    brightness = np.ones(weight_blocks.shape, np.float32)
    if edge is not None:
        main = int(np.argmax(np.median(level, axis=(0, 1))))
        brightness = np.asarray(level[..., main] / max(float(np.median(level[..., main])), 1e-6), np.float32)
    unit = np.empty((*weight_blocks.shape, 3), np.float32)
    sigmas: list[Image] = []
    for channel, (rest, limit) in enumerate(planes):
        square = np.minimum(rest * rest, limit * limit)
        square *= weight
        sigma: Image = np.sqrt(_smooth_known(_blocks(square), weight_blocks, 5))
        sigma = np.asarray(np.maximum(sigma, max(0.5 * float(np.median(sigma)), 0.2 / FULL_SCALE)), np.float32)
        unit[..., channel] = area[..., channel] * brightness / sigma
        sigmas.append(sigma)
    rests = [np.asarray(rest, np.float32) for rest, _ in planes]
    probes = _see_probes(panel, pattern, rests, inside & ~clipped, area * brightness[..., None])
    for (rest, _), sigma in zip(planes, sigmas, strict=True):
        rest *= unblock(1 / sigma, height, width)
        _distrust_border(rest, trust)
    for rest, _ in planes:
        rest *= trust
    scores = cv2.merge([rest for rest, _ in planes])
    inverse = np.linalg.inv(_correlation(scores, valid))
    response = cv2.transform(scores, inverse.astype(np.float32))
    response *= unblock(unit, height, width)
    information = unit[..., :, None] * unit[..., None, :] * inverse.astype(np.float32)
    return PanelView(
        response=np.asarray(response, np.float32), information=information, trust=trust, probes=probes, level=level, spread_px=spread,
        clipped_fraction=float(clipped.mean()), outside_fraction=float(1 - inside.mean()))


def _pixel_share(
    registration: Registration, scale: float, spread: NDArray[np.float64], shape: tuple[int, ...],
) -> NDArray[np.float32]:
    """(h, w, 3) share of a panel pixel's light that the filter finds at its centre."""
    y, x = np.mgrid[:shape[0], :shape[1]] * BLOCK_PX + (BLOCK_PX - 1) / 2
    local = registration.scale_at(np.stack([x.ravel(), y.ravel()], axis=1)).reshape(x.shape)
    share = (local / scale)[..., None] ** 2 / (2 * math.pi * spread[:, 0] * spread[:, 1])
    return np.asarray(share, np.float32)


def _correlation(scores: Image, valid: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(3, 3) correlation of the channels' noise, from a thinned, clipped sample; kept off singularity."""
    some = np.clip(scores[1::7, 1::3][valid[1::7, 1::3]], -4, 4).astype(float)
    if len(some) < 1000:
        return np.eye(3)
    matrix = np.corrcoef(some, rowvar=False)
    matrix = np.where(np.isfinite(matrix), matrix, 0.0)
    return 0.9 * matrix + 0.1 * np.eye(3)


def _robust_sigma(values: Image, valid: NDArray[np.bool_]) -> float:
    """Standard deviation from the median absolute deviation of a thinned sample (1.4826 MAD)."""
    some = values[1::5, 2::7][valid[1::5, 2::7]]
    if some.size == 0:
        return 1.0
    return max(1.4826 * float(np.median(np.abs(some - np.median(some)))), 1e-6)
