"""What belongs to what: evidence that a line, a zone, a crack or a marker explains already is told once."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.faults.band_edges import edges
from lens.faults.crack import HALO_PX, Crack, box_around, with_rays
from lens.faults.groups import Group
from lens.faults.lines import LINE_MAX_WIDTH_PX, MAX_WIDTH_PX, Line
from lens.faults.zones import covers
from lens.panel import Panel
from lens.patterns import marker_layout
from lens.photo import BLOCK_PX, PhotoRead
from lens.records import Finding

MARKER_HALO_PX = 12
LINE_HALO_PX, LONG_LINE_PX, LONG_BAND_PX = 4, 100, 200
ZONE_EDGE_PX, STRONG_ZONE = 16, 0.15
THIN_ZONES, THIN_ZONE_PX, SAME_LENGTH = ("band", "mura", "dark_zone", "bright_zone", "bleed", "retained_image"), 32, 0.8
STEEPEST_EDGE = 3.0  # times a zone's contrast, which is told in blocks and so less than a narrow one's
LEFT_SHARE, LEFT_PX = 0.4, 64
CORE_PX = 48  # a line along the middle of a zone so thin is what the zone is
PIECE_LENGTH = 0.5  # of a line: thin zones of its sign that lie on it and are shorter are parts of it
LEAST_LIGHT, MOST_LIGHT = 0.5, 1.25  # of a line, that the smooth field shows of it
SPLINTER_PX = 32  # from a crack: so far a ray goes on where it is too faint to be told


def beside_crack(
    crack: Crack, lines: list[Line], told: list[Finding], zones: list[Finding]
) -> tuple[Crack, list[Line], list[Finding], list[Finding]]:
    """The crack with its rays that run nearly along rows or columns, which are told as bands; and what is left of lines and zones when those
    that are its own rays and ink are taken out; straight long lines, and longer bands, stay."""
    bands = [
        finding
        for line, finding in zip(lines, told, strict=True)
        if line.width_px > LINE_MAX_WIDTH_PX and line.stop - line.start < LONG_BAND_PX
    ]
    while rays := [finding for finding in bands if crack.mask[box_around(finding, HALO_PX)].any()]:
        bands = [finding for finding in bands if finding not in rays]
        crack = with_rays(crack, rays)
    kept = [n for n, line in enumerate(lines) if _straight(line) or crack.mask[box_around(told[n])].mean() <= 0.5]
    # rays beside rays look like a picture that stayed
    zones = [
        zone
        for zone in zones
        if not covers(crack.finding, zone.x, zone.y)
        and not (zone.kind == "retained_image" and crack.mask[box_around(zone)].any())
    ]
    return crack, [lines[n] for n in kept], [told[n] for n in kept], zones


def splinter_of(crack: Crack | None, finding: Finding) -> bool:
    """Something soft right beside a crack is the end of a ray, if it is not a splinter of the glass indeed."""
    return crack is not None and finding.kind == "dust" and bool(crack.mask[box_around(finding, SPLINTER_PX)].any())


def _straight(line: Line) -> bool:
    return line.width_px <= LINE_MAX_WIDTH_PX and line.stop - line.start >= LONG_LINE_PX


def part_of(zones: Sequence[Finding], place: Group) -> bool:
    """An uneven area that a zone of the light field covers already, or a place on the very edge of a strong one."""
    x, y = place.x0 + (place.width - 1) / 2, place.y0 + (place.height - 1) / 2
    if place.shape == "area":
        return any(covers(zone, x, y, ZONE_EDGE_PX + zone.w / 4) for zone in zones)
    strong = [zone for zone in zones if abs(zone.contrast) >= STRONG_ZONE]
    return any(covers(zone, x, y, ZONE_EDGE_PX) and not covers(zone, x, y, -ZONE_EDGE_PX) for zone in strong)


def told_by_line(zone: Finding, lines: Sequence[Finding]) -> bool:
    """A thin zone of the light field that is a line of a few pixels, which the pixel evidence tells exactly: as long, and together of about as
    much light; of one that is as wide as lines can be, the zone must not show that there is more."""
    for line in lines if zone.kind in THIN_ZONES else ():
        (thick, length), (own_thick, own_length) = (
            (f.h, f.w) if line.orientation == "row" else (f.w, f.h) for f in (zone, line)
        )
        light = zone.contrast * thick / (line.contrast * own_thick or np.inf)
        alike = LEAST_LIGHT <= light <= (MOST_LIGHT if own_thick < MAX_WIDTH_PX else 1) and thick <= THIN_ZONE_PX
        # the light is told in blocks: what a line leaves of itself there is faint, and reaches as far as they are smoothed
        left_over = 0 < zone.contrast / (line.contrast or np.inf) <= LEFT_SHARE and thick <= LEFT_PX
        apart = abs(zone.y - line.y) if line.orientation == "row" else abs(zone.x - line.x)
        core = light > 0 and zone.kind != "band" and thick <= CORE_PX and apart <= BLOCK_PX
        piece = light > 0 and thick <= THIN_ZONE_PX and length < PIECE_LENGTH * own_length
        nearest = (
            min(max(at, middle - size / 2), middle + size / 2)
            for at, middle, size in ((zone.x, line.x, line.w), (zone.y, line.y, line.h))
        )
        if (alike or left_over or piece or core) and own_length >= SAME_LENGTH * length and covers(zone, *nearest):
            return True
    return False


def edge_of(zones: Sequence[Finding], line: Line) -> bool:
    """The pixel evidence knows no zones: their straight edges stand in it as wide lines. No edge is steeper than its zone."""
    middle = (line.start + line.stop) / 2
    x, y = (middle, line.across) if line.orientation == "row" else (line.across, middle)
    return line.width_px > LINE_MAX_WIDTH_PX and any(
        covers(zone, x, y, ZONE_EDGE_PX) and abs(line.contrast) <= STEEPEST_EDGE * abs(zone.contrast) for zone in zones
    )


def halo_of_marker(panel: Panel, photos: Sequence[PhotoRead], place: Group) -> bool:
    """An area right beside a marker is what lens and JPEG coder make of the marker's edge; a zone of the panel reaches further."""
    return place.shape == "area" and _beside_marker(panel, photos, place.x0, place.y0, place.width, place.height)


def echo_of_marker(panel: Panel, photos: Sequence[PhotoRead], line: Finding) -> bool:
    """A short line along the side of a marker is what lens and coder make of the marker's edge."""
    return line.kind == "line" and _beside_marker(
        panel, photos, line.x - (line.w - 1) / 2, line.y - (line.h - 1) / 2, line.w, line.h
    )


def _beside_marker(
    panel: Panel, photos: Sequence[PhotoRead], x0: float, y0: float, width: float, height: float
) -> bool:
    """Whether a box lies in the surroundings of one marker."""
    for photo in photos:
        for marker in marker_layout(panel, photo.pattern):
            inside_x = marker.x - MARKER_HALO_PX <= x0 and x0 + width <= marker.x + marker.side_px + MARKER_HALO_PX
            inside_y = marker.y - MARKER_HALO_PX <= y0 and y0 + height <= marker.y + marker.side_px + MARKER_HALO_PX
            if inside_x and inside_y:
                return True
    return False


def hide_edges(snr: NDArray[np.float32], band: Finding) -> None:
    """What the edges of a band leave in the evidence of single pixels is no fault of its own."""
    turned = snr if band.orientation == "row" else snr.T
    for edge in edges(band):
        turned[max(0, round(edge) - LINE_HALO_PX) : round(edge) + LINE_HALO_PX + 1] = 0


def hide_line(snr: NDArray[np.float32], line: Line) -> None:
    """What a line lights or darkens around itself is no fault of its own."""
    reach = line.width_px // 2 + LINE_HALO_PX
    along = slice(max(0, line.start - LINE_HALO_PX), line.stop + 1 + LINE_HALO_PX)
    across = slice(max(0, round(line.across) - reach), round(line.across) + reach + 1)
    snr[(across, along) if line.orientation == "row" else (along, across)] = 0
