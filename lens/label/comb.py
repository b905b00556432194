"""Rows of contacts in a picture: where a comb of even pitch stands, and how many teeth it has."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.signal import find_peaks

PITCHES_PX = np.geomspace(
    3.0, 26.0, 34
)  # below 3 px a pin nothing is told apart; coarser ones are found in a reduced picture
TEETH = 6.0  # sigma of the window in pitches: a comb is longer than chance patterns are
PUREST, LEAST_CONTRAST = 0.42, 5.0  # share of the local variance that is at the pitch; grey values
EVEN = 0.3  # spacings of one comb differ by at most this share
FEWEST, MOST, UNEVEN = 10, 120, 0.12
SLOPES = np.concatenate([[0.0], np.linspace(-0.14, 0.14, 29)])  # a hand-held photo is level within 8 degrees


class Comb(NamedTuple):
    """``x, y``: middle of the row; ``length_px`` from the first tooth's middle to the last one's."""

    x: float
    y: float
    pitch_px: float
    length_px: float
    teeth: int
    strength: float


def find_comb(grey: NDArray[np.uint8], row_px: float) -> Comb | None:
    """The most regular row of contacts along x.

    Parameters
    ----------
    grey : the rows run along x within a few degrees
    row_px : height of the contacts, about; rows are averaged over it

    Returns
    -------
    Comb or None
        None where nothing regular stands out.
    """
    step = max(1, int(row_px / 3))
    rows = cv2.blur(grey.astype(np.float32), (1, max(1, int(row_px))))[::step]
    best: tuple[float, int, int, float] | None = None
    along = np.arange(grey.shape[1], dtype=np.float32)
    for pitch in PITCHES_PX:
        window = TEETH * pitch
        if window * 2 > grey.shape[1]:
            break
        rest = rows - cv2.GaussianBlur(rows, (0, 0), sigmaX=1.2 * pitch, sigmaY=0.01)
        phase = 2 * np.pi * along / pitch
        real, imaginary = _smooth(rest * np.cos(phase), window), _smooth(rest * np.sin(phase), window)
        power = 2 * (real**2 + imaginary**2)
        variance = _smooth(rest**2, window) + 1.0
        score = np.where((power / variance > PUREST) & (power > LEAST_CONTRAST**2 / 2), power * np.sqrt(pitch), 0)
        at = int(score.argmax())
        y, x = divmod(at, score.shape[1])
        if score[y, x] > 0 and (best is None or score[y, x] > best[0]):
            best = (float(score[y, x]), y, x, float(pitch))
    return _counted(rows, step, *best) if best else None


def _smooth(values: NDArray[np.float32], window: float) -> NDArray[np.float32]:
    """A bell-like mean along x by two boxes: its cost does not grow with the window."""
    width = max(1, int(0.7 * window)) | 1
    return np.asarray(cv2.blur(cv2.blur(values, (width, 1)), (width, 1)), np.float32)


def _counted(rows: NDArray[np.float32], step: int, strength: float, y: int, x: int, pitch: float) -> Comb | None:
    """Teeth of the comb through a place, one by one."""
    best: NDArray[np.float64] = np.empty(0)
    along = np.arange(rows.shape[1])
    for slope in SLOPES:
        row = np.clip(np.rint(y + slope * (along - x) / step).astype(int), 0, len(rows) - 1)
        line = rows[row, along][None]
        line = line - cv2.GaussianBlur(line, (0, 0), sigmaX=8 * pitch, sigmaY=0.01)
        line = cv2.GaussianBlur(line, (0, 0), sigmaX=max(0.3, 0.12 * pitch), sigmaY=0.01)[0]
        bright, dark = (_run(sign * line, x, pitch) for sign in (1, -1))
        teeth = bright if len(bright) >= len(dark) else dark  # between n contacts are n - 1 gaps
        if len(teeth) > len(best):
            best = teeth
    teeth = best
    if not FEWEST <= len(teeth) <= MOST or np.diff(teeth).std() > UNEVEN * np.diff(teeth).mean():
        return None
    length = float(teeth[-1] - teeth[0])
    return Comb(float(teeth[0] + length / 2), float(y * step), length / (len(teeth) - 1), length, len(teeth), strength)


def _run(line: NDArray[np.float32], x: int, pitch: float) -> NDArray[np.float64]:
    """Places of the peaks that follow one another evenly through ``x``."""
    peaks, shape = find_peaks(line, distance=max(1, int(0.6 * pitch)), prominence=1e-3, wlen=max(3, int(2.4 * pitch)))
    if len(peaks) < FEWEST:
        return np.empty(0)
    # the body beside the last contact falls off to one side only: its prominence between neighbours is small
    rise = shape["prominences"]
    near = np.abs(peaks - x) < 4 * pitch
    peaks = peaks[rise > 0.4 * float(np.median(rise[near]))] if near.any() else peaks
    if len(peaks) < FEWEST:
        return np.empty(0)
    places = np.array([_vertex(line, int(p)) for p in peaks])
    start = int(np.abs(places - x).argmin())
    spacing = float(np.median(np.diff(places[max(0, start - 4) : start + 5])))
    first = last = start
    while first > 0 and abs(places[first] - places[first - 1] - spacing) < EVEN * spacing:
        first -= 1
    while last + 1 < len(places) and abs(places[last + 1] - places[last] - spacing) < EVEN * spacing:
        last += 1
    return places[first : last + 1]


def _vertex(line: NDArray[np.float32], at: int) -> float:
    """The peak between samples, by the parabola through three."""
    if not 0 < at < len(line) - 1:
        return float(at)
    a, b, c = (float(v) for v in line[at - 1 : at + 2])
    bow = a - 2 * b + c
    return at + (0.5 * (a - c) / bow if bow else 0.0)
