"""Lines of one to eight pixels: the evidence of single pixels added up along rows and columns.

A line too faint to show in any of its pixels shows in their sum. Windows of several lengths slide along every row and column;
what stands out is followed to its ends by likelihood (the segment of largest gain: Kadane's scan, Bentley 1984), and its width
is told by the profile across it.
"""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.stats import norm

from lens.faults.pixels import DETECTION_Z, HYPOTHESES, SURVEYED, TEXTURE_MARGIN, Evidence
from lens.photo import BLOCK_PX

Orientation = Literal["row", "column"]
LEAST_POWER = 1e-6
STRETCH_PX = 16  # along a line, evidence is summed over stretches of two blocks
WINDOW_STRETCHES = (2, 6, 24)
MIN_LENGTH_PX = 20
MAX_WIDTH_PX = 8
LINE_MAX_WIDTH_PX = 3
FALSE_LINES_PER_SET = 0.01
BLOCK_CLIP = 6.0  # what one block of a line may say at most: a single faulty pixel is no line
MAX_LINES = 60
MIN_AMPLITUDE, MAX_AMPLITUDE = 0.02, 2.0  # what is fainter is unevenness, not a line
LEAST_RAW_AMPLITUDE, LEAST_KNOWN = 0.02, 0.002  # of a line, the light of neighbours included; share of what a usual place tells
MIN_LONE_CONTRAST, MIN_LONE_AMPLITUDE = 0.03, 0.5  # of a line that one photo alone shows: coloured moire makes fainter ones
FAINT_LINE, FAINT_MARGIN = 0.05, 1.5  # a fainter one must stand out so many times higher: moire of several photos may fall together
MIN_BAND_CONTRAST, SHORT_PX = 0.01, 60
RIM_PX, MIN_RIM_AMPLITUDE, NEAR_RIM_PX, MIN_NEAR_RIM_AMPLITUDE = 8, 0.3, 16, 0.04
SAME_LINE_PX = 1.0
NEAR_PX, NEAR_SHARE, FAR_PX, FAR_SHARE = 10, 0.35, 40, 0.2
PROFILE_REACH_PX = 11
PIECES, PIECE_SHARE = 5, 0.35
FAINT_AMPLITUDE, RIVAL_SHARE, RIVAL_TRUST = 0.15, 0.6, 0.5
LUMINANCE_SHARE = (0.2126, 0.7152, 0.0722)  # of white, sRGB primaries (IEC 61966-2-1)


class Line(NamedTuple):
    """``start`` and ``stop`` run along it (stop is the last pixel), ``across`` is the centre of its ``width_px``."""

    orientation: Orientation
    across: float
    width_px: int
    start: int
    stop: int
    hypothesis: int
    amplitude: float
    snr: float
    per_photo: tuple[float, ...]

    @property
    def contrast(self) -> float:
        """Signed share of white's luminance by which the line differs."""
        fault = HYPOTHESES[self.hypothesis]
        return (1 if fault.lit else -1) * min(self.amplitude, 1.0) * sum(LUMINANCE_SHARE[c] for c in fault.channels)


class _Direction:
    """The evidence turned so that lines run down: sums over stretches along them, and single pixels on demand."""

    def __init__(self, evidence: Evidence, orientation: Orientation) -> None:
        self.evidence, self.orientation = evidence, orientation
        turn = orientation == "row"
        self.length, self.count = (evidence.panel.width, evidence.panel.height) if turn else (evidence.panel.height, evidence.panel.width)
        stretches = -(-self.length // STRETCH_PX)
        shown = _shown(evidence)
        told = np.zeros((len(shown), stretches, self.count), np.float32)
        self.known = np.zeros_like(told)
        for k, photo in enumerate(evidence.photos):
            sums, trusted = (_along(image, turn) for image in (evidence.response[k], photo.view.trust))
            told += (evidence.signature[k][shown].astype(np.float32) @ sums.reshape(-1, 3).T).reshape(told.shape)
            info = np.ascontiguousarray(evidence.blocks[k][..., shown].transpose((2, 1, 0) if turn else (2, 0, 1))[:, ::2])
            self.known += np.repeat(info, BLOCK_PX, axis=2)[..., :self.count] * trusted
        # what is hidden under a marker knows nothing
        least_known = np.maximum(LEAST_KNOWN * np.median(self.known[:, ::3, ::5], axis=(1, 2)), LEAST_POWER)[:, None, None].astype(np.float32)
        np.maximum(self.known, least_known, out=self.known)
        root = np.sqrt(self.known)
        # a stretch counts when it is dark or lit enough for a line, however little of that the clipped score shows
        faint = (told > 0) & (told < LEAST_RAW_AMPLITUDE * self.known)
        told /= root
        self.sigma = max(1.0, 1.4826 * float(np.median(np.abs(told[:, ::3, ::5]))))
        np.clip(told, -BLOCK_CLIP * self.sigma, BLOCK_CLIP * self.sigma, out=told)
        told *= root
        self.told = told
        self.windows = tuple(n for n in WINDOW_STRETCHES if n < stretches) + (stretches,)
        # how much wider than unit noise the sums spread: neighbours after the filter share theirs, and moire adds its own
        some = self._cumulated(slice(0, self.count, 5))
        self.scales = [max(1.0, 1.4826 * float(np.median(np.abs(_sums(*some, n)[:, ::max(1, n // 2)])))) for n in self.windows]
        told[faint] = 0

    def _cumulated(self, columns: slice) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        def summed(image: NDArray[np.float32]) -> NDArray[np.float32]:
            out = np.zeros((image.shape[0], image.shape[1] + 1, len(range(*columns.indices(self.count)))), np.float32)
            np.cumsum(image[..., columns], axis=1, out=out[:, 1:])
            return out
        return summed(self.told), summed(self.known)

    def best(self, columns: slice) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
        """(columns,) strongest score of each column and (columns, 2) the first stretch and the stretches of its window."""
        score = np.zeros(columns.stop - columns.start, np.float32)
        where = np.zeros((len(score), 2), np.int32)
        added, power = self._cumulated(columns)
        for stretches, scale in zip(self.windows, self.scales, strict=True):
            sums = _sums(added, power, stretches).max(axis=0) / np.float32(scale)
            first = sums.argmax(axis=0)
            strongest = sums[first, np.arange(len(score))]
            better = strongest > score
            score[better] = strongest[better]
            where[better, 0], where[better, 1] = first[better], stretches
        return score, where

    def forget(self, columns: slice, stretches: slice) -> None:
        self.told[:, stretches, columns] = 0

    def pixels(self, across: int, hypotheses: slice | int = slice(None)) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """(photos, hypotheses, length) evidence and information of the pixels of one row or column; without the second axis
        when one hypothesis is asked for."""
        told, known = [], []
        for k, photo in enumerate(self.evidence.photos):
            if self.orientation == "row":
                response, trust, info = self.evidence.response[k][across], photo.view.trust[across], self.evidence.blocks[k][across // BLOCK_PX]
            else:
                response, trust = self.evidence.response[k][:, across], photo.view.trust[:, across]
                info = self.evidence.blocks[k][:, across // BLOCK_PX]
            told.append(self.evidence.signature[k][hypotheses] @ response.T)
            known.append(np.repeat(info[:, hypotheses], BLOCK_PX, axis=0)[:self.length].T * trust)
        return np.array(told, float), np.array(known, float)


def _sums(added: NDArray[np.float32], power: NDArray[np.float32], stretches: int) -> NDArray[np.float32]:
    """(hypotheses, starts, columns) signal-to-noise of all windows of one length, from running sums."""
    told, known = added[:, stretches:] - added[:, :-stretches], power[:, stretches:] - power[:, :-stretches]
    # running sums leave rounding below zero, and nothing at all where every photo is over-exposed
    np.sqrt(np.maximum(known, LEAST_POWER, out=known), out=known)
    return np.divide(told, known, out=told)


def _along(image: NDArray[np.float32], turn: bool) -> NDArray[np.float32]:
    """Sums over stretches along the lines: (stretches, across, ...)."""
    height, width = image.shape[:2]
    down, right = (0, -width % STRETCH_PX) if turn else (-height % STRETCH_PX, 0)
    padded: NDArray[np.generic] = cv2.copyMakeBorder(image, 0, down, 0, right, cv2.BORDER_CONSTANT, value=0) if down or right else image
    size = ((width + right) // STRETCH_PX, height) if turn else (width, (height + down) // STRETCH_PX)
    sums = cv2.resize(padded, size, interpolation=cv2.INTER_AREA) * np.float32(STRETCH_PX)
    return np.asarray(np.swapaxes(sums, 0, 1) if turn else sums, np.float32)


def _shown(evidence: Evidence) -> list[int]:
    """The surveyed hypotheses that any photo can show: few patterns, or over-exposed ones, cannot show every kind."""
    return [i for i in SURVEYED if any(blocks[::4, ::4, i].any() for blocks in evidence.blocks)]


def line_threshold(evidence: Evidence) -> float:
    """Score above which a window counts: Bonferroni over places and kinds, times the texture margin of the pixels."""
    looks = 2 * evidence.panel.pixels / STRETCH_PX * len(SURVEYED)
    return float(norm.isf(FALSE_LINES_PER_SET / looks)) * TEXTURE_MARGIN


def smallest_line(evidence: Evidence) -> list[tuple[Orientation, float]]:
    """The faintest dark line of one pixel over the whole width and height that would have been found, as its contrast."""
    dark = next(n for n, i in enumerate(SURVEYED) if len(HYPOTHESES[i].channels) == 3 and not HYPOTHESES[i].lit)
    usual = float(np.median(evidence.seen.known[..., dark]))
    lengths: tuple[tuple[Orientation, int], ...] = (("row", evidence.panel.width), ("column", evidence.panel.height))
    told = []
    for name, length in lengths:
        plain, faint = (
            (margin * line_threshold(evidence) + DETECTION_Z) / max(usual * length, 1e-9) ** 0.5 for margin in (1.0, FAINT_MARGIN))
        told.append((name, max(MIN_AMPLITUDE, min(faint, max(plain, FAINT_LINE)))))
    return told


def find_lines(evidence: Evidence) -> list[Line]:
    """All lines of up to eight pixels' width, strongest first."""
    threshold = line_threshold(evidence)
    found: list[Line] = []
    if not _shown(evidence):
        return found

    def search(orientation: Orientation) -> tuple[_Direction, NDArray[np.float32], NDArray[np.int32]]:
        direction = _Direction(evidence, orientation)
        return direction, *direction.best(slice(0, direction.count))

    with ThreadPoolExecutor(2) as pool:
        searched = list(pool.map(search, ("column", "row")))
    for direction, score, where in searched:
        for _ in range(2 * MAX_LINES):
            across = int(np.argmax(score))
            if score[across] < threshold or len(found) >= MAX_LINES:
                break
            first, stretches = (int(v) for v in where[across])
            line = _follow(direction, across, where[across], float(score[across]))
            seen = slice(across, across + 1)
            direction.forget(seen, slice(first, first + stretches))
            if line is not None and (line.amplitude >= FAINT_LINE or line.snr >= FAINT_MARGIN * threshold):
                if not any(_beside(line, other) for other in found):
                    found.append(line)
                reach = math.ceil(line.width_px / 2) + 4
                near = slice(max(0, round(line.across) - reach), min(direction.count, round(line.across) + reach + 1))
                direction.forget(near, slice(max(0, line.start // STRETCH_PX - 1), line.stop // STRETCH_PX + 2))
                seen = slice(min(near.start, across), max(near.stop, across + 1))
            score[seen], where[seen] = direction.best(seen)
    return sorted(found, key=lambda line: -line.snr)


def _believable(line: Line, count: int) -> bool:
    """Along the rim a registration error of a tenth of a pixel looks like a faint line, a wide or short faint one is
    unevenness, the lens's colour
    fringes make coloured ones a little further in, and one photo's coloured moire alone makes faint ones anywhere."""
    if not 0 <= line.across <= count - 1 or line.amplitude > MAX_AMPLITUDE:
        return False
    from_rim = min(line.across, count - 1 - line.across)
    rim_px = NEAR_RIM_PX if len(HYPOTHESES[line.hypothesis].channels) == 1 else RIM_PX
    least = MIN_RIM_AMPLITUDE if from_rim < rim_px else MIN_NEAR_RIM_AMPLITUDE if from_rim < NEAR_RIM_PX else MIN_AMPLITUDE
    if line.amplitude < least:
        return False
    if sum(s > 4 for s in line.per_photo) < 2 and abs(line.contrast) < MIN_LONE_CONTRAST and line.amplitude < MIN_LONE_AMPLITUDE:
        return False
    if line.stop - line.start < SHORT_PX and abs(line.contrast) < MIN_BAND_CONTRAST and line.amplitude < MIN_LONE_AMPLITUDE:
        return False
    return line.width_px <= LINE_MAX_WIDTH_PX or abs(line.contrast) >= MIN_BAND_CONTRAST


def _only_tinted(evidence: Evidence, line: Line) -> bool:
    """A line of one colour that no photo of that colour alone shows: coloured moire looks so on white and grey."""
    channels = HYPOTHESES[line.hypothesis].channels
    alone = [photo.pattern.drive[channels[0]] > 0 and sum(d > 0 for d in photo.pattern.drive) == 1 for photo in evidence.photos]
    return len(channels) == 1 and not any(own and s > 4 for own, s in zip(alone, line.per_photo, strict=True))


def _beside(line: Line, strong: Line) -> bool:
    """The same line once more, or a fainter one close beside a strong one: what the filter, the lens and the coder make of its edges."""
    apart, overlap = abs(line.across - strong.across), min(line.stop, strong.stop) - max(line.start, strong.start)
    if line.orientation != strong.orientation or overlap < 0.5 * (line.stop - line.start):
        return False
    share = line.amplitude * line.width_px / (strong.amplitude * strong.width_px)
    return apart <= SAME_LINE_PX or (apart <= NEAR_PX and share < NEAR_SHARE) or (apart <= FAR_PX and share < FAR_SHARE)


def _follow(direction: _Direction, across: int, window: NDArray[np.int32], score: float, moved: bool = False) -> Line | None:
    """The line that a window hints at, followed to its ends; None when it is too short or has gaps that no line has.

    The clipped scores of a strong line's neighbours are as high as its own, and there one colour dominates: so a line that turns
    out to lie beside is followed again from its own middle.
    """
    told, known = direction.pixels(across)
    rows = slice(int(window[0]) * STRETCH_PX, int(window[0] + window[1]) * STRETCH_PX)
    start, stop = rows.start, min(rows.stop, direction.length) - 1
    hypothesis = 0
    for _ in range(3):
        part_told, part_known = told[..., start:stop + 1].sum(axis=(0, 2)), known[..., start:stop + 1].sum(axis=(0, 2))
        hypothesis = int(np.argmax(np.where(part_told > 0, part_told**2 / np.maximum(part_known, 1e-6), 0)))
        if part_known[hypothesis] < 1e-3 or part_told[hypothesis] <= 0:
            return None
        amplitude = float(part_told[hypothesis] / part_known[hypothesis])
        start, stop = _segment(amplitude * told[:, hypothesis].sum(axis=0) - amplitude**2 / 2 * known[:, hypothesis].sum(axis=0))
    if stop - start + 1 < MIN_LENGTH_PX:
        return None
    told, known = told[:, hypothesis, start:stop + 1], known[:, hypothesis, start:stop + 1]
    pieces = [
        float(t.sum() / n.sum()) for t, n in zip(
            np.array_split(told.sum(axis=0), PIECES), np.array_split(known.sum(axis=0), PIECES), strict=True)
        if n.sum() > 0.1 * part_known[hypothesis] / PIECES]
    if min(pieces, default=0) < PIECE_SHARE * amplitude:
        return None
    spread = direction.evidence.spread[int(np.argmax(known.sum(axis=1)))]
    along = max(1.0, spread[0 if direction.orientation == "row" else 1] * math.sqrt(2 * math.pi))
    root = np.sqrt(np.maximum(known.sum(axis=1), 1e-6))
    per_photo, expected = told.sum(axis=1) / root / direction.sigma, amplitude * root / direction.sigma
    best = int(np.argmax(expected))
    if ((expected > 4) & (per_photo < PIECE_SHARE * expected)).any() or per_photo[best] < expected[best] / 2:
        return None  # moire stands in one photo, a line in all that can show it, and most where it would show most
    line = Line(
        direction.orientation, across, 1, start, stop, hypothesis, amplitude / along, score, tuple(float(s) for s in per_photo))
    # a wide line is fainter than the light of its neighbours makes it here, so what fails now fails in any case
    if not _believable(line, direction.count):
        return None
    centre, width, height, rival = _profile(direction, across, hypothesis, slice(start, stop + 1))
    if height / along < FAINT_AMPLITUDE and (rival > RIVAL_SHARE * height or _only_tinted(direction.evidence, line)):
        return None
    own = min(max(round(centre), 0), direction.count - 1)
    if not moved and abs(own - across) >= 1:
        again = _follow(direction, own, window, score, moved=True)
        if again is not None:
            return again
    line = line._replace(across=centre, width_px=width, amplitude=height / along)
    return line if _believable(line, direction.count) else None


def _segment(gain: NDArray[np.float64]) -> tuple[int, int]:
    """First and last index of the stretch of largest sum (Kadane)."""
    total = np.concatenate([[0.0], np.cumsum(gain)])
    lowest = np.minimum.accumulate(total[:-1])
    stop = int(np.argmax(total[1:] - lowest))
    return int(np.argmin(total[:stop + 1])), stop


def _profile(direction: _Direction, across: int, hypothesis: int, rows: slice) -> tuple[float, int, float, float]:
    """Centre, width in px and height (of a pixel's image) of the box, blurred as the photos blur, that fits the profile best, and
    the highest rise of opposite sign beside it: moire swings both ways, a line does not."""
    at = np.arange(max(0, across - PROFILE_REACH_PX), min(direction.count, across + PROFILE_REACH_PX + 1))
    seen, weight, spread = np.zeros(len(at)), np.zeros(len(at)), 0.0
    for n, column in enumerate(at):
        told, known = direction.pixels(int(column), hypothesis)
        power = known[:, rows].sum(axis=1)
        weight[n] = power.sum()
        seen[n] = told[:, rows].sum() / max(weight[n], 1e-6)
        if column == across:
            sigmas = np.array([s[1 if direction.orientation == "row" else 0] for s in direction.evidence.spread])
            spread = float((sigmas * power).sum() / max(power.sum(), 1e-9))
    trusted = np.sqrt(weight / max(weight.max(), 1e-9))
    best = (math.inf, float(across), 1, 0.0)
    for width in range(1, MAX_WIDTH_PX + 1):
        for centre in np.arange(across - 4, across + 4.5, 0.5):
            first = centre - (width - 1) / 2
            if first != round(first):
                continue
            box = np.exp(-((at[:, None] - (first + np.arange(width))[None]) ** 2) / (2 * spread**2)).sum(axis=1)
            # the ground was taken off with the line in it, so the whole profile lies a little low
            basis = np.stack([box, np.ones_like(box)], axis=1) * trusted[:, None]
            solution = np.linalg.lstsq(basis, seen * trusted, rcond=None)[0]
            error = float(((basis @ solution - seen * trusted) ** 2).sum()) * (1 + 0.02 * width)
            if solution[0] > 0 and error < best[0]:
                best = (error, float(centre), width, float(solution[0]))
    beside = (np.abs(at - best[1]) > best[2] / 2 + 2) & (trusted > RIVAL_TRUST)
    return *best[1:], float(np.max(-seen[beside], initial=0.0))
