"""A touch session judged: coverage, dead zones, phantoms, motion, verdict."""

from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
from pydantic import Field

from lens.records.base import Record
from lens.records.verdict import Criterion
from lens.touch.criteria import NEEDED_COVERAGE, Motion, of_cells, of_left_out, of_motion, of_silence, verdict_of
from lens.touch.fingers import Fingers, fingers_at_once, taken_for_one
from lens.touch.limits import TouchLimits, touch_limits
from lens.touch.motion import (
    lift_offs,
    moving_gap_ms,
    moving_jitter_px,
    off_straight_px,
    rate_hz,
    report_gaps_ms,
    resting_jitter_px,
)
from lens.touch.passes import cell_px, crossed, reported_passes
from lens.touch.phantoms import Phantom, find_phantoms, resting_places
from lens.touch.plan import grid_for
from lens.touch.session import Plan, Session, Step
from lens.touch.surface import PathFit, Surface, fit_to_path, out_of_reach, turned_back
from lens.touch.zones import DeadZone, find_zones

LEAST_REPORTS = 20


class Cells(Record):
    columns: int
    rows: int
    size_mm: float | None = Field(description="None where the panel's diagonal is not known")


class Dropout(Record):
    """Reports that stopped on the path and began again."""

    t: float
    x: float
    y: float
    gap_px: float


class Suspect(Record):
    cause: str
    p: float


class TouchResult(Record):
    """``coverage`` is the share of the plan's cells that a finger surely crossed."""

    coverage: float
    cells: Cells
    dead_zones: tuple[DeadZone, ...]
    unproven_cells: tuple[tuple[int, int], ...]
    suspected_cells: tuple[tuple[int, int], ...] = Field(
        default=(), description="silent in one pass alone: perhaps dead, not proven"
    )
    phantom: tuple[Phantom, ...]
    phantom_bound_a_minute: float | None = Field(description="where none came: fewer a minute than this, at 95 %")
    soaked_minutes: float
    jitter_px_rms: float | None
    linearity_px_max: float | None
    report_rate_hz: float | None
    longest_gap_ms: float | None
    jitter_moving_px_rms: float | None = None
    lift_offs: int = Field(description="in the middle of guided strokes")
    fit: PathFit | None = Field(description="the reports against the dot's path")
    surface: Surface | None = Field(default=None, description="the same as a map of the whole surface")
    fingers: Fingers | None
    dropouts: tuple[Dropout, ...]
    suspects: tuple[Suspect, ...] = ()
    verdict: Literal["pass", "fail", "not_proven"]
    criteria: tuple[Criterion, ...] = ()
    reasons: tuple[str, ...]
    problems: tuple[str, ...] = ()


def analyse(session: Session, asked: Sequence[Step] = (), limits: TouchLimits | None = None) -> TouchResult:
    """Judge a session by its plan, which holds what was carried out; ``asked`` is all that was to be done, ``limits`` those that were agreed on
    instead of the shipped ones.

    A recording without a plan, or whose plan has no steps, is judged for what it can tell: it may fail, and never passes.
    """
    if session.plan is None or not (session.plan.steps or asked):
        return _without_plan(session, limits or touch_limits())
    limits, plan = limits or touch_limits(), session.plan
    size = cell_px(session, plan)
    fit = fit_to_path(session, plan, limits)
    displaced = fit if fit is not None and fit.displaced else None
    session = turned_back(session, displaced) if displaced else session
    passes = crossed(session, plan)
    if displaced:
        passes = passes.without(out_of_reach(session, plan, displaced))
    zones, believed, suspected = find_zones(session, plan, passes)
    there = np.ones_like(believed)
    for column, row in plan.grid.hidden:
        there[row, column] = False
    sure = passes.touched | believed
    soak = find_phantoms(session, plan)
    coverage = float(sure[there].mean())
    unproven = tuple((int(column), int(row)) for row, column in np.argwhere(~sure & there))
    soaks = sum(step.kind == "hands_off" for step in plan.steps)
    done = {step.id for step in plan.steps}
    left_out = [step.id for step in asked if step.id not in done and step.kind != "free"]
    motion = Motion(
        resting_jitter_px(session, plan),
        moving_jitter_px(session),
        off_straight_px(passes, size),
        rate_hz(report_gaps_ms(session)),
        moving_gap_ms(session),
        fit,
        fingers_at_once(session, plan),
    )
    criteria = (
        of_cells(coverage, int((believed & there).sum()), int(there.sum())),
        of_silence(len(soak.phantoms), soaks, soak.minutes, soak.bound_a_minute),
        *of_motion(limits, motion, session.panel.pitch_mm or limits.finger_mm / size),
        *of_left_out(left_out),
    )
    reasons = _reasons(zones, soak.phantoms, coverage, soaks, soak.minutes, soak.bound_a_minute)
    if (suspected & there).any():
        reasons += (
            f"{int((suspected & there).sum())} cells stayed silent once, which a lifted finger does too: draw them again.",
        )
    if displaced:
        reasons += (f"Touches are reported away from the finger: {displaced.text}.",)
    return _told(
        session,
        plan,
        criteria,
        reasons,
        motion,
        coverage=round(coverage, 4),
        dead_zones=zones,
        unproven_cells=unproven,
        suspected_cells=tuple((int(column), int(row)) for row, column in np.argwhere(suspected & there)),
        phantom=soak.phantoms,
        phantom_bound_a_minute=soak.bound_a_minute,
        soaked_minutes=round(soak.minutes, 2),
        lift_offs=lift_offs(session, plan),
        dropouts=tuple(
            Dropout(t=round(t, 1), x=round(x, 1), y=round(y, 1), gap_px=round(gap, 1))
            for t, x, y, *_, gap, _ in passes.gaps
        ),
    )


def _without_plan(session: Session, limits: TouchLimits) -> TouchResult:
    """Where it was drawn and how the reports move; silence says nothing, as nobody knows where the finger was."""
    plan = session.plan or Plan(grid=grid_for(session.panel))
    size = cell_px(session, plan)
    _, touched = reported_passes(session, plan)
    merged = taken_for_one(session, size)
    fingers = Fingers(asked=0, most=0, jumps=0, merged_px=round(max(merged), 1)) if merged else None
    motion = Motion(
        moving_px=moving_jitter_px(session),
        rate_hz=rate_hz(report_gaps_ms(session)),
        gap_ms=moving_gap_ms(session),
        fingers=fingers,
    )
    there = np.ones_like(touched)
    for column, row in plan.grid.hidden:
        there[row, column] = False
    coverage = float(touched[there].mean())
    no_plan = Criterion(
        id="plan",
        result="not_proven",
        value=0,
        limit=1,
        margin=-1,
        unproven=1,
        text="No plan came with the recording, so nothing says where the finger was: what stayed silent proves nothing. "
        "Draw the bench's plan to prove it.",
    )
    reasons = [f"Touches were reported in {100 * coverage:.1f} % of the cells."]
    for x, y, count in resting_places(session, size):
        reasons.append(
            f"{count} touches rested at {x:.0f}, {y:.0f}: a finger that tapped, or touches that nobody made. Keep the hands off to tell."
        )
    return _told(
        session,
        plan,
        (no_plan, *of_motion(limits, motion, session.panel.pitch_mm or limits.finger_mm / size)),
        tuple(reasons),
        motion,
        coverage=round(coverage, 4),
        dead_zones=(),
        unproven_cells=tuple((int(c), int(r)) for r, c in np.argwhere(~touched & there)),
        phantom=(),
        phantom_bound_a_minute=None,
        soaked_minutes=0.0,
        lift_offs=0,
        dropouts=(),
    )


def _told(
    session: Session, plan: Plan, criteria: tuple[Criterion, ...], reasons: tuple[str, ...], motion: Motion, **told: Any
) -> TouchResult:
    """The result: what was told, what motion says, and the verdict of all criteria; those that do not pass say so among the reasons."""
    said = {"dead_cells", "phantoms"}  # in the reasons, zone by zone
    reasons += tuple(one.text for one in criteria if one.result != "pass" and one.id not in said)
    size = cell_px(session, plan)
    if motion.fingers is not None and motion.fingers.jumps:
        reasons += (f"Held fingers jumped {motion.fingers.jumps} times: they are taken for one another.",)
    gaps = report_gaps_ms(session)
    return TouchResult(
        cells=Cells(
            columns=plan.grid.columns,
            rows=plan.grid.rows,
            size_mm=None if session.panel.pitch_mm is None else round(session.panel.pitch_mm * size, 2),
        ),
        jitter_px_rms=_rounded(motion.resting_px, 2),
        jitter_moving_px_rms=_rounded(motion.moving_px, 2),
        linearity_px_max=round(float(motion.straight_px.max()), 1) if len(motion.straight_px) else None,
        report_rate_hz=motion.rate_hz,
        longest_gap_ms=round(float(gaps.max()), 1) if len(gaps) >= LEAST_REPORTS else None,
        fit=motion.fit,
        surface=motion.fit.surface if motion.fit is not None else None,
        fingers=motion.fingers,
        verdict=verdict_of(criteria),
        criteria=criteria,
        reasons=reasons,
        problems=session.problems,
        **told,
    )


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _reasons(
    zones: tuple[DeadZone, ...],
    phantoms: tuple[Phantom, ...],
    coverage: float,
    soaks: int,
    minutes: float,
    bound: float | None,
) -> tuple[str, ...]:
    out = []
    for zone in zones:
        how = "answers at times only" if zone.intermittent else "does not answer"
        where = (
            "The whole panel"
            if zone.kind == "all"
            else f"A {zone.kind} of {len(zone.cells)} cells at {zone.x:.0f}, {zone.y:.0f}"
        )
        out.append(f"{where} {how}.")
    for one in phantoms:
        out.append(
            f"Touches that nobody made, {one.kind.replace('_', ' ')} at {one.x:.0f}, {one.y:.0f}: {one.events} events."
        )
    if coverage < NEEDED_COVERAGE:
        out.append(
            f"{100 * coverage:.1f} % of the cells were surely crossed; {100 * NEEDED_COVERAGE:.0f} % are needed."
        )
    if not soaks:
        out.append("Nobody kept the hands off, so silence is not proven.")
    elif bound is not None:
        out.append(f"Silent for {minutes:.1f} min: fewer than {bound:g} phantom touches a minute at 95 %.")
    return tuple(out)
