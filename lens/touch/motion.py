"""How contacts move: against the dot that they follow, in their reports, and several at once."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from lens.records.base import Record
from lens.touch.passes import cell_px, followed_places
from lens.touch.session import Numbers, Plan, Session, Step

LAGS_MS = np.arange(-100.0, 701.0, 25.0)
LEAST_REPORTS, MOST_A_STEP, ROUNDS, KEPT_SHARE = 60, 400, 3, 0.8
CORNER_CELLS = 1.5
CLOCK_CELLS = 0.75  # rms left: a hand that follows the dot leaves a quarter of a cell, one with its own pace two and more
OFFSET_CELLS, SCALE_OFF = 0.5, 0.05  # a hand leads or lags by less than this on the mean of both directions
LEAST_SPREAD_CELLS = 2.0
LEAST_SCALE = 0.2  # a layer that is stuck in one direction cannot be turned back
LAID_BEFORE_MS = 300.0
JUMP_CELLS = 2.5  # what no held finger moves between two reports
Axes = Literal["right", "swapped", "mirrored", "swapped_mirrored"]


class PathFit(Record):
    """The reports as a linear map of the dot: where the axes point, the offset in the panel's middle, the scale, and what is left.

    ``lag_ms`` is of hand and device together; neither can be told alone.
    """

    axes: Axes
    offset_px: tuple[float, float]
    scale: tuple[float, float] = Field(description="of what is reported across and down; under 0 where mirrored")
    residual_px: float
    lag_ms: float
    displaced: bool = Field(description="axes, offset or scale are further off than a hand would be")
    text: str


class Fingers(Record):
    """Several fingers at once: how many were asked for, the most that were told apart, and how often a held one jumped to another's place."""

    asked: int
    most: int
    jumps: int


def fit_to_path(session: Session, plan: Plan) -> PathFit | None:
    """Least squares of reports on the dot's places, the lag that leaves the least, the worst fifth of the reports left out thrice (a
    trimmed fit); None where too little was followed in either direction."""
    steps = [step for step in plan.steps if step.guided]
    reports = [_reports(session, step) for step in steps]
    size = cell_px(session, plan)
    if sum(len(t) for t, _ in reports) < LEAST_REPORTS:
        return None
    best: tuple[float, float, Numbers] | None = None
    for lag in LAGS_MS:
        dots = [_dot(step, t - lag, CORNER_CELLS * size) for step, (t, _) in zip(steps, reports, strict=True)]
        straight = np.concatenate([good for _, good in dots])
        if straight.sum() < LEAST_REPORTS:
            return None
        places = np.concatenate([at for at, _ in dots])[straight]
        seen = np.concatenate([at for _, at in reports])[straight]
        if places.std(axis=0).min() < LEAST_SPREAD_CELLS * size:
            return None
        fitted = _trimmed(places, seen)
        if best is None or fitted[0] < best[0]:
            best = (fitted[0], float(lag), fitted[1])
    if best is None:
        return None
    told = _told(session, size, *best)
    # so much is left where the finger kept a pace of its own: then the dot's clock says nothing of offset and scale
    if told.axes == "right" and best[0] > CLOCK_CELLS * size:
        pairs = [
            (at, *followed_places(step, t, at[:, 0], at[:, 1], size)) for step, (t, at) in zip(steps, reports, strict=True) if len(t)]
        seen, places = (np.concatenate([pair[n][pair[2]] for pair in pairs]) for n in (0, 1))
        if len(seen) < LEAST_REPORTS or places.std(axis=0).min() < LEAST_SPREAD_CELLS * size:
            return told
        residual, found = _trimmed(places, seen)
        return _told(session, size, residual, best[1], found)
    return told


def _reports(session: Session, step: Step) -> tuple[Numbers, Numbers]:
    own = (session.kind < 2) & (session.t >= step.start_ms) & (session.t <= step.end_ms)
    thin = slice(None, None, max(1, int(own.sum()) // MOST_A_STEP))
    return session.t[own][thin], np.stack([session.x[own], session.y[own]], axis=1)[thin]


def _dot(step: Step, t: Numbers, clear: float) -> tuple[Numbers, NDArray[np.bool_]]:
    """(n, 2) where the dot is, and whether it is clear of corners, which hands cut."""
    corners = np.array(step.path, float)
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
    way = (t - step.start_ms) / max(step.end_ms - step.start_ms, 1e-9) * lengths[-1]
    places = np.stack([np.interp(way, lengths, corners[:, n]) for n in (0, 1)], axis=1)
    at = np.clip(np.searchsorted(lengths, way), 1, len(lengths) - 1)
    return places, np.minimum(way - lengths[at - 1], lengths[at] - way) >= clear


def _trimmed(places: Numbers, seen: Numbers) -> tuple[float, Numbers]:
    """(RMS, (3, 2) map) of seen = [place, 1] @ map."""
    design = np.column_stack([places, np.ones(len(places))])
    kept, found = np.ones(len(places), bool), np.zeros((3, 2))
    for _ in range(ROUNDS):
        found = np.asarray(np.linalg.lstsq(design[kept], seen[kept], rcond=None)[0], np.float64)
        away = np.hypot(*(seen - design @ found).T)
        kept = away <= np.quantile(away, KEPT_SHARE)
    return float(np.sqrt(np.mean(away[kept] ** 2))), found


def _told(session: Session, size: float, residual: float, lag: float, found: Numbers) -> PathFit:
    linear = found[:2].T
    swapped = abs(linear[0, 1]) + abs(linear[1, 0]) > abs(linear[0, 0]) + abs(linear[1, 1])
    along = (linear[0, 1], linear[1, 0]) if swapped else (linear[0, 0], linear[1, 1])
    mirrored = min(along) < 0
    axes: Axes = "swapped_mirrored" if swapped and mirrored else "swapped" if swapped else "mirrored" if mirrored else "right"
    middle = np.array([(session.panel.width - 1) / 2, (session.panel.height - 1) / 2, 1.0])
    dx, dy = (float(value) for value in middle @ found - middle[:2])
    scale = (float(along[0]), float(along[1]))
    away = max(abs(dx), abs(dy)) > OFFSET_CELLS * size
    stretched = max(abs(abs(value) - 1) for value in scale) > SCALE_OFF
    words = {"right": "", "swapped": "axes swapped", "mirrored": "an axis mirrored", "swapped_mirrored": "axes swapped and mirrored"}[axes]
    told = [words] if words else []
    if axes == "right":
        told.append(f"offset {round(dx):+d}, {round(dy):+d} px, scale {scale[0]:.2f}, {scale[1]:.2f}")
    told.append(f"{residual:.0f} px rms left, {lag:.0f} ms behind the dot, hand and device together")
    return PathFit(
        axes=axes, offset_px=(round(dx, 1), round(dy, 1)), scale=(round(scale[0], 3), round(scale[1], 3)), residual_px=round(residual, 1),
        lag_ms=lag, displaced=axes != "right" or away or stretched, text="; ".join(told))


def turned_back(session: Session, fit: PathFit) -> Session:
    """The session with mirrored or exchanged axes put right, so that what was crossed can be told; as it is where one axis hardly moves."""
    if min(abs(value) for value in fit.scale) < LEAST_SCALE:
        return session
    middle_x, middle_y = (session.panel.width - 1) / 2, (session.panel.height - 1) / 2
    across = (session.x - middle_x - fit.offset_px[0]) / fit.scale[0]
    down = (session.y - middle_y - fit.offset_px[1]) / fit.scale[1]
    if fit.axes in ("swapped", "swapped_mirrored"):
        across, down = down, across
    return session._replace(x=middle_x + across, y=middle_y + down)


def fingers_at_once(session: Session, plan: Plan) -> Fingers | None:
    """What came of the steps that asked for several fingers; None where there was none."""
    asked = most = jumps = 0
    size = cell_px(session, plan)
    for step in plan.steps:
        if step.kind != "multi_touch":
            continue
        asked = max(asked, step.fingers or len(step.path))
        # fingers that lie still are reported once, and the first of them began the step
        own = session.by_contact((session.t >= step.start_ms - LAID_BEFORE_MS) & (session.t <= step.end_ms))
        if not len(own):
            continue
        down = (session.kind[own] < 2).astype(int)
        changes = np.diff(down, prepend=0)
        new = np.flatnonzero(np.diff(session.contact[own])) + 1
        changes[new] = down[new]
        most = max(most, int(np.cumsum(changes[np.argsort(own)]).max()))
        held = own[down > 0]
        away = np.hypot(np.diff(session.x[held]), np.diff(session.y[held]))
        jumps += int((away[np.diff(session.contact[held]) == 0] > JUMP_CELLS * size).sum())
    return Fingers(asked=asked, most=most, jumps=jumps) if asked else None


def report_gaps_ms(session: Session) -> Numbers:
    """Times between one report and the next within contacts that move on."""
    own = session.by_contact(session.kind < 2)
    return np.asarray(np.diff(session.t[own])[np.diff(session.contact[own]) == 0], np.float64)


def lift_offs(session: Session, plan: Plan) -> int:
    """Contacts that ended in the middle of a guided stroke while another went on soon after."""
    count = 0
    for step in plan.steps:
        if step.guided:
            own = (session.t > step.start_ms) & (session.t < step.end_ms)
            count += int((own & (session.kind == 2)).sum())
    return count
