"""The camera's tone curve, learned from a photo of the grey ladder.

Phones bend the sRGB curve as they like. At each of several levels the ladder shows red, green, blue and grey; the camera's curve is
the one through which the light of the three colours adds up to the grey's. Without a ladder, two photos of one pattern with different
exposures tell the curve between their levels (Debevec, Malik 1997, with a known ratio of exposures). It is told as a change of the
sRGB-linear light s, relative to white: ln L = u (a + b u + c u^2) with u = ln s.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from lens.faults.light_model import background, main_channel
from lens.photo import PatchSeen, PhotoRead
from lens.srgb import srgb_to_linear

MIN_LEVELS = 4
CLIPPED_CODE, MAX_CLIPPED_SHARE = 254, 0.02
LEAST_LIGHT, BRIGHTEST = 1e-5, 1.15
USUAL_MISFIT = 0.02  # of the sums; more than that is damped
LEAST_RATIO, MOST_RATIO = 1.6, 12.0  # of the exposures of a pair
EXPOSURE_SD, BEND_SD = 0.02, 0.05  # how well a file tells its exposure, as a share; how far a curve usually bends
SAME_STAND = 0.15  # of the distance: from elsewhere a panel looks brighter or darker
SLOPES = (0.6, 1.6)
Numbers = NDArray[np.float64]
_LIGHT = np.maximum(srgb_to_linear(np.arange(256) / 255), LEAST_LIGHT)


class Tone(NamedTuple):
    """``slope``, ``bend`` and ``turn`` are a, b, c; ``white`` the sRGB-linear light that s is relative to; ``faintest`` the darkest
    s that was learned from; ``misfit`` the root mean square of what the sums leave, as a share."""

    slope: float
    bend: float
    turn: float
    white: float
    faintest: float
    misfit: float

    def light(self, seen: Numbers) -> Numbers:
        """True light, relative to white, of sRGB-linear light; straight lines of the logarithm beyond what was learned."""
        u = np.log(np.maximum(seen, LEAST_LIGHT) / self.white)
        inner = np.clip(u, np.log(self.faintest), np.log(BRIGHTEST))
        rise = self.slope + 2 * self.bend * inner + 3 * self.turn * inner**2
        return np.asarray(
            np.exp(self.slope * inner + self.bend * inner**2 + self.turn * inner**3 + rise * (u - inner)), float
        )


# of raw photos: their codes are sRGB codes of linear light
LINEAR = Tone(1.0, 0.0, 0.0, 1.0, LEAST_LIGHT, 0.0)


def pair_tone(photos: Sequence[PhotoRead]) -> Tone | None:
    """The curve from two photos of one pattern whose files tell that they were exposed differently; None without such a pair.

    ln L(bright) - ln L(dark) = ln of the ratio of exposures, block by block, by least squares over slope and bend; the bend is
    held to what is usual, as the levels of one panel do not spread far.
    """
    lit = [
        p
        for p in photos
        if p.pattern.solid
        and max(p.pattern.drive) > 0
        and p.view.whole
        and p.exposure_s
        and not p.linear
        and p.view.clipped_fraction < MAX_CLIPPED_SHARE
    ]
    pairs = [
        (bright, dark, ratio)
        for bright in lit
        for dark in lit
        if bright.pattern.drive == dark.pattern.drive
        and LEAST_RATIO <= (ratio := (bright.exposure_s or 0.0) / (dark.exposure_s or 1.0)) <= MOST_RATIO
        and _stood_alike(bright, dark)
    ]
    if not pairs:
        return None
    bright, dark, ratio = max(pairs, key=lambda pair: pair[2])
    channel = main_channel(background(bright))
    levels = [np.log(np.maximum(photo.view.level[..., channel].astype(float), LEAST_LIGHT)) for photo in (bright, dark)]
    white = float(np.quantile(levels[0], 0.99))
    inner = tuple(
        slice(n // 4, n - n // 4) for n in levels[0].shape
    )  # the lens's fall-off is nearly the same there in both
    high, low = (level[inner].ravel() - white for level in levels)
    terms = np.stack([high - low, high**2 - low**2], axis=1)
    told, sd = float(np.log(ratio)), EXPOSURE_SD
    # the blocks share the error of the ratio, so together they weigh as one
    normal = terms.T @ terms / (len(terms) * sd**2) + np.diag([0.0, BEND_SD**-2])
    slope, bend = (
        float(v) for v in np.linalg.solve(normal, terms.T @ np.full(len(terms), told) / (len(terms) * sd**2))
    )
    if not SLOPES[0] <= slope <= SLOPES[1]:
        return None
    spread = float(np.std(terms @ [slope, bend] - told))
    return Tone(
        slope,
        bend,
        0.0,
        float(np.exp(white)),
        float(np.exp(min(low.min(), -told))),
        misfit=float(np.hypot(sd, spread)) / told,
    )


def _stood_alike(one: PhotoRead, other: PhotoRead) -> bool:
    return float(np.linalg.norm(one.eye - other.eye)) <= SAME_STAND * max(float(one.eye[2]), float(other.eye[2]))


def usable_ladder(photos: Sequence[PhotoRead]) -> PhotoRead | None:
    """The photo of the ladder that shows most of it, white not over-exposed, its greys not bent by place as the camera composed it."""

    def clipped(photo: PhotoRead) -> float:
        return float(np.median([seen.around[CLIPPED_CODE:].sum(axis=0).max() for seen in photo.ladder]))

    fit = [photo for photo in photos if photo.ladder and not photo.composed and clipped(photo) < MAX_CLIPPED_SHARE]
    return max(fit, key=lambda photo: len(photo.ladder), default=None)


def patch_light(tone: Tone | None, ladder: Sequence[PatchSeen]) -> Numbers:
    """(n, 3) light of each patch (camera B, G, R) as a share of the white around it; the light of the black patches, which is glare
    and black level, is taken off. Through the curve pixel by pixel; sRGB without one."""
    curve = _LIGHT if tone is None else tone.light(_LIGHT)
    inside = np.array([curve @ seen.inside for seen in ladder])
    around = np.array([curve @ seen.around for seen in ladder])
    black = [n for n, seen in enumerate(ladder) if seen.patch.level == 0]
    dark = np.mean(inside[black], axis=0) if black else np.zeros(3)
    return np.asarray((inside - dark) / np.maximum(around - dark, 1e-6), float)


def learn_tone(photo: PhotoRead) -> Tone | None:
    """The tone curve, None when too few levels are seen whole or no curve makes the colours add up."""
    if photo.linear:
        return LINEAR
    ladder = photo.ladder
    place = {(seen.patch.level, seen.patch.channel): n for n, seen in enumerate(ladder) if seen.patch.level}
    levels = sorted({level for level, channel in place if channel is not None})
    whole = [
        level
        for level in levels
        if all((level, c) in place for c in range(3)) and ((level, None) in place or level == 255)
    ]
    if len(whole) < MIN_LEVELS:
        return None
    colours = np.array([[place[level, c] for c in range(3)] for level in whole])
    greys = [place.get((level, None)) for level in whole]
    white = float(np.median([(_LIGHT @ seen.around).max() for seen in ladder]))
    plain = patch_light(None, ladder)
    faintest = float(np.median(plain[[g for g in greys if g is not None]].min(axis=0)))

    def made(numbers: Numbers) -> Tone:
        slope, bend, turn = (float(v) for v in numbers)
        return Tone(slope, bend, turn, white, faintest, misfit=0.0)

    def left(numbers: Numbers) -> Numbers:
        light = patch_light(made(numbers), ladder)
        sums = light[colours].sum(axis=1)
        grey = np.array([np.ones(3) if g is None else light[g] for g in greys])
        return np.asarray(np.log(np.maximum(sums, 1e-6) / np.maximum(grey, 1e-6)).ravel(), float)

    fit = least_squares(left, np.array([1.0, 0.0, 0.0]), loss="soft_l1", f_scale=USUAL_MISFIT)
    return made(fit.x)._replace(misfit=float(np.sqrt(np.mean(left(fit.x) ** 2))))
