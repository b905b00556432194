"""The verdict: each demand of a profile against what was found and what could be seen."""

from collections.abc import Sequence

from lens.acceptance.classes import get_class, scaled
from lens.acceptance.limits import Measured, of_count, of_figures, of_rule
from lens.acceptance.profiles import Profile
from lens.panel import Panel
from lens.records import AREA_KINDS, LINE_KINDS, PIXEL_KINDS, Criterion, Finding, Kind, Outcome, Verdict


def _by_hand(findings: Sequence[Finding], kinds: Sequence[Kind]) -> str:
    """What people changed about findings of these kinds, in words."""
    out = sum(not f.counts and f.kind in kinds for f in findings)
    into = sum(f.decision is not None and f.decision.verdict == "corrected" and f.kind in kinds for f in findings)
    parts = [f"{n} {word} by hand" for n, word in ((out, "rejected"), (into, "corrected")) if n]
    return f" ({', '.join(parts)})" if parts else ""


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


def _stuck(on: int, off: int) -> str:
    """How the rule comes to its number: what is found adds up, and what counts twice is said."""
    found = f"{on + off} found ({on} stuck on, {off} stuck off)"
    return f"{found}; the rule counts one that is stuck on twice: {2 * on + off}" if on else found


def _pixel_class(panel: Panel, measured: Measured, profile: Profile) -> list[Criterion]:
    limits = get_class(profile.pixels or "")
    findings, proven = measured.findings, measured.proven
    count = {kind: sum(f.kind == kind and f.counts for f in findings) for kind in PIXEL_KINDS}
    on, off = count["bright_subpixel"], count["dark_subpixel"]
    whole, other = _cluster_counts(findings)
    lines, areas = (sum(f.kind in kinds and f.counts for f in findings) for kinds in (LINE_KINDS, AREA_KINDS))
    # areas are told from the light of the whole panel, and so is its uniformity
    evenly_seen = proven.pixels if measured.uniformity is not None else 0.0

    def counted(
        criterion_id: str,
        value: int,
        limit: int,
        share: float,
        what: str,
        kinds: Sequence[Kind],
        found: str | None = None,
    ) -> Criterion:
        by_hand = _by_hand(findings, kinds)
        return of_count(criterion_id, value, limit, share, profile.demanded_share, what, kinds, by_hand, found)

    singles = [
        counted(
            "type_3",
            2 * on + off,
            scaled(limits.type_3_budget, panel),
            proven.subpixels,
            "Stuck subpixels (type 3)",
            ["bright_subpixel", "dark_subpixel"],
            _stuck(on, off),
        ),
        counted(
            "clusters_3", other, scaled(limits.clusters_3, panel), proven.subpixels, "Clusters of type 3", ["cluster"]
        ),
    ]
    return [
        counted(
            "type_1",
            count["bright_pixel"],
            scaled(limits.type_1, panel),
            proven.pixels,
            "Pixels always lit (type 1)",
            ["bright_pixel"],
        ),
        counted(
            "type_2",
            count["dead_pixel"],
            scaled(limits.type_2, panel),
            proven.pixels,
            "Pixels always dark (type 2)",
            ["dead_pixel"],
        ),
        *(singles[:1] if profile.subpixels else ()),
        counted(
            "clusters_12",
            whole,
            scaled(limits.clusters_12, panel),
            proven.pixels,
            "Clusters with more than one type 1 or 2",
            ["cluster"],
        ),
        *(singles[1:] if profile.subpixels else ()),
        counted("lines", lines, 0, proven.pixels, "Lines, bands, cracks and wrong pictures", LINE_KINDS),
        counted("areas", areas, 0, evenly_seen, "Dark and bright areas, pressure marks", AREA_KINDS),
    ]


def judge(panel: Panel, measured: Measured, profile: Profile) -> Verdict:
    """Judge what was measured against a profile.

    A criterion fails when its limit is exceeded by what was found, else passes when enough of the panel is proven, else is
    not proven; a measured figure passes or fails only when its whole interval lies on one side of the limit.
    """
    criteria = _pixel_class(panel, measured, profile) if profile.pixels else []
    for number, rule in enumerate(profile.rules):
        detail = _by_hand(measured.findings, rule.kinds)
        criteria.append(of_rule(panel, f"rule_{number + 1}", measured, rule, profile, detail))
    criteria += of_figures(panel, measured, profile)
    results = [criterion.result for criterion in criteria]
    result: Outcome = "fail" if "fail" in results else "not_proven" if "not_proven" in results else "pass"
    return Verdict(
        result=result, profile=profile.id, proven_fraction=round(measured.proven.subpixels, 4), criteria=tuple(criteria)
    )
