"""Dust that looks like pixels: what lies as high above the pixels as the other grains of a set is a grain, though by itself it could not be told.

One dot's height is good to about a pixel, since a phone stands nearly still, and a grain of a pixel's size lies two to four above: alone it is not
surely one. The grains of a panel lie on one glass, though, so they tell the height that a further one has.
"""

import math
from collections.abc import Sequence

from lens.records import Alternative, Finding

LEAST_GRAINS = 3  # that surely lie above the pixels: fewer do not tell a dirty glass
SURE_SIGMAS = 2.0
NEAR_PX, NEAR_ODDS = 15.0, 1.0  # one to four grains lie near each other (common practice)
DOUBT = 0.1  # the probability from which what else it may be is told
PART_PX, AMONG_PX = 1.5, 3.5  # from a grain, and from two of them: what was left as they were taken off
ASK = "Wipe the glass and photograph white again: dust is gone or has moved, faults stay."


def without_grains(findings: Sequence[Finding]) -> list[Finding]:
    """Dark dots as what they are where other grains of the set tell the glass's height; parts of grains are left out."""
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
