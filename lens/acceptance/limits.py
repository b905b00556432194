"""Single demands: counts against a limit, and measured figures with their uncertainty against one."""

import math
from collections.abc import Sequence
from typing import NamedTuple

from lens.acceptance.profiles import DotRule, Profile
from lens.panel import Panel
from lens.records import Colour, Criterion, Finding, Greys, Kind, Outcome, Proven, Uniformity
from lens.records.findings import USUAL_GAMMA

BLEED_UNCERTAINTY, SEMU_UNCERTAINTY = 0.2, 0.2  # shares of the value; from the spread on simulated sets


class Measured(NamedTuple):
    """What a set of photos said, ready to be judged; ``patterns`` are those that were photographed."""

    findings: Sequence[Finding]
    proven: Proven
    uniformity: Uniformity | None = None
    colour: Colour | None = None
    patterns: frozenset[str] = frozenset()
    greys: Greys | None = None


def of_count(
    criterion_id: str,
    value: int,
    limit: int,
    proven: float,
    demanded: float,
    what: str,
    kinds: Sequence[Kind],
    detail: str = "",
    found: str | None = None,
) -> Criterion:
    """A number of faults against the most that are allowed; ``found`` says how the number came about where it is not a plain count."""
    result: Outcome
    if value > limit:
        result, tail = "fail", f"{value - limit} over the limit"
    elif proven >= demanded:
        result, tail = "pass", "within the limit"
    else:
        result, tail = (
            "not_proven",
            f"only {_percent(proven, demanded)} of the panel was seen well enough, {100 * demanded:.0f} % are needed",
        )
    return Criterion(
        id=criterion_id,
        result=result,
        value=value,
        limit=limit,
        margin=limit - value,
        unproven=round(1 - proven, 4),
        text=f"{what}: {found or f'{value} found'}{detail}, {limit} allowed; {tail}.",
        kinds=tuple(kinds),
    )


def _percent(share: float, demanded: float) -> str:
    """Rounded, with a digit more where it would read like the share that is demanded."""
    near = round(100 * share) == round(100 * demanded)
    return f"{100 * share:.1f} %" if near else f"{100 * share:.0f} %"


def of_rule(
    panel: Panel, criterion_id: str, measured: Measured, rule: DotRule, profile: Profile, detail: str
) -> Criterion:
    """The dots that a rule of a profile speaks of; several stuck subpixels of one pixel are one dot."""
    single = any(kind.endswith("subpixel") for kind in rule.kinds)
    proven = measured.proven.subpixels if single else measured.proven.pixels
    in_mm = rule.closer_than_mm is not None or rule.larger_than_mm is not None
    if in_mm and panel.pitch_mm is None:
        return _unknown(
            criterion_id,
            rule.limit,
            f"{rule.title}: the rule is in millimetres. Enter the panel's diagonal at the intake.",
        )
    meant = [
        f
        for f in measured.findings
        if f.counts and f.kind in rule.kinds and _lies(panel, f, rule.where, profile.middle_share)
    ]
    dots = list({(f.x, f.y): f for f in meant}.values())
    if rule.larger_than_mm is not None:
        dots = [f for f in dots if max(f.w, f.h) * (panel.pitch_mm or 0) > rule.larger_than_mm]
    value = len(dots)
    if rule.closer_than_mm is not None:
        near_px = rule.closer_than_mm / (panel.pitch_mm or 1)
        value = sum(math.hypot(a.x - b.x, a.y - b.y) < near_px for n, a in enumerate(dots) for b in dots[:n])
    return of_count(criterion_id, value, rule.limit, proven, profile.demanded_share, rule.title, rule.kinds, detail)


def _lies(panel: Panel, finding: Finding, where: str, middle_share: float) -> bool:
    across, down = (
        abs(finding.x - (panel.width - 1) / 2) / panel.width,
        abs(finding.y - (panel.height - 1) / 2) / panel.height,
    )
    middle = max(across, down) <= middle_share / 2
    return where == "everywhere" or middle == (where == "middle")


def of_figures(panel: Panel, measured: Measured, profile: Profile) -> list[Criterion]:
    """Uniformity, colour, greys, mura and bleed, as far as the profile limits them."""
    out, kept = [], [f for f in measured.findings if f.counts]
    if profile.uniformity_min is not None:
        told = measured.uniformity
        out.append(
            _figure(
                "uniformity",
                (told.of(profile.uniformity_points), told.uncertainty) if told else None,
                profile.uniformity_min,
                f"Darkest to brightest of {profile.uniformity_points} points",
                "at least",
                2,
                least=True,
            )
        )
    if profile.delta_uv_max is not None:
        colour = measured.colour
        out.append(
            _figure(
                "colour",
                (colour.max_delta_uv, colour.uncertainty) if colour else None,
                profile.delta_uv_max,
                "Largest u'v' distance of nine points",
                "at most",
                4,
                ("discoloration",),
            )
        )
    greys = measured.greys
    if profile.gamma_off_max is not None:
        out.append(
            _figure(
                "gamma",
                (abs(greys.gamma - USUAL_GAMMA), greys.uncertainty) if greys else None,
                profile.gamma_off_max,
                f"Gamma's distance from {USUAL_GAMMA}",
                "at most",
                2,
            )
        )
    if profile.grey_delta_uv_max is not None:
        out.append(
            _figure(
                "greys",
                (greys.max_delta_uv, greys.delta_uv_uncertainty) if greys else None,
                profile.grey_delta_uv_max,
                "Largest u'v' distance of a grey from white",
                "at most",
                4,
            )
        )
    if profile.mura_semu_max is not None:
        out.append(_mura(panel, [f for f in kept if f.kind == "mura"], measured, profile.mura_semu_max))
    if profile.bleed_max is not None:
        levels = [f.contrast for f in kept if f.kind == "bleed"]
        seen = any(pattern.startswith("black") for pattern in measured.patterns)
        worst = max(levels, default=0.0)
        out.append(
            _figure(
                "bleed",
                (worst, BLEED_UNCERTAINTY * worst) if seen else None,
                profile.bleed_max,
                "Strongest bleed on black, share of white",
                "at most",
                3,
                ("bleed",),
            )
        )
    return out


def _mura(panel: Panel, found: Sequence[Finding], measured: Measured, limit: float) -> Criterion:
    if found and panel.pitch_mm is None:
        return _unknown(
            "mura", limit, "Mura: its visibility depends on its size. Enter the panel's diagonal at the intake."
        )
    worst = max((f.semu or 0.0 for f in found), default=0.0)
    return _figure(
        "mura",
        (worst, SEMU_UNCERTAINTY * worst) if measured.uniformity else None,
        limit,
        "Most visible mura in SEMU",
        "at most",
        1,
        ("mura",),
    )


def _unknown(criterion_id: str, limit: float, text: str) -> Criterion:
    return Criterion(id=criterion_id, result="not_proven", value=0, limit=limit, margin=0, unproven=1, text=text)


def _figure(
    criterion_id: str,
    told: tuple[float, float] | None,
    limit: float,
    what: str,
    word: str,
    digits: int,
    kinds: tuple[Kind, ...] = (),
    least: bool = False,
) -> Criterion:
    """A figure passes or fails when its whole interval lies on one side of the limit; else the photos cannot tell."""
    if told is None:
        return _unknown(criterion_id, limit, f"{what}: not measured by these photos, {word} {limit:g} is allowed.")
    value, uncertainty = told
    margin = value - limit if least else limit - value
    result: Outcome = "pass" if margin >= uncertainty else "fail" if margin < -uncertainty else "not_proven"
    tail = {"pass": "within the limit", "fail": "outside the limit", "not_proven": "too close to the limit to tell"}[
        result
    ]
    return Criterion(
        id=criterion_id,
        result=result,
        value=round(value, digits + 1),
        limit=limit,
        margin=round(margin, digits + 1),
        unproven=0,
        text=f"{what}: {value:.{digits}f} ± {uncertainty:.{digits}f}, {word} {limit:g} allowed; {tail}.",
        kinds=kinds,
    )
