"""A picture that stayed: several faint flat areas with straight edges, the parts of a picture that stood there for long.

What the panel itself does wrong is round and soft (mura), one piece (a zone), or runs from rim to rim (a band); what people draw has
many parts with corners (common practice).
"""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import LightField
from lens.faults.regions import Region, region_box, regions
from lens.faults.zones import BAND_LENGTH, NOISE_SIGMAS, covers, only_at_rim, spoiled_by, unevenness
from lens.panel import Panel
from lens.records import Finding, Kind

FAINTEST_PART = 0.012
FILLED, LOOSELY_FILLED, FLAT = (
    0.72,
    0.6,
    0.75,
)  # of a part's box, of one beside it; and how much of its peak the lower tenth of its inside still has
SMALLEST_BLOCKS, MIN_PARTS = 3, 3
SAME_CONTRAST = 2.0
OUTER_BLOCKS = 2
PART_OF_PICTURE: tuple[Kind, ...] = ("mura", "band", "dark_zone", "bright_zone", "line")
CORNERS_OF_PICTURE: tuple[Kind, ...] = ("dust", "camera")
CONFIDENCE = 0.9
STRONG_LINE = 0.1
RIM_PX = 16
RING_BLOCKS, RUNS_BLOCKS = 7, 30  # how far beside the parts is looked; blocks over which what is left of moire runs
LEAST_FADED = 0.2


def find_retained(
    panel: Panel,
    field: LightField | None,
    patterns: Sequence[str],
    lines: Sequence[Finding],
    speckles: NDArray[np.bool_] | None = None,
) -> Finding | None:
    """The parts of a picture in what differs from a smooth light; strong lines and (h, w) blocks with ``speckles`` are left out of it."""
    if field is None:
        return None
    spoiled = spoiled_by(panel, field, [line for line in lines if abs(line.contrast) > STRONG_LINE])
    rest = unevenness(field, spoiled if speckles is None else spoiled | speckles)
    threshold = max(FAINTEST_PART, NOISE_SIGMAS * field.spot_noise)
    best: list[Region] = []
    around: list[Region] = []
    for sign in (-1, 1):
        all_parts = [
            region
            for region in regions(sign * rest, threshold)
            if not only_at_rim(field.rim, region, sign * rest > threshold)
        ]
        parts = [region for region in all_parts if _drawn(sign * rest, region)]
        for middle in parts:
            alike = [part for part in parts if 1 / SAME_CONTRAST <= part.peak / middle.peak <= SAME_CONTRAST]
            if len(alike) > len(best):
                best = alike
                around = [
                    region
                    for region in all_parts
                    if region.fill >= LOOSELY_FILLED and region.peak <= SAME_CONTRAST * middle.peak
                ]
    if len(best) < MIN_PARTS:
        return None
    boxes = [region_box(panel, part) for part in (*best, *around)]
    left, right = min(b["x"] - b["w"] / 2 for b in boxes), max(b["x"] + b["w"] / 2 for b in boxes)
    top, bottom = min(b["y"] - b["h"] / 2 for b in boxes), max(b["y"] + b["h"] / 2 for b in boxes)
    inside = best[0]
    dark = (
        float(rest[inside.y0 : inside.y0 + inside.height, inside.x0 : inside.x0 + inside.width][inside.inside].mean())
        < 0
    )
    depth = float(np.median([part.peak for part in best]))
    word = "darker" if dark else "brighter"
    faded, words = _fading(field, best)
    return Finding(
        kind="retained_image",
        x=(left + right) / 2,
        y=(top + bottom) / 2,
        w=right - left,
        h=bottom - top,
        contrast=round(float(np.expm1(-depth if dark else depth)), 3),
        confidence=CONFIDENCE,
        patterns=tuple(patterns),
        faded=faded,
        reasons=(
            f"{len(best)} faint parts with straight edges, about {100 * depth:.0f} % {word}: an earlier picture that stayed.",
            words,
        ),
    )


def _fading(field: LightField, parts: Sequence[Region]) -> tuple[float | None, str]:
    """Share of the contrast that is gone from the first to the last photo of a pattern that was shot more than once, and what it means."""
    inside = np.zeros(field.light.shape, np.uint8)
    for part in parts:
        inside[part.y0 : part.y0 + part.height, part.x0 : part.x0 + part.width] |= part.inside
    ring = (cv2.dilate(inside, np.ones((RING_BLOCKS, RING_BLOCKS), np.uint8)) > 0) & (inside == 0)
    twice = [
        (field.names.index(name), len(field.names) - 1 - field.names[::-1].index(name))
        for name in dict.fromkeys(field.names)
    ]
    lost, spread = [], []
    for first, last in (pair for pair in twice if pair[0] != pair[1]):
        before, after = (
            float((field.rest + field.apart[n])[inside > 0].mean() - (field.rest + field.apart[n])[ring].mean())
            for n in (first, last)
        )
        change = field.apart[last] - field.apart[first]
        noise = (
            1.4826
            * float(np.median(np.abs(change - np.median(change))))
            * float(np.sqrt(RUNS_BLOCKS / max(int(inside.sum()), 1)))
        )
        lost.append(1 - after / before)
        spread.append(noise / abs(before))
    if not lost:
        return None, (
            "Show moving pictures for ten minutes and photograph grey again: what fades is a liquid-crystal panel's retention, what "
            "stays is wear."
        )
    weights = 1 / np.square(spread)
    share, sd = float(np.average(lost, weights=weights)), float(weights.sum() ** -0.5)
    if share - 2 * sd > LEAST_FADED:
        return (
            round(share, 2),
            f"In the later photo {100 * share:.0f} % of it is gone: a liquid-crystal panel's retention that fades, not wear.",
        )
    if share + 2 * sd < LEAST_FADED:
        return round(
            share, 2
        ), "It is as strong in the later photo: wear, as far as the minutes between the two can tell."
    return round(share, 2), f"The later photo cannot tell whether it fades (+-{100 * 2 * sd:.0f} %)."


def _drawn(rest: NDArray[np.float64], region: Region) -> bool:
    """A flat area that fills its box: not the smooth hill of a mura."""
    if min(region.width, region.height) < SMALLEST_BLOCKS or region.fill < FILLED:
        return False
    if region.height >= BAND_LENGTH * rest.shape[0] or region.width >= BAND_LENGTH * rest.shape[1]:
        return False  # from rim to rim: a band, and beside two bands the light between them
    if min(region.width, region.height) <= 2 * OUTER_BLOCKS:
        return True  # too small to tell a plateau from a hill; the straight edges must do
    inner = rest[
        region.y0 + OUTER_BLOCKS : region.y0 + region.height - OUTER_BLOCKS,
        region.x0 + OUTER_BLOCKS : region.x0 + region.width - OUTER_BLOCKS,
    ]
    return float(np.percentile(inner, 10)) > FLAT * region.peak


def part_of_picture(retained: Finding | None, finding: Finding) -> bool:
    """A faint zone or line that reaches into the picture that stayed is one of its parts, or what it makes of the smooth light beside
    it; a soft speck inside may be one of its corners."""
    if retained is None:
        return False
    across, down = abs(finding.x - retained.x), abs(finding.y - retained.y)
    touches = across <= (finding.w + retained.w) / 2 and down <= (finding.h + retained.h) / 2
    faint = abs(finding.contrast) <= SAME_CONTRAST * abs(retained.contrast)
    return (finding.kind in PART_OF_PICTURE and faint and touches) or (
        finding.kind in CORNERS_OF_PICTURE and covers(retained, finding.x, finding.y, RIM_PX)
    )
