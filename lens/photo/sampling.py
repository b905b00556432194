"""From a registered photo to the panel's own grid: one matched-filter value per panel pixel and camera channel.

The photo is smoothed with the shape that one panel pixel has in it (a matched filter for white noise: North 1943), then
looked up at the centre of every panel pixel. The slowly varying light of the pattern is taken off; what is left is told
in units of its local standard deviation, so that one threshold serves the whole panel.
"""

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from lens.medians import median, medians, quantile
from lens.panel import Panel
from lens.patterns import Pattern, Probe, marker_mask, probe_layout
from lens.photo.bands import Bands
from lens.photo.blocks import BLOCK_PX, Image, unblocked
from lens.photo.ceiling import closed_channels, ground_at_ceiling, inverses
from lens.photo.filtered import filtered
from lens.photo.lattice import take_off_moire
from lens.photo.light import FULL_SCALE
from lens.photo.profiles import light_profiles
from lens.photo.registration import Registration
from lens.photo.trust import BORDER_PX, distrust_border, distrust_ripples

CLOSEUP_OUTSIDE = 0.1
ANSWER_SIGMAS = 4.0  # of the mean of two dozen probes: chance goes so far once in 30,000 photos
ALL_CLOSED, LEAST_OPEN = 7, 0.2  # bits of three channels; share of open blocks that suffice for the noise's correlation
MOIRE_SIGMAS = 4.0  # moire itself peaks at less than twice its own standard deviation
HIDDEN_SIGMAS = 3.5  # how far the image of a marker reaches over the panel around it


class ProbeSeen(NamedTuple):
    """A probe in a photo. ``change`` is (2 r + 1, 2 r + 1, 3): what it does to the filtered light around it (B, G, R), per
    share of a panel pixel's light and local brightness."""

    probe: Probe
    change: NDArray[np.float64]


class PanelView(NamedTuple):
    """One photo in panel coordinates. Channels are the camera's, in B, G, R order.

    For one panel pixel whose light changes by the vector ``a`` (camera channels, in units of ``level``'s photo at its
    median), the log-likelihood ratio against no fault is a . response - a . information a / 2.

    response : (H, W, 3) float32, 0 where nothing is seen; each channel lies in one piece in the memory
    energy : (H, W) float32, twice the log-likelihood ratio of the best fitting change at each pixel
    information : (h, w, 3, 3) float32 on BLOCK_PX blocks
    trust : (H, W) float32, factor 0..1 on the information: 0 under markers, outside the photo and where all channels are closed (see ceiling)
    probes : the photo's own reference faults; NaN in channels that are closed there
    level : (h, w, 3) float32 on blocks, local light of the pattern, linear 0..1
    spread_px : (3, 2) sigma in x and y of one pixel's image after the filter, panel px
    row_light, column_light : (H, 3) and (W, 3) mean light of each row and column, see light_profiles
    clipped_fraction, closed_fraction : shares of the panel where the ground of any channel, and of all, is at the end of the scale
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
    closed_fraction: float = 0.0
    row_light: Image = np.empty((0, 3), np.float32)
    column_light: Image = np.empty((0, 3), np.float32)

    @property
    def probes_answer(self) -> bool:
        """Do places where faulty pixels were sent differ from what is around them, all in the same sense, as those of a pattern do?"""
        told = [
            (1 if seen.probe.lit else -1) * np.nansum(seen.change[PROBE_REACH_PX, PROBE_REACH_PX])
            for seen in self.probes
        ]
        return len(told) > 2 and float(np.mean(told)) > ANSWER_SIGMAS * float(np.std(told)) / math.sqrt(len(told))

    @property
    def whole(self) -> bool:
        """False for a close-up of a part of the panel."""
        return self.outside_fraction < CLOSEUP_OUTSIDE


def _unfade(seen: Image, sigma_px: float, back: bool = False) -> None:
    """Give the outermost rows and columns the light that the filter let out into the dark around the panel, or take it ``back``."""
    reach = math.ceil(4 * sigma_px)
    share = ndtr((np.arange(reach) + 0.5) / sigma_px).astype(np.float32)
    share = share if back else 1 / share
    for lines in (seen, seen.T):
        lines[:reach] *= share[: len(lines), None]
        lines[-reach:] *= share[: len(lines)][::-1, None]


def _take_off_border(difference: Image, limit: float) -> None:
    """Remove, along each of the outermost rows and columns, what varies slowly: a registration error of a tenth of a
    pixel looks like a light or dark rim there."""
    for lines in (difference, difference.T):
        reach, rim = min(129, lines.shape[1] | 1), np.r_[:BORDER_PX, -BORDER_PX:0]
        own = lines[rim]
        for _ in range(2):
            own -= cv2.blur(np.clip(own, -limit, limit), (reach, 1), borderType=cv2.BORDER_REFLECT)
        lines[rim] = own


PROBE_REACH_PX, LIVE_SHARE, LIVE_PART, LEAST_SEEN = 2, 0.3, 0.9, 0.5


def _see_probes(
    panel: Panel,
    pattern: Pattern,
    planes: Image,
    usable: NDArray[np.bool_],
    share: NDArray[np.float32],
    live: NDArray[np.bool_],
    closed: NDArray[np.uint8],
) -> tuple[ProbeSeen, ...]:
    seen, r = [], PROBE_REACH_PX
    for probe in probe_layout(panel, pattern):
        rows, columns = slice(probe.y - r, probe.y + r + 1), slice(probe.x - r, probe.x + r + 1)
        # under ink, and where the panel is dead, there is no light that a probe could change
        if (
            probe.y < r
            or probe.x < r
            or not usable[rows, columns].all()
            or not live[probe.y // BLOCK_PX, probe.x // BLOCK_PX]
        ):
            continue
        patch = np.stack([plane[rows, columns] for plane in planes], axis=-1).astype(float)
        if patch.shape == (2 * r + 1, 2 * r + 1, 3):
            block = probe.y // BLOCK_PX, probe.x // BLOCK_PX
            patch[..., [bool(closed[block] >> c & 1) for c in range(len(planes))]] = np.nan
            seen.append(ProbeSeen(probe, patch / share[block]))
    return tuple(seen)


def view_panel(
    panel: Panel,
    pattern: Pattern,
    pixels: NDArray[np.uint8],
    registration: Registration,
    blur_px: NDArray[np.float64],
    threads: int = 1,
) -> PanelView:
    """The photo in panel coordinates.

    pixels : (h, w, 3) uint8, B, G, R
    blur_px : (3,) sigma of each channel, photo px
    threads : that share the work
    """
    height, width = panel.height, panel.width
    centre = np.array([[(width - 1) / 2, (height - 1) / 2]])
    scale = float(registration.scale_at(centre)[0])
    filter_px = math.sqrt(float(blur_px[1]) ** 2 + scale**2 / 12)
    planes, inside, clipped = filtered(panel, pixels, registration, filter_px, threads)
    spread = (
        np.stack(
            [
                np.sqrt(filter_px**2 + blur_px**2 + (scale / 3) ** 2 / 12),
                np.sqrt(filter_px**2 + blur_px**2 + scale**2 / 12),
            ],
            axis=1,
        )
        / scale
    )
    reach = math.ceil(HIDDEN_SIGMAS * float(spread.max()))
    ground = ground_at_ceiling(clipped)
    closed = closed_channels(ground)
    usable = inside & (ground < ALL_CLOSED)
    valid = usable & ~marker_mask(panel, pattern, reach)
    weight = valid.astype(np.float32)
    lit = max(pattern.drive) > 0
    with ThreadPoolExecutor(threads) as pool:
        bands = Bands(valid, weight, threads, pool)
        level, limits, live, profiles = _flatten(
            planes,
            valid,
            math.hypot(filter_px, float(blur_px[1])) / scale if lit else 0.0,
            bands,
            lambda level, limits: take_off_moire(planes, valid, level, limits, panel, registration, threads),
        )
        unit = _pixel_share(registration, scale, spread, live.shape)
        if lit:
            usual = medians(level)
            main = int(np.argmax(usual))
            unit *= level[..., main, None] / max(float(usual[main]), 1e-6)
        probes = _see_probes(panel, pattern, planes, usable, unit, live, closed)
        unit /= _in_noise(planes, limits, bands)
        trust = weight
        distrust_ripples(panel, pattern, planes, trust, reach)
        distrust_border(planes, trust)
        inverse = inverses(
            _correlation(planes, trust, valid, live & (closed == 0) if (closed == 0).mean() > LEAST_OPEN else live)
        )
        kinds = np.unique(closed)
        energy = np.empty((height, width), np.float32)

        def respond(rows: slice, room: Image) -> None:
            size = (rows.stop - rows.start) * width
            scores, told = room[: 6 * size].reshape(2, 3, size)
            np.multiply(planes[:, rows], trust[rows], out=scores.reshape(3, -1, width))
            np.matmul(inverse[kinds[0]], scores, out=told)
            if len(kinds) > 1:
                own = np.repeat(
                    np.repeat(closed[rows.start // BLOCK_PX : -(-rows.stop // BLOCK_PX)], BLOCK_PX, 0), BLOCK_PX, 1
                )
                own = own[: rows.stop - rows.start, :width].ravel()
                for kind in kinds[1:]:
                    there = np.flatnonzero(own == kind)
                    told[:, there] = inverse[kind] @ scores[:, there]
            # where the photo is trusted in part only, this is too low by the trust; such pixels are looked at in any case
            np.einsum("ij,ij->j", scores, told, out=energy[rows].reshape(-1))
            for c, own in enumerate(told):
                np.multiply(
                    own.reshape(-1, width), unblocked(unit[..., c], rows, width, room[6 * size :]), out=planes[c, rows]
                )

        bands.each(respond, 8)
    return PanelView(
        response=np.moveaxis(planes, 0, -1),
        energy=energy,
        information=unit[..., :, None] * unit[..., None, :] * inverse[closed],
        trust=trust,
        probes=probes,
        level=level,
        spread_px=spread,
        clipped_fraction=np.count_nonzero(ground) / ground.size,
        outside_fraction=1 - np.count_nonzero(inside) / inside.size,
        closed_fraction=np.count_nonzero(ground == ALL_CLOSED) / ground.size,
        row_light=profiles[0],
        column_light=profiles[1],
    )


def _flatten(
    planes: Image, valid: NDArray[np.bool_], fade_px: float, bands: Bands, demoire: Callable[[Image, list[float]], None]
) -> tuple[Image, list[float], NDArray[np.bool_], tuple[Image, Image]]:
    """Take the slowly varying light of the pattern off each plane: (h, w, 3) that light, each plane's limit above which the rest counts
    as an outlier, (h, w) what is lit as it should be, and not under ink or in a dead part, where there is less noise too, and the light of
    rows and columns. ``fade_px`` is
    how wide the rim's light fades into the dark around it, 0 where the pattern is dark and there is none; ``demoire`` takes the moire off, being
    told the light and each plane's limit."""

    def take_off(base: Image) -> None:
        each = [np.ascontiguousarray(base[..., c]) for c in range(len(planes))]

        def work(rows: slice, room: Image) -> None:
            for plane, own in zip(planes, each, strict=True):
                plane[rows] -= unblocked(own, rows, bands.width, room)

        bands.each(work)

    if fade_px:
        bands.each_plane(lambda plane: _unfade(plane, fade_px), planes)
    profiles = light_profiles(planes, valid)
    means = bands.means(planes, lambda seen, _, room: np.copyto(room, seen), [0.0] * len(planes))
    level = bands.smoothed(means, 3)
    seen = bands.weight_blocks[..., None]
    live = (
        _live(np.where(seen > LEAST_SEEN, means / np.maximum(seen, LEAST_SEEN), level))
        if fade_px
        else np.ones(means.shape[:2], bool)
    )
    take_off(level)
    limits = [3.0 * sigma for sigma in bands.each_plane(lambda plane: _robust_sigma(plane, valid, live), planes)]
    more = bands.smoothed(
        bands.means(planes, lambda rest, limit, room: np.clip(rest, -limit, limit, out=room), limits), 3
    )
    take_off(more)
    light = level + more
    demoire(light, [MOIRE_SIGMAS / 3 * limit for limit in limits])

    def finish(plane: Image) -> float:
        if fade_px:
            _unfade(plane, fade_px, back=True)
        limit = 4 * _robust_sigma(plane, valid, live)
        _take_off_border(plane, limit)
        return limit

    return light, bands.each_plane(finish, planes), live, profiles


def _in_noise(planes: Image, limits: list[float], bands: Bands) -> Image:
    """Tell the light of each plane in units of its local noise: (h, w, 3) that noise."""

    def squares(plane: Image, limit: float, room: Image) -> None:
        np.minimum(np.square(plane, out=room), limit * limit, out=room)

    # running sums leave rounding below zero where a picture has no noise at all
    sigma = np.sqrt(np.maximum(bands.smoothed(bands.means(planes, squares, limits), 5), 0))
    sigma = np.maximum(sigma, np.maximum(0.5 * medians(sigma), 0.2 / FULL_SCALE)).astype(np.float32)
    each = [np.ascontiguousarray(1 / sigma[..., c]) for c in range(len(planes))]

    def work(rows: slice, room: Image) -> None:
        for plane, own in zip(planes, each, strict=True):
            plane[rows] *= unblocked(own, rows, bands.width, room)

    bands.each(work)
    return sigma


def _pixel_share(
    registration: Registration, scale: float, spread: NDArray[np.float64], shape: tuple[int, ...]
) -> NDArray[np.float32]:
    """(h, w, 3) share of a panel pixel's light that the filter finds at its centre."""
    # the scale is smooth: about every fourth block is asked
    rows, columns = (max(2, count // 4) for count in shape[:2])
    x, y = np.meshgrid(
        (np.arange(columns) + 0.5) * shape[1] / columns * BLOCK_PX, (np.arange(rows) + 0.5) * shape[0] / rows * BLOCK_PX
    )
    asked = registration.scale_at(np.stack([x.ravel(), y.ravel()], axis=1)).reshape(x.shape)
    local = cv2.resize(asked.astype(np.float32), (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR)
    share = (local / scale)[..., None] ** 2 / (2 * math.pi * spread[:, 0] * spread[:, 1])
    return np.asarray(share, np.float32)


def _correlation(planes: Image, trust: Image, valid: NDArray[np.bool_], live: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(3, 3) correlation of the channels' noise, from a thinned, clipped sample of what is lit as it should; kept off singularity."""
    rows, columns = slice(1, None, 9), slice(1, None, 7)
    known = _thinned(valid, live, rows, columns)
    some = np.array([np.clip((plane[rows, columns] * trust[rows, columns])[known], -4, 4) for plane in planes], float)
    if some.shape[1] < 1000:
        return np.eye(3)
    covariance = np.cov(some)
    deviation = np.sqrt(np.maximum(np.diag(covariance), 1e-12))  # a picture without any noise has none
    return np.asarray(0.9 * covariance / np.outer(deviation, deviation) + 0.1 * np.eye(3), float)


def _live(light: Image) -> NDArray[np.bool_]:
    usual = [quantile(light[..., c], LIVE_PART) for c in range(light.shape[-1])]
    brightest = int(np.argmax(usual))
    return np.asarray(light[..., brightest] > LIVE_SHARE * usual[brightest], bool)


def _thinned(valid: NDArray[np.bool_], live: NDArray[np.bool_], rows: slice, columns: slice) -> NDArray[np.bool_]:
    """The valid and live places among every so many rows and columns."""
    y, x = (np.arange(size)[some] // BLOCK_PX for size, some in zip(valid.shape, (rows, columns), strict=True))
    return np.asarray(valid[rows, columns] & live[y][:, x], bool)


def _robust_sigma(values: Image, valid: NDArray[np.bool_], live: NDArray[np.bool_]) -> float:
    """Standard deviation from the median absolute deviation of a thinned sample (1.4826 MAD)."""
    rows, columns = slice(1, None, 9), slice(2, None, 11)
    some = values[rows, columns][_thinned(valid, live, rows, columns)]
    if some.size == 0:
        return 1.0
    return max(1.4826 * median(np.abs(some - median(some))), 1e-6)
