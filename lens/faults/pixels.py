"""Pixel and subpixel faults: a likelihood test of every panel pixel over all photos of a set.

For each hypothesis (these subpixels stuck dark, or lit) the light model predicts what every photo would show. The evidence
of all photos adds up to one signal-to-noise ratio per pixel and hypothesis; what passes the threshold is explained pixel
by pixel, strongest first, each explained fault being taken off before the next is looked at.
"""

import itertools
import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm

from lens.faults.light_model import LightModel, probed_change, probed_image, probed_spread
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead

STRIP_ROWS = 32  # a strip of eight hypotheses stays in the cache
FALSE_ALARMS_PER_SET = 0.05
# The largest chance response of real photos (moire, JPEG blocks, demosaicing) stands above Gaussian noise: common practice
# of detection in textured backgrounds is to scale the threshold; 1.25 was found on simulated sets kept for tuning.
TEXTURE_MARGIN = 1.25
DETECTION_Z = 1.645  # one-sided 95 %
SUBSETS: tuple[tuple[int, ...], ...] = ((0,), (1,), (2,), (0, 1), (0, 2), (1, 2), (0, 1, 2))


class Hypothesis(NamedTuple):
    """These subpixels (0 red, 1 green, 2 blue) stuck lit or dark."""

    channels: tuple[int, ...]
    lit: bool


HYPOTHESES: tuple[Hypothesis, ...] = tuple(Hypothesis(c, lit) for lit, c in itertools.product((False, True), SUBSETS))
# Two stuck subpixels of one pixel pass the survey as one, or as a whole pixel; they are told apart afterwards.
SURVEYED: list[int] = [i for i, h in enumerate(HYPOTHESES) if len(h.channels) != 2]
_SINGLE = [n for n, i in enumerate(SURVEYED) if len(HYPOTHESES[i].channels) == 1]
_WHOLE = [n for n, i in enumerate(SURVEYED) if len(HYPOTHESES[i].channels) == 3]
THREADS = 2


class Evidence:
    """All photos of a set, ready to be asked about any pixel.

    ``signature[k]`` is (hypotheses, 3): the change of photo k's channels under each hypothesis; ``images[k]`` is
    (hypotheses, 5, 5, 3), the same over the fault's surroundings.
    """

    def __init__(self, panel: Panel, photos: Sequence[PhotoRead], model: LightModel) -> None:
        self.panel = panel
        self.photos = tuple(photos)
        self._inverses: dict[tuple[int, int, int], NDArray[np.float64]] = {}
        self.signature = [
            np.stack([probed_change(photo, seen, h.channels, h.lit) for h in HYPOTHESES])
            for photo, seen in zip(photos, model.seen, strict=True)
        ]
        self.spread = [probed_spread(photo) for photo in photos]
        self.images = [
            np.stack([probed_image(photo, seen, h.channels, h.lit, spread) for h in HYPOTHESES])
            for photo, seen, spread in zip(photos, model.seen, self.spread, strict=True)
        ]
        self.response = [photo.view.response for photo in photos]
        self.blocks = [_quadratic(photo.view.information, s) for s, photo in zip(self.signature, photos, strict=True)]

    def strip(self, rows: slice) -> tuple[NDArray[np.float32], NDArray[np.bool_], NDArray[np.bool_]]:
        """(rows, W) strongest signal-to-noise ratio over the surveyed hypotheses of a strip that begins on a block, and
        where the weakest of the single, and of the whole-pixel ones would have been found.

        Information varies slowly and is kept by block; only pixels that some photo trusts in part are looked at one by one.
        """
        width, count = self.panel.width, rows.stop - rows.start
        block_rows = slice(rows.start // BLOCK_PX, -(-rows.stop // BLOCK_PX))
        told = np.zeros((len(SURVEYED), count * width), np.float32)
        known = np.zeros((block_rows.stop - block_rows.start, self.blocks[0].shape[1], len(SURVEYED)), np.float32)
        partly = np.zeros((count, width), bool)
        for k, photo in enumerate(self.photos):
            told += self.signature[k][SURVEYED].astype(np.float32) @ self.response[k][rows].reshape(-1, 3).T
            known += self.blocks[k][block_rows][..., SURVEYED]
            partly |= photo.view.trust[rows] != 1
        told = told.reshape(len(SURVEYED), count, width)
        told *= _spread_blocks(np.moveaxis(1 / np.sqrt(np.maximum(known, 1e-6)), 2, 0), count, width)
        singles, whole = _spread_blocks(np.stack([known[..., _SINGLE].min(axis=2), known[..., _WHOLE].min(axis=2)]), count, width)
        y, x = np.nonzero(partly)
        exact = np.zeros((len(y), len(SURVEYED)), np.float32)
        by, bx = y // BLOCK_PX, x // BLOCK_PX
        for k, photo in enumerate(self.photos):
            exact += self.blocks[k][block_rows][by, bx][:, SURVEYED] * photo.view.trust[rows][y, x][:, None]
        told[:, y, x] *= np.sqrt(np.maximum(known[by, bx], 1e-6) / np.maximum(exact, 1e-6)).T
        singles[y, x], whole[y, x] = exact[:, _SINGLE].min(axis=1), exact[:, _WHOLE].min(axis=1)
        demand = (detection_threshold(self.panel) + DETECTION_Z) ** 2
        return told.max(axis=0), singles >= demand, whole >= demand

    def at(self, x: int, y: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(photos, hypotheses) evidence and information of one pixel."""
        evidence = np.stack([s @ r[y, x] for s, r in zip(self.signature, self.response, strict=True)])
        information = np.stack([
            b[y // BLOCK_PX, x // BLOCK_PX] * photo.view.trust[y, x] for b, photo in zip(self.blocks, self.photos, strict=True)
        ])
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
        part = (slice(None), slice(top - y + REACH_PX, bottom - y + REACH_PX), slice(left - x + REACH_PX, right - x + REACH_PX))
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
        """Subtract what one explained fault put into its surroundings."""
        left, top = max(0, x - REACH_PX), max(0, y - REACH_PX)
        right, bottom = min(self.panel.width, x + REACH_PX + 1), min(self.panel.height, y + REACH_PX + 1)
        part = (slice(top - y + REACH_PX, bottom - y + REACH_PX), slice(left - x + REACH_PX, right - x + REACH_PX))
        for k, photo in enumerate(self.photos):
            put = self.images[k][hypothesis][part] @ photo.view.information[y // BLOCK_PX, x // BLOCK_PX]
            if self.response[k] is photo.view.response:
                self.response[k] = photo.view.response.copy()  # the photo as it was read may serve another set
            window = self.response[k][top:bottom, left:right]
            window -= (amplitude * put * photo.view.trust[top:bottom, left:right, None]).astype(np.float32)


REACH_PX = 2
MODEL_ERROR = 0.25  # share by which a photo's true change may differ from the predicted one (this pixel is no probe)


def _quadratic(information: NDArray[np.float32], signature: NDArray[np.float64]) -> NDArray[np.float32]:
    """(h, w, hypotheses) s I s for every block and signature."""
    outer = (signature[:, :, None] * signature[:, None, :]).reshape(len(signature), 9).astype(np.float32)
    return np.asarray(information.reshape(-1, 9) @ outer.T, np.float32).reshape(*information.shape[:2], len(signature))


def detection_threshold(panel: Panel, texture: float = TEXTURE_MARGIN) -> float:
    """SNR above which a response counts, for the stated number of false alarms a set (Bonferroni over pixels and kinds)."""
    return float(norm.isf(FALSE_ALARMS_PER_SET / (panel.pixels * len(SURVEYED)))) * texture


def _spread_blocks(blocks: NDArray[np.float32], count: int, width: int) -> NDArray[np.float32]:
    """(n, h, w) values of blocks at (n, count, width) pixels."""
    wide = np.repeat(np.repeat(blocks, BLOCK_PX, axis=2)[..., :width], BLOCK_PX, axis=1)
    return np.ascontiguousarray(wide[:, :count])


class Survey(NamedTuple):
    """``snr`` is (H, W) float32, the strongest hypothesis's response where it passes ``threshold`` and 0 elsewhere.

    ``proven`` and ``proven_pixels`` are (H, W) bool: where the weakest single-subpixel fault, and where a whole pixel stuck
    dark or lit, would have been found with probability 0.95 or more.
    """

    snr: NDArray[np.float32]
    proven: NDArray[np.bool_]
    proven_pixels: NDArray[np.bool_]
    threshold: float


def survey(evidence: Evidence) -> Survey:
    """Test every pixel against the surveyed hypotheses, strip by strip on two threads."""
    panel = evidence.panel
    threshold = detection_threshold(panel)
    shape = (panel.height, panel.width)
    proven, proven_pixels, snr = np.zeros(shape, bool), np.zeros(shape, bool), np.zeros(shape, np.float32)

    def look(start: int) -> None:
        rows = slice(start, min(panel.height, start + STRIP_ROWS))
        best, proven[rows], proven_pixels[rows] = evidence.strip(rows)
        snr[rows] = np.where(best > threshold, best, 0)

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(look, range(0, panel.height, STRIP_ROWS)))
    return Survey(snr=snr, proven=proven, proven_pixels=proven_pixels, threshold=threshold)


class Explained(NamedTuple):
    """One pixel's fault; ``amplitude`` 1 is fully dark or lit.

    ``per_photo`` and ``expected`` are the seen and the predicted signal-to-noise of each photo, ``contradiction`` the
    photos whose light differs from the prediction by more than model and noise allow.
    """

    x: int
    y: int
    hypothesis: int
    amplitude: float
    snr: float
    margin: float
    gain: float
    per_photo: NDArray[np.float64]
    expected: NDArray[np.float64]
    contradiction: tuple[int, ...]


def explain(evidence: Evidence, x: int, y: int) -> Explained:
    """The hypothesis that explains one pixel best, by likelihood with the amplitude free between 0.5 and 1.5."""
    told, known = evidence.at(x, y)
    amplitudes, gains = evidence.fit_image(x, y)
    order = np.argsort(gains)[::-1]
    best, amplitude = int(order[0]), float(amplitudes[order[0]])
    return Explained(
        x=x, y=y, hypothesis=best, amplitude=amplitude,
        snr=float(told[:, best].sum() / math.sqrt(max(known[:, best].sum(), 1e-9))),
        margin=float(gains[best] - gains[order[1]]), gain=float(gains[best]),
        per_photo=told[:, best] / np.sqrt(np.maximum(known[:, best], 1e-9)), expected=np.sqrt(known[:, best]),
        contradiction=_contradictions(evidence, x, y, best, min(max(amplitude, 0.5), 1.5)))


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
