"""Zones of the light field: dark and bright ones, bands, mura, bleed on black, and tints."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.light_field import SMOOTH_BLOCKS, Field, LightField, around_zones, detrended, frame_radius2, smoothed
from lens.faults.light_model import LightModel, main_channel
from lens.faults.regions import MIN_BLOCKS, PEAK_SHARE, Region, region_box, regions
from lens.faults.uniformity import SRGB_TO_XYZ
from lens.panel import Panel
from lens.patterns import marker_mask
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
FAINTEST_TINT = 0.004
BRIDGE_BLOCKS = 2.0
SAME_PLACE = 0.4
# how often zones of simulated sets were what was told, to within what as many sets can say; faint ones are right less often
CONFIDENCE: dict[str, float] = {"dark_zone": 0.97, "bright_zone": 0.97, "bleed": 0.97}
USUAL_CONFIDENCE = 0.9
GROWN, MOST_PULLING = (
    1.6,
    0.4,
)  # of a strong zone's box, that it may darken or brighten; of the panel, else too little is left
HALO_SHARE, HALO_REACH = 0.25, 0.75  # of a strong zone's contrast and size: what tone mapping by place leaves beside it
LINE_SPOILS_PX, MARKER_SPOILS_PX = 24, 12
DOT_BLOCKS, BESIDE_DOT_BLOCKS, MOST_SPECKLED = (
    3,
    5,
    0.15,
)  # a grain darkens its block, and the light is smoothed over the next two


def _finding(
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


def _bridged(field: Field, hidden: NDArray[np.bool_] | None) -> Field:
    """The field with the hidden blocks told by what lies around them."""
    if hidden is None or not hidden.any():
        return field
    seen = np.where(hidden, 0.0, 1.0)
    around = smoothed(field * seen, BRIDGE_BLOCKS) / np.maximum(smoothed(seen, BRIDGE_BLOCKS), 1e-3)
    return np.where(hidden, around, field)


def unevenness(field: LightField, hidden: NDArray[np.bool_] | None = None) -> Field:
    """(h, w) logarithm of what differs from a smooth light, ``hidden`` blocks told by their surroundings."""
    return smoothed(_bridged(field.rest, _with_rim(field, hidden)), SMOOTH_BLOCKS)


def _with_rim(field: LightField, hidden: NDArray[np.bool_] | None) -> NDArray[np.bool_]:
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
            if finding is not None and not (faint and only_at_rim(field, region, sign * rest > threshold)):
                findings.append(finding)
    return findings


def only_at_rim(field: LightField, region: Region, stands_out: NDArray[np.bool_]) -> bool:
    """Whether a place (h, w) stands out hardly anywhere but along the rim, where the photos disagree, and as far as that is smoothed."""
    unsure = cv2.dilate(field.rim.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
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
        return _finding(panel, region, "band", contrast, patterns, [reason], "row" if along_row else "column")
    share = float(region.inside.sum()) / (rows * columns)
    if abs(contrast) >= ZONE_CONTRAST or (share >= LARGE_SHARE and abs(contrast) >= LARGE_CONTRAST):
        reasons = [f"A zone of {100 * share:.1f} % of the panel, {percent}."]
        if region.fill >= BLOCK_FILL and min(region.width, region.height) >= 4:
            reasons.append("Its straight edges speak for a driver's share of the panel, not for the backlight.")
        elif contrast < 0 and at_rim:
            reasons.append("It reaches the rim: look for a failed lamp or string there.")
        return _finding(panel, region, "dark_zone" if contrast < 0 else "bright_zone", contrast, patterns, reasons)
    if at_rim and abs(contrast) < LEAST_AT_RIM:
        return None
    if panel.ppi is None:
        visible, strength, words = abs(contrast) >= UNSCALED_MURA, None, "its visibility needs the panel's diagonal"
    else:
        area_mm2 = float(region.inside.sum()) * (BLOCK_PX * 25.4 / panel.ppi) ** 2
        strength = round(semu(contrast, area_mm2), 2)
        visible, words = strength >= LEAST_SEMU, f"{area_mm2:.0f} mm2, {strength:.1f} SEMU"
    return (
        _finding(panel, region, "mura", contrast, patterns, [f"A faint spot, {percent}; {words}."], strength=strength)
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
    excess = smoothed(_bridged(light - float(np.median(light)), hidden), SMOOTH_BLOCKS)
    noise = 1.4826 * float(np.median(np.abs(excess)))
    return [
        _finding(
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


def tint_zones(
    panel: Panel, field: LightField, patterns: Sequence[str], hidden: NDArray[np.bool_] | None = None
) -> list[Finding]:
    """Zones whose colour differs: distance in CIE 1976 u'v' from their surroundings, the panel's colours taken as sRGB."""
    delta = tint(field, hidden)
    if delta is None:
        return []
    distance = np.hypot(delta[..., 0], delta[..., 1])
    noise = 1.4826 * float(np.median(np.abs(delta)))
    findings = []
    threshold = max(FAINTEST_TINT, NOISE_SIGMAS * noise)
    for region in regions(distance, threshold):
        if only_at_rim(field, region, distance > threshold):
            continue
        part = (slice(region.y0, region.y0 + region.height), slice(region.x0, region.x0 + region.width))
        du, dv = (float(np.median(delta[part][region.inside][:, c])) for c in (0, 1))
        reason = f"{_hue(du, dv)}, {region.peak:.3f} in u'v' from its surroundings."
        findings.append(_finding(panel, region, "discoloration", 0.0, patterns, [reason]))
    return findings


def tint(field: LightField, hidden: NDArray[np.bool_] | None = None) -> Field | None:
    """(h, w, 2) distance in u' and v' from the surroundings' colour, the panel's colours taken as sRGB; None with less than two photos,
    since one photo's coloured moire looks just like a tint."""
    if field.rgb is None or len(field.rgb) < 2:
        return None
    log = np.log(np.clip(field.rgb, 1e-3, None))
    hidden = _with_rim(field, hidden)
    shift = np.stack(
        [
            _agreed(
                np.array(
                    [smoothed(_bridged(detrended(one[..., c] - one[..., 1]), hidden), SMOOTH_BLOCKS) for one in log]
                )
            )
            for c in (0, 2)
        ],
        axis=-1,
    )
    xyz = np.exp(np.stack([shift[..., 0], np.zeros(shift.shape[:2]), shift[..., 1]], axis=-1)) @ SRGB_TO_XYZ.T
    total = xyz @ np.array([1.0, 15.0, 3.0])
    uv = np.stack([4 * xyz[..., 0] / total, 9 * xyz[..., 1] / total], axis=-1)
    white = SRGB_TO_XYZ.sum(axis=1)
    return np.asarray(uv - np.array([4 * white[0], 9 * white[1]]) / (white @ np.array([1.0, 15.0, 3.0])), float)


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


def _agreed(fields: Field) -> Field:
    """What all photos agree on, of (n, h, w): the smallest of one sign, 0 where they differ. Coloured moire stands in one only."""
    least = np.abs(fields).min(axis=0)
    return np.where((fields > 0).all(axis=0), least, np.where((fields < 0).all(axis=0), -least, 0.0))


def _hue(du: float, dv: float) -> str:
    """The tint in a word: v' grows to yellow and falls to blue, u' grows to pink and falls to green."""
    if abs(dv) > abs(du):
        return "Yellowish" if dv > 0 else "Bluish"
    return "Pinkish" if du > 0 else "Greenish"


def _spoiled(
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
    return _spoiled(panel, field.light.shape, [(f.x, f.y, f.w + grow, f.h + grow) for f in lines])


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


def find_zones(
    panel: Panel,
    photos: Sequence[PhotoRead],
    model: LightModel,
    field: LightField | None,
    lines: Sequence[Finding] = (),
    speckles: NDArray[np.bool_] | None = None,
) -> list[Finding]:
    """All zones of a set; the lines found already and (h, w) blocks with ``speckles`` are left out of the light."""
    if field is None:
        return []
    names = tuple(dict.fromkeys(p.pattern.id for p in photos if max(p.pattern.drive) > 0))
    full = tuple(dict.fromkeys(p.pattern.id for p in photos if p.pattern.neutral))
    hidden = spoiled_by(panel, field, lines)
    if speckles is not None:
        hidden = hidden | speckles
    black = next(
        (
            (p, seen)
            for p, seen in zip(photos, model.seen, strict=True)
            if max(p.pattern.drive) == 0 and p.view.whole and p.ink_level is not None
        ),
        None,
    )
    bleed: list[Finding] = []
    if black:
        height, width = hidden.shape
        marked = np.zeros((height * BLOCK_PX, width * BLOCK_PX), bool)
        marked[: panel.height, : panel.width] = marker_mask(panel, black[0].pattern, MARKER_SPOILS_PX)
        beside = marked.reshape(height, BLOCK_PX, width, BLOCK_PX).any(axis=(1, 3))
        bleed = bleed_zones(panel, *black, field, hidden | beside)
    lit = light_zones(panel, field, names, hidden)
    # a strong zone pulls at the smooth light that all else is held against
    strong = [zone for zone in lit if zone.kind != "mura" and abs(zone.contrast) >= ZONE_CONTRAST]
    pulling = _spoiled(panel, field.light.shape, [(f.x, f.y, GROWN * f.w, GROWN * f.h) for f in strong])
    if strong and pulling.mean() < MOST_PULLING:
        lit = light_zones(panel, around_zones(field, pulling), names, hidden)
    # light that leaks through black brightens the dim patterns too: told once
    lit = [
        zone for zone in without_halos(lit) if zone.contrast < 0 or not any(covers(b, zone.x, zone.y) for b in bleed)
    ]
    return _joined(lit, tint_zones(panel, field, full, hidden)) + bleed


def without_halos(zones: Sequence[Finding]) -> list[Finding]:
    """The zones without faint spots of opposite sign beside strong ones, which cameras make that lift the dark and hold the bright by place."""
    strong = [zone for zone in zones if zone.kind != "mura" and abs(zone.contrast) >= ZONE_CONTRAST]
    return [
        zone
        for zone in zones
        if zone.kind != "mura"
        or not any(
            zone.contrast * other.contrast < 0
            and abs(zone.contrast) <= HALO_SHARE * abs(other.contrast)
            and _gap(zone, other) <= HALO_REACH * max(other.w, other.h)
            for other in strong
        )
    ]


def _gap(one: Finding, other: Finding) -> float:
    """Distance of two boxes, 0 where they touch."""
    across, down = abs(one.x - other.x) - (one.w + other.w) / 2, abs(one.y - other.y) - (one.h + other.h) / 2
    return float(np.hypot(max(across, 0.0), max(down, 0.0)))


def _joined(lit: Sequence[Finding], tints: Sequence[Finding]) -> list[Finding]:
    """A tint that darkens is one thing: a faint spot that covers nearly the same place is told with it."""
    kept, joined = list(lit), []
    for tint_zone in tints:
        own = next((f for f in kept if f.kind == "mura" and _share_of_union(f, tint_zone) >= SAME_PLACE), None)
        if own is not None:
            kept.remove(own)
            tint_zone = tint_zone.model_copy(
                update={"contrast": own.contrast, "semu": own.semu, "reasons": (*tint_zone.reasons, *own.reasons)}
            )
        joined.append(tint_zone)
    return kept + joined


def _share_of_union(one: Finding, other: Finding) -> float:
    """Overlap of two boxes over their union."""
    width, height = (
        max(0.0, min(a + p / 2, b + q / 2) - max(a - p / 2, b - q / 2))
        for a, p, b, q in ((one.x, one.w, other.x, other.w), (one.y, one.h, other.y, other.h))
    )
    return width * height / (one.w * one.h + other.w * other.h - width * height)


def covers(zone: Finding, x: float, y: float, beyond_px: float = 0.0) -> bool:
    """Whether a point lies in a zone's box, or that far beyond it."""
    return abs(x - zone.x) <= zone.w / 2 + beyond_px and abs(y - zone.y) <= zone.h / 2 + beyond_px
