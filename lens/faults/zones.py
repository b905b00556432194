"""Zones of the light field: dark and bright ones, bands, mura, bleed on black, and tints."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import SMOOTH_BLOCKS, Field, LightField, frame_radius2, smoothed
from lens.faults.light_model import main_channel
from lens.faults.regions import MIN_BLOCKS, PEAK_SHARE, Region, region_box, regions
from lens.panel import Panel
from lens.photo import BLOCK_PX, PhotoRead, block_means
from lens.records import Finding, Kind

BLOCK_FILL, MOST_LIFT = 0.92, 1.25
NOISE_SIGMAS = 6.0
FAINTEST_ZONE, ZONE_CONTRAST = 0.012, 0.08
LARGE_SHARE, LARGE_CONTRAST = 0.02, 0.05
BAND_LENGTH, BAND_WIDTH, BAND_FILL = 0.95, 0.35, 0.75
LEAST_SEMU, UNSCALED_MURA = 2.0, 0.03
# At the rim a phone's development and its lens leave up to 3 % (sound panels by phones, seeds 75200 to 75235): fainter is nobody's fault there.
LEAST_AT_RIM = 0.035
# What a spot needs to be told 19 times of 20: of the noise's demand (6 sigma and 1.645 more), and of the least that counts.
SURE_NOISE, SURE_SPOT, SPOT_MM2 = 1.27, 1.2, 100.0
FAINTEST_BLEED = 0.004
BRIDGE_BLOCKS = 2.0
# how often zones of simulated sets were what was told, to within what as many sets can say; faint ones are right less often
CONFIDENCE: dict[str, float] = {"dark_zone": 0.97, "bright_zone": 0.97, "bleed": 0.97}
USUAL_CONFIDENCE = 0.9
LINE_SPOILS_PX = 24
DOT_BLOCKS, BESIDE_DOT_BLOCKS, MOST_SPECKLED = (
    3,
    5,
    0.15,
)  # a grain darkens its block, and the light is smoothed over the next two


def zone_finding(
    panel: Panel,
    region: Region,
    kind: Kind,
    contrast: float,
    patterns: Sequence[str],
    reasons: Sequence[str],
    orientation: str | None = None,
    strength: float | None = None,
) -> Finding:
    return Finding.model_validate(
        {
            **region_box(panel, region),
            "kind": kind,
            "orientation": orientation,
            "contrast": round(contrast, 3),
            "confidence": CONFIDENCE.get(kind, USUAL_CONFIDENCE),
            "patterns": tuple(patterns),
            "reasons": tuple(reasons),
            "semu": strength,
        }
    )


def semu(contrast: float, area_mm2: float) -> float:
    """Visibility of a mura of this contrast (share) and area: Cx / (1.97 / S^0.33 + 0.72), Cx in percent (SEMI D31, from memory)."""
    return abs(100 * contrast) / just_seen(area_mm2)


def just_seen(area_mm2: float) -> float:
    """Contrast in percent of a mura of one SEMU (SEMI D31, from memory)."""
    return 1.97 / max(area_mm2, 1e-3) ** 0.33 + 0.72


def bridged(field: Field, hidden: NDArray[np.bool_] | None) -> Field:
    """The field with the hidden blocks told by what lies around them."""
    if hidden is None or not hidden.any():
        return field
    seen = np.where(hidden, 0.0, 1.0)
    around = smoothed(field * seen, BRIDGE_BLOCKS) / np.maximum(smoothed(seen, BRIDGE_BLOCKS), 1e-3)
    return np.where(hidden, around, field)


def unevenness(field: LightField, hidden: NDArray[np.bool_] | None = None) -> Field:
    """(h, w) logarithm of what differs from a smooth light, ``hidden`` blocks told by their surroundings."""
    return smoothed(bridged(field.rest, with_rim(field, hidden)), SMOOTH_BLOCKS)


def with_rim(field: LightField, hidden: NDArray[np.bool_] | None) -> NDArray[np.bool_]:
    """(h, w) blocks that are told by their surroundings: the ``hidden`` ones, and those along the rim about which the photos disagree."""
    return field.rim if hidden is None else field.rim | hidden


def light_zones(
    panel: Panel, field: LightField, patterns: Sequence[str], hidden: NDArray[np.bool_] | None = None
) -> list[Finding]:
    """Dark and bright zones, wide bands and mura of the light field; ``hidden`` are (h, w) blocks that lines or markers spoil."""
    rest = unevenness(field, hidden)
    threshold = smallest_zone(field)
    findings = []
    for sign in (-1, 1):
        for region in regions(sign * rest, threshold):
            contrast = float(np.expm1(sign * _true_peak(region, threshold)))
            finding = _told(panel, region, contrast, patterns)
            faint = finding is not None and finding.kind == "mura"
            if finding is not None and not (faint and only_at_rim(field.rim, region, sign * rest > threshold)):
                findings.append(finding)
    return findings


def only_at_rim(rim: NDArray[np.bool_], region: Region, stands_out: NDArray[np.bool_]) -> bool:
    """Whether a place (h, w) stands out hardly anywhere but along the ``rim``, where the photos disagree, and as far as that is smoothed."""
    unsure = cv2.dilate(rim.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
    part = slice(region.y0, region.y0 + region.height), slice(region.x0, region.x0 + region.width)
    return bool((region.inside & stands_out[part] & ~unsure[part]).sum() < MIN_BLOCKS)


def _true_peak(region: Region, threshold: float) -> float:
    """The peak of a bell before it was smoothed and read a little below its top. What fills its box is no bell but a block, whose middle
    smoothing leaves as it is."""
    if region.fill >= BLOCK_FILL:
        return region.peak
    square = float(region.inside.sum()) / (
        2 * np.pi * np.log(2)
    )  # sigma squared of a bell with this area at half depth
    smoothing = SMOOTH_BLOCKS**2 + 1 / 12
    return (
        region.peak
        * (region.peak / threshold) ** (1 - PEAK_SHARE)
        * square
        / max(square - smoothing, square / MOST_LIFT)
    )


def _told(panel: Panel, region: Region, contrast: float, patterns: Sequence[str]) -> Finding | None:
    rows, columns = -(-panel.height // BLOCK_PX), -(-panel.width // BLOCK_PX)
    at_rim = (
        min(region.x0, region.y0) <= 1
        or region.y0 + region.height >= rows - 1
        or region.x0 + region.width >= columns - 1
    )
    word = "darker" if contrast < 0 else "brighter"
    percent = f"{100 * abs(contrast):.0f} % {word} than its surroundings"
    along_row, along_column = region.width >= BAND_LENGTH * columns, region.height >= BAND_LENGTH * rows
    if region.fill >= BAND_FILL and (
        (along_row and region.height <= BAND_WIDTH * rows) or (along_column and region.width <= BAND_WIDTH * columns)
    ):
        across, side = (region.height, "width") if along_row else (region.width, "height")
        reason = f"Runs over the whole {side}, about {across * BLOCK_PX} px wide, {percent}."
        return zone_finding(panel, region, "band", contrast, patterns, [reason], "row" if along_row else "column")
    share = float(region.inside.sum()) / (rows * columns)
    if abs(contrast) >= ZONE_CONTRAST or (share >= LARGE_SHARE and abs(contrast) >= LARGE_CONTRAST):
        reasons = [f"A zone of {100 * share:.1f} % of the panel, {percent}."]
        if region.fill >= BLOCK_FILL and min(region.width, region.height) >= 4:
            reasons.append("Its straight edges speak for a driver's share of the panel, not for the backlight.")
        elif contrast < 0 and at_rim:
            reasons.append("It reaches the rim: look for a failed lamp or string there.")
        return zone_finding(panel, region, "dark_zone" if contrast < 0 else "bright_zone", contrast, patterns, reasons)
    if at_rim and abs(contrast) < LEAST_AT_RIM:
        return None
    if panel.ppi is None:
        visible, strength, words = abs(contrast) >= UNSCALED_MURA, None, "its visibility needs the panel's diagonal"
    else:
        area_mm2 = float(region.inside.sum()) * (BLOCK_PX * 25.4 / panel.ppi) ** 2
        strength = round(semu(contrast, area_mm2), 2)
        visible, words = strength >= LEAST_SEMU, f"{area_mm2:.0f} mm2, {strength:.1f} SEMU"
    return (
        zone_finding(
            panel, region, "mura", contrast, patterns, [f"A faint spot, {percent}; {words}."], strength=strength
        )
        if visible
        else None
    )


def bleed_zones(
    panel: Panel, black: PhotoRead, seen: Field, field: LightField, hidden: NDArray[np.bool_]
) -> list[Finding]:
    """Light that comes through the black pattern, against the white that the same exposure would show."""
    white = seen.sum(axis=1)
    channel = main_channel(white)
    fall = np.maximum(1 - field.fall_off * frame_radius2(panel, black), 0.1)
    light = black.view.level[..., channel].astype(float) / fall / max(float(white[channel]), 1e-9)
    excess = smoothed(bridged(light - float(np.median(light)), hidden), SMOOTH_BLOCKS)
    noise = 1.4826 * float(np.median(np.abs(excess)))
    return [
        zone_finding(
            panel,
            region,
            "bleed",
            region.peak,
            [black.pattern.id],
            [
                f"Light comes through on black: {100 * region.peak:.1f} % of white, over {100 * region.inside.sum() / light.size:.1f} % of the panel."
            ],
        )
        for region in regions(excess, max(FAINTEST_BLEED, NOISE_SIGMAS * noise))
    ]


def smallest_zone(field: LightField) -> float:
    """The faintest contrast of a spot that would have been told."""
    return max(FAINTEST_ZONE, NOISE_SIGMAS * field.spot_noise)


def smallest_spot(panel: Panel, field: LightField) -> tuple[float, float | None]:
    """Contrast of the faintest bell-shaped spot that would surely have been told, and the area (mm2, at half depth) that this holds for;
    None where the panel's diagonal is not known."""
    if panel.ppi is None:
        return max(SURE_NOISE * smallest_zone(field), SURE_SPOT * UNSCALED_MURA), None
    square = SPOT_MM2 / (2 * np.pi * np.log(2)) / (BLOCK_PX * 25.4 / panel.ppi) ** 2  # sigma squared, in blocks
    left = square / (square + SMOOTH_BLOCKS**2 + 1 / 12)  # of its peak, by smoothing
    return max(SURE_NOISE * smallest_zone(field) / left, SURE_SPOT * LEAST_SEMU * just_seen(SPOT_MM2) / 100), SPOT_MM2


def spoiled(
    panel: Panel, shape: tuple[int, ...], boxes: Sequence[tuple[float, float, float, float]]
) -> NDArray[np.bool_]:
    """(h, w) blocks that any of the boxes (centre, size in px) touches."""
    out = np.zeros(shape, bool)
    for x, y, w, h in boxes:
        top, left = (max(0, int((v - s / 2) // BLOCK_PX)) for v, s in ((y, h), (x, w)))
        out[top : int((y + h / 2) // BLOCK_PX) + 1, left : int((x + w / 2) // BLOCK_PX) + 1] = True
    return out


def spoiled_by(panel: Panel, field: LightField, lines: Sequence[Finding]) -> NDArray[np.bool_]:
    """(h, w) blocks of the field that these lines spoil."""
    grow = 2 * LINE_SPOILS_PX
    return spoiled(panel, field.light.shape, [(f.x, f.y, f.w + grow, f.h + grow) for f in lines])


def speckled(snr: NDArray[np.float32]) -> NDArray[np.bool_]:
    """(h, w) blocks that dots and grains darken, by what passed the survey, (H, W); films, cracks and lines are larger. None where it is speckled
    all over, as no place is without then."""
    passed = (block_means((snr > 0).astype(np.float32)) > 0).view(np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(passed, connectivity=8)
    small = np.maximum(stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT]) <= DOT_BLOCKS
    small[0] = False
    beside = cv2.dilate(small[labels].view(np.uint8), np.ones((BESIDE_DOT_BLOCKS, BESIDE_DOT_BLOCKS), np.uint8)).view(
        bool
    )
    return np.asarray(beside if beside.mean() < MOST_SPECKLED else np.zeros_like(beside), bool)


def covers(zone: Finding, x: float, y: float, beyond_px: float = 0.0) -> bool:
    """Whether a point lies in a zone's box, or that far beyond it."""
    return abs(x - zone.x) <= zone.w / 2 + beyond_px and abs(y - zone.y) <= zone.h / 2 + beyond_px
