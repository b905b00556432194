"""From the survey of a set to findings in words: pixel and subpixel faults, clusters, lines, and what is not of the panel."""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from lens.faults.crack import find_crack
from lens.faults.flicker import as_flicker, find_bars, without_bars
from lens.faults.greys import measure_greys
from lens.faults.groups import Group, group
from lens.faults.height import UNTOLD, height_above
from lens.faults.lamp import find_lamp_faults, lit_from_outside
from lens.faults.light_field import LightField, measure_light_field
from lens.faults.light_model import CHANNELS, build_light_model
from lens.faults.line_findings import as_finding, period_of
from lens.faults.lines import find_lines
from lens.faults.on_glass import height_of, is_scratch, scratches, told_on_glass, without_rims
from lens.faults.overlaps import beside_crack, edge_of, halo_of_marker, hide_line, part_of
from lens.faults.picture import usable, wrong_picture
from lens.faults.pixels import HYPOTHESES, LONE_MARGIN, MUST_SHOW_SIGMA, Evidence, Explained, explain, survey
from lens.faults.reflections import mirrored_in_lit, told_bleed
from lens.faults.retained import find_retained, part_of_picture
from lens.faults.softness import dot_shape
from lens.faults.tone import learn_tone, usable_ladder
from lens.faults.words import listed
from lens.faults.zones import find_zones
from lens.panel import Panel
from lens.photo import PhotoRead
from lens.records import Finding, Greys, Kind

LUMINANCE_SHARE = (0.2126, 0.7152, 0.0722)  # of white, sRGB primaries (IEC 61966-2-1)
MAX_IN_GROUP = 12
MAX_PEELED = 250  # faults explained one by one in a set; a panel with more fails every class up to III anyway
DIM_AMPLITUDE = 0.25  # less than this share of a full fault is no stuck subpixel, however the photo sampled it
CLUSTER_BLOCK_PX = 5
BARS_REMAINDER = 0.5  # of the depth of a flicker's bars: fainter zones may be what is left of them
NEIGHBOUR_SHARE = 0.6
REMAINDER_SHARE, REMAINDER_REACH_PX, TOUCHING_SHARE, REMAINDER_AMPLITUDE = 0.35, 4.5, 0.6, 0.5


class Found(NamedTuple):
    """Findings, the (H, W) bool maps of what was proven (see ``Survey``), the light field (None without a lit solid), and the
    evidence that can be asked about any pixel (None when the picture is too wrong to tell faults from it), and the greys of a ladder."""

    findings: tuple[Finding, ...]
    proven: NDArray[np.bool_]
    proven_pixels: NDArray[np.bool_]
    field: LightField | None
    evidence: Evidence | None
    greys: Greys | None = None


def find_faults(panel: Panel, photos: Sequence[PhotoRead], row_time_us: float | None = None) -> Found:
    """Everything that a set of photos shows: pixels, lines, zones, and a picture that is not the one that was sent.

    ``row_time_us`` is what the camera takes from one row of its sensor to the next, None when it is not known.
    """
    wrong = find_lamp_faults(panel, photos)
    photos = [photo for photo in photos if not lit_from_outside(photo)]
    wrong += wrong_picture(panel, photos)
    distorted = sum(photo.misplaced is not None for photo in photos)
    photos = [] if 2 * distorted >= max(len(photos), 1) else [photo for photo in photos if usable(photo)]
    ladder = usable_ladder(photos)
    tone = learn_tone(ladder) if ladder else None
    greys = measure_greys(ladder, tone)
    # the registration pattern's dots say where the panel is, not how it is; it serves where nothing else was shot
    solids = [photo for photo in photos if photo.pattern.solid] or [photo for photo in photos if photo.pattern.figure == "dots"]
    if not solids:
        nothing = np.zeros((panel.height, panel.width), bool)
        return Found(tuple(wrong), nothing, nothing, None, None, greys)
    model = build_light_model(solids)
    field = measure_light_field(panel, solids, model, tone)
    bars = find_bars(panel, solids, field)
    flicker = [as_flicker(panel, [own for own in bars if own], row_time_us)] if any(bars) else []
    if flicker:
        solids = [without_bars(photo, own) for photo, own in zip(solids, bars, strict=True)]
        field = measure_light_field(panel, solids, model, tone)
    evidence = Evidence(panel, solids, model)
    result = survey(evidence)
    lines = find_lines(evidence)
    told = scratches(evidence, [as_finding(evidence, line, period_of(lines, line.orientation)) for line in lines])
    zones = find_zones(panel, solids, model, field, [f for f in told if f.kind == "line"])
    if flicker:
        zones = [zone for zone in zones if zone.kind == "bleed" or abs(zone.contrast) > BARS_REMAINDER * abs(flicker[0].contrast)]
    names = tuple(dict.fromkeys(photo.pattern.id for photo in solids if max(photo.pattern.drive) > 0))
    retained = find_retained(panel, field, names, told)
    zones = told_on_glass(evidence, told_bleed(panel, solids, model, zones))
    zones += mirrored_in_lit(panel, solids, model, field, zones)
    zones = ([retained] if retained else []) + [zone for zone in zones if not part_of_picture(retained, zone)]
    kept = [n for n, line in enumerate(lines) if not edge_of(zones, line) and not part_of_picture(retained, told[n])]
    lines, told = [lines[n] for n in kept], [told[n] for n in kept]
    snr = result.snr.copy()
    crack = find_crack(evidence, field, snr)
    if crack:
        lines, told, zones = beside_crack(crack, lines, told, zones)
        snr[crack.mask] = 0
    for line in lines:
        hide_line(snr, line)
    groups = [place for place in group(snr) if not halo_of_marker(panel, solids, place) and not part_of(zones, place)]
    findings = wrong + flicker + ([crack.finding] if crack else []) + told + zones
    for number, place in enumerate(groups):
        if place.shape == "area":
            findings.append(_area(evidence, place, crack is None and is_scratch(snr, place)))
        else:
            findings.extend(_peel(evidence, place, result.threshold))
        if len(findings) >= MAX_PEELED:
            findings.append(_crowd(panel, groups[number + 1:]))
            break
    evidence.put_back()
    findings = [finding for finding in _camera_defects(evidence, without_rims(findings)) if not part_of_picture(retained, finding)]
    return Found(
        findings=(*findings, *clusters(findings)), proven=result.proven, proven_pixels=result.proven_pixels, field=field,
        evidence=evidence, greys=greys)


def _crowd(panel: Panel, rest: Sequence[Group]) -> Finding:
    """All that is left when there is too much to explain one by one."""
    return Finding(
        kind="artifact", x=(panel.width - 1) / 2, y=(panel.height - 1) / 2, w=panel.width, h=panel.height, contrast=0.0, confidence=0.5,
        reasons=(f"{len(rest)} more places differ from the pattern, too many to explain one by one. Wipe the glass, check that the pattern "
                 "is shown 1:1, and shoot again.",))


def _best_in(evidence: Evidence, place: Group, floor: float, taken: Sequence[Explained]) -> Explained | None:
    """The strongest pixel left in a group, moved to the neighbour that explains most of those that are about as strong.

    What was taken off leaves a remainder (a probe is not this pixel): close to it only what stands above that counts.
    """
    x, y = place.x0 + place.width // 2, place.y0 + place.height // 2
    snr, left, top = evidence.window_snr(x, y, max(place.width, place.height) // 2 + 1)
    flat = snr.max(axis=0)
    yy, xx = np.mgrid[top:top + flat.shape[0], left:left + flat.shape[1]]
    demand = np.full(flat.shape, floor)
    for fault in taken:
        distance = np.hypot(xx - fault.x, yy - fault.y)
        share = np.where(distance <= 1.5, TOUCHING_SHARE, np.where(distance <= REMAINDER_REACH_PX, REMAINDER_SHARE, 0.0))
        demand = np.maximum(demand, share * abs(fault.snr))
    py, px = (int(v) for v in np.unravel_index(int(np.argmax(flat - demand)), flat.shape))
    if flat[py, px] <= demand[py, px]:
        return None
    near = flat[max(0, py - 1):py + 2, max(0, px - 1):px + 2]
    around = np.argwhere(near >= NEIGHBOUR_SHARE * flat[py, px]) + (top + max(0, py - 1), left + max(0, px - 1))
    places = [(int(x), int(y)) for y, x in around]
    return explain(evidence, *max(places, key=lambda place: float(evidence.fit_image(*place)[1].max())))


def _peel(evidence: Evidence, place: Group, threshold: float) -> list[Finding]:
    """Explain a group fault by fault, strongest first, each taken off before the next is looked at."""
    found: list[Finding] = []
    taken: list[Explained] = []
    while len(taken) < MAX_IN_GROUP:
        strongest = _best_in(evidence, place, threshold, taken)
        if strongest is None:
            break
        again = any((t.x, t.y, t.hypothesis) == (strongest.x, strongest.y, strongest.hypothesis) for t in taken)
        # a stuck subpixel is dark or lit as a whole; what is left of a neighbour's image is not
        beside = any(math.hypot(t.x - strongest.x, t.y - strongest.y) <= REMAINDER_REACH_PX for t in taken)
        share = max(strongest.amplitude, strongest.peak) if strongest.agreed and not beside else strongest.amplitude
        strongest = strongest._replace(amplitude=share)
        demanded = threshold * (LONE_MARGIN if _seen_by_one(evidence, strongest) else 1)
        if strongest.snr > demanded and not again and not (beside and share < REMAINDER_AMPLITUDE):
            found.extend(_as_findings(evidence, strongest, threshold))
        if found and found[-1].kind == "dust":
            break  # a soft spot is one thing, not many pixels
        evidence.take_off(strongest.x, strongest.y, strongest.hypothesis, min(max(strongest.amplitude, 0.0), 2.0))
        taken.append(strongest)
    return found


def _seen_by_one(evidence: Evidence, told: Explained) -> bool:
    """True where only one photo shows the place: the only one of its kind, or right beside a marker, whose image spoils it too; or
    where only a white or grey photo shows it well, since coloured moire and the coder's colour ripples stand in those."""
    strong = told.expected > MUST_SHOW_SIGMA
    if strong.sum() <= 1 and min(evidence.photos[int(np.argmax(told.expected))].pattern.drive) > 0:
        return True
    showing = [photo for photo, signature in zip(evidence.photos, evidence.signature, strict=True) if signature[told.hypothesis].any()]
    return sum(photo.view.trust[told.y, told.x] > 0 for photo in showing) == 1


def _seen_in(evidence: Evidence, told: Explained) -> tuple[str, ...]:
    names = [p.pattern.id for p, seen in zip(evidence.photos, told.per_photo, strict=True) if seen > 4]
    return tuple(dict.fromkeys(names))


def _unseen_in(evidence: Evidence, told: Explained) -> tuple[str, ...]:
    names = [p.pattern.id for p, e, s in zip(evidence.photos, told.expected, told.per_photo, strict=True) if e < 1.5 and abs(s) < 4]
    return tuple(dict.fromkeys(names))


def _confidence(told: Explained, threshold: float) -> float:
    """P(real) from the distance to the threshold times P(kind) from the likelihood margin, never told as certain."""
    real = float(ndtr(told.snr - 0.8 * threshold))
    kind = 1 / (1 + float(np.exp(-min(told.margin, 40.0))))
    return round(min(0.99, real * kind), 3)


def _as_findings(evidence: Evidence, told: Explained, threshold: float) -> list[Finding]:
    fault = HYPOTHESES[told.hypothesis]
    seen, unseen = _seen_in(evidence, told), _unseen_in(evidence, told)
    word = "lit" if fault.lit else "dark"
    shown = f"{word.capitalize()} on {listed(seen)}" if seen else f"{word.capitalize()} in all photos together, too faint in each alone"
    reasons = [shown + (f", not seen on {listed(unseen)}" if unseen else "") + "."]
    confidence = _confidence(told, threshold)
    sign = 1 if fault.lit else -1
    share = min(max(told.amplitude, 0.0), 1.2)
    lone = told.contradiction and len(seen) <= 1 and len(evidence.photos) > 1
    if lone:
        against = [evidence.photos[k].pattern.id for k in told.contradiction if evidence.photos[k].pattern.id not in seen]
        reasons.append(
            f"The photo of {listed(against)} would show it too if it were on the panel." if against
            else "Its colour fits no fault of a panel pixel.")
        return [_dot("camera", told, None, sign * share, confidence, seen, reasons)]
    soft, height = False, UNTOLD
    if not fault.lit and len(fault.channels) > 1:
        shape = dot_shape(evidence, told.x, told.y, told.hypothesis)
        height = height_above(evidence, (told.x, told.y, told.x, told.y), told.hypothesis)
        soft = shape.soft or told.amplitude < DIM_AMPLITUDE or height.above
        if height.above:
            reasons.append(f"{height.words(evidence.panel)} Wipe it and shoot again.")
        elif soft:
            reasons.append(
                f"It is {shape.width:.1f} times as wide as a pixel and {shape.off_grid_px:.1f} px off the pixel grid: "
                "something soft on the glass. Wipe it and shoot again.")
    elif told.amplitude < DIM_AMPLITUDE:
        return []
    if soft:
        return [_dot("dust", told, None, -share, confidence, seen, reasons).model_copy(update=height.told)]
    if told.contradiction:
        names = [evidence.photos[k].pattern.id for k in told.contradiction]
        reasons.append(f"The photo of {listed(names)} does not quite agree.")
        confidence = round(0.7 * confidence, 3)
    if len(fault.channels) == 3:
        whole = _dot("bright_pixel" if fault.lit else "dead_pixel", told, None, sign * share, confidence, seen, reasons)
        return [whole.model_copy(update=height.told)]
    kind: Kind = "bright_subpixel" if fault.lit else "dark_subpixel"
    return [_dot(kind, told, c, sign * share * LUMINANCE_SHARE[c], confidence, seen, reasons) for c in fault.channels]


def _dot(
    kind: Kind, told: Explained, channel: int | None, contrast: float, confidence: float, seen: tuple[str, ...], reasons: list[str],
) -> Finding:
    return Finding.model_validate({
        "kind": kind, "x": told.x, "y": told.y, "w": 1, "h": 1, "channel": None if channel is None else CHANNELS[channel],
        "contrast": round(contrast, 3), "confidence": confidence, "patterns": seen, "reasons": tuple(reasons),
    })


def _area(evidence: Evidence, place: Group, slender: bool) -> Finding:
    told = explain(evidence, *place.peak)
    fault = HYPOTHESES[told.hypothesis]
    seen = _seen_in(evidence, told)
    lit_patterns = [p.pattern.id for p in evidence.photos if max(p.pattern.drive) > 0]
    everywhere_dark = not fault.lit and len(seen) >= 0.6 * len(lit_patterns)
    kind: Kind = "dust" if everywhere_dark and max(place.width, place.height) < 80 else "bright_zone" if fault.lit else "dark_zone"
    where = f"of {place.width}x{place.height} px, seen on {listed(seen) or 'no single pattern alone'}"
    words = f"An uneven area {where}. Wipe the glass and shoot again."
    if slender and everywhere_dark:
        kind, words = "scratch", f"A fine line {where}, that follows neither rows nor columns. Feel for it with a fingernail."
    area = Finding.model_validate({
        "kind": kind, "x": place.x0 + (place.width - 1) / 2, "y": place.y0 + (place.height - 1) / 2, "w": place.width, "h": place.height,
        "contrast": round((1 if fault.lit else -1) * min(abs(told.amplitude), 1.0), 3), "confidence": 0.6, "patterns": seen,
        "reasons": (words,),
    })
    height = height_of(evidence, area) if kind in ("scratch", "dust") else None
    if height is not None and height.above:
        return area.model_copy(update={**height.told, "confidence": 0.95, "reasons": (words, height.words(evidence.panel))})
    return told_on_glass(evidence, [area])[0]


def _camera_defects(evidence: Evidence, findings: list[Finding]) -> list[Finding]:
    """Join dots that sit at one place in the photos but at different places of the panel: the camera's own."""
    kept: list[Finding] = []
    camera: list[Finding] = []
    for finding in findings:
        (camera if finding.kind == "camera" else kept).append(finding)
    seen: list[tuple[float, float]] = []
    for finding in camera:
        shown = [p for p in evidence.photos if p.pattern.id in finding.patterns]
        if not shown:
            kept.append(finding)
            continue
        px, py = shown[0].registration.to_photo(np.array([[finding.x, finding.y]]))[0]
        if any(abs(px - a) < 3 and abs(py - b) < 3 for a, b in seen):
            continue
        seen.append((float(px), float(py)))
        place = f"It sits at ({px:.0f}, {py:.0f}) of the photo, not on the panel: a defect of the camera or a speck on its lens."
        kept.append(finding.model_copy(update={"reasons": (*finding.reasons, place)}))
    return kept


PIXEL_KINDS = ("dead_pixel", "bright_pixel", "dark_subpixel", "bright_subpixel")


def clusters(findings: Sequence[Finding]) -> list[Finding]:
    """Two or more faulty pixels inside a sliding 5 x 5 block (ISO 9241-307, from memory), largest first, none listed twice."""
    faults = [(i, f) for i, f in enumerate(findings) if f.kind in PIXEL_KINDS and f.counts]
    free = {i for i, _ in faults}
    made: list[Finding] = []
    while True:
        best: list[int] = []
        for _, corner_x in faults:
            for _, corner_y in faults:
                if abs(corner_x.x - corner_y.x) >= CLUSTER_BLOCK_PX or abs(corner_x.y - corner_y.y) >= CLUSTER_BLOCK_PX:
                    continue
                block = [
                    i for i, f in faults if i in free and 0 <= f.x - corner_x.x < CLUSTER_BLOCK_PX and 0 <= f.y - corner_y.y < CLUSTER_BLOCK_PX
                ]
                if len({(findings[i].x, findings[i].y) for i in block}) >= 2 and len(block) > len(best):
                    best = block
        if not best:
            return made
        free -= set(best)
        xs, ys = [findings[i].x for i in best], [findings[i].y for i in best]
        made.append(Finding(
            kind="cluster", x=(min(xs) + max(xs)) / 2, y=(min(ys) + max(ys)) / 2, w=max(xs) - min(xs) + 1, h=max(ys) - min(ys) + 1,
            contrast=min((findings[i].contrast for i in best), key=lambda c: -abs(c)), confidence=min(findings[i].confidence for i in best),
            members=tuple(best), reasons=(f"{len(best)} faults inside one block of 5 x 5 pixels.",)))
