"""Pixel and subpixel faults: a likelihood test of every panel pixel over all photos of a set.

For each hypothesis (these subpixels stuck dark, or lit) the light model predicts what every photo would show. The evidence
of all photos adds up to one signal-to-noise ratio per pixel and hypothesis; what passes the threshold is explained pixel
by pixel, strongest first, each explained fault being taken off before the next is looked at.
"""

import itertools
import math
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from lens.faults.light_model import LightModel, probed_change, probed_image, probed_spread
from lens.medians import medians
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead, block_means

FALSE_ALARMS_PER_SET = 0.05
# The largest chance response of real photos (moire, JPEG blocks, demosaicing) stands above Gaussian noise: common practice
# of detection in textured backgrounds is to scale the threshold. On simulated sets kept for tuning, what looks dark stays within
# 1.1 of Gaussian noise's, what looks lit does not: on black and on the other colours the coder and the demosaicing make coloured dots.
TEXTURE_MARGIN, LIT_MARGIN = 1.17, 1.07
SHARED_MARGIN = 1.25  # two lattices of pixels that share subpixels make coarser moire
DETECTION_Z = 1.645  # one-sided 95 %
SUBSETS: tuple[tuple[int, ...], ...] = ((0,), (1,), (2,), (0, 1), (0, 2), (1, 2), (0, 1, 2))


class Hypothesis(NamedTuple):
    """These subpixels (0 red, 1 green, 2 blue) stuck lit or dark."""

    channels: tuple[int, ...]
    lit: bool


HYPOTHESES: tuple[Hypothesis, ...] = tuple(Hypothesis(c, lit) for lit, c in itertools.product((False, True), SUBSETS))
ALL_DARK = next(i for i, h in enumerate(HYPOTHESES) if len(h.channels) == 3 and not h.lit)
# Two stuck subpixels of one pixel pass the survey as one, or as a whole pixel; they are told apart afterwards.
SURVEYED: list[int] = [i for i, h in enumerate(HYPOTHESES) if len(h.channels) != 2]
# Two of a pixel's three subpixels stuck and the third sound is far rarer than one or all (common practice): log odds.
RARER = np.array([3.0 if len(h.channels) == 2 else 0.0 for h in HYPOTHESES])
SINGLE = [n for n, i in enumerate(SURVEYED) if len(HYPOTHESES[i].channels) == 1]
WHOLE = [n for n, i in enumerate(SURVEYED) if len(HYPOTHESES[i].channels) == 3]


LONE_MARGIN = 1.5  # what one photo alone shows, moire and coder ripples show too: it must stand out by so much more


class Seen(NamedTuple):
    """How well each surveyed kind would have been seen: ``known`` is (h, w, kinds) information on blocks, all photos together and
    what they hide left out, each kind in one piece in the memory; ``demand`` is (kinds,) what finding one with probability 0.95 takes."""

    known: NDArray[np.float32]
    kinds: tuple[Hypothesis, ...]
    demand: NDArray[np.float32]


class Evidence:
    """All photos of a set, ready to be asked about any pixel.

    ``signature[k]`` is (hypotheses, 3): the change of photo k's channels under each hypothesis; ``images[k]`` is
    (hypotheses, 5, 5, 3), the same over the fault's surroundings; ``blocks[k]`` is (h, w, hypotheses), what photo k tells about each on
    its blocks, each hypothesis in one piece in the memory.
    """

    def __init__(self, panel: Panel, photos: Sequence[PhotoRead], model: LightModel) -> None:
        self.panel = panel
        self.photos = tuple(photos)
        self.shared = model.shared
        self._inverses: dict[tuple[int, int, int], NDArray[np.float64]] = {}
        self.signature = [
            np.stack([probed_change(photo, seen, h.channels, h.lit, model.shared) for h in HYPOTHESES])
            for photo, seen in zip(photos, model.seen, strict=True)
        ]
        self.threshold = detection_threshold(panel, SHARED_MARGIN if model.shared else TEXTURE_MARGIN)
        self.spread = [probed_spread(photo) for photo in photos]
        self.images = [
            np.stack([probed_image(photo, seen, h.channels, h.lit, spread, model.shared) for h in HYPOTHESES])
            for photo, seen, spread in zip(photos, model.seen, self.spread, strict=True)
        ]
        # of photos without probes, such as a device's own plain colours, only the light model says how much light one pixel is
        self.probed = any(photo.view.probes for photo in photos)
        self.response = [photo.view.response for photo in photos]
        self._taken: list[tuple[NDArray[np.float32], NDArray[np.float32]]] = []
        self.blocks = [_quadratic(photo.view.information, s) for s, photo in zip(self.signature, photos, strict=True)]

    def surveyed_known(self, y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.float32]:
        """(surveyed, N) information about the surveyed hypotheses at N pixels."""
        known = np.zeros((len(SURVEYED), len(y)), np.float32)
        columns = self.blocks[0].shape[1]
        block = y // BLOCK_PX * columns + x // BLOCK_PX
        for blocks, photo in zip(self.blocks, self.photos, strict=True):
            trust = photo.view.trust[y, x]
            for n, i in enumerate(SURVEYED):
                known[n] += blocks[..., i].ravel()[block] * trust
        return known

    def surveyed_snr(self, y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.float32]:
        """(N,) strongest signal-to-noise ratio over the surveyed hypotheses at N pixels."""
        told = np.zeros((len(SURVEYED), len(y)), np.float32)
        for signature, response in zip(self.signature, self.response, strict=True):
            told += signature[SURVEYED].astype(np.float32) @ response[y, x].T
        told /= np.sqrt(np.maximum(self.surveyed_known(y, x), 1e-6))
        return np.asarray(told.max(axis=0), np.float32)

    @cached_property
    def demand(self) -> NDArray[np.float32]:
        """(surveyed,) information that finding a fault with probability 0.95 takes; more where a single photo shows the kind, or
        where a white or grey one alone shows it well."""
        showing = np.sum([signature[SURVEYED].any(axis=1) for signature in self.signature], axis=0)
        usual = np.array([medians(blocks[..., SURVEYED]) for blocks in self.blocks])
        mixed = np.array([photo.pattern.neutral for photo in self.photos])
        alone = (showing == 1) | (((usual > MUST_SHOW_SIGMA**2).sum(axis=0) <= 1) & mixed[usual.argmax(axis=0)])
        lit = np.array([HYPOTHESES[i].lit for i in SURVEYED])
        margin = np.where(alone, LONE_MARGIN, 1.0) * np.where(lit, LIT_MARGIN, 1.0)
        return np.asarray((self.threshold * margin + DETECTION_Z) ** 2, np.float32)

    @cached_property
    def seen(self) -> Seen:
        """What all photos together know of every surveyed kind, on blocks."""
        known = np.zeros((len(SURVEYED), *self.blocks[0].shape[:2]), np.float32)
        for blocks, photo in zip(self.blocks, self.photos, strict=True):
            known += np.moveaxis(blocks, -1, 0)[SURVEYED] * block_means(photo.view.trust)
        return Seen(np.moveaxis(known, 0, -1), tuple(HYPOTHESES[i] for i in SURVEYED), self.demand)

    def at(self, x: int, y: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(photos, hypotheses) evidence and information of one pixel."""
        evidence = np.stack([s @ r[y, x] for s, r in zip(self.signature, self.response, strict=True)])
        information = np.stack(
            [
                b[y // BLOCK_PX, x // BLOCK_PX] * photo.view.trust[y, x]
                for b, photo in zip(self.blocks, self.photos, strict=True)
            ]
        )
        return evidence.astype(float), information.astype(float)

    def window_snr(self, x: int, y: int, reach: int) -> tuple[NDArray[np.float64], int, int]:
        """(hypotheses, h, w) SNR around a pixel and the window's top-left pixel (left, top)."""
        left, top = max(0, x - reach), max(0, y - reach)
        right, bottom = min(self.panel.width, x + reach + 1), min(self.panel.height, y + reach + 1)
        part = np.zeros((len(HYPOTHESES), bottom - top, right - left))
        known = np.zeros_like(part)
        for k, photo in enumerate(self.photos):
            part += np.einsum("hc,yxc->hyx", self.signature[k], self.response[k][top:bottom, left:right])
            block = self.blocks[k][y // BLOCK_PX, x // BLOCK_PX]
            known += block[:, None, None] * photo.view.trust[top:bottom, left:right]
        return part / np.sqrt(np.maximum(known, 1e-9)), left, top

    def inverse_information(self, k: int, x: int, y: int) -> NDArray[np.float64]:
        """(3, 3) inverse of a photo's information on a pixel's block, kept since neighbours ask for the same."""
        key = (k, y // BLOCK_PX, x // BLOCK_PX)
        if key not in self._inverses:
            self._inverses[key] = np.linalg.pinv(self.photos[k].view.information[key[1], key[2]].astype(float))
        return self._inverses[key]

    def fit_image(self, x: int, y: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(hypotheses,) amplitude and gain of each hypothesis at a pixel, from the 5 x 5 surroundings in all photos.

        The gain is the log-likelihood over no fault, brought to the scale of a single look at the pixel's centre, since
        neighbouring values after the filter share their noise. A photo's say is limited by the model's own error: where a
        fault shines at a hundred sigma, being wrong by a tenth must not outvote all other photos.
        """
        count = len(HYPOTHESES)
        along, power, gain_scale = np.zeros(count), np.full(count, 1e-9), np.full(count, 1e-9)
        top, left = max(0, y - REACH_PX), max(0, x - REACH_PX)
        bottom, right = min(self.panel.height, y + REACH_PX + 1), min(self.panel.width, x + REACH_PX + 1)
        part = (
            slice(None),
            slice(top - y + REACH_PX, bottom - y + REACH_PX),
            slice(left - x + REACH_PX, right - x + REACH_PX),
        )
        for k, photo in enumerate(self.photos):
            information = photo.view.information[y // BLOCK_PX, x // BLOCK_PX].astype(float)
            response = self.response[k][top:bottom, left:right].astype(float)
            image = self.images[k][part]
            told = np.einsum("hyxc,cd->hyxd", image, information) * photo.view.trust[top:bottom, left:right][..., None]
            energy = float(np.einsum("yxc,cd,yxd->yx", response, self.inverse_information(k, x, y), response).max())
            say = 1 / (1 + MODEL_ERROR**2 * energy)
            each = np.einsum("hyxc,hyxc->hyx", told, image)
            along += say * np.einsum("hyxc,yxc->h", image, response)
            power += say * each.sum(axis=(1, 2))
            gain_scale += say * each.max(axis=(1, 2))
        amplitude = np.clip(along / power, 0.5, 1.5)
        return along / power, (amplitude * along - amplitude**2 * power / 2) * gain_scale / power

    def take_off(self, x: int, y: int, hypothesis: int, amplitude: float) -> None:
        """Subtract what one explained fault put into its surroundings, until ``put_back``."""
        left, top = max(0, x - REACH_PX), max(0, y - REACH_PX)
        right, bottom = min(self.panel.width, x + REACH_PX + 1), min(self.panel.height, y + REACH_PX + 1)
        part = (slice(top - y + REACH_PX, bottom - y + REACH_PX), slice(left - x + REACH_PX, right - x + REACH_PX))
        for k, photo in enumerate(self.photos):
            put = self.images[k][hypothesis][part] @ photo.view.information[y // BLOCK_PX, x // BLOCK_PX]
            window = self.response[k][top:bottom, left:right]
            self._taken.append((window, window.copy()))
            window -= (amplitude * put * photo.view.trust[top:bottom, left:right, None]).astype(np.float32)

    def lone_photo(self, x: int, y: int) -> int | None:
        """The photo that alone shows what differs at a pixel, None where others do too or it is nothing."""
        energy = np.array(
            [
                float(r[y, x] @ self.inverse_information(k, x, y) @ r[y, x]) if photo.view.trust[y, x] > 0 else 0.0
                for k, (r, photo) in enumerate(zip(self.response, self.photos, strict=True))
            ]
        )
        strongest = int(np.argmax(energy))
        alone = len(energy) > 1 and energy[strongest] > max(self.threshold**2, LONE_SHARE * float(energy.sum()))
        return strongest if alone else None

    def leave_out(self, k: int, x: int, y: int) -> None:
        """Take off all that a photo shows around a pixel, until ``put_back``."""
        reach = REACH_PX + math.ceil(max(self.spread[k]))
        window = self.response[k][max(0, y - reach) : y + reach + 1, max(0, x - reach) : x + reach + 1]
        self._taken.append((window, window.copy()))
        window[...] = 0

    @property
    def taken(self) -> int:
        """How often something was taken off."""
        return len(self._taken)

    def put_back(self, taken: int = 0) -> None:
        """Undo what was taken off after ``taken``: the photos as they were read may serve another set, and whole copies would fill the
        memory."""
        while len(self._taken) > taken:
            window, before = self._taken.pop()
            window[...] = before


REACH_PX = 2
LONE_SHARE = 0.9  # of what all photos show at a pixel
MODEL_ERROR = 0.25  # share by which a photo's true change may differ from the predicted one (this pixel is no probe)


def _quadratic(information: NDArray[np.float32], signature: NDArray[np.float64]) -> NDArray[np.float32]:
    """(h, w, hypotheses) s I s for every block and signature."""
    outer = (signature[:, :, None] * signature[:, None, :]).reshape(len(signature), 9).astype(np.float32)
    told = (outer @ information.reshape(-1, 9).T).reshape(len(signature), *information.shape[:2])
    return np.moveaxis(np.asarray(told, np.float32), 0, -1)


def detection_threshold(panel: Panel, texture: float = TEXTURE_MARGIN) -> float:
    """SNR above which a response counts, for the stated number of false alarms a set (Bonferroni over pixels and kinds)."""
    return -float(ndtri(FALSE_ALARMS_PER_SET / (panel.pixels * len(SURVEYED)))) * texture


class Explained(NamedTuple):
    """One pixel's fault; ``amplitude`` 1 is fully dark or lit, from its surroundings too; ``peak`` the same from its centre alone,
    which moire beside it does not reach.

    ``per_photo`` and ``expected`` are the seen and the predicted signal-to-noise of each photo, ``contradiction`` the
    photos whose light differs from the prediction by more than model and noise allow.
    """

    x: int
    y: int
    hypothesis: int
    amplitude: float
    peak: float
    snr: float
    margin: float
    gain: float
    per_photo: NDArray[np.float64]
    expected: NDArray[np.float64]
    contradiction: tuple[int, ...]

    @property
    def agreed(self) -> bool:
        """True when every photo that must show it does, or misses it by no more than noise."""
        must = self.expected > MUST_SHOW_SIGMA
        return bool((self.per_photo[must] + AGREED_NOISE > AGREED_SHARE * self.expected[must]).all())


def explain(evidence: Evidence, x: int, y: int, hypothesis: int | None = None) -> Explained:
    """The hypothesis that explains one pixel best, by likelihood with the amplitude free between 0.5 and 1.5, or a given one."""
    told, known = evidence.at(x, y)
    amplitudes, gains = evidence.fit_image(x, y)
    odds = gains - RARER
    best = int(np.argmax(odds)) if hypothesis is None else hypothesis
    amplitude = float(amplitudes[best])
    return Explained(
        x=x,
        y=y,
        hypothesis=best,
        amplitude=amplitude,
        peak=float(told[:, best].sum() / max(known[:, best].sum(), 1e-9)),
        snr=float(told[:, best].sum() / math.sqrt(max(known[:, best].sum(), 1e-9))),
        margin=float(odds[best] - np.delete(odds, best).max()),
        gain=float(gains[best]),
        per_photo=told[:, best] / np.sqrt(np.maximum(known[:, best], 1e-9)),
        expected=np.sqrt(known[:, best]),
        contradiction=_contradictions(evidence, x, y, best, min(max(amplitude, 0.5), 1.5)),
    )


def _contradictions(evidence: Evidence, x: int, y: int, hypothesis: int, amplitude: float) -> tuple[int, ...]:
    """Photos whose left-over light at the pixel is stronger than noise and an imperfect model can make it."""
    out = []
    for k, photo in enumerate(evidence.photos):
        trust = float(photo.view.trust[y, x])
        if trust < 0.05:
            continue
        information = photo.view.information[y // BLOCK_PX, x // BLOCK_PX].astype(float) * trust
        change = amplitude * evidence.signature[k][hypothesis]
        left = evidence.response[k][y, x] - information @ change
        chi2 = float(left @ evidence.inverse_information(k, x, y) @ left) / trust
        expected2 = float(change @ information @ change)
        if chi2 > CONTRADICTION_SIGMA**2 + MODEL_ERROR**2 * 4 * expected2:
            out.append(k)
    return tuple(out)


CONTRADICTION_SIGMA = 8.0
MUST_SHOW_SIGMA, AGREED_SHARE, AGREED_NOISE = 4.0, 0.5, 1.0
