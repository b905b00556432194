"""Several faults close together: their images overlap, so all of them are explained at once and not one after the other.

What all photos show around a place is held against sums of the images of faulty pixels and, where they are dark, against one soft spot on
the glass (least squares in units of the noise; one more fault at a time, each then moved to where it explains most).
"""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import ALL_DARK, HYPOTHESES, MODEL_ERROR, REACH_PX, Evidence
from lens.photo import BLOCK_PX

AROUND_PX, MOST_FAULTS = 3, 8
MOST_REACH_PX, REACH_SIGMAS, BROAD_PX = 4, 2.2, 1.3
LEAST_SHARE, MOST_SHARE = 0.7, 1.3  # of a full fault
LEAST_POWER = 9.0  # a fault that photos show less well is not looked for beside others
FIRSTS, PROMISING = 24, -1.0
LEAST_GAIN = 2.0  # of the log-likelihood ratio, doubled, that one fault more must explain
SHARED_APART_PX = 2.5
COARSE_PX_PER_PX, SHARP_BLUR_PX = (
    1.6,
    1.0,
)  # a phone stores colour for two by two pixels; more blur makes the photo coarser
LEAST_KNOWN = 1e-4  # of the best known colour mixture; what is known less is not known
# Dirt has no colour: where faults explain clearly more than a soft spot, it is none. Else they must explain no less, and be whole dead pixels.
# On simulated sets kept for tuning, specks of dust gave up to 1.02, groups with a colour 1.17 and more, dead pixels 0.89 to 1.2 of their light.
CLEARLY_MORE, AS_GOOD, LEAST_WHOLE, MOST_WHOLE = 1.1, 0.995, 0.85, 1.25
WIDTHS_PX = (0.5, 0.7, 0.9, 1.1, 1.4, 1.8, 2.4)
OFFSETS_PX = np.arange(-1.0, 1.01, 0.25)
DARK_ONES = [n for n, h in enumerate(HYPOTHESES) if len(h.channels) == 1 and not h.lit]  # red, green, blue


class Fault(NamedTuple):
    """One of several: its place, what it is, how much of a full fault, and its signal-to-noise ratio with all others taken off."""

    x: int
    y: int
    hypothesis: int
    amplitude: float
    snr: float


class Surroundings:
    """What photos show around a place, and what every kind of fault at every place near it would show.

    ``shapes`` is (places x hypotheses, values), ``data`` and ``say`` are (values,), all in units of the noise times the root of the
    photo's say; ``single`` (places x hypotheses,) brings a sum over values, whose noise runs together, to that of one look.
    """

    def __init__(self, evidence: Evidence, x: int, y: int) -> None:
        reach = min(MOST_REACH_PX, max(REACH_PX, math.ceil(REACH_SIGMAS * float(np.max(evidence.spread)))))
        edge = AROUND_PX + reach
        steps = np.arange(-AROUND_PX, AROUND_PX + 1)
        self.places = [(int(x + dx), int(y + dy)) for dy in steps for dx in steps]
        blur = max(float(np.median([photo.blur_px for photo in evidence.photos])), SHARP_BLUR_PX)
        scale = float(np.median([photo.px_per_px for photo in evidence.photos]))
        self.coarse_colour, self.apart_px = evidence.shared or scale / blur < COARSE_PX_PER_PX, SHARED_APART_PX * blur
        width, height = evidence.panel.width, evidence.panel.height
        on_panel = np.array([0 <= px < width and 0 <= py < height for px, py in self.places])
        left, top, right, bottom = (
            max(0, x - edge),
            max(0, y - edge),
            min(width, x + edge + 1),
            min(height, y + edge + 1),
        )
        rows, columns = slice(top - y + edge, bottom - y + edge), slice(left - x + edge, right - x + edge)
        count = len(HYPOTHESES)
        shapes, data, say, peak = [], [], [], np.zeros(count)
        for k, photo in enumerate(evidence.photos):
            values, axes = np.linalg.eigh(photo.view.information[y // BLOCK_PX, x // BLOCK_PX].astype(float))
            known = values > LEAST_KNOWN * max(values[-1], 0.0)
            axes, values = axes[:, known], values[known]
            size = 2 * edge + 1
            trust, told = np.zeros((size, size), np.float32), np.zeros((size, size, len(values)))
            trust[rows, columns] = photo.view.trust[top:bottom, left:right]
            told[rows, columns] = evidence.response[k][top:bottom, left:right].astype(float) @ (axes * values**-0.5)
            told *= (trust > 0)[..., None]
            own = 1 / (1 + MODEL_ERROR**2 * float((told**2).sum(axis=2).max()))
            images = (own**0.5 * _image(evidence, k, reach) @ (axes * values**0.5)).astype(np.float32)
            peak += (images**2).sum(axis=3).max(axis=(1, 2))
            block = np.zeros((len(steps), len(steps), count, size, size, len(values)), np.float32)
            s = block.strides
            # each place's images lie one row or column further on
            np.lib.stride_tricks.as_strided(
                block, (len(steps), len(steps), *images.shape), (s[0] + s[3], s[1] + s[4], s[2], s[3], s[4], s[5])
            )[...] = images
            if (trust != 1).any():
                block *= trust[..., None]
            shapes.append(block.reshape(len(self.places) * count, -1))
            data.append((own**0.5 * told).astype(np.float32).ravel())
            say.append(np.full(told.size, own, np.float32))
        self.shapes, self.data, self.say = np.concatenate(shapes, axis=1), np.concatenate(data), np.concatenate(say)
        self.power = np.maximum((self.shapes**2).sum(axis=1), 1e-9)
        self.usable = (self.power > LEAST_POWER) & np.repeat(on_panel, count)
        middle = len(self.places) // 2 * count
        self.single = np.tile(peak / np.maximum(self.power[middle : middle + count], 1e-9), len(self.places))

    def snr(self, n: int, rest: NDArray[np.float32]) -> float:
        """Signal-to-noise ratio of one fault in what the others leave, with the photos' full say."""
        own = self.shapes[n] / self.say
        return float(own @ rest / np.sqrt(own @ self.shapes[n] / self.single[n]))


def _image(evidence: Evidence, k: int, reach: int) -> NDArray[np.float64]:
    """(hypotheses, rows, columns, 3) a fault's image in photo k: the probes' own, with a Gaussian around it; of a broad one, which the
    probes tell worse than their spread, a Gaussian alone."""
    at, (sigma_x, sigma_y) = np.arange(-reach, reach + 1), evidence.spread[k]
    shape = np.exp(-(at[:, None] ** 2) / (2 * sigma_y**2) - at[None, :] ** 2 / (2 * sigma_x**2))
    image = shape[None, :, :, None] * evidence.signature[k][:, None, None, :]
    inner = slice(reach - REACH_PX, reach + REACH_PX + 1)
    if max(sigma_x, sigma_y) < BROAD_PX:
        image[:, inner, inner] = evidence.images[k]
    return image


class Search:
    """Sums of images that explain a place best. A fault is told by its number in the shapes."""

    def __init__(self, at: Surroundings) -> None:
        self.at, self.fits = at, at.shapes @ at.data
        self._rows: dict[int, NDArray[np.float32]] = {}

    def _common(self, n: int) -> NDArray[np.float32]:
        if n not in self._rows:
            self._rows[n] = self.at.shapes @ self.at.shapes[n]
        return self._rows[n]

    def fitted(self, faults: tuple[int, ...]) -> tuple[NDArray[np.float64], float]:
        """Amplitudes, and the gain."""
        if len(faults) == 1:
            fit, power = float(self.fits[faults[0]]), float(self.at.power[faults[0]])
            amplitude = min(max(fit / power, LEAST_SHARE), MOST_SHARE)
            return np.array([amplitude]), 2 * amplitude * fit - amplitude**2 * power
        gram = np.array([self._common(n)[list(faults)] for n in faults], float)
        fits = self.fits[list(faults)].astype(float)
        amplitudes = np.clip(np.linalg.lstsq(gram, fits, rcond=None)[0], LEAST_SHARE, MOST_SHARE)
        return amplitudes, float(2 * amplitudes @ fits - amplitudes @ gram @ amplitudes)

    def gains(self, faults: tuple[int, ...]) -> NDArray[np.float64]:
        """What each further fault would explain; two at one pixel are a kind of its own."""
        against = self.fits.astype(float)
        for n, amplitude in zip(faults, self.fitted(faults)[0] if faults else (), strict=True):
            against -= amplitude * self._common(n)
        gain = self._gain(against)
        for n in faults:
            self._leave_out(gain, n)
        return gain

    def _gain(self, against: NDArray[np.float64]) -> NDArray[np.float64]:
        """What each fault explains of what is left ``against`` the shapes, (..., places x hypotheses)."""
        amplitudes = np.clip(against / self.at.power, LEAST_SHARE, MOST_SHARE)
        return np.where(self.at.usable, (2 * against - amplitudes * self.at.power) * amplitudes, -np.inf)

    def _leave_out(self, gain: NDArray[np.float64], fault: int) -> None:
        """What cannot be told beside a fault explains nothing."""
        first = fault // len(HYPOTHESES) * len(HYPOTHESES)
        gain[first : first + len(HYPOTHESES)] = -np.inf
        if self.at.coarse_colour:
            gain[self._blurred_by(fault)] = -np.inf

    def _blurred_by(self, fault: int) -> NDArray[np.bool_]:
        """Faults of a red or blue subpixel close to one of that colour: where pixels share them, or few photo pixels show each, their images
        differ from pixel to pixel too much to tell two from one."""
        place, own = divmod(fault, len(HYPOTHESES))
        at = np.array(self.at.places, float)
        near = np.hypot(*(at - at[place]).T) < self.at.apart_px
        alike = np.array(
            [len(h.channels) < 3 and bool({0, 2} & {*h.channels} & {*HYPOTHESES[own].channels}) for h in HYPOTHESES]
        )
        return (near[:, None] & alike).ravel()

    def with_one_more(self, faults: tuple[int, ...]) -> tuple[tuple[int, ...], float]:
        """The faults and the one that explains most besides, as they are where no place is left for it; and the gain of all."""
        gains = self.gains(faults)
        best = int(np.argmax(gains))
        more = (*faults, best) if np.isfinite(gains[best]) else faults
        return more, self.fitted(more)[1] if more else 0.0

    def best_pair(self, firsts: list[int]) -> tuple[tuple[int, ...], float]:
        """The best of what ``with_one_more`` makes of each of the faults alone, all at once."""
        common = self.at.shapes[firsts] @ self.at.shapes.T
        self._rows.update(zip(firsts, common, strict=True))
        amplitudes = np.clip(self.fits[firsts].astype(float) / self.at.power[firsts], LEAST_SHARE, MOST_SHARE)
        gain = self._gain(self.fits - amplitudes[:, None] * common)
        for n, own in zip(firsts, gain, strict=True):
            self._leave_out(own, n)
        seconds, firsts_at = gain.argmax(axis=1), np.arange(len(firsts))
        own, other, both = (
            v.astype(float) for v in (self.at.power[firsts], self.at.power[seconds], common[firsts_at, seconds])
        )
        fit, fit_other = self.fits[firsts].astype(float), self.fits[seconds].astype(float)
        apart = np.maximum(own * other - both**2, 1e-9 * own * other)
        a, b = (
            np.clip(v / apart, LEAST_SHARE, MOST_SHARE)
            for v in (other * fit - both * fit_other, own * fit_other - both * fit)
        )
        told = 2 * (a * fit + b * fit_other) - a * a * own - b * b * other - 2 * a * b * both
        told[~np.isfinite(gain[firsts_at, seconds])] = -np.inf
        best = int(np.argmax(told))
        if not np.isfinite(told[best]):
            return (firsts[0],), self.fitted((firsts[0],))[1]
        return (firsts[best], int(seconds[best])), float(told[best])

    def moved(self, faults: tuple[int, ...], gain: float) -> tuple[tuple[int, ...], float]:
        """Each fault taken out and put where it explains most, until none moves."""
        while True:
            again = max(
                (self.with_one_more(tuple(m for m in faults if m != n)) for n in faults), key=lambda one: one[1]
            )
            if again[1] <= gain + 1e-3:
                return faults, gain
            faults, gain = again

    def best(self) -> tuple[int, ...]:
        """Faults as long as each explains enough."""
        gains = self.gains(())
        firsts = [n for n in np.argsort(gains)[::-1][:FIRSTS].tolist() if np.isfinite(gains[n])]
        if not firsts:
            return ()
        faults: tuple[int, ...] = (firsts[0],)
        gain = self.fitted(faults)[1]
        while len(faults) < MOST_FAULTS:
            more, after = self.with_one_more(faults)
            if (after - gain) * self.at.single[more[-1]] < PROMISING:
                break
            if len(faults) == 1:
                # two close together look most like one between them
                more, after = self.best_pair(firsts)
            more, after = self.moved(more, after)
            if (after - gain) * self.at.single[more[-1]] < LEAST_GAIN:
                break
            faults, gain = more, after
        return faults

    def spot_gain(self) -> float:
        """What one soft spot explains that dims all colours alike: the best of widths and places about the middle, over whole pixels or over
        subpixels in stripes from red to blue or from blue to red, which it covers one by one."""
        steps = np.array(self.at.places, float) - self.at.places[len(self.at.places) // 2]
        width, dx, dy = (values.reshape(-1, 1) for values in np.meshgrid(WIDTHS_PX, OFFSETS_PX, OFFSETS_PX))
        best = 0.0
        for parts in (
            ((ALL_DARK, 0.0),),
            *(tuple(zip(DARK_ONES, (-side, 0.0, side), strict=True)) for side in (1 / 3, -1 / 3)),
        ):
            own = np.concatenate([np.arange(len(steps)) * len(HYPOTHESES) + hypothesis for hypothesis, _ in parts])
            px = np.concatenate([steps[:, 0] + shift for _, shift in parts])
            py = np.tile(steps[:, 1], len(parts))
            shapes = self.at.shapes[own].astype(float)
            weights = np.exp(-((px - dx) ** 2 + (py - dy) ** 2) / (2 * width**2))
            fits, power = (
                np.maximum(weights @ (shapes @ self.at.data), 0),
                ((weights @ (shapes @ shapes.T)) * weights).sum(axis=1),
            )
            best = max(best, float((fits**2 / np.maximum(power, 1e-9)).max()))
        return best


def explain_together(evidence: Evidence, x: int, y: int, threshold: float) -> tuple[Fault, ...]:
    """Two or more faults around a place that each stand above ``threshold`` and explain it better than one alone, or a soft spot, would;
    none where there are no such."""
    at = Surroundings(evidence, x, y)
    search = Search(at)
    chosen = search.best()
    while len(chosen) > 1:
        amplitudes, gain = search.fitted(chosen)
        faults = _told(at, chosen, amplitudes)
        weakest = min(range(len(faults)), key=lambda n: faults[n].snr)
        if faults[weakest].snr > threshold:
            return faults if _not_soft(faults, gain, search.spot_gain()) else ()
        chosen = tuple(n for n in chosen if n != chosen[weakest])
    return ()


def _told(at: Surroundings, chosen: tuple[int, ...], amplitudes: NDArray[np.float64]) -> tuple[Fault, ...]:
    put = amplitudes[:, None].astype(np.float32) * at.shapes[list(chosen)]
    rest = at.data - put.sum(axis=0)
    return tuple(
        Fault(*at.places[n // len(HYPOTHESES)], n % len(HYPOTHESES), float(amplitude), at.snr(n, rest + own))
        for n, amplitude, own in zip(chosen, amplitudes, put, strict=True)
    )


def _not_soft(faults: tuple[Fault, ...], gain: float, spot_gain: float) -> bool:
    """Whether these are faults of the panel and not several that together look like a soft spot."""
    if any(fault.hypothesis != ALL_DARK for fault in faults):
        return gain > CLEARLY_MORE * spot_gain
    return gain > AS_GOOD * spot_gain and all(LEAST_WHOLE <= fault.amplitude <= MOST_WHOLE for fault in faults)
