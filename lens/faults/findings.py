"""From the survey of a set to findings in words: pixel and subpixel faults, clusters, lines, and what is not of the panel."""

from collections.abc import Sequence

import numpy as np

from lens.faults.areas import crowd, uneven_area
from lens.faults.band_edges import part_of_band, same_edges, whole_bands
from lens.faults.crack import find_crack
from lens.faults.dark_part import beside_part
from lens.faults.dots import faint_dot, peel
from lens.faults.find_zones import find_zones
from lens.faults.grains import joined_grains, without_grains
from lens.faults.groups import Group, group
from lens.faults.line_findings import as_finding, period_of
from lens.faults.look import Look
from lens.faults.on_glass import is_scratch, pieces_of_scratches, scratches, told_on_glass, without_rims
from lens.faults.overlaps import (
    LINE_HALO_PX,
    beside_crack,
    echo_of_marker,
    edge_of,
    halo_of_marker,
    hide_edges,
    hide_line,
    part_of,
    splinter_of,
    told_by_line,
)
from lens.faults.pixels import Evidence
from lens.faults.reflections import mirrored_in_lit, told_bleed, without_mirrored
from lens.faults.retained import find_retained, part_of_picture
from lens.faults.shared_pixels import joined_pixels
from lens.faults.spots import as_spots
from lens.faults.zones import covers, speckled
from lens.panel import Panel
from lens.records import Finding, clusters

MAX_PEELED = 250  # faults explained one by one in a set; a panel with more fails every class up to III anyway
SAME_PHOTO_PLACE_PX = 3.0
BARS_REMAINDER = 0.5  # of the depth of a flicker's bars: fainter zones may be what is left of them


def find_faults(panel: Panel, look: Look) -> tuple[Finding, ...]:
    """Everything that a set of photos shows: pixels, lines, zones, and a picture that is not the one that was sent."""
    if look.close is None:
        return tuple(look.wrong)
    solids, model, field, flicker, evidence, survey, lines, tone = look.close
    told = scratches(evidence, [as_finding(evidence, line, period_of(lines, line.orientation)) for line in lines])
    speckles = speckled(survey.snr)
    zones = find_zones(panel, solids, model, field, [f for f in told if f.kind == "line"], speckles)
    zones = [zone for zone in zones if not _left_of_bars(zone, flicker)]
    names = tuple(dict.fromkeys(photo.pattern.id for photo in solids if max(photo.pattern.drive) > 0))
    retained = find_retained(panel, field, names, told, speckles)
    if retained and told_by_line(retained, told):
        retained = None
    bands = _bands(whole_bands(panel, solids, field, zones + told, tone), flicker, told, zones)
    whole = [n for n, line in enumerate(told) if line.kind != "band" or not _in_one(line, bands)]
    lines, told = [lines[n] for n in whole], [told[n] for n in whole]
    zones = [zone for zone in zones if not _in_one(zone, bands) and not told_by_line(zone, bands)]
    zones = told_on_glass(evidence, told_bleed(solids, model, zones))
    zones = without_mirrored([*zones, *mirrored_in_lit(panel, solids, model, field, zones + bands)])
    zones = [zone for zone in zones if not part_of_picture(retained, zone) and not told_by_line(zone, told + bands)]
    bands = [band for band in bands if not part_of_picture(retained, band)]
    zones = ([retained] if retained else []) + zones + bands
    kept = [
        n
        for n, line in enumerate(lines)
        if not edge_of(zones, line)
        and not part_of_picture(retained, told[n])
        and not echo_of_marker(panel, solids, told[n])
    ]
    snr = survey.snr.copy()
    for line in lines:
        if edge_of(zones, line):
            hide_line(snr, line)
    for band in bands:
        hide_edges(snr, band)
    lines, told = [lines[n] for n in kept], [told[n] for n in kept]
    crack = find_crack(evidence, field, snr)
    if crack:
        crack, lines, told, zones = beside_crack(crack, lines, told, zones)
        retained = next((zone for zone in zones if zone.kind == "retained_image"), None)
        snr[crack.mask] = 0
    else:
        whole = [n for n, piece in enumerate(pieces_of_scratches(snr, told)) if not piece]
        lines, told = [lines[n] for n in whole], [told[n] for n in whole]
    for line in lines:
        hide_line(snr, line)
    groups = [place for place in group(snr) if not halo_of_marker(panel, solids, place) and not part_of(zones, place)]
    slender = [crack is None and is_scratch(snr, place) for place in groups]
    findings = look.wrong + ([flicker] if flicker else []) + ([crack.finding] if crack else []) + told + zones
    findings += joined_pixels(
        solids, _one_by_one(evidence, groups, slender, survey.threshold, MAX_PEELED - len(findings))
    )
    if crack is None and len(findings) < MAX_PEELED:
        findings += _faint_dots(evidence, survey.faint[: MAX_PEELED - len(findings)], told, zones)
    findings = [
        finding
        for finding in _camera_defects(evidence, without_rims(findings))
        if not part_of_picture(retained, finding)
    ]
    findings = without_grains(joined_grains(evidence, findings))
    findings = as_spots([finding for finding in findings if not splinter_of(crack, finding)])
    findings = [finding for finding in findings if finding in look.wrong or not beside_part(look.dark_part, finding)]
    return (*findings, *clusters(findings))


def _left_of_bars(zone: Finding, flicker: Finding | None) -> bool:
    """A faint zone that may be what is left of a dimmed backlight's bars."""
    if flicker is None or zone.kind == "bleed":
        return False
    return abs(zone.contrast) <= BARS_REMAINDER * abs(flicker.contrast)


def _bands(
    bands: Sequence[Finding], flicker: Finding | None, told: Sequence[Finding], zones: Sequence[Finding]
) -> list[Finding]:
    """Bands over the whole panel that are told as such. A lit one shines through black too, and is told so where no line was seen of it; of one
    that is as narrow as lines the pixels tell how strong it is, wherever white is clipped."""
    own = [
        band
        for band in bands
        if band.contrast < 0
        or not any(zone.kind == "bleed" and covers(zone, band.x, band.y) for zone in zones)
        or any(part_of_band(line, band) for line in told)
    ]
    return [
        next((line for line in told if same_edges(line, band)), band)
        for band in own
        if not _left_of_bars(band, flicker)
    ]


def _in_one(finding: Finding, bands: Sequence[Finding]) -> bool:
    return any(part_of_band(finding, band) for band in bands)


def _one_by_one(
    evidence: Evidence, groups: Sequence[Group], slender: Sequence[bool], threshold: float, most: int
) -> list[Finding]:
    """Every group of places explained, about ``most`` findings of them; the photos are left as they were read."""
    findings: list[Finding] = []
    try:
        for number, place in enumerate(groups):
            if place.shape != "area":
                findings.extend(peel(evidence, place, threshold))
            elif area := uneven_area(evidence, place, slender[number]):
                findings.append(area)
            if len(findings) >= most:
                return [*findings, crowd(evidence.panel, groups[number + 1 :])]
        return findings
    finally:
        evidence.put_back()


def _faint_dots(
    evidence: Evidence, places: Sequence[tuple[int, int]], lines: Sequence[Finding], zones: Sequence[Finding]
) -> list[Finding]:
    """Faint dark subpixels that are not of a line or the edge of a zone."""
    return [
        dot
        for x, y in places
        if not any(covers(line, x, y, LINE_HALO_PX) for line in lines)
        and not part_of(zones, Group(x, y, 1, 1, (x, y), "compact"))
        for dot in faint_dot(evidence, x, y)
    ]


def _camera_defects(evidence: Evidence, findings: list[Finding]) -> list[Finding]:
    """Dots that sit at one place in the photos but at different places of the panel are the camera's own: told once, and so is what one photo
    alone shows at such a place."""
    kept: list[Finding] = []
    seen: list[tuple[float, float]] = []
    for finding in sorted(findings, key=lambda finding: finding.kind != "camera"):
        places = (
            _in_photos(evidence, finding)
            if finding.kind == "camera" or (len(finding.patterns) == 1 and finding.w == finding.h == 1)
            else []
        )
        if any(
            abs(px - a) < SAME_PHOTO_PLACE_PX and abs(py - b) < SAME_PHOTO_PLACE_PX
            for px, py in places
            for a, b in seen
        ):
            continue
        if finding.kind == "camera" and places:
            px, py = places[0]
            seen.append((px, py))
            place = f"It sits at ({px:.0f}, {py:.0f}) of the photo, not on the panel: a defect of the camera or a speck on its lens."
            finding = finding.model_copy(update={"reasons": (*finding.reasons, place)})
        kept.append(finding)
    return sorted(kept, key=lambda finding: finding.kind == "camera")


def _in_photos(evidence: Evidence, finding: Finding) -> list[tuple[float, float]]:
    """Where a finding is in the photos that show it."""
    at = np.array([[finding.x, finding.y]])
    places = [photo.registration.to_photo(at)[0] for photo in evidence.photos if photo.pattern.id in finding.patterns]
    return [(float(x), float(y)) for x, y in places]
