"""Coded markers: where they stand, what they say, and how that is read back.

Twelve square markers of OpenCV's 5x5 dictionary (7 x 7 modules with their border) stand in a 4 x 3 grid (3 x 4 on an
upright panel). A marker's number is ``place + 12 * symbol``. Markers on the even fields of the chequered grid carry the
pattern and its variant, those on the odd fields one digit of the run code in base 83, each digit twice, so that a photo
with hidden markers still says what it shows. Together they cover at most 1 % of the panel.

Beside each marker stand up to four probes: single pixels that are faulty on purpose (one subpixel or all three dark on a
lit pattern, lit on a dark one). From them a photo tells by itself how one faulty subpixel looks through this lens, this
demosaicing and this JPEG coder, which no formula would.
"""

import math
from collections import Counter
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.panel import Panel
from lens.patterns.catalogue import PATTERNS, Pattern
from lens.records.base import Record

DICTIONARY = cv2.aruco.DICT_5X5_1000
DICTIONARY_BITS = 5
MARKER_MODULES = DICTIONARY_BITS + 2
PLACES = 12
RUN_BASE = 83
RUN_DIGITS = 3
MAX_RUN_CODE = RUN_BASE**RUN_DIGITS - 1
# Shares of the panel for all markers: wanted, and at most where the panel is so small that modules would be single pixels.
# The probes beside them take less than a further 0.05 %.
WANTED_COVERAGE, MAX_COVERAGE = 0.0075, 0.0095
# A probe stands so far from its marker that none of the marker's light is in the coder's block (16 photo px) that holds it; on small
# panels as far as there is room.
LEAST_GAP_PX, LARGEST_GAP_PX, GAP_SHARE, PROBE_STEP_PX = 5, 14, 1 / 40, 7
PROBE_CHANNELS: tuple[tuple[int, ...], ...] = ((0, 1, 2), (0,), (1,), (2,))


class Marker(Record):
    """One marker on the panel: its number and its top-left pixel, ``module_px`` panel pixels a module."""

    id: int
    place: int
    x: int
    y: int
    module_px: int

    @property
    def side_px(self) -> int:
        return MARKER_MODULES * self.module_px

    @property
    def corners(self) -> tuple[tuple[float, float], ...]:
        """Outer corners in panel coordinates, in the order of OpenCV's detector."""
        left, top = self.x - 0.5, self.y - 0.5
        right, bottom = left + self.side_px, top + self.side_px
        return ((left, top), (right, top), (right, bottom), (left, bottom))


class Probe(Record):
    """A pixel that is faulty on purpose: these subpixels (0 red, 1 green, 2 blue) dark, or lit."""

    x: int
    y: int
    channels: tuple[int, ...]
    lit: bool


class Reading(Record):
    """What the markers of a photo say: the pattern, and each digit of the run code, lowest first. None is what was not read, or read
    in two ways."""

    pattern: str | None
    digits: tuple[int | None, ...] = (None,) * RUN_DIGITS

    @property
    def run(self) -> int | None:
        """The run code, None when a digit is missing."""
        known = [digit for digit in self.digits if digit is not None]
        return sum(digit * RUN_BASE**power for power, digit in enumerate(known)) if len(known) == RUN_DIGITS else None

    def may_be_of(self, run: int) -> bool:
        """False when a digit that was read is another than the run's."""
        return all(
            digit is None or digit == run // RUN_BASE**power % RUN_BASE for power, digit in enumerate(self.digits)
        )


def _grid(panel: Panel) -> tuple[int, int]:
    return (4, 3) if panel.width >= panel.height else (3, 4)


def _module_px(panel: Panel) -> int:
    def largest(coverage: float) -> int:
        return math.isqrt(int(coverage * panel.pixels / PLACES)) // MARKER_MODULES

    return max(1, largest(WANTED_COVERAGE), min(2, largest(MAX_COVERAGE)))


def _symbols(panel: Panel, pattern: Pattern, run: int) -> list[int]:
    columns, _ = _grid(panel)
    digits = [run // RUN_BASE**power % RUN_BASE for power in range(RUN_DIGITS)]
    symbols, odd = [], 0
    for place in range(PLACES):
        if (place % columns + place // columns) % 2 == 0:
            symbols.append(2 * pattern.code + pattern.variant)
        else:
            symbols.append(digits[odd % RUN_DIGITS])
            odd += 1
    return symbols


def probe_gap_px(panel: Panel) -> int:
    """Panel px from a marker to its probes."""
    return min(max(LEAST_GAP_PX, int(GAP_SHARE * min(panel.width, panel.height))), LARGEST_GAP_PX)


def probe_room_px(panel: Panel) -> int:
    """Panel px that a marker needs beside it for its probes and what they hide."""
    return probe_gap_px(panel) + LEAST_GAP_PX


def marker_layout(panel: Panel, pattern: Pattern, run: int = 0) -> tuple[Marker, ...]:
    """The twelve markers of a pattern, by place. ``run`` is 0..571786; raises BadInput outside."""
    if not 0 <= run <= MAX_RUN_CODE:
        raise BadInput(f"run must be 0..{MAX_RUN_CODE}, got {run}", "run_code")
    columns, rows = _grid(panel)
    module = _module_px(panel)
    side = MARKER_MODULES * module
    margin = max(side, round(0.04 * min(panel.width, panel.height)))
    markers = []
    for place, symbol in enumerate(_symbols(panel, pattern, run)):
        column, row = place % columns, place // columns
        x = margin + (panel.width - 2 * margin - side) * column / (columns - 1)
        y = margin + (panel.height - 2 * margin - side) * row / (rows - 1)
        if pattern.variant:
            # more than a side towards the middle: no pixel lies under a marker in both variants
            shift = 1.5 * side + probe_room_px(panel)
            x += shift * (1 if column < columns / 2 else -1)
            y += shift * (1 if row < rows / 2 else -1)
        markers.append(Marker(id=place + PLACES * symbol, place=place, x=round(x), y=round(y), module_px=module))
    return tuple(markers)


def probe_layout(panel: Panel, pattern: Pattern) -> tuple[Probe, ...]:
    """The probes of a pattern: on the inner side of each marker, one below the other.

    Subpixels that the pattern lights fully are probed dark, unlit ones lit; a grey one is probed dark at even places and
    lit at odd ones. A probe that would change nothing is left out.
    """
    probes, gap = [], probe_gap_px(panel)
    for marker in marker_layout(panel, pattern):
        inner = marker.x + marker.side_px / 2 < panel.width / 2
        x = marker.x + marker.side_px - 1 + gap if inner else marker.x - gap
        for i in range(min(len(PROBE_CHANNELS), max(1, marker.side_px // PROBE_STEP_PX))):
            wanted = PROBE_CHANNELS[(marker.place // 2 + i) % len(PROBE_CHANNELS)]
            levels = {pattern.drive[c] for c in wanted}
            lit = levels == {0} or (levels != {255} and 0 not in levels and marker.place % 2 == 1)
            channels = tuple(c for c in wanted if pattern.drive[c] != (255 if lit else 0))
            if channels:
                step = marker.side_px / min(len(PROBE_CHANNELS), max(1, marker.side_px // PROBE_STEP_PX))
                probes.append(Probe(x=x, y=marker.y + int((i + 0.5) * step), channels=channels, lit=lit))
    return tuple(probes)


@cache
def detector_dictionary() -> cv2.aruco.Dictionary:
    """The markers' dictionary, for drawing and for OpenCV's detector."""
    return cv2.aruco.getPredefinedDictionary(DICTIONARY)


@cache
def marker_modules(marker_id: int) -> NDArray[np.bool_]:
    """(7, 7) bool, true where the module is drawn with ink."""
    image = cv2.aruco.generateImageMarker(detector_dictionary(), marker_id, MARKER_MODULES, borderBits=1)
    modules: NDArray[np.bool_] = image < 128
    modules.setflags(write=False)
    return modules


def read_symbols(panel: Panel, marker_ids: list[int]) -> Reading:
    """What a photo's markers say about pattern and run, by majority; unreadable parts are None."""
    columns, _ = _grid(panel)
    patterns: Counter[int] = Counter()
    digits: list[Counter[int]] = [Counter() for _ in range(RUN_DIGITS)]
    odd_places = [p for p in range(PLACES) if (p % columns + p // columns) % 2]
    for marker_id in marker_ids:
        place, symbol = marker_id % PLACES, marker_id // PLACES
        if place in odd_places:
            digits[odd_places.index(place) % RUN_DIGITS][symbol] += 1
        else:
            patterns[symbol] += 1
    by_symbol = {2 * p.code + p.variant: p.id for p in PATTERNS.values()}
    pattern = by_symbol.get(patterns.most_common(1)[0][0]) if patterns else None
    return Reading(pattern=pattern, digits=tuple(next(iter(digit)) if len(digit) == 1 else None for digit in digits))
