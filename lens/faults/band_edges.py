"""Bands over the whole panel, with their edges to the pixel: the mean light of every row (or column) against that of a band between two of them.

The light field knows a band in blocks and in pieces, the line finder up to eight pixels of its width. But a band runs from rim to rim, so the mean
light of rows has hardly any noise. Where a box of some width stands out in it, or one of the two has found something, it is fitted with a quadratic
and a box between any two edges, blurred as the photo blurs (least squares; all pairs of edges at once, by the steps' inner products once the
quadratic is projected out), summed over the photos that light the panel. It must stand out on both sides, and all along.
"""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d
from scipy.special import ndtr

from lens.faults.light_field import LightField, tells_light, true_light
from lens.faults.light_model import background, main_channel
from lens.faults.lines import LINE_MAX_WIDTH_PX, MAX_WIDTH_PX
from lens.faults.tone import Tone
from lens.faults.zones import BAND_LENGTH, BAND_WIDTH, FAINTEST_ZONE
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Finding

Values = NDArray[np.float64]
WIDTHS_PX = (6, 12, 24, 48)  # of the boxes that are looked for: each finds bands of two thirds to twice its width
BESIDE_PX = 56  # how far beside what was found the light is looked at: seven blocks, over which it runs smoothly
MOST_OFF_PX = 24  # of an edge, from where it was found: three blocks, over which the light field is smoothed
LEAST_BLUR_PX = 0.25
MOST_FITS = 3  # what was found may be one edge of a band, whose other lies further away than is looked for
TERMS = 3  # of the smooth light around a band
LEAST_SNR = 8.0  # of a band against none, and of a box that is worth a fit
SIDE_PX, SIDE_SHARE = (
    8,
    0.4,
)  # how far inside and outside of an edge it is looked, and what a band shows there of its contrast
MOST_UNEXPLAINED = 0.3  # of the squares around a band: of two lines twelve px apart a box leaves two thirds
SEGMENTS, SEGMENT_SHARE = (
    8,
    0.4,
)  # of a band's length, and what it shows in each of them of its contrast in the middle one
PIECE_WIDTH = 0.5  # of a band: a zone in it that is narrower is something by itself
SURE = 0.97  # as often as zones of their contrast are what was told


class Profile(NamedTuple):
    """A photo's mean light of rows or columns, 1 at its median, the inverse of its noise's variance and the sigma that it is blurred by, px."""

    light: Values
    weight: float
    blur_px: float


class Box(NamedTuple):
    """First and last pixel of a band across it, and by what share its light differs."""

    first: int
    last: int
    contrast: float


def whole_bands(
    panel: Panel,
    photos: Sequence[PhotoRead],
    field: LightField | None,
    found: Sequence[Finding],
    tone: Tone | None = None,
) -> list[Finding]:
    """The bands of all colours that run over the whole panel; ``found`` are zones and lines, some of which may be such bands or parts of them."""
    bands: list[Finding] = []
    for row in (True, False) if field is not None else ():
        profiles = _profiles(panel, photos, row, tone)
        if not profiles or field is None:
            continue
        starts = [edges(f) for f in found if _whole(panel, f) and along_row(f) == row] + _standing_out(profiles)
        boxes = [box for first, last in starts if (box := _followed(profiles, first, last)) is not None]
        kept: list[Box] = []
        for box in sorted(boxes, key=lambda box: -abs(box.contrast) * (box.last - box.first)):
            apart = all(box.first > other.last + BLOCK_PX or box.last < other.first - BLOCK_PX for other in kept)
            if apart and _explained(profiles, box) and _all_along(field.rest if row else field.rest.T, box):
                kept.append(box)
        lines = [f for f in found if f.kind == "line" and (f.orientation == "row") == row]
        whole = [f for f in lines if (f.w / panel.width if row else f.h / panel.height) >= BAND_LENGTH]
        kept = [box for box in kept if not any(_is_line(box, _across(line, row)) for line in whole)]
        names = tuple(dict.fromkeys(photo.pattern.id for photo in photos if tells_light(photo)))
        bands += [_finding(panel, row, box, names) for box in kept]
    return bands


def part_of_band(finding: Finding, band: Finding) -> bool:
    """Whether a zone, or a band of all colours, lies across a band or on its edge and so is a part of it."""
    (own_first, own_last), (first, last) = _across(finding, along_row(band)), edges(band)
    if finding.kind == "band":
        return (
            finding.channel is None
            and along_row(finding) == along_row(band)
            and own_first <= last + BLOCK_PX
            and own_last >= first - BLOCK_PX
        )
    reach = 2 * BLOCK_PX
    inside = own_first >= first - reach and own_last <= last + reach
    return (
        inside and finding.contrast * band.contrast > 0 and own_last - own_first + 1 >= PIECE_WIDTH * (last - first + 1)
    )


def same_edges(finding: Finding, band: Finding) -> bool:
    """Whether a line finder's band is this one, to within a pixel; of wider ones it knows only that they are."""
    alike = finding.kind == "band" and finding.channel is None and along_row(finding) == along_row(band)
    narrow = min(band.w, band.h) <= MAX_WIDTH_PX
    return (narrow and alike) and all(abs(a - b) <= 1 for a, b in zip(edges(finding), edges(band), strict=True))


def edges(band: Finding) -> tuple[float, float]:
    """First and last pixel of a band across it."""
    return _across(band, along_row(band))


def _across(finding: Finding, row: bool) -> tuple[float, float]:
    middle, width = (finding.y, finding.h) if row else (finding.x, finding.w)
    return middle - (width - 1) / 2, middle + (width - 1) / 2


def along_row(band: Finding) -> bool:
    """Whether a band, or a zone that is as long, runs along rows."""
    return band.orientation == "row" if band.orientation else band.w >= band.h


def _whole(panel: Panel, finding: Finding) -> bool:
    """A band of all colours over the whole panel, or a zone that is as long and no wider."""
    row = along_row(finding)
    length, thick = (
        (finding.w / panel.width, finding.h / panel.height)
        if row
        else (finding.h / panel.height, finding.w / panel.width)
    )
    shaped = finding.kind in ("dark_zone", "bright_zone") or (finding.kind == "band" and finding.channel is None)
    return shaped and length >= BAND_LENGTH and thick <= BAND_WIDTH


def _profiles(panel: Panel, photos: Sequence[PhotoRead], row: bool, tone: Tone | None) -> list[Profile]:
    out = []
    for photo in photos:
        seen = photo.view.row_light if row else photo.view.column_light
        if not tells_light(photo) or len(seen) != (panel.height if row else panel.width):
            continue
        channel = main_channel(background(photo))
        light = true_light(photo, tone, seen[:, channel].astype(float))
        usual = float(np.median(light))
        if usual <= 0:
            continue
        # second differences leave nothing of what runs smoothly, and of white noise six times its variance
        noise = 1.4826 * float(np.median(np.abs(np.diff(light / usual, 2)))) / math.sqrt(6)
        spread = float(photo.view.spread_px[channel, 1 if row else 0])
        blur_px = max(math.sqrt(max(spread**2 - 1 / 12, 0.0)), LEAST_BLUR_PX)
        out.append(Profile(light / usual, 1 / max(noise, 1e-5) ** 2, blur_px))
    return out


def _standing_out(profiles: Sequence[Profile]) -> list[tuple[float, float]]:
    """First and last pixel of boxes whose mean light differs from that of what lies beside them on both sides."""
    light = np.median([profile.light for profile in profiles], axis=0)
    starts = []
    for width in WIDTHS_PX:
        mean = uniform_filter1d(light, width)
        inner = np.arange(2 * width, len(light) - 2 * width)
        if not len(inner):
            continue
        sides = mean[inner] - mean[inner - width], mean[inner] - mean[inner + width]
        least = np.where(sides[0] * sides[1] > 0, np.minimum(*np.abs(sides)), 0.0)
        # half of their sum has nothing of a slope in it, which a lens's fall-off makes
        bend = (sides[0] + sides[1]) / 2
        noise = 1.4826 * float(np.median(np.abs(bend - np.median(bend))))
        least[least < max(FAINTEST_ZONE * SIDE_SHARE, LEAST_SNR * noise)] = 0
        while least.any():
            n = int(np.argmax(least))
            starts.append((float(inner[n] - width / 2), float(inner[n] + width / 2)))
            least[max(0, n - width) : n + width + 1] = 0
    return starts


def _followed(profiles: Sequence[Profile], first: float, last: float) -> Box | None:
    """The band that lies nearest to these edges, None where none stands out."""
    box: Box | None = None
    for _ in range(MOST_FITS):
        again = _fitted(profiles, round(first), round(last))
        if again is None or again == box:
            break
        box = again
        first, last = box.first, box.last
    return box


def _fitted(profiles: Sequence[Profile], first: int, last: int) -> Box | None:
    size = len(profiles[0].light)
    window = slice(max(0, first - BESIDE_PX), min(size, last + BESIDE_PX + 1))
    at = np.arange(window.start, window.stop, dtype=float)
    # a step before each pixel of the window, and one after the last: those at the panel's rim change nothing
    steps = np.arange(window.start, window.stop + 1, dtype=float) - 0.5
    gain, heights = np.zeros((len(steps), len(steps))), []
    for profile in profiles:
        own_gain, height = _gains(profile.light[window], at, steps, profile.blur_px)
        gain += profile.weight * own_gain
        heights.append(height)
    before, after = np.abs(steps - (first - 0.5)) <= MOST_OFF_PX, np.abs(steps - (last + 0.5)) <= MOST_OFF_PX
    gain[~(before[:, None] & after[None, :] & (steps[:, None] < steps[None, :]))] = 0
    i, j = (int(v) for v in np.unravel_index(int(np.argmax(gain)), gain.shape))
    box = Box(math.ceil(steps[i]), math.floor(steps[j]), float(np.median([height[i, j] for height in heights])))
    told = gain[i, j] >= LEAST_SNR**2 and box.last - box.first >= LINE_MAX_WIDTH_PX
    return box if told and abs(box.contrast) >= FAINTEST_ZONE and _on_both_sides(profiles, box) else None


def _gains(light: Values, at: Values, steps: Values, blur_px: float) -> tuple[Values, Values]:
    """(n, n) by how much the sum of squares falls with a box between each pair of ``steps``, and the box's height as a share of the light there."""
    along = np.linspace(-1, 1, len(at))
    smooth, _ = np.linalg.qr(np.stack([along**power for power in range(TERMS)], axis=1))
    step = ndtr((at[None, :] - steps[:, None]) / blur_px)
    step -= (step @ smooth) @ smooth.T
    rest = light - smooth @ (smooth.T @ light)
    inner, told = step @ step.T, step @ rest
    own = np.diag(inner)
    power = np.maximum(own[:, None] + own[None, :] - 2 * inner, 1e-6)
    height = (told[:, None] - told[None, :]) / power
    return height**2 * power, height / max(float(np.median(light)), 1e-6)


def _on_both_sides(profiles: Sequence[Profile], box: Box) -> bool:
    """Whether light changes at both edges as a band's does; at the panel's rim there is none beside it."""
    light = np.median([profile.light for profile in profiles], axis=0)
    reach = min(SIDE_PX, box.last - box.first + 1)
    changes = []
    if box.first >= reach:
        changes.append(light[box.first : box.first + reach].mean() - light[box.first - reach : box.first].mean())
    if box.last + reach < len(light):
        changes.append(
            light[box.last - reach + 1 : box.last + 1].mean() - light[box.last + 1 : box.last + 1 + reach].mean()
        )
    return bool(changes) and all(change / box.contrast >= SIDE_SHARE for change in changes)


def _explained(profiles: Sequence[Profile], box: Box) -> bool:
    """Whether what differs there is a box at all: of lines beside each other it explains little."""
    light = np.median([profile.light for profile in profiles], axis=0)
    blur_px = float(np.median([profile.blur_px for profile in profiles]))
    at = np.arange(max(0, box.first - SIDE_PX), min(len(light), box.last + SIDE_PX + 1))
    outside = (at < box.first - 1) | (at > box.last + 1)
    if not outside.any():
        return True
    level = np.polyval(np.polyfit(at[outside], light[at[outside]], 1 if outside.sum() > SIDE_PX else 0), at)
    differs = light[at] / level - 1
    shape = ndtr((at - box.first + 0.5) / blur_px) - ndtr((at - box.last - 0.5) / blur_px)
    left = differs - shape * float(shape @ differs / (shape @ shape))
    return bool(left @ left <= MOST_UNEXPLAINED * (differs @ differs))


def _is_line(box: Box, line: tuple[float, float]) -> bool:
    """A band no wider than lines can be, in which one as long was found: what its light is spread over by the lens."""
    narrow = box.last - box.first + 1 <= MAX_WIDTH_PX
    return narrow and line[0] >= box.first - 1 and line[1] <= box.last + 1


def _all_along(rest: Values, box: Box) -> bool:
    """Whether a (h, w) field of blocks shows the band, along its rows, in each part of its length."""
    first, last = box.first // BLOCK_PX, min(box.last // BLOCK_PX, len(rest) - 1)
    near = range(max(0, first - 3), min(len(rest), last + 4))
    beside = [row for row in near if not first - 1 <= row <= last + 1]
    if not beside:
        return False
    # of a band thinner than blocks, the row of blocks that shows most of it
    inside = rest[first : last + 1] * math.copysign(1.0, box.contrast)
    strongest = inside[int(np.argmax(np.median(inside, axis=1)))]
    difference = strongest - np.median(rest[beside], axis=0) * math.copysign(1.0, box.contrast)
    shown = np.array([np.median(part) for part in np.array_split(difference, SEGMENTS)])
    return bool((shown >= SEGMENT_SHARE * np.median(shown)).all() and np.median(shown) > 0)


def _finding(panel: Panel, row: bool, box: Box, patterns: tuple[str, ...]) -> Finding:
    width, middle = box.last - box.first + 1, (box.first + box.last) / 2
    word = "darker" if box.contrast < 0 else "brighter"
    return Finding(
        kind="band",
        x=(panel.width - 1) / 2 if row else middle,
        y=middle if row else (panel.height - 1) / 2,
        w=float(panel.width if row else width),
        h=float(width if row else panel.height),
        orientation="row" if row else "column",
        contrast=round(box.contrast, 3),
        confidence=SURE,
        patterns=patterns,
        reasons=(
            f"Runs over the whole {'width' if row else 'height'}, {width} px wide from {'row' if row else 'column'} {box.first} to {box.last}, "
            f"{100 * abs(box.contrast):.0f} % {word} than its surroundings.",
        ),
    )
