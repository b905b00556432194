"""How contacts move: how often they are reported, how much they shake, how straight they run."""

import numpy as np

from lens.touch.passes import Passes
from lens.touch.session import Numbers, Plan, Session

LEAST_REPORTS = 20
LEAST_STRETCH_CELLS, CORNER_CELLS = 5.0, 1.5
SETTLED_MS = 500.0  # a finger has come to rest this long after a hold began
TREMBLE_REPORTS = 9  # slower than this many reports is the hand's drift, not the layer's jitter
MOVED_PX = 0.5  # a report that did not move says nothing of noise in motion
# the third difference of smooth motion vanishes, and that of white noise has twenty times its variance (1 + 9 + 9 + 1)
THIRD_DIFFERENCE, NORMAL_MEDIAN = 20.0, 0.6745
USUAL_GAPS = 0.99


def report_gaps_ms(session: Session) -> Numbers:
    """Times between one report and the next within contacts that move on."""
    own = session.by_contact(session.kind < 2)
    return np.asarray(np.diff(session.t[own])[np.diff(session.contact[own]) == 0], np.float64)


def rate_hz(gaps_ms: Numbers) -> float | None:
    """Median reports a second within contacts."""
    gaps = gaps_ms[gaps_ms > 0]
    return round(1000 / float(np.median(gaps)), 1) if len(gaps) >= LEAST_REPORTS else None


def moving_gap_ms(session: Session) -> float | None:
    """The gap between reports that 99 of 100 do not exceed, of contacts that move; None of few."""
    own = session.by_contact(session.kind < 2)
    gaps = np.diff(session.t[own])
    moved = np.hypot(np.diff(session.x[own]), np.diff(session.y[own])) > MOVED_PX
    gaps = gaps[(np.diff(session.contact[own]) == 0) & moved]
    return float(np.quantile(gaps, USUAL_GAPS)) if len(gaps) >= 5 * LEAST_REPORTS else None


def moving_jitter_px(session: Session) -> float | None:
    """Noise of reports in motion, both directions together, rms: from the median third difference along each contact, which a person's own
    smooth motion does not reach (differencing: Gasser, Sroka and Jennen-Steinmetz 1986, from memory). None of few."""
    own = session.by_contact(session.kind < 2)
    same = np.diff(session.contact[own]) == 0
    whole = same[:-2] & same[1:-1] & same[2:] if len(same) > 2 else np.zeros(0, bool)
    moved = (
        np.hypot(*(values[own][3:] - values[own][:-3] for values in (session.x, session.y))) > 3 * MOVED_PX
        if len(own) > 3
        else whole
    )
    kept = whole & moved
    if kept.sum() < 5 * LEAST_REPORTS:
        return None
    variance = sum(
        float(np.median(np.abs(np.diff(values[own], 3)[kept])) / NORMAL_MEDIAN) ** 2 / THIRD_DIFFERENCE
        for values in (session.x, session.y)
    )
    return float(np.sqrt(variance))


def _running_mean(values: Numbers) -> Numbers:
    """Mean of TREMBLE_REPORTS values about each, mirrored at the ends."""
    return np.convolve(
        np.pad(values, TREMBLE_REPORTS // 2, mode="symmetric"), np.full(TREMBLE_REPORTS, 1 / TREMBLE_REPORTS), "valid"
    )


def resting_jitter_px(session: Session, plan: Plan) -> float | None:
    """Root mean square distance of held contacts from their own running mean."""
    squares: list[float] = []
    for step in plan.steps:
        if step.kind != "hold":
            continue
        own = session.by_contact(
            (session.kind < 2) & (session.t >= step.start_ms + SETTLED_MS) & (session.t <= step.end_ms)
        )
        for mine in np.split(own, np.flatnonzero(np.diff(session.contact[own])) + 1):
            if len(mine) >= LEAST_REPORTS:
                x, y = (values[mine] - _running_mean(values[mine]) for values in (session.x, session.y))
                squares += list(x**2 + y**2)
    return float(np.sqrt(np.mean(squares))) if squares else None


def off_straight_px(passes: Passes, size: float) -> Numbers:
    """(n,) for each straight stretch of the path the largest distance of a report from the line through it, by total least squares; a
    person's own slow drift goes with the line, and the ends of a stretch, where people cut corners, are left out."""
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
    return np.array(worst, float)


def lift_offs(session: Session, plan: Plan) -> int:
    """Contacts that ended in the middle of a guided stroke while another went on soon after."""
    count = 0
    for step in plan.steps:
        if step.guided:
            own = (session.t > step.start_ms) & (session.t < step.end_ms)
            count += int((own & (session.kind == 2)).sum())
    return count
