"""Dust that looks like pixels: what lies as high above the pixels as the other grains of a set is a grain, though by itself it could not be told.

One dot's height is good to about a pixel, since a phone stands nearly still, and a grain of a pixel's size lies two to four above: alone it is not
surely one. The grains of a panel lie on one glass, though, so they tell the height that a further one has.
"""

import math
from collections.abc import Sequence

from lens.faults.height import height_above
from lens.faults.pixels import ALL_DARK, Evidence
from lens.faults.spots import heaps
from lens.records import Alternative, Finding

LEAST_GRAINS = 3  # that surely lie above the pixels: fewer do not tell a dirty glass
SURE_SIGMAS = 2.0
NEAR_PX, NEAR_ODDS = 15.0, 1.0  # one to four grains lie near each other (common practice)
DOUBT = 0.1  # the probability from which what else it may be is told
PART_PX, AMONG_PX = 1.5, 3.5  # from a grain, and from two of them: what was left as they were taken off
DARK = ("dead_pixel", "dark_subpixel", "dust")
ASK = "Wipe the glass and photograph white again: dust is gone or has moved, faults stay."


def joined_grains(evidence: Evidence, findings: Sequence[Finding]) -> list[Finding]:
    """Dark dots that touch each other, and that surely lie above the pixels when looked at as one, told as the grain that they are. One dot's height
    is taken from little light; that of all together is plain."""
    dark = [n for n, one in enumerate(findings) if one.kind in DARK]
    gone: set[int] = set()
    grains: list[Finding] = []
    for heap in heaps([(findings[n].x, findings[n].y) for n in dark]):
        own = [dark[n] for n in heap]
        if len(own) > 1 and any(findings[n].kind == "dead_pixel" for n in own):
            grain = _as_one(evidence, [findings[n] for n in own])
            if grain:
                gone.update(own)
                grains.append(grain)
    return [one for n, one in enumerate(findings) if n not in gone] + grains


def _as_one(evidence: Evidence, group: Sequence[Finding]) -> Finding | None:
    left, right = (edge(one.x for one in group) for edge in (min, max))
    top, bottom = (edge(one.y for one in group) for edge in (min, max))
    height = height_above(evidence, (int(left), int(top), int(right), int(bottom)), ALL_DARK)
    if not height.above:
        return None
    first = max(group, key=lambda one: one.confidence)
    size = f"A dark spot of {right - left + 1:.0f} x {bottom - top + 1:.0f} px."
    whole = {
        **height.told,
        "kind": "dust",
        "channel": None,
        "x": (left + right) / 2,
        "y": (top + bottom) / 2,
        "w": right - left + 1,
        "h": bottom - top + 1,
        "confidence": 0.95,  # of grains told so on tuning seeds none was a fault
        "alternatives": (),
        "reasons": (size, f"{height.words(evidence.panel)} Wipe it and shoot again."),
    }
    return first.model_copy(update=whole)


def without_grains(findings: Sequence[Finding]) -> list[Finding]:
    """Single dark dots as what they are where other grains of the set tell the glass's height; parts of grains are left out."""
    grains = [one for one in findings if one.kind == "dust" and _height(one) > SURE_SIGMAS]
    if len(grains) < LEAST_GRAINS:
        return list(findings)
    weights = [1 / (one.above_sd_px or 1.0) ** 2 for one in grains]
    glass_px = sum(w * (one.above_px or 0.0) for w, one in zip(weights, grains, strict=True)) / sum(weights)
    told = [_told(one, grains, glass_px) for one in findings]
    dust = [one for one in told if one.kind == "dust"]
    return [one for one in told if not _part_of_grain(one, dust)]


def _height(finding: Finding) -> float:
    """In standard deviations."""
    if finding.above_px is None or not finding.above_sd_px:
        return 0.0
    return finding.above_px / finding.above_sd_px


def _distance(one: Finding, other: Finding) -> float:
    return math.hypot(one.x - other.x, one.y - other.y)


def _told(finding: Finding, grains: Sequence[Finding], glass_px: float) -> Finding:
    if finding.kind != "dead_pixel" or finding.above_px is None or not finding.above_sd_px:
        return finding
    in_pixels, on_glass = finding.above_px**2, (finding.above_px - glass_px) ** 2
    odds = (in_pixels - on_glass) / (2 * finding.above_sd_px**2)
    if any(_distance(finding, one) <= NEAR_PX for one in grains):
        odds += NEAR_ODDS
    dust = 1 / (1 + math.exp(-max(min(odds, 40.0), -40.0)))
    if dust < DOUBT:
        return finding
    if dust < 0.5:
        changed = {
            "confidence": round(finding.confidence * (1 - dust), 3),
            "alternatives": (Alternative(kind="dust", p=round(dust, 2)),),
            "ask": ASK,
        }
        return finding.model_copy(update=changed)
    height = f"{finding.above_px:.1f} ± {finding.above_sd_px:.1f} px above the pixels"
    why = f"It lies {height}, as the {len(grains)} grains that were told surely do ({glass_px:.1f} px). {ASK}"
    doubt = (Alternative(kind="dead_pixel", p=round(1 - dust, 2)),) if 1 - dust >= DOUBT else ()
    changed = {
        "kind": "dust",
        "confidence": round(min(dust, 0.99), 3),
        "alternatives": doubt,
        "reasons": (*finding.reasons, why),
    }
    return finding.model_copy(update=changed)


def _part_of_grain(finding: Finding, dust: Sequence[Finding]) -> bool:
    """A dark subpixel right beside a grain, or among several, is what was left of them."""
    if finding.kind != "dark_subpixel":
        return False
    near = [_distance(finding, one) for one in dust]
    return min(near, default=math.inf) <= PART_PX or sum(d <= AMONG_PX for d in near) > 1
