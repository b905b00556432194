"""Lines of one to eight pixels: the evidence of single pixels added up along rows and columns.

A line too faint to show in any of its pixels shows in their sum. Windows of several lengths slide along every row and column;
what stands out is followed to its ends by likelihood (the segment of largest gain: Kadane's scan, Bentley 1984), and its width
is told by the profile across it.
"""

import math
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from lens.faults.light_model import CHANNELS, UNPROBED_SHARE
from lens.faults.line_sums import STRETCH_PX, Direction, Orientation, least_amplitude, shown_kinds
from lens.faults.pixels import DETECTION_Z, HYPOTHESES, SURVEYED, Evidence
from lens.medians import median

ORIENTATIONS: tuple[Orientation, ...] = ("column", "row")
MIN_LENGTH_PX = 20
MAX_WIDTH_PX = 8
LINE_MAX_WIDTH_PX = 3
FALSE_LINES_PER_SET, LINE_MARGIN = 0.01, 1.25  # moire runs along lines, so they must stand above chance by so much more
MAX_LINES = 60
MAX_AMPLITUDE = 2.0
SURE_AMPLITUDE = 0.024  # which is never measured as less than that
MIN_LONE_CONTRAST, MIN_LONE_AMPLITUDE = (
    0.03,
    0.5,
)  # of a line that one photo alone shows: coloured moire makes fainter ones
LEAST_UNPROBED = 0.3  # three times what moire of plain colours made on sound panels (seeds 79001 to 79104)
# A fainter one, of all colours or of some, must stand out so many times higher: moire of several photos may fall together.
FAINT_LINE, FAINT_COLOURED_LINE, FAINT_MARGIN = 0.05, 0.15, 1.5
MIN_BAND_CONTRAST, SHORT_PX = 0.01, 60
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
    def faint(self) -> bool:
        """Whether moire may be as strong."""
        return self.amplitude < (
            FAINT_LINE if len(HYPOTHESES[self.hypothesis].channels) == len(CHANNELS) else FAINT_COLOURED_LINE
        )

    @property
    def contrast(self) -> float:
        """Signed share of white's luminance by which the line differs."""
        fault = HYPOTHESES[self.hypothesis]
        return (1 if fault.lit else -1) * min(self.amplitude, 1.0) * sum(LUMINANCE_SHARE[c] for c in fault.channels)


def line_threshold(evidence: Evidence) -> float:
    """Score above which a window counts: Bonferroni over places and kinds, times the texture margin of the pixels."""
    looks = 2 * evidence.panel.pixels / STRETCH_PX * len(SURVEYED)
    return -float(ndtri(FALSE_LINES_PER_SET / looks)) * LINE_MARGIN


def smallest_line(evidence: Evidence) -> list[tuple[Orientation, float]]:
    """The faintest dark line of one pixel over the whole width and height that would have been found, as its contrast."""
    dark = next(n for n, i in enumerate(SURVEYED) if len(HYPOTHESES[i].channels) == 3 and not HYPOTHESES[i].lit)
    usual = median(evidence.seen.known[..., dark])
    lengths: tuple[tuple[Orientation, int], ...] = (("row", evidence.panel.width), ("column", evidence.panel.height))
    told = []
    for name, length in lengths:
        plain, faint = (
            (margin * line_threshold(evidence) + DETECTION_Z) / max(usual * length, 1e-9) ** 0.5
            for margin in (1.0, FAINT_MARGIN)
        )
        told.append((name, max(SURE_AMPLITUDE, min(faint, max(plain, FAINT_LINE)))))
    return told


def find_lines(evidence: Evidence) -> list[Line]:
    """All lines of up to eight pixels' width, strongest first, MAX_LINES of them at most."""
    if not shown_kinds(evidence):
        return []
    with ThreadPoolExecutor(2) as pool:
        found = [
            line
            for lines in pool.map(lambda orientation: _lines_along(evidence, orientation), ORIENTATIONS)
            for line in lines
        ]
    return sorted(found, key=lambda line: -line.snr)[:MAX_LINES]


def _lines_along(evidence: Evidence, orientation: Orientation) -> list[Line]:
    threshold = line_threshold(evidence)
    found: list[Line] = []
    direction = Direction(evidence, orientation)
    score, where = direction.best(slice(0, direction.count))
    for _ in range(2 * MAX_LINES):
        across = int(np.argmax(score))
        if score[across] < threshold or len(found) >= MAX_LINES:
            break
        first, stretches = (int(v) for v in where[across])
        line = _follow(direction, across, where[across], float(score[across]))
        seen = slice(across, across + 1)
        direction.forget(seen, slice(first, first + stretches))
        if line is not None and (line.snr >= FAINT_MARGIN * threshold or not line.faint):
            if not any(_beside(line, other) for other in found):
                found.append(line)
            reach = math.ceil(line.width_px / 2) + 4
            near = slice(max(0, round(line.across) - reach), min(direction.count, round(line.across) + reach + 1))
            direction.forget(near, slice(max(0, line.start // STRETCH_PX - 1), line.stop // STRETCH_PX + 2))
            seen = slice(min(near.start, across), max(near.stop, across + 1))
        score[seen], where[seen] = direction.best(seen)
    return found


def _believable(line: Line, count: int, probed: bool) -> bool:
    """A wide or short faint one is unevenness, and one photo's coloured moire alone makes faint ones anywhere; of photos that are not ``probed``
    plain moire too, since nothing says how strong it is. At the rim see ``least_amplitude``."""
    if not 0 <= line.across <= count - 1 or line.amplitude > MAX_AMPLITUDE / (1 if probed else UNPROBED_SHARE):
        return False
    if not probed and line.amplitude < LEAST_UNPROBED:
        return False
    from_rim = min(line.across, count - 1 - line.across)
    if line.amplitude < least_amplitude(np.array(from_rim), len(HYPOTHESES[line.hypothesis].channels)):
        return False
    if (
        sum(s > 4 for s in line.per_photo) < 2
        and (abs(line.contrast) < MIN_LONE_CONTRAST or not probed)
        and line.amplitude < MIN_LONE_AMPLITUDE
    ):
        return False
    if (
        line.stop - line.start < SHORT_PX
        and abs(line.contrast) < MIN_BAND_CONTRAST
        and line.amplitude < MIN_LONE_AMPLITUDE
    ):
        return False
    return line.width_px <= LINE_MAX_WIDTH_PX or abs(line.contrast) >= MIN_BAND_CONTRAST


def _only_tinted(evidence: Evidence, line: Line) -> bool:
    """A line of one colour that no photo of that colour alone shows: coloured moire looks so on white and grey."""
    channels = HYPOTHESES[line.hypothesis].channels
    alone = [photo.pattern.family == CHANNELS[channels[0]] for photo in evidence.photos]
    return len(channels) == 1 and not any(own and s > 4 for own, s in zip(alone, line.per_photo, strict=True))


def _beside(line: Line, strong: Line) -> bool:
    """The same line once more, or a fainter one close beside a strong one of its direction, which filter, lens and coder make of its edges."""
    apart, overlap = abs(line.across - strong.across), min(line.stop, strong.stop) - max(line.start, strong.start)
    if overlap < 0.5 * (line.stop - line.start):
        return False
    share = line.amplitude * line.width_px / (strong.amplitude * strong.width_px)
    return apart <= SAME_LINE_PX or (apart <= NEAR_PX and share < NEAR_SHARE) or (apart <= FAR_PX and share < FAR_SHARE)


def _follow(
    direction: Direction, across: int, window: NDArray[np.int32], score: float, moved: bool = False
) -> Line | None:
    """The line that a window hints at, followed to its ends; None when it is too short or has gaps that no line has.

    The clipped scores of a strong line's neighbours are as high as its own, and there one colour dominates: so a line that turns
    out to lie beside is followed again from its own middle.
    """
    told, known = direction.pixels(across)
    rows = slice(int(window[0]) * STRETCH_PX, int(window[0] + window[1]) * STRETCH_PX)
    start, stop = rows.start, min(rows.stop, direction.length) - 1
    hypothesis = 0
    for _ in range(3):
        before = hypothesis, start, stop
        part_told, part_known = (
            told[..., start : stop + 1].sum(axis=(0, 2)),
            known[..., start : stop + 1].sum(axis=(0, 2)),
        )
        hypothesis = int(np.argmax(np.where(part_told > 0, part_told**2 / np.maximum(part_known, 1e-6), 0)))
        if part_known[hypothesis] < 1e-3 or part_told[hypothesis] <= 0:
            return None
        amplitude = float(part_told[hypothesis] / part_known[hypothesis])
        start, stop = _segment(
            amplitude * told[:, hypothesis].sum(axis=0) - amplitude**2 / 2 * known[:, hypothesis].sum(axis=0)
        )
        if (hypothesis, start, stop) == before:
            break
    if stop - start + 1 < MIN_LENGTH_PX:
        return None
    told, known = told[:, hypothesis, start : stop + 1], known[:, hypothesis, start : stop + 1]
    pieces = [
        float(t.sum() / n.sum())
        for t, n in zip(
            np.array_split(told.sum(axis=0), PIECES), np.array_split(known.sum(axis=0), PIECES), strict=True
        )
        if n.sum() > 0.1 * part_known[hypothesis] / PIECES
    ]
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
        direction.orientation,
        across,
        1,
        start,
        stop,
        hypothesis,
        amplitude / along,
        score,
        tuple(float(s) for s in per_photo),
    )
    # a wide line is fainter than the light of its neighbours makes it here, so what fails now fails in any case
    if not _believable(line, direction.count, direction.evidence.probed):
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
    return line if _believable(line, direction.count, direction.evidence.probed) else None


def _segment(gain: NDArray[np.float64]) -> tuple[int, int]:
    """First and last index of the stretch of largest sum (Kadane)."""
    total = np.concatenate([[0.0], np.cumsum(gain)])
    lowest = np.minimum.accumulate(total[:-1])
    stop = int(np.argmax(total[1:] - lowest))
    return int(np.argmin(total[: stop + 1])), stop


def _profile(direction: Direction, across: int, hypothesis: int, rows: slice) -> tuple[float, int, float, float]:
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
