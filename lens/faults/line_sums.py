"""The evidence of single pixels summed along rows and columns, and what stands out of it in windows of several lengths."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import HYPOTHESES, SURVEYED, Evidence
from lens.medians import median
from lens.photo import BLOCK_PX

Orientation = Literal["row", "column"]
LEAST_POWER = 1e-6
FEW_COLUMNS = 50
THIN = 5  # every fifth line is enough to tell how sums spread
STRETCH_PX = 16  # along a line, evidence is summed over stretches of two blocks
WINDOW_STRETCHES = (2, 6, 24)
BLOCK_CLIP = 6.0  # what one block of a line may say at most: a single faulty pixel is no line
LEAST_KNOWN = 0.002  # share of what a usual place tells
MIN_AMPLITUDE = 0.02  # what is fainter is unevenness, not a line
RIM_PX, MIN_RIM_AMPLITUDE, NEAR_RIM_PX, MIN_NEAR_RIM_AMPLITUDE = 8, 0.3, 16, 0.04


def least_amplitude(from_rim_px: NDArray[np.float64], colours: int) -> NDArray[np.float64]:
    """The faintest that a line of so many colours is believed to be at distances from the rim: along it a registration error of a tenth of a
    pixel looks like a faint line, and the lens's colour fringes make coloured ones a little further in."""
    rim_px = NEAR_RIM_PX if colours == 1 else RIM_PX
    return np.where(
        from_rim_px < rim_px,
        MIN_RIM_AMPLITUDE,
        np.where(from_rim_px < NEAR_RIM_PX, MIN_NEAR_RIM_AMPLITUDE, MIN_AMPLITUDE),
    )


class Direction:
    """The evidence turned so that lines run down: sums over stretches along them, and single pixels on demand."""

    def __init__(self, evidence: Evidence, orientation: Orientation) -> None:
        self.evidence, self.orientation = evidence, orientation
        turn = orientation == "row"
        self.length, self.count = (
            (evidence.panel.width, evidence.panel.height) if turn else (evidence.panel.height, evidence.panel.width)
        )
        stretches = -(-self.length // STRETCH_PX)
        shown = shown_kinds(evidence)
        told = np.zeros((len(shown), stretches, self.count), np.float32)
        self.known = np.zeros_like(told)
        for k, photo in enumerate(evidence.photos):
            sums = np.stack([_along(plane, turn) for plane in np.moveaxis(evidence.response[k], -1, 0)])
            trusted = _along(photo.view.trust, turn)
            told += (evidence.signature[k][shown].astype(np.float32) @ sums.reshape(3, -1)).reshape(told.shape)
            info = np.ascontiguousarray(
                evidence.blocks[k][..., shown].transpose((2, 1, 0) if turn else (2, 0, 1))[:, ::2]
            )
            self.known += np.repeat(info, BLOCK_PX, axis=2)[..., : self.count] * trusted
        # what is hidden under a marker knows nothing
        least_known = np.array(
            [max(LEAST_KNOWN * median(known[::3, ::5]), LEAST_POWER) for known in self.known], np.float32
        )[:, None, None]
        np.maximum(self.known, least_known, out=self.known)
        root = np.sqrt(self.known)
        # a stretch counts when it is dark or lit enough for a line, however little of that the clipped score shows
        from_rim = np.minimum(np.arange(self.count), np.arange(self.count)[::-1])
        least = np.stack([least_amplitude(from_rim, len(HYPOTHESES[i].channels)) for i in shown])[:, None].astype(
            np.float32
        )
        faint = (told > 0) & (told < least * self.known)
        told /= root
        self.sigma = max(1.0, 1.4826 * median(np.abs(told[:, ::3, ::5])))
        np.clip(told, -BLOCK_CLIP * self.sigma, BLOCK_CLIP * self.sigma, out=told)
        told *= root
        self.told = told
        self.windows = tuple(n for n in WINDOW_STRETCHES if n < stretches) + (stretches,)
        self._power = self._added_up(self.known, slice(None))
        # how much wider than unit noise the sums spread: neighbours after the filter share theirs, and moire adds its own
        thin = slice(None, None, THIN)
        some, power = self._added_up(told, thin), np.ascontiguousarray(self._power[..., thin])
        self.scales = [max(1.0, 1.4826 * median(np.abs(_sums(some, power, n, max(1, n // 2))))) for n in self.windows]
        np.multiply(told, ~faint, out=told)

    def _added_up(self, image: NDArray[np.float32], columns: slice) -> NDArray[np.float32]:
        """Running sums down some columns, from 0 on."""
        out = np.zeros((image.shape[0], image.shape[1] + 1, len(range(*columns.indices(self.count)))), np.float32)
        if out.shape[2] < FEW_COLUMNS:
            np.cumsum(image[..., columns], axis=1, out=out[:, 1:])
            return out
        for n in range(image.shape[1]):  # of many columns several times faster
            np.add(out[:, n], image[:, n, columns], out=out[:, n + 1])
        return out

    def best(self, columns: slice) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
        """(columns,) strongest score of each column and (columns, 2) the first stretch and the stretches of its window."""
        score = np.zeros(columns.stop - columns.start, np.float32)
        where = np.zeros((len(score), 2), np.int32)
        added, power = self._added_up(self.told, columns), self._power[..., columns]
        for stretches, scale in zip(self.windows, self.scales, strict=True):
            # kind by kind, as what fits into the processor's memory is done several times faster
            sums = _sums(added[:1], power[:1], stretches)[0]
            for kind in range(1, len(added)):
                np.maximum(sums, _sums(added[kind : kind + 1], power[kind : kind + 1], stretches)[0], out=sums)
            first = sums.argmax(axis=0)
            strongest = sums[first, np.arange(len(score))] / np.float32(scale)
            better = strongest > score
            score[better] = strongest[better]
            where[better, 0], where[better, 1] = first[better], stretches
        return score, where

    def forget(self, columns: slice, stretches: slice) -> None:
        self.told[:, stretches, columns] = 0

    def pixels(
        self, across: int, hypotheses: slice | int = slice(None)
    ) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(photos, hypotheses, length) evidence and information of the pixels of one row or column; without the second axis
        when one hypothesis is asked for."""
        told, known = [], []
        for k, photo in enumerate(self.evidence.photos):
            if self.orientation == "row":
                response, trust, info = (
                    self.evidence.response[k][across],
                    photo.view.trust[across],
                    self.evidence.blocks[k][across // BLOCK_PX],
                )
            else:
                response, trust = self.evidence.response[k][:, across], photo.view.trust[:, across]
                info = self.evidence.blocks[k][:, across // BLOCK_PX]
            told.append(self.evidence.signature[k][hypotheses] @ response.T)
            known.append(np.repeat(info[:, hypotheses], BLOCK_PX, axis=0)[: self.length].T * trust)
        return np.array(told, float), np.array(known, float)


def _sums(added: NDArray[np.float32], power: NDArray[np.float32], stretches: int, step: int = 1) -> NDArray[np.float32]:
    """(hypotheses, starts, columns) signal-to-noise of windows of one length that start so many stretches apart, from running sums."""
    told, known = (sums[:, stretches::step] - sums[:, :-stretches:step] for sums in (added, power))
    # running sums leave rounding below zero, and nothing at all where every photo is over-exposed
    np.sqrt(np.maximum(known, LEAST_POWER, out=known), out=known)
    return np.divide(told, known, out=told)


def _along(plane: NDArray[np.float32], turn: bool) -> NDArray[np.float32]:
    """Sums over stretches along the lines: (stretches, across)."""
    height, width = plane.shape
    if turn:
        missing = -width % STRETCH_PX
        padded: NDArray[np.generic] = (
            cv2.copyMakeBorder(plane, 0, 0, 0, missing, cv2.BORDER_CONSTANT, value=0) if missing else plane
        )
        return np.asarray(
            (padded.reshape(-1, STRETCH_PX) @ np.ones(STRETCH_PX, np.float32)).reshape(height, -1).T, np.float32
        )
    whole = height // STRETCH_PX * STRETCH_PX
    sums = plane[:whole].reshape(-1, STRETCH_PX, width).sum(axis=1)
    return sums if whole == height else np.concatenate([sums, plane[whole:].sum(axis=0, keepdims=True)])


def shown_kinds(evidence: Evidence) -> list[int]:
    """The surveyed hypotheses that any photo can show: few patterns, or over-exposed ones, cannot show every kind."""
    return [i for i in SURVEYED if any(blocks[::4, ::4, i].any() for blocks in evidence.blocks)]
