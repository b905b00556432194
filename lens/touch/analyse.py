"""A touch session judged: coverage, dead zones, phantoms, motion, verdict."""

from collections.abc import Sequence
from typing import Literal

import numpy as np
from pydantic import Field

from lens.errors import BadInput
from lens.records.base import Record
from lens.touch.motion import Fingers, PathFit, fingers_at_once, fit_to_path, lift_offs, report_gaps_ms, turned_back
from lens.touch.passes import Passes, cell_px, crossed
from lens.touch.phantoms import Phantom, find_phantoms
from lens.touch.session import Numbers, Plan, Session, Step
from lens.touch.zones import DeadZone, find_zones

NEEDED_COVERAGE = 0.99
LEAST_REPORTS = 20
LEAST_STRETCH_CELLS, CORNER_CELLS = 5.0, 1.5
TREMBLE_REPORTS = 9  # slower than this many reports is the hand's drift, not the layer's jitter


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
    suspected_cells: tuple[tuple[int, int], ...] = Field(default=(), description="silent in one pass alone: perhaps dead, not proven")
    phantom: tuple[Phantom, ...]
    phantom_bound_a_minute: float | None = Field(description="where none came: fewer a minute than this, at 95 %")
    soaked_minutes: float
    jitter_px_rms: float | None
    linearity_px_max: float | None
    report_rate_hz: float | None
    longest_gap_ms: float | None
    lift_offs: int = Field(description="in the middle of guided strokes")
    fit: PathFit | None = Field(description="the reports against the dot's path")
    fingers: Fingers | None
    dropouts: tuple[Dropout, ...]
    suspects: tuple[Suspect, ...] = ()
    verdict: Literal["pass", "fail", "not_proven"]
    reasons: tuple[str, ...]
    problems: tuple[str, ...] = ()


def analyse(session: Session, asked: Sequence[Step] = ()) -> TouchResult:
    """Judge a session by its plan, which holds what was carried out; ``asked`` is all that was to be done.

    Raises
    ------
    BadInput
        when it has no plan, so that nothing says what the finger did.
    """
    plan = session.plan
    if plan is None:
        raise BadInput("The session has no plan, so nothing says where the finger was. Give the plan beside it.", "touch_plan")
    fit = fit_to_path(session, plan)
    if fit is not None and fit.axes != "right":
        session = turned_back(session, fit)
    passes = crossed(session, plan)
    zones, believed, suspected = find_zones(session, plan, passes)
    there = np.ones_like(believed)
    for column, row in plan.grid.hidden:
        there[row, column] = False
    sure = passes.touched | believed
    soak = find_phantoms(session, plan)
    coverage = float(sure[there].mean())
    unproven = tuple((int(column), int(row)) for row, column in np.argwhere(~sure & there))
    soaks = [step for step in plan.steps if step.kind == "hands_off"]
    fingers = fingers_at_once(session, plan)
    done = {step.id for step in plan.steps}
    left_out = [step.id for step in asked if step.id not in done and step.kind != "free"]
    reasons = _reasons(zones, soak.phantoms, coverage, len(soaks), soak.minutes, soak.bound_a_minute)
    if (suspected & there).any():
        reasons += (f"{int((suspected & there).sum())} cells stayed silent once, which a lifted finger does too: draw them again.",)
    reasons += _reasons_of_motion(fit, fingers, left_out)
    verdict: Literal["pass", "fail", "not_proven"] = "pass"
    if zones or soak.phantoms or (fit is not None and fit.displaced):
        verdict = "fail"
    elif coverage < NEEDED_COVERAGE or not soaks or left_out or (fingers is not None and fingers.most < fingers.asked):
        verdict = "not_proven"
    gaps = report_gaps_ms(session)
    size = None
    if session.panel.pitch_mm is not None:
        size = round(session.panel.pitch_mm * cell_px(session, plan), 2)
    return TouchResult(
        coverage=round(coverage, 4), cells=Cells(columns=plan.grid.columns, rows=plan.grid.rows, size_mm=size), dead_zones=zones,
        unproven_cells=unproven,
        suspected_cells=tuple((int(column), int(row)) for row, column in np.argwhere(suspected & there)),
        phantom=soak.phantoms, phantom_bound_a_minute=soak.bound_a_minute, soaked_minutes=round(soak.minutes, 2),
        jitter_px_rms=_jitter(session, plan), linearity_px_max=_linearity(passes, cell_px(session, plan)), report_rate_hz=_rate(gaps),
        longest_gap_ms=round(float(gaps.max()), 1) if len(gaps) >= LEAST_REPORTS else None, lift_offs=lift_offs(session, plan),
        fit=fit, fingers=fingers,
        dropouts=tuple(Dropout(t=round(t, 1), x=round(x, 1), y=round(y, 1), gap_px=round(gap, 1)) for t, x, y, *_, gap, _ in passes.gaps),
        verdict=verdict, reasons=reasons, problems=session.problems)


def _reasons(
    zones: tuple[DeadZone, ...], phantoms: tuple[Phantom, ...], coverage: float, soaks: int, minutes: float, bound: float | None,
) -> tuple[str, ...]:
    out = []
    for zone in zones:
        how = "answers at times only" if zone.intermittent else "does not answer"
        where = "The whole panel" if zone.kind == "all" else f"A {zone.kind} of {len(zone.cells)} cells at {zone.x:.0f}, {zone.y:.0f}"
        out.append(f"{where} {how}.")
    for one in phantoms:
        out.append(f"Touches that nobody made, {one.kind.replace('_', ' ')} at {one.x:.0f}, {one.y:.0f}: {one.events} events.")
    if coverage < NEEDED_COVERAGE:
        out.append(f"{100 * coverage:.1f} % of the cells were surely crossed; {100 * NEEDED_COVERAGE:.0f} % are needed.")
    if not soaks:
        out.append("Nobody kept the hands off, so silence is not proven.")
    elif bound is not None:
        out.append(f"Silent for {minutes:.1f} min: fewer than {bound:g} phantom touches a minute at 95 %.")
    return tuple(out)


def _reasons_of_motion(fit: PathFit | None, fingers: Fingers | None, left_out: Sequence[str]) -> tuple[str, ...]:
    out = []
    if fit is not None and fit.displaced:
        out.append(f"Touches are reported away from the finger: {fit.text}.")
    if fingers is not None and fingers.most < fingers.asked:
        out.append(f"{fingers.most} of {fingers.asked} fingers were told apart at once, so that many are proven and no more.")
    if fingers is not None and fingers.jumps:
        out.append(f"Held fingers jumped {fingers.jumps} times: they are taken for one another.")
    if left_out:
        out.append(f"Asked for and not carried out: {', '.join(left_out)}.")
    return tuple(out)


def _rate(gaps_ms: Numbers) -> float | None:
    """Median reports a second within contacts."""
    gaps = gaps_ms[gaps_ms > 0]
    return round(1000 / float(np.median(gaps)), 1) if len(gaps) >= LEAST_REPORTS else None


def _running_mean(values: Numbers) -> Numbers:
    """Mean of TREMBLE_REPORTS values about each, mirrored at the ends."""
    return np.convolve(np.pad(values, TREMBLE_REPORTS // 2, mode="symmetric"), np.full(TREMBLE_REPORTS, 1 / TREMBLE_REPORTS), "valid")


def _jitter(session: Session, plan: Plan) -> float | None:
    """Root mean square distance of held contacts from their own running mean."""
    squares: list[float] = []
    for step in plan.steps:
        if step.kind != "hold":
            continue
        own = session.by_contact((session.kind < 2) & (session.t >= step.start_ms) & (session.t <= step.end_ms))
        for mine in np.split(own, np.flatnonzero(np.diff(session.contact[own])) + 1):
            if len(mine) >= LEAST_REPORTS:
                x, y = (values[mine] - _running_mean(values[mine]) for values in (session.x, session.y))
                squares += list(x**2 + y**2)
    return round(float(np.sqrt(np.mean(squares))), 2) if squares else None


def _linearity(passes: Passes, size: float) -> float | None:
    """Largest distance of a report from the straight line through its straight stretch of the path, by total least squares; a person's own
    slow drift goes with the line, and the ends of a stretch, where people cut corners, are left out."""
    worst: list[float] = []
    for step, way, x, y in passes.followed:
        corners = np.array(step.path, float)
        lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
        for start, stop in zip(lengths, lengths[1:], strict=False):
            if stop - start < LEAST_STRETCH_CELLS * size:
                continue
            own = (way >= start + CORNER_CELLS * size) & (way <= stop - CORNER_CELLS * size)
            if own.sum() < LEAST_REPORTS:
                continue
            points = np.stack([x[own], y[own]], axis=1)
            centred = points - points.mean(axis=0)
            normal = np.linalg.eigh(centred.T @ centred)[1][:, 0]
            worst.append(float(np.abs(centred @ normal).max()))
    return round(max(worst), 1) if worst else None
