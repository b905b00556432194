"""Printed text in a whole photo: which way its lines run, and what they say."""

import os
import shutil
import subprocess
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from lens.label import neural
from lens.records.base import Record

PROGRAM = "tesseract"
TIMEOUT_S = 60
SMALLEST_GLYPH_PX, LARGEST_GLYPH_SHARE = (
    7,
    0.12,
)  # height of a letter: below it nothing is read; of the photo's larger side
NEIGHBOURS, REACH = 4, 1.9  # letters of a word lie within so many letter heights
ANGLE_BINS = 180
FEWEST_GLYPHS = 6
WORKING_LETTER_PX = 34.0  # the recogniser does best near this height of capitals (measured on simulated labels)
SURE_WORDS, SURE_CONFIDENCE = 3, 75.0
BLOCK_MODE, LINE_MODE = "11", "7"


class TextLine(Record):
    """``confidence`` 0..1 as the recogniser tells it; ``box``: x, y, w, h of the upright box around it in photo pixels."""

    text: str
    confidence: float
    box: tuple[float, float, float, float]


class _Word(NamedTuple):
    line: tuple[str, ...]
    x: int
    y: int
    w: int
    h: int
    confidence: float
    text: str


class _Turned(NamedTuple):
    """The photo turned so that lines run to the right, and the way back."""

    grey: NDArray[np.uint8]
    to_photo: NDArray[np.float64]
    letter_px: float


def available() -> bool:
    """Whether a recogniser is on this machine."""
    return shutil.which(PROGRAM) is not None or neural.available()


def read_lines(grey: NDArray[np.uint8]) -> tuple[TextLine, ...]:
    """The lines of text in a grey photo, any way up; nothing where none is found or the recogniser is missing."""
    if not available():
        return ()
    glyphs = _glyphs(grey)
    if len(glyphs) < FEWEST_GLYPHS:
        return ()
    angle, height = _direction(glyphs)
    if neural.available():
        upright = _turn(grey, angle, height, glyphs)
        return tuple(
            TextLine(text=line.text, confidence=round(line.score, 3), box=_box_in_photo(line.corners, upright))
            for line in neural.read_neural(upright.grey)
        )
    best: list[_Word] = []
    chosen: _Turned | None = None
    for turn in (0.0, 180.0):
        turned = _turn(grey, angle + turn, height, glyphs)
        words = _recognise(turned.grey, BLOCK_MODE)
        if chosen is None or _weight(words) > _weight(best):
            best, chosen = words, turned
        if len([w for w in words if w.confidence >= SURE_CONFIDENCE and len(w.text) > 2]) >= SURE_WORDS:
            break
    return _lines(best, chosen) if chosen is not None else ()


class Turn(NamedTuple):
    """The way in which text runs, clockwise from to the right; ``mirrored``: it reads only from behind."""

    degrees: float
    mirrored: bool


def upright_turn(grey: NDArray[np.uint8]) -> Turn | None:
    """Which way the text of a photo runs; None where none can be read."""
    if shutil.which(PROGRAM) is None:
        return None
    best: tuple[float, Turn] | None = None
    for mirrored in (False, True):
        seen = np.ascontiguousarray(grey[:, ::-1]) if mirrored else grey
        glyphs = _glyphs(seen)
        if len(glyphs) < FEWEST_GLYPHS:
            return None
        angle, height = _direction(glyphs)
        for turn in (0.0, 180.0):
            words = _recognise(_turn(seen, angle + turn, height, glyphs).grey, BLOCK_MODE)
            sure = [word for word in words if word.confidence >= SURE_CONFIDENCE and len(word.text) > 2]
            if len(sure) >= SURE_WORDS and (best is None or _weight(sure) > best[0]):
                best = (_weight(sure), Turn(angle + turn, mirrored))
        if best is not None:
            return best[1]
    return None


def _glyphs(grey: NDArray[np.uint8]) -> NDArray[np.float64]:
    """(n, 4) centre x, y, height and width of dark spots that may be letters."""
    local = cv2.GaussianBlur(grey, (0, 0), 15.0)
    dark = ((local.astype(np.int16) - grey) > 18).astype(np.uint8)
    _, _, stats, centres = cv2.connectedComponentsWithStats(dark, connectivity=8)
    w, h, area = stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT], stats[:, cv2.CC_STAT_AREA]
    longer = np.maximum(w, h)
    fits = (
        (longer >= SMALLEST_GLYPH_PX)
        & (longer <= LARGEST_GLYPH_SHARE * max(grey.shape))
        & (np.minimum(w, h) * 6 >= longer)
        & (area > 0.12 * w * h)
        & (area < 0.9 * w * h)
    )
    fits[0] = False
    return np.column_stack([centres, longer, np.minimum(w, h)])[fits]


def _direction(glyphs: NDArray[np.float64]) -> tuple[float, float]:
    """Degrees by which lines are turned (-90..90), and the height of their letters: from neighbours of like size."""
    tree = cKDTree(glyphs[:, :2])
    distance, index = tree.query(glyphs[:, :2], k=min(NEIGHBOURS + 1, len(glyphs)))
    one = np.repeat(np.arange(len(glyphs)), distance.shape[1] - 1)
    other, apart = index[:, 1:].ravel(), distance[:, 1:].ravel()
    alike = np.abs(glyphs[one, 2] - glyphs[other, 2]) < 0.35 * glyphs[one, 2]
    near = (apart < REACH * glyphs[one, 2]) & alike
    if not near.any():
        return 0.0, float(np.median(glyphs[:, 2]))
    way = glyphs[other[near], :2] - glyphs[one[near], :2]
    angles = np.degrees(np.arctan2(way[:, 1], way[:, 0])) % 180
    counts, _ = np.histogram(angles, bins=ANGLE_BINS, range=(0, 180))
    smooth = np.convolve(np.tile(counts, 3), np.hanning(9), "same")[ANGLE_BINS : 2 * ANGLE_BINS]
    peak = float(smooth.argmax()) + 0.5
    off = (angles - peak + 90) % 180 - 90
    peak += float(np.median(off[np.abs(off) < 6])) if (np.abs(off) < 6).any() else 0.0
    heights = glyphs[one[near], 2][np.abs(off) < 6]
    return (peak + 90) % 180 - 90, float(np.percentile(heights, 75)) if len(heights) else float(np.median(glyphs[:, 2]))


def _turn(grey: NDArray[np.uint8], angle: float, letter_px: float, glyphs: NDArray[np.float64]) -> _Turned:
    """The part of the photo with letters, turned by ``-angle`` and sized for the recogniser."""
    scale = float(np.clip(WORKING_LETTER_PX / letter_px, 0.4, 2.5))
    around = np.radians(-angle)
    spin = scale * np.array([[np.cos(around), -np.sin(around)], [np.sin(around), np.cos(around)]])
    placed = glyphs[:, :2] @ spin.T
    low, high = np.percentile(placed, [1, 99], axis=0)
    margin = 3 * WORKING_LETTER_PX
    to_turned = np.column_stack([spin, margin - low])
    width, height = (np.clip(high - low + 2 * margin, 50, 6000)).astype(int)
    turned = cv2.warpAffine(
        grey, to_turned, (int(width), int(height)), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
    )
    return _Turned(_even(np.asarray(turned, np.uint8)), cv2.invertAffineTransform(to_turned), WORKING_LETTER_PX)


def _even(grey: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The paper's own brightness divided out: glare and shadow across a label are slow, letters are not."""
    paper = cv2.GaussianBlur(cv2.dilate(grey, np.ones((9, 9), np.uint8)), (0, 0), 21.0).astype(np.float32)
    return np.asarray(np.clip(235.0 * grey / np.maximum(paper, 1), 0, 255), np.uint8)


def _recognise(grey: NDArray[np.uint8], mode: str) -> list[_Word]:
    """The words that the program finds in a picture."""
    done, data = cv2.imencode(".png", grey)
    if not done:
        return []
    command = [PROGRAM, "stdin", "stdout", "--psm", mode, "--dpi", "150", "-l", "eng"]
    command += ["-c", "load_system_dawg=0", "-c", "load_freq_dawg=0", "tsv"]
    try:
        told = subprocess.run(
            command,
            input=data.tobytes(),
            capture_output=True,
            timeout=TIMEOUT_S,
            env={**os.environ, "OMP_THREAD_LIMIT": "1"},
            check=True,
        )
    except (OSError, subprocess.SubprocessError):
        return []
    words = []
    for row in told.stdout.decode("utf-8", "replace").splitlines()[1:]:
        cells = row.split("\t")
        if len(cells) == 12 and cells[0] == "5" and cells[11].strip():
            x, y, w, h = (int(cell) for cell in cells[6:10])
            words.append(_Word(tuple(cells[2:5]), x, y, w, h, float(cells[10]), cells[11].strip()))
    return words


def _weight(words: list[_Word]) -> float:
    return sum(word.confidence * len(word.text) for word in words if len(word.text) > 1)


def _lines(words: list[_Word], turned: _Turned) -> tuple[TextLine, ...]:
    """Words of one line joined, and read once more from a crop along the line."""
    lines: dict[tuple[str, ...], list[_Word]] = {}
    for word in words:
        lines.setdefault(word.line, []).append(word)
    told: list[TextLine] = []
    for members in lines.values():
        members.sort(key=lambda word: word.x)
        box = _box(members)
        closer = _recognise(_crop(turned.grey, members), LINE_MODE)
        for reading in (members, sorted(closer, key=lambda word: word.x)):
            text = " ".join(word.text for word in reading)
            if text and all(text != other.text for other in told):
                share = (
                    float(np.average([max(w.confidence, 0) for w in reading], weights=[len(w.text) for w in reading]))
                    / 100
                )
                told.append(TextLine(text=text[:200], confidence=round(share, 3), box=_in_photo(box, turned)))
    return tuple(told)


def _box(words: list[_Word]) -> tuple[int, int, int, int]:
    x, y = min(w.x for w in words), min(w.y for w in words)
    return x, y, max(w.x + w.w for w in words) - x, max(w.y + w.h for w in words) - y


def _crop(grey: NDArray[np.uint8], words: list[_Word]) -> NDArray[np.uint8]:
    """The line levelled by the slope of its own words, with some paper around it."""
    x, y, w, h = _box(words)
    middle = np.array([[word.x + word.w / 2, word.y + word.h / 2] for word in words])
    slope = float(np.polyfit(middle[:, 0], middle[:, 1], 1)[0]) if len(words) > 2 else 0.0
    tall = int(np.median([word.h for word in words]))
    pad = max(8, int(0.6 * tall))
    out = (w + 2 * pad, (tall if abs(slope) > 0.01 else h) + 2 * pad)
    centre = np.array([x + w / 2, y + h / 2])
    around = np.arctan(slope)
    spin = np.array([[np.cos(around), np.sin(around)], [-np.sin(around), np.cos(around)]])
    matrix = np.column_stack([spin, np.array(out) / 2 - spin @ centre])
    return np.asarray(cv2.warpAffine(grey, matrix, out, flags=cv2.INTER_CUBIC, borderValue=(235,)), np.uint8)


def _in_photo(box: tuple[int, int, int, int], turned: _Turned) -> tuple[float, float, float, float]:
    x, y, w, h = box
    return _box_in_photo(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float), turned)


def _box_in_photo(corners: NDArray[np.float64], turned: _Turned) -> tuple[float, float, float, float]:
    """The upright box in the photo around corners in the turned picture."""
    corners = np.column_stack([corners, np.ones(len(corners))]) @ turned.to_photo.T
    low, high = corners.min(axis=0), corners.max(axis=0)
    left, top, width, height = (round(float(v), 1) for v in (*low, *(high - low)))
    return left, top, width, height
