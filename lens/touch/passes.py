"""Which cells a finger crossed, and whether the touch layer said so.

A report, and the way between two reports of one contact, is a pass that was *reported*. Where reports stop on the path and begin again on
it, as far on as the finger's own pace asks for, it went on all the while: the cells between were passed *silently*.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.touch.pace import MOST_ALIGNED, PLACE_CELLS, Aligned, Places, aligned, own_pace
from lens.touch.session import Numbers, Plan, Session, Step

PATH_STEP_SHARE, CELL_POINTS = 0.1, 15  # of a cell: how finely a path is cut, and the points of a way through a cell
ON_PATH_CELLS, ON_TIME_CELLS = 1.2, 1.6  # how far a person may stray from the dot's path, and lag or lead on it
REACH, COARSE = (
    round(ON_TIME_CELLS / PATH_STEP_SHARE),
    4,
)  # points of a path: how far about the dot, and how coarsely at first
MOST_LAG_MS = 700.0  # after the dot has come to its end
GAP_CELLS, GAP_MS, USUAL_GAPS, ENDED_GAPS = (
    0.7,
    30.0,
    2.5,
    1.5,
)  # a gap shorter than most of a cell, or of a few reports, says nothing
MUTE_SHARE = 0.9
MOST_OF_CELL, LEAST_POINTS = 0.5, 5  # of a path's way through a cell that must lie in a gap
REPORT_STEP_SHARE, REPORTED_SHARE = (
    0.1,
    0.35,
)  # of a cell: how finely the way between reports is cut, and what of a way makes a pass
JOINED_MS, JOINED_CELLS = 120.0, 6.0  # reports further apart are not joined to a way


class Followed(NamedTuple):
    """Reports of a guided step that were on its path: how far along it, and where."""

    step: Step
    way: Numbers
    x: Numbers
    y: Numbers


class Gap(NamedTuple):
    """Reports that stopped at ``t`` ms and ``x``, ``y`` and began again ``px`` further on, and the (rows, columns) of the cells between."""

    t: float
    x: float
    y: float
    to_x: float
    to_y: float
    px: float
    cells: NDArray[np.bool_]


class Passes(NamedTuple):
    """(rows, columns) how often each cell was passed with a report, whether it reported at all, how often it was passed silently between
    two reports, perhaps: after the last report of a step or before its first, how often that in a run of which no cell ever answered
    (``mute``), and how often the plan passes it. ``lines`` are the cells
    of every straight line of the plan, ``followed`` what of each guided step was on its path."""

    reported: NDArray[np.int64]
    touched: NDArray[np.bool_]
    silent: NDArray[np.int64]
    perhaps: NDArray[np.int64]
    mute: NDArray[np.int64]
    planned: NDArray[np.int64]
    lines: tuple[NDArray[np.bool_], ...]
    gaps: tuple[Gap, ...]
    unanswered: tuple[str, ...]
    followed: tuple[Followed, ...]

    def without(self, cells: NDArray[np.bool_]) -> "Passes":
        """The same, without what the silence of some cells would say."""
        silent, perhaps, mute = (np.where(cells, 0, values) for values in (self.silent, self.perhaps, self.mute))
        return self._replace(silent=silent, perhaps=perhaps, mute=mute)


def cell_of(session: Session, plan: Plan, x: Numbers, y: Numbers) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Column and row of points, clipped to the panel."""
    columns = np.clip(((x + 0.5) / session.panel.width * plan.grid.columns).astype(int), 0, plan.grid.columns - 1)
    rows = np.clip(((y + 0.5) / session.panel.height * plan.grid.rows).astype(int), 0, plan.grid.rows - 1)
    return columns, rows


def cell_px(session: Session, plan: Plan) -> float:
    """Side of a cell, panel px: the mean of both."""
    return (session.panel.width / plan.grid.columns + session.panel.height / plan.grid.rows) / 2


class _Path(NamedTuple):
    """A path cut finely: points, way along it, and the time when the dot is there."""

    x: Numbers
    y: Numbers
    way: Numbers
    t: Numbers


def _cut(step: Step, size: float) -> _Path:
    corners = np.array(step.path, float)
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
    way = np.linspace(0, lengths[-1], max(2, int(lengths[-1] / (PATH_STEP_SHARE * size)) + 1))
    x, y = (np.interp(way, lengths, corners[:, n]) for n in (0, 1))
    pace = (step.end_ms - step.start_ms) / max(float(lengths[-1]), 1e-9)
    return _Path(x, y, way, step.start_ms + way * pace)


def reported_passes(session: Session, plan: Plan) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """(rows, columns) passes that were reported on a good part of the way through the cell, and cells with any report at all; hands-off
    steps do not count, as nobody touched."""
    counts = np.zeros((plan.grid.rows, plan.grid.columns), np.int64)
    touching = session.kind < 2
    for step in plan.steps:
        if step.kind == "hands_off":
            touching &= (session.t < step.start_ms) | (session.t > step.end_ms)
    own = session.by_contact(touching)
    t, x, y, contact = (values[own] for values in (session.t, session.x, session.y, session.contact))
    if not len(t):
        return counts, counts > 0
    size = cell_px(session, plan)
    apart = np.hypot(np.diff(x), np.diff(y))
    joined = (np.diff(contact) == 0) & (np.diff(t) <= JOINED_MS) & (apart <= JOINED_CELLS * size)
    parts = np.where(joined, np.maximum(1, np.ceil(apart / (REPORT_STEP_SHARE * size))), 1).astype(int)
    first = np.repeat(np.arange(len(parts)), parts)
    within = (np.arange(len(first)) - np.repeat(np.cumsum(parts) - parts, parts)) / np.repeat(parts, parts)
    step_x, step_y = (np.where(joined, np.diff(values), 0.0) for values in (x, y))
    way = np.append(np.where(joined[first], apart[first] / np.repeat(parts, parts), 0.0), 0.0)
    px, py = np.append(x[first] + within * step_x[first], x[-1]), np.append(y[first] + within * step_y[first], y[-1])
    columns, rows = cell_of(session, plan, px, py)
    flat = rows * plan.grid.columns + columns
    source = np.append(contact[first], contact[-1])
    # one way through a cell is one pass, however many reports it gave
    starts = np.flatnonzero(np.concatenate([[True], (np.diff(flat) != 0) | (np.diff(source) != 0)]))
    through = np.add.reduceat(way, starts)
    np.add.at(counts.ravel(), flat[starts[through >= REPORTED_SHARE * size]], 1)
    touched = np.zeros(counts.size, bool)
    touched[flat] = True
    return counts, touched.reshape(counts.shape)


def _from_path(path: _Path, at: NDArray[np.intp], x: Numbers, y: Numbers) -> tuple[Numbers, Numbers]:
    """Distance of reports from the path about its points ``at``, px, and the way to the nearest."""
    edge = REACH + COARSE
    around_x, around_y = (np.pad(values, edge, mode="edge") for values in (path.x, path.y))
    near, at = np.full(len(x), np.inf), at + edge
    # coarsely along the whole reach, then finely about the best place
    for shifts in (range(-REACH, REACH + 1, COARSE), range(1 - COARSE, COARSE)):
        middle = at
        for shift in shifts:
            places = middle + shift
            square = (around_x[places] - x) ** 2 + (around_y[places] - y) ** 2
            at = np.where(square < near, places, at)
            near = np.minimum(near, square)
    return np.sqrt(near), path.way[np.clip(at - edge, 0, len(path.t) - 1)]


def laid_on_path(step: Step, t: Numbers, x: Numbers, y: Numbers, size: float, most: int, place_cells: float) -> Aligned:
    """Reports of a step on its path, at the person's own pace; way and cost in cells. ``most`` reports are laid on places so far apart."""
    return _laid(_cut(step, size), t, x, y, size, most, place_cells)


def _laid(
    path: _Path,
    t: Numbers,
    x: Numbers,
    y: Numbers,
    size: float,
    most: int = MOST_ALIGNED,
    place_cells: float = PLACE_CELLS,
) -> Aligned:
    thin = slice(None, None, max(1, round(place_cells / PATH_STEP_SHARE)))
    places = Places(*(values[thin] / size for values in (path.x, path.y, path.way)))
    pace = float(path.way[-1] / max(path.t[-1] - path.t[0], 1e-9)) / size
    return aligned(places, pace, t, x / size, y / size, most)


def _follow(path: _Path, t: Numbers, x: Numbers, y: Numbers, size: float) -> tuple[NDArray[np.bool_], Numbers]:
    """Which reports are on the path, and where on it, at the person's own pace."""
    way = _laid(path, t, x, y, size).way * size
    near, where = _from_path(path, np.minimum(np.searchsorted(path.way, way), len(path.way) - 1), x, y)
    return near <= ON_PATH_CELLS * size, where


def followed_places(step: Step, t: Numbers, x: Numbers, y: Numbers, size: float) -> tuple[Numbers, NDArray[np.bool_]]:
    """(n, 2) places of a step's path where the finger was at each report, at its own pace, and whether it was on the path."""
    path = _cut(step, size)
    on, where = _follow(path, t, x, y, size)
    return np.stack([np.interp(where, path.way, values) for values in (path.x, path.y)], axis=1), on


def crossed(session: Session, plan: Plan) -> Passes:
    """All passes of a session with a plan."""
    silent = np.zeros((plan.grid.rows, plan.grid.columns), np.int64)
    perhaps, planned = np.zeros_like(silent), np.zeros_like(silent)
    followed: list[Followed] = []
    ends: list[NDArray[np.bool_]] = []
    size = cell_px(session, plan)
    lines, gaps, unanswered = [], [], []
    touching = session.kind < 2
    for step in plan.steps:
        if not step.guided:
            continue
        path = _cut(step, size)
        columns, rows = cell_of(session, plan, path.x, path.y)
        _add_ways(planned, columns, rows)
        lines += _straight(step, path, planned.shape, columns, rows, size)
        own = touching & (session.t >= step.start_ms - 200) & (session.t <= step.end_ms + MOST_LAG_MS)
        t, x, y = session.t[own], session.x[own], session.y[own]
        if not len(t):
            unanswered.append(step.id)
            silent += _cells(planned.shape, columns, rows, np.ones(len(rows), bool))
            continue
        on, where = _follow(path, t, x, y, size)
        off = np.cumsum(~on)[on]  # a finger that went elsewhere meanwhile was not silent
        t, x, y, where, contact = t[on], x[on], y[on], where[on], session.contact[own][on]
        followed.append(Followed(step, where, x, y))
        if not len(t):
            continue
        ahead = np.diff(where)
        # a layer that reports seldom is not one that stops
        usual_ms = float(np.median(np.diff(t))) if len(t) > 1 else 0.0
        # where the contact itself ended, as short a gap is one: a quick finger is over a dead line in no time
        ended = (np.diff(contact) != 0) & (np.diff(t) > ENDED_GAPS * usual_ms)
        stopped = ((np.diff(t) > max(GAP_MS, USUAL_GAPS * usual_ms)) | ended) & (np.diff(off) == 0)
        late = np.diff(t) * own_pace(t, where, ~stopped)
        broken = (
            (ahead > GAP_CELLS * size)
            & stopped
            & (np.abs(late - ahead) <= np.maximum(2 * ON_TIME_CELLS * size, 0.35 * ahead))
        )
        for n in np.flatnonzero(broken):
            inside = (path.way > where[n]) & (path.way < where[n + 1])
            between = _cells(planned.shape, columns, rows, inside)
            gaps.append(
                Gap(float(t[n]), float(x[n]), float(y[n]), float(x[n + 1]), float(y[n + 1]), float(ahead[n]), between)
            )
            silent += gaps[-1].cells
        for rest in (path.way > where.max(), path.way < where.min()):
            ends.append(_cells(planned.shape, columns, rows, rest))
    reported, touched = reported_passes(session, plan)
    mute = np.zeros_like(silent)
    for end in ends:
        perhaps += end
        # who stops early leaves out what other strokes answer; where all of it never answered, it is the layer that stops
        if end.any() and (reported[end] == 0).mean() >= MUTE_SHARE:
            mute += end
    for column, row in plan.grid.hidden:
        silent[row, column] = perhaps[row, column] = mute[row, column] = 0
    return Passes(
        reported, touched, silent, perhaps, mute, planned, tuple(lines), tuple(gaps), tuple(unanswered), tuple(followed)
    )


def _straight(
    step: Step, path: _Path, shape: tuple[int, ...], columns: NDArray[np.intp], rows: NDArray[np.intp], size: float
) -> list[NDArray[np.bool_]]:
    """(rows, columns) for every straight stretch of a path that is longer than two cells."""
    ends = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(np.array(step.path, float), axis=0).T))])
    return [
        _cells(shape, columns, rows, (path.way >= start) & (path.way <= stop))
        for start, stop in zip(ends, ends[1:], strict=False)
        if stop - start > 2 * size
    ]


def _add_ways(planned: NDArray[np.int64], columns: NDArray[np.intp], rows: NDArray[np.intp]) -> None:
    """One for every way of a path through a cell, corners of cells left out."""
    flat = rows * planned.shape[1] + columns
    starts = np.flatnonzero(np.concatenate([[True], np.diff(flat) != 0]))
    lengths = np.diff(np.append(starts, len(flat)))
    np.add.at(planned.ravel(), flat[starts[lengths >= LEAST_POINTS]], 1)


def _cells(
    shape: tuple[int, ...], columns: NDArray[np.intp], rows: NDArray[np.intp], part: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """(rows, columns) the cells that a part of a path crosses for the most."""
    own = np.zeros(shape)
    np.add.at(own, (rows[part], columns[part]), 1.0)
    # a cell that the path crosses several times is looked at where this part crosses it
    near = np.flatnonzero(part)
    around = np.zeros(len(part), bool)
    if len(near):
        around[max(0, near[0] - CELL_POINTS) : near[-1] + CELL_POINTS + 1] = True
    whole = np.zeros_like(own)
    np.add.at(whole, (rows[around], columns[around]), 1.0)
    # a corner of a cell that a slanting path cuts says nothing of the cell
    return np.asarray((own >= LEAST_POINTS) & (own >= MOST_OF_CELL * whole))
