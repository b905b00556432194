"""The verdict: each demand of a class against what was found and what could be seen."""

from collections.abc import Sequence

from lens.acceptance.classes import PixelClass, get_class, scaled
from lens.panel import Panel
from lens.records import Criterion, Finding, Outcome, Verdict
from lens.records.base import Record

DEMANDED_SHARE = 0.98
BLOCKING_KINDS = ("line", "band", "crack", "dark_zone", "bright_zone", "artifact")
WORDS = {"bright_pixel": "always lit", "dead_pixel": "always dark", "bright_subpixel": "stuck on", "dark_subpixel": "stuck off"}


class Proven(Record):
    """Share of the panel in which a fault of a whole pixel, and of a single subpixel, would have been found."""

    pixels: float
    subpixels: float


def _criterion(criterion_id: str, value: int, limit: int, proven: float, what: str, detail: str = "") -> Criterion:
    result: Outcome
    if value > limit:
        result, tail = "fail", f"{value - limit} over the limit"
    elif proven >= DEMANDED_SHARE:
        result, tail = "pass", "within the limit"
    else:
        result, tail = "not_proven", f"only {100 * proven:.0f} % of the panel was seen well enough, {100 * DEMANDED_SHARE:.0f} % are needed"
    return Criterion(
        id=criterion_id, result=result, value=value, limit=limit, margin=limit - value, unproven=round(1 - proven, 4),
        text=f"{what}: {value} found{detail}, {limit} allowed; {tail}.")


def _cluster_counts(findings: Sequence[Finding]) -> tuple[int, int]:
    """Clusters with more than one type 1 or 2 fault, and all others (those of type 3)."""
    whole = other = 0
    for finding in findings:
        if finding.kind == "cluster":
            members = [findings[i].kind for i in finding.members]
            if sum(kind in ("dead_pixel", "bright_pixel") for kind in members) > 1:
                whole += 1
            else:
                other += 1
    return whole, other


def judge(panel: Panel, findings: Sequence[Finding], proven: Proven, profile: str) -> Verdict:
    """Judge findings against a pixel-fault class.

    A criterion fails when its limit is exceeded by what was found, else passes when enough of the panel is proven, else is
    not proven. Raises BadInput for an unknown profile.
    """
    limits: PixelClass = get_class(profile)
    count = {kind: sum(f.kind == kind for f in findings) for kind in WORDS}
    on, off = count["bright_subpixel"], count["dark_subpixel"]
    whole, other = _cluster_counts(findings)
    blocking = [f for f in findings if f.kind in BLOCKING_KINDS]
    criteria = (
        _criterion("type_1", count["bright_pixel"], scaled(limits.type_1, panel), proven.pixels, "Pixels always lit (type 1)"),
        _criterion("type_2", count["dead_pixel"], scaled(limits.type_2, panel), proven.pixels, "Pixels always dark (type 2)"),
        _criterion(
            "type_3", 2 * on + off, scaled(limits.type_3_budget, panel), proven.subpixels,
            "Stuck subpixels (type 3), one stuck on counting as two", f" ({on} stuck on, {off} stuck off)"),
        _criterion("clusters_12", whole, scaled(limits.clusters_12, panel), proven.pixels, "Clusters with more than one type 1 or 2"),
        _criterion("clusters_3", other, scaled(limits.clusters_3, panel), proven.subpixels, "Clusters of type 3"),
        _criterion("lines", len(blocking), 0, proven.pixels, "Lines, bands, cracks and uneven areas"),
    )
    results = [criterion.result for criterion in criteria]
    result: Outcome = "fail" if "fail" in results else "not_proven" if "not_proven" in results else "pass"
    return Verdict(result=result, profile=profile, proven_fraction=round(proven.subpixels, 4), criteria=criteria)
