"""What a fault would change in each photo.

Every photo carries probes, pixels that are faulty on purpose, so it tells by itself what a stuck subpixel does to its
three channels. Where probes are hidden, a plain model steps in: how the camera sees the panel's three colours is taken
from the red, green and blue solids of the same set, put on one scale by the white one; the black photo's exposure
follows from the lit ink of its markers.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.medians import medians
from lens.patterns import Pattern
from lens.photo import PhotoRead, drive_light

CHANNELS = ("red", "green", "blue")
# When the colour solids are missing: an ordinary phone's view of an ordinary panel. Rows camera B, G, R; columns panel R, G, B.
TYPICAL_VIEW = np.array([[0.02, 0.13, 0.85], [0.08, 0.82, 0.10], [0.85, 0.12, 0.03]])
# A real photo shows less of a single subpixel than optics alone would say (demosaicing, colour subsampling); used without probes only.
UNPROBED_SHARE = 0.5
MIN_PROBES = 2
SILENT_SHARE = 0.25
ANSWERING_SHARE = 0.3  # of the strongest probe's change
NEARLY = 0.6
LEAST_SCALE = 0.2  # of the usual exposure of a set's colours: with less, a photo does not show what it should


class LightModel(NamedTuple):
    """``seen[k]`` is (3, 3): photo k's channels (B, G, R) for full light of the panel's red, green and blue; ``shared`` where pixels
    share red and blue subpixels."""

    seen: tuple[NDArray[np.float64], ...]
    shared: bool


def background(photo: PhotoRead) -> NDArray[np.float64]:
    """(3,) median light of the pattern, B, G, R."""
    return np.maximum(medians(photo.view.level), 1e-5)


def main_channel(light: NDArray[np.float64]) -> int:
    """Which of (3,) camera channels (B, G, R) tells the light best: green where it is nearly as bright as the brightest, as sensors sample
    it twice as densely as red and blue, whose moire would pass for unevenness."""
    return 1 if light[1] >= NEARLY * light.max() else int(np.argmax(light))


def build_light_model(photos: Sequence[PhotoRead]) -> LightModel:
    """The light model of a set, from whatever solids it holds."""
    first: dict[str, PhotoRead] = {}
    for photo in photos:
        first.setdefault(photo.pattern.family, photo)
    measured = [first.get(name) for name in CHANNELS]
    reference = first.get("white") or first.get("registration") or first.get("grey50")
    light = background(reference) / max(drive_light(reference.pattern.drive)) if reference is not None else None
    solved = colour_view([p for p in measured if p], light)
    if solved is not None:
        view = solved
    else:
        view = np.stack(
            [background(p) if p and p.pattern.pure else TYPICAL_VIEW[:, i] for i, p in enumerate(measured)], axis=1
        )
        if light is not None and not all(measured):
            view = view / view.sum(axis=0) * TYPICAL_VIEW.sum(axis=0)
            view = view * (light / view.sum(axis=1))[:, None]
    return LightModel(seen=tuple(_gain(view, photo) * view for photo in photos), shared=shares_subpixels(photos))


def colour_view(colours: Sequence[PhotoRead], white: NDArray[np.float64] | None) -> NDArray[np.float64] | None:
    """(3, 3) camera B, G, R (rows) of the panel's full red, green and blue; None when a photo or ``white``, (3,) the light of full white, is
    missing or they do not fit together.

    Each photo of a colour, seen as b at its own unknown exposure 1 / s, shows the colour v with a share p of the others: s b = v + p (w - v).
    As the three colours add up to white w, the exposures follow: sum of s b / (1 - p) = w (1 + sum of p / (1 - p)).
    """
    if len(colours) < len(CHANNELS) or white is None:
        return None
    paleness = np.array([min(drive_light(photo.pattern.drive)) for photo in colours])
    seen = np.stack([background(photo) for photo in colours], axis=1)
    scale = np.linalg.lstsq(seen / (1 - paleness), white * (1 + (paleness / (1 - paleness)).sum()), rcond=None)[0]
    if (scale <= LEAST_SCALE * np.median(scale)).any():
        return None
    return np.asarray((seen * scale - paleness * white[:, None]) / (1 - paleness), float)


def _gain(view: NDArray[np.float64], photo: PhotoRead) -> float:
    """How much brighter this photo was exposed than the reference."""
    drive = np.array(drive_light(photo.pattern.drive))
    if drive.max() > 0:
        expected, seen = view @ drive, background(photo)
    elif photo.ink_level is not None:
        expected, seen = view @ np.array(drive_light(photo.pattern.ink)), photo.ink_level
    else:
        return 1.0
    return float(seen @ expected / max(expected @ expected, 1e-12))


def light_change(pattern: Pattern, channels: tuple[int, ...], lit: bool) -> NDArray[np.float64]:
    """(3,) change of the panel's red, green and blue light when these subpixels are stuck on (``lit``) or off."""
    drive = np.array(drive_light(pattern.drive))
    change = np.zeros(3)
    for channel in channels:
        change[channel] = 1 - drive[channel] if lit else -drive[channel]
    return change


def shares_subpixels(photos: Sequence[PhotoRead]) -> bool:
    """True where every other pixel lacks a red or a blue subpixel, as on many self-lit panels: their probes do not answer."""
    silent = asked = 0
    for photo in photos:
        for lit in (False, True):
            for channel in (0, 2):
                told = [p for p in photo.view.probes if p.probe.lit == lit and p.probe.channels == (channel,)]
                if light_change(photo.pattern, (channel,), lit)[channel] and len(told) > MIN_PROBES:
                    asked += len(told)
                    silent += len(told) - len(_answering([p.change for p in told]))
    return silent > SILENT_SHARE * asked


def _answering(told: list[NDArray[np.float64]]) -> list[NDArray[np.float64]]:
    """The probes that change something: where every other pixel lacks a red or a blue subpixel, those on the others do not."""
    size = [float(np.nansum(np.abs(change[_MID, _MID]))) for change in told]
    return [change for change, own in zip(told, size, strict=True) if own >= ANSWERING_SHARE * max(size)]


def _typical(told: list[NDArray[np.float64]]) -> NDArray[np.float64]:
    """The median of what probes change, of those that tell; 0 in a channel that is closed at all of them, where it tells nothing of faults either."""
    known = np.array(told)
    silent = np.isnan(known).all(axis=0)
    return np.asarray(np.where(silent, 0.0, np.nanmedian(np.where(silent, 0.0, known), axis=0)), float)


def _probes_of(photo: PhotoRead, channels: tuple[int, ...], lit: bool, shared: bool) -> list[NDArray[np.float64]]:
    """What the probes of one kind change."""
    told = [p.change for p in photo.view.probes if p.probe.lit == lit and p.probe.channels == channels]
    return _answering(told) if shared else told


def probed_change(
    photo: PhotoRead, seen: NDArray[np.float64], channels: tuple[int, ...], lit: bool, shared: bool = False
) -> NDArray[np.float64]:
    """(3,) what a fault does to this photo's channels (B, G, R): told by the photo's probes where there are enough of
    the same kind, pieced together from single subpixels else, and from the light model as the last resort."""
    change = light_change(photo.pattern, channels, lit)
    active = tuple(c for c in channels if change[c])
    if not active:
        return np.zeros(3)
    told = _probes_of(photo, active, lit, shared)
    if len(told) >= MIN_PROBES:
        return _typical([change[_MID, _MID] for change in told])
    if len(active) > 1:
        return np.asarray(sum(probed_change(photo, seen, (c,), lit, shared) for c in active), float)
    return seen @ change * UNPROBED_SHARE


def probed_image(
    photo: PhotoRead,
    seen: NDArray[np.float64],
    channels: tuple[int, ...],
    lit: bool,
    spread: tuple[float, float],
    shared: bool = False,
) -> NDArray[np.float64]:
    """(5, 5, 3) the same change over the fault's surroundings, after the matched filter: the median of the photo's probes
    of this kind, pieced together from single subpixels else, a Gaussian of ``spread`` (x, y) as the last resort."""
    change = light_change(photo.pattern, channels, lit)
    active = tuple(c for c in channels if change[c])
    told = _probes_of(photo, active, lit, shared)
    if active and len(told) >= MIN_PROBES:
        return _typical(told)
    if len(active) > 1:
        return np.asarray(sum(probed_image(photo, seen, (c,), lit, spread, shared) for c in active), float)
    reach = np.arange(-_MID, _MID + 1)
    shape = np.exp(-(reach[:, None] ** 2) / (2 * spread[1] ** 2) - reach[None, :] ** 2 / (2 * spread[0] ** 2))
    return np.asarray(shape[..., None] * probed_change(photo, seen, channels, lit, shared), float)


_MID = 2


def probed_spread(photo: PhotoRead) -> tuple[float, float]:
    """Sigma in x and y (panel px) of one pixel's image after the matched filter, from the probes where there are any.

    For a Gaussian, the ratio r of a neighbour at distance 1 to the peak gives sigma^2 = -1 / (2 ln r).
    """
    patches = [np.nansum(p.change, axis=2) for p in photo.view.probes]
    fallback = photo.view.spread_px.mean(axis=0)
    if len(patches) < 3:
        return float(fallback[0]), float(fallback[1])
    total = np.sum([patch * np.sign(patch[_MID, _MID]) for patch in patches], axis=0)
    sigmas = []
    for a, b, usual in (
        (total[_MID, _MID - 1], total[_MID, _MID + 1], fallback[0]),
        (total[_MID - 1, _MID], total[_MID + 1, _MID], fallback[1]),
    ):
        ratio = (a + b) / 2 / max(total[_MID, _MID], 1e-9)
        sigmas.append(math.sqrt(-1 / (2 * math.log(ratio))) if 0.02 < ratio < 0.95 else float(usual))
    return sigmas[0], sigmas[1]
