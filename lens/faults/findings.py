"""From the survey of a set to findings in words: pixel and subpixel faults, clusters, lines, and what is not of the panel."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.faults.areas import crowd, uneven_area
from lens.faults.clusters import clusters
from lens.faults.crack import find_crack
from lens.faults.dark_part import beside_part, find_dark_part, without_part
from lens.faults.data_bits import as_finding as as_bits_finding
from lens.faults.data_bits import read_data_bits
from lens.faults.dots import faint_dot, peel
from lens.faults.flicker import as_flicker, find_bars, without_bars
from lens.faults.greys import measure_greys
from lens.faults.groups import Group, group
from lens.faults.lamp import find_lamp_faults, lit_from_outside
from lens.faults.light_field import LightField, measure_light_field
from lens.faults.light_model import build_light_model
from lens.faults.line_findings import as_finding, period_of
from lens.faults.lines import find_lines
from lens.faults.on_glass import is_scratch, scratches, told_on_glass, without_rims
from lens.faults.overlaps import LINE_HALO_PX, beside_crack, echo_of_marker, edge_of, halo_of_marker, hide_line, part_of
from lens.faults.picture import usable, wrong_picture
from lens.faults.pixels import Evidence
from lens.faults.reflections import mirrored_in_lit, told_bleed, without_mirrored
from lens.faults.retained import find_retained, part_of_picture
from lens.faults.shared_pixels import joined_pixels
from lens.faults.survey import survey
from lens.faults.tone import learn_tone, pair_tone, usable_ladder
from lens.faults.zones import covers, find_zones
from lens.panel import Panel
from lens.photo import FlatField, PhotoRead
from lens.records import DataBits, Finding, Greys

MAX_PEELED = 250  # faults explained one by one in a set; a panel with more fails every class up to III anyway
BARS_REMAINDER = 0.5  # of the depth of a flicker's bars: fainter zones may be what is left of them


class Found(NamedTuple):
    """Findings, the (H, W) bool maps of what was proven (see ``Survey``), the light field (None without a lit solid), and the
    evidence that can be asked about any pixel (None when the picture is too wrong to tell faults from it), and the greys of a ladder."""

    findings: tuple[Finding, ...]
    proven: NDArray[np.bool_]
    proven_pixels: NDArray[np.bool_]
    field: LightField | None
    evidence: Evidence | None
    greys: Greys | None = None
    data_bits: DataBits | None = None


def find_faults(panel: Panel, photos: Sequence[PhotoRead], row_time_us: float | None = None, flat: FlatField | None = None) -> Found:
    """Everything that a set of photos shows: pixels, lines, zones, and a picture that is not the one that was sent.

    ``row_time_us`` is what the camera takes from one row of its sensor to the next, ``flat`` its fall-off; None when not known.
    """
    data_bits = read_data_bits(photos)
    wired = as_bits_finding(panel, data_bits)
    photos = [photo for photo in photos if photo.pattern.figure != "bits"]
    # bits that hang at 1 light the dark of the picture, as light from outside would
    wrong = [wired] if wired else find_lamp_faults(panel, photos)
    photos = [photo for photo in photos if wired or not lit_from_outside(photo)]
    wrong += wrong_picture(panel, photos)
    distorted = sum(photo.misplaced is not None for photo in photos)
    photos = [] if 2 * distorted >= max(len(photos), 1) else [photo for photo in photos if usable(photo)]
    dark_part = find_dark_part(panel, photos)
    if dark_part:
        wrong.append(dark_part.finding)
        photos = [without_part(photo, dark_part) for photo in photos]
    ladder = usable_ladder(photos)
    tone = learn_tone(ladder) if ladder else None
    greys = measure_greys(ladder, tone)
    tone = tone or pair_tone(photos)
    # the registration pattern's dots say where the panel is, not how it is; it serves where nothing else was shot
    solids = [photo for photo in photos if photo.pattern.solid] or [photo for photo in photos if photo.pattern.figure == "dots"]
    if not solids:
        nothing = np.zeros((panel.height, panel.width), bool)
        return Found(tuple(wrong), nothing, nothing, None, None, greys, data_bits)
    model = build_light_model(solids)
    evidence = Evidence(panel, solids, model)
    with ThreadPoolExecutor(1) as beside:
        lined = beside.submit(find_lines, evidence)
        field = measure_light_field(panel, solids, model, tone, flat)
        bars = find_bars(panel, solids, field)
        flicker = [as_flicker(panel, [own for own in bars if own], row_time_us)] if any(bars) else []
        if flicker:
            solids = [without_bars(photo, own) for photo, own in zip(solids, bars, strict=True)]
            field = measure_light_field(panel, solids, model, tone, flat)
        result = survey(evidence)
        lines = lined.result()
    told = scratches(evidence, [as_finding(evidence, line, period_of(lines, line.orientation)) for line in lines])
    zones = find_zones(panel, solids, model, field, [f for f in told if f.kind == "line"])
    if flicker:
        zones = [zone for zone in zones if zone.kind == "bleed" or abs(zone.contrast) > BARS_REMAINDER * abs(flicker[0].contrast)]
    names = tuple(dict.fromkeys(photo.pattern.id for photo in solids if max(photo.pattern.drive) > 0))
    retained = find_retained(panel, field, names, told)
    zones = told_on_glass(evidence, told_bleed(solids, model, zones))
    zones = without_mirrored([*zones, *mirrored_in_lit(panel, solids, model, field, zones)])
    zones = ([retained] if retained else []) + [zone for zone in zones if not part_of_picture(retained, zone)]
    kept = [
        n for n, line in enumerate(lines)
        if not edge_of(zones, line) and not part_of_picture(retained, told[n]) and not echo_of_marker(panel, solids, told[n])]
    lines, told = [lines[n] for n in kept], [told[n] for n in kept]
    snr = result.snr
    crack = find_crack(evidence, field, snr)
    if crack:
        lines, told, zones = beside_crack(crack, lines, told, zones)
        snr[crack.mask] = 0
    for line in lines:
        hide_line(snr, line)
    groups = [place for place in group(snr) if not halo_of_marker(panel, solids, place) and not part_of(zones, place)]
    slender = [crack is None and is_scratch(snr, place) for place in groups]
    findings = wrong + flicker + ([crack.finding] if crack else []) + told + zones
    findings += joined_pixels(solids, _one_by_one(evidence, groups, slender, result.threshold, MAX_PEELED - len(findings)))
    if crack is None and len(findings) < MAX_PEELED:
        findings += _faint_dots(evidence, result.faint[:MAX_PEELED - len(findings)], told, zones)
    findings = [finding for finding in _camera_defects(evidence, without_rims(findings)) if not part_of_picture(retained, finding)]
    findings = [finding for finding in findings if finding in wrong or not beside_part(dark_part, finding)]
    return Found(
        findings=(*findings, *clusters(findings)), proven=result.proven, proven_pixels=result.proven_pixels, field=field,
        evidence=evidence, greys=greys, data_bits=data_bits)


def _one_by_one(evidence: Evidence, groups: Sequence[Group], slender: Sequence[bool], threshold: float, most: int) -> list[Finding]:
    """Every group of places explained, about ``most`` findings of them; the photos are left as they were read."""
    findings: list[Finding] = []
    try:
        for number, place in enumerate(groups):
            if place.shape != "area":
                findings.extend(peel(evidence, place, threshold))
            elif area := uneven_area(evidence, place, slender[number]):
                findings.append(area)
            if len(findings) >= most:
                return [*findings, crowd(evidence.panel, groups[number + 1:])]
        return findings
    finally:
        evidence.put_back()


def _faint_dots(evidence: Evidence, places: Sequence[tuple[int, int]], lines: Sequence[Finding], zones: Sequence[Finding]) -> list[Finding]:
    """Faint dark subpixels that are not of a line or the edge of a zone."""
    return [
        dot for x, y in places
        if not any(covers(line, x, y, LINE_HALO_PX) for line in lines) and not part_of(zones, Group(x, y, 1, 1, (x, y), "compact"))
        for dot in faint_dot(evidence, x, y)]


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
