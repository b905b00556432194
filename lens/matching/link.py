"""What a picture needs of its link, and what the link carries: the sum that is printed beside a match."""

import math
from functools import lru_cache
from typing import NamedTuple

from lens.records.base import Record

# VESA CVT 1.1, reduced blanking (from memory)
H_BLANK, MIN_V_BLANK_US, V_FRONT, V_BACK_MIN, CLOCK_STEP_MHZ = 160, 460.0, 3, 6, 0.25
V_SYNC = {4 / 3: 4, 16 / 9: 5, 16 / 10: 6, 5 / 4: 7, 15 / 9: 7}
V_SYNC_OTHER = 10
ASPECT_TOLERANCE = 0.01
USUAL_REFRESH_HZ, USUAL_BITS = 60.0, 8


class Timing(NamedTuple):
    """Whole lines and pixels with blanking, and the pixel clock."""

    total_width: int
    total_height: int
    clock_mhz: float


class Link(Record):
    """Gbit/s of picture data that are needed and carried."""

    needed_gbit_s: float
    offered_gbit_s: float
    text: str


def reduced_blanking(width: int, height: int, refresh_hz: float) -> Timing:
    """The timing of a picture by VESA CVT with reduced blanking (version 1, from memory); panels use it or something near it."""
    sync = next((n for aspect, n in V_SYNC.items() if abs(width / height - aspect) < ASPECT_TOLERANCE), V_SYNC_OTHER)
    line_us = (1e6 / refresh_hz - MIN_V_BLANK_US) / height
    blank = max(math.floor(MIN_V_BLANK_US / line_us) + 1, V_FRONT + sync + V_BACK_MIN)
    total_width, total_height = width + H_BLANK, height + blank
    steps = math.floor(refresh_hz * total_width * total_height / 1e6 / CLOCK_STEP_MHZ)
    return Timing(total_width, total_height, steps * CLOCK_STEP_MHZ)


@lru_cache(maxsize=4096)
def link_of(
    width: int, height: int, refresh_hz: float | None, bits: int | None, carries_gbit_s: float, name: str
) -> Link:
    """The sum for one picture over one link; what is not known of the picture is taken as usual (60 Hz, 8 bits) and said so."""
    rate, depth = refresh_hz or USUAL_REFRESH_HZ, bits or USUAL_BITS
    timing = reduced_blanking(width, height, rate)
    needed = timing.clock_mhz * 3 * depth / 1000
    assumed = [words for words, known in ((f"{rate:g} Hz", refresh_hz), (f"{depth} bits", bits)) if not known]
    tail = f" ({' and '.join(assumed)} taken as usual)" if assumed else ""
    verdict = "enough" if needed <= carries_gbit_s else "not enough"
    text = (
        f"{width} x {height} at {rate:g} Hz with {depth} bits a colour: {timing.clock_mhz:g} MHz x {3 * depth} bits = {needed:.2f} Gbit/s; "
        f"{name} carry {carries_gbit_s:.2f} Gbit/s: {verdict}{tail}."
    )
    return Link(needed_gbit_s=round(needed, 3), offered_gbit_s=round(carries_gbit_s, 3), text=text)
