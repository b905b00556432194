"""What lies on the glass and not in the pixels: scratches, bubbles under a film, specks of dust."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from lens.faults.groups import Group, group
from lens.faults.height import Height, height_above
from lens.faults.pixels import ALL_DARK, Evidence
from lens.faults.zones import covers
from lens.records import Finding, Kind

SLENDER, OBLIQUE_DEG, LEAST_PLACES = 5.0, 2.5, 20
MAX_SPECK_PX, MAX_BLEMISH_PX = 12, 400
PIECE_SHARE, BESIDE_PX = 0.8, 3  # of a scratch's length; what a line's box may stand out of the scratch's


def height_of(evidence: Evidence, finding: Finding) -> Height:
    """The height above the pixels of something found."""
    box = (finding.x - finding.w / 2, finding.y - finding.h / 2, finding.x + finding.w / 2, finding.y + finding.h / 2)
    left, top, right, bottom = (round(v) for v in box)
    return height_above(evidence, (left, top, right, bottom), ALL_DARK)


def is_scratch(snr: NDArray[np.float32], place: Group) -> bool:
    """Whether a group of places is a fine line that follows neither rows nor columns (principal axes of its places)."""
    y, x = np.nonzero(snr[place.y0 : place.y0 + place.height, place.x0 : place.x0 + place.width])
    if len(x) < LEAST_PLACES:
        return False
    spread, axes = np.linalg.eigh(np.cov(np.stack([x, y])))
    angle = np.degrees(np.arctan2(*np.abs(axes[:, 1])))
    return bool(
        spread[1] > (SLENDER * max(float(spread[0]) ** 0.5, 1.0)) ** 2 and OBLIQUE_DEG < angle < 90 - OBLIQUE_DEG
    )


def pieces_of_scratches(snr: NDArray[np.float32], lines: Sequence[Finding]) -> list[bool]:
    """Which lines are the short stretches of a row or column that a fine oblique line covers as it crosses them."""
    places = [place for place in group(snr) if is_scratch(snr, place)] if lines else []
    return [
        any(
            _within(place, line) and max(line.w, line.h) < PIECE_SHARE * max(place.width, place.height)
            for place in places
        )
        for line in lines
    ]


def _within(place: Group, line: Finding) -> bool:
    across, down = (
        abs(2 * middle - 2 * first - size + 1) + own
        for middle, first, size, own in (
            (line.x, place.x0, place.width, line.w),
            (line.y, place.y0, place.height, line.h),
        )
    )
    return across <= place.width + 2 * BESIDE_PX and down <= place.height + 2 * BESIDE_PX


def without_rims(findings: Sequence[Finding]) -> list[Finding]:
    """Findings without the soft dots that are the rim of a bubble."""
    films = [f for f in findings if f.kind == "film"]
    return [f for f in findings if f.kind != "dust" or not any(covers(film, f.x, f.y, MAX_SPECK_PX) for film in films)]


def scratches(evidence: Evidence, lines: Sequence[Finding]) -> list[Finding]:
    """The lines as they are, but short ones that surely lie above the pixels: scratches that run along rows or columns by chance."""
    heights = [
        height_of(evidence, line) if line.kind == "line" and max(line.w, line.h) <= MAX_BLEMISH_PX else None
        for line in lines
    ]
    return [
        line.model_copy(
            update={
                **height.told,
                "kind": "scratch",
                "orientation": None,
                "reasons": (*line.reasons, height.words(evidence.panel)),
            }
        )
        if height is not None and height.above
        else line
        for line, height in zip(lines, heights, strict=True)
    ]


def told_on_glass(evidence: Evidence, findings: Sequence[Finding]) -> list[Finding]:
    """The faint spots and uneven areas among the findings that surely lie above the pixels, told as what they are."""
    told = []
    for finding in findings:
        if finding.kind not in ("mura", "dark_zone", "bright_zone") or max(finding.w, finding.h) > MAX_BLEMISH_PX:
            told.append(finding)
            continue
        height = height_of(evidence, finding)
        if not height.above:
            told.append(finding.model_copy(update=height.told))
            continue
        kind: Kind = "dust" if max(finding.w, finding.h) <= MAX_SPECK_PX else "film"
        advice = (
            "Wipe the glass and shoot again."
            if kind == "dust"
            else "Look for a bubble or dirt under a protective film, or a mark on the glass."
        )
        told.append(
            finding.model_copy(
                update={
                    **height.told,
                    "kind": kind,
                    "semu": None,
                    "reasons": (*finding.reasons, height.words(evidence.panel), advice),
                }
            )
        )
    return told
