"""Pixel and subpixel faults: a likelihood test of every panel pixel over all photos of a set.

For each hypothesis (these subpixels stuck dark, or lit) the light model predicts what every photo would show. The evidence
of all photos adds up to one signal-to-noise ratio per pixel and hypothesis; what passes the threshold is explained pixel
by pixel, strongest first, each explained fault being taken off before the next is looked at.
"""

import itertools
import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm

from lens.faults.light_model import LightModel, probed_change, probed_spread
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead, unblock

STRIP_ROWS = 128
FALSE_ALARMS_PER_SET = 0.05
# The largest chance response of real photos (moire, JPEG blocks, demosaicing) stands above Gaussian noise: common practice
# of detection in textured backgrounds is to scale the threshold; 1.25 was found on simulated sets kept for tuning.
TEXTURE_MARGIN = 1.25
DETECTION_Z = 1.645  # one-sided 95 %
MAX_CANDIDATES = 6000
SUBSETS: tuple[tuple[int, ...], ...] = ((0,), (1,), (2,), (0, 1), (0, 2), (1, 2), (0, 1, 2))


class Hypothesis(NamedTuple):
    """These subpixels (0 red, 1 green, 2 blue) stuck lit or dark."""

    channels: tuple[int, ...]
    lit: bool


HYPOTHESES: tuple[Hypothesis, ...] = tuple(Hypothesis(c, lit) for lit, c in itertools.product((False, True), SUBSETS))
SINGLES: tuple[int, ...] = tuple(i for i, h in enumerate(HYPOTHESES) if len(h.channels) == 1)


class Evidence:
    """All photos of a set, ready to be asked about any pixel.

    ``signature[k]`` is (hypotheses, 3): the change of photo k's channels under each hypothesis.
    """

    def __init__(self, panel: Panel, photos: Sequence[PhotoRead], model: LightModel) -> None:
        self.panel = panel
        self.photos = tuple(photos)
        self.signature = [
            np.stack([probed_change(photo, seen, h.channels, h.lit) for h in HYPOTHESES])
            for photo, seen in zip(photos, model.seen, strict=True)
        ]
        self.spread = [probed_spread(photo) for photo in photos]
        self.response = [photo.view.response for photo in photos]
        self.blocks = [
            np.einsum("hi,yxij,hj->yxh", s, photo.view.information, s).astype(np.float32)
            for s, photo in zip(self.signature, photos, strict=True)
        ]

    def strip(self, rows: slice) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """(hypotheses, rows, W) evidence and (hypotheses, rows, W) information of a strip of whole blocks."""
        width = self.panel.width
        count = rows.stop - rows.start
        evidence = np.zeros((len(HYPOTHESES), count * width), np.float32)
        information = np.zeros((len(HYPOTHESES), count, width), np.float32)
        block_rows = slice(rows.start // BLOCK_PX, -(-rows.stop // BLOCK_PX))
        for k, photo in enumerate(self.photos):
            evidence += self.signature[k].astype(np.float32) @ self.response[k][rows].reshape(-1, 3).T
            # bilinear spreading never exceeds its nodes, so neighbouring strips may differ by a rounding only
            full = unblock(np.ascontiguousarray(self.blocks[k][block_rows]), count, width)
            information += (full * photo.view.trust[rows][..., None]).transpose(2, 0, 1)
        return evidence.reshape(len(HYPOTHESES), count, width), information

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

    def take_off(self, x: int, y: int, hypothesis: int, amplitude: float, reach: int = 5) -> None:
        """Subtract what one explained fault put into its surroundings."""
        left, top = max(0, x - reach), max(0, y - reach)
        right, bottom = min(self.panel.width, x + reach + 1), min(self.panel.height, y + reach + 1)
        dx, dy = np.arange(left, right) - x, np.arange(top, bottom) - y
        for k, photo in enumerate(self.photos):
            change = amplitude * self.signature[k][hypothesis]
            put = photo.view.information[y // BLOCK_PX, x // BLOCK_PX] @ change
            sx, sy = self.spread[k]
            shape = np.exp(-(dy[:, None] ** 2) / (2 * sy**2) - dx[None, :] ** 2 / (2 * sx**2))
            window = self.response[k][top:bottom, left:right]
            window -= (shape[..., None] * put * photo.view.trust[top:bottom, left:right, None]).astype(np.float32)


def detection_threshold(panel: Panel, texture: float = TEXTURE_MARGIN) -> float:
    """SNR above which a response counts, for the stated number of false alarms a set (Bonferroni over pixels and kinds)."""
    return float(norm.isf(FALSE_ALARMS_PER_SET / (panel.pixels * len(HYPOTHESES)))) * texture


class Survey(NamedTuple):
    """``candidates`` are (snr, x, y), strongest first. ``proven`` is (H, W) bool."""

    candidates: list[tuple[float, int, int]]
    proven: NDArray[np.bool_]
    threshold: float
    crowded: bool


def survey(evidence: Evidence) -> Survey:
    """Test every pixel, and tell where the weakest single-subpixel fault would have been found with probability 0.95."""
    panel = evidence.panel
    threshold = detection_threshold(panel)
    proven = np.zeros((panel.height, panel.width), bool)
    candidates: list[tuple[float, int, int]] = []
    demand = (threshold + DETECTION_Z) ** 2
    for start in range(0, panel.height, STRIP_ROWS):
        rows = slice(start, min(panel.height, start + STRIP_ROWS))
        told, known = evidence.strip(rows)
        proven[rows] = known[list(SINGLES)].min(axis=0) >= demand
        np.maximum(known, 1e-6, out=known)
        np.sqrt(known, out=known)
        np.divide(told, known, out=told)
        best = told.max(axis=0)
        for y, x in np.argwhere(best > threshold):
            candidates.append((float(best[y, x]), int(x), int(y) + start))
    candidates.sort(reverse=True)
    return Survey(
        candidates=candidates[:MAX_CANDIDATES], proven=proven, threshold=threshold, crowded=len(candidates) > MAX_CANDIDATES)


class Explained(NamedTuple):
    """One pixel's fault. ``share`` of photos' evidence that agrees; amplitude 1 is fully dark or lit."""

    x: int
    y: int
    hypothesis: int
    amplitude: float
    snr: float
    margin: float
    per_photo: NDArray[np.float64]
    expected: NDArray[np.float64]


def explain(evidence: Evidence, x: int, y: int) -> Explained:
    """The hypothesis that explains one pixel best, by likelihood with the amplitude free between 0.5 and 1.5."""
    told, known = evidence.at(x, y)
    total, power = told.sum(axis=0), np.maximum(known.sum(axis=0), 1e-9)
    amplitude = np.clip(total / power, 0.5, 1.5)
    likelihood = amplitude * total - amplitude**2 * power / 2
    order = np.argsort(likelihood)[::-1]
    best = int(order[0])
    return Explained(
        x=x, y=y, hypothesis=best, amplitude=float(total[best] / power[best]), snr=float(total[best] / math.sqrt(power[best])),
        margin=float(likelihood[best] - likelihood[order[1]]), per_photo=told[:, best] / np.sqrt(np.maximum(known[:, best], 1e-9)),
        expected=np.sqrt(known[:, best]))
