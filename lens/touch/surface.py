"""The whole surface: reports as a map of where the finger was. Swapped, mirrored, scaled or shifted axes are told before any cell is judged.

First by the dot's clock. Where that leaves too much, the finger kept a pace of its own, and the map is sought without the clock (``surface_maps``).
"""

import math
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from lens.records.base import Record
from lens.touch.limits import TouchLimits
from lens.touch.passes import cell_px
from lens.touch.session import Numbers, Plan, Session, Step
from lens.touch.surface_maps import (
    LEAST_REPORTS,
    LEAST_SCALE,
    LEAST_SPREAD_CELLS,
    Followed,
    Known,
    at_own_pace,
    trimmed,
)

LAGS_MS = np.arange(-100.0, 701.0, 25.0)
MOST_A_STEP, CORNER_CELLS = 400, 1.5
CLOCK_CELLS = (
    0.75  # rms left: a hand that follows the dot leaves a quarter of a cell, one with its own pace two and more
)
SURE_SIGMAS = 2.0
HAND_OFFSET_MM, HAND_SCALE = 0.3, 0.01  # what a hand adds on the mean of both directions
Axes = Literal["right", "swapped", "mirrored", "swapped_mirrored"]


class Surface(Record):
    """How the reported surface lies on the real one: ``scale`` across and down, ``offset_px`` in the panel's middle."""

    swapped: bool
    mirrored: bool
    scale: tuple[float, float]
    offset_px: tuple[float, float]


class PathFit(Record):
    """The reports as a linear map of the dot: where the axes point, the offset in the panel's middle, the scale, and what is left.

    ``lag_ms`` is of hand and device together; neither can be told alone.
    """

    axes: Axes
    offset_px: tuple[float, float]
    scale: tuple[float, float] = Field(description="of what is reported across and down; under 0 where mirrored")
    residual_px: float
    lag_ms: float
    off_px: float = Field(
        default=0.0, description="how far reports lie from the finger on the mean of what was followed"
    )
    off_uncertainty_px: float = Field(
        default=0.0, description="of that, by the hand's own wandering from stroke to stroke"
    )
    scale_uncertainty: float = 0.0
    displaced: bool = Field(description="axes, offset or scale are further off than a hand would be")
    text: str

    @property
    def surface(self) -> Surface:
        return Surface(
            swapped=self.axes.startswith("swapped"),
            mirrored=self.axes.endswith("mirrored"),
            scale=self.scale,
            offset_px=self.offset_px,
        )


def fit_to_path(session: Session, plan: Plan, limits: TouchLimits) -> PathFit | None:
    """Least squares of reports on the dot's places, the lag that leaves the least, the worst fifth of the reports left out thrice (a
    trimmed fit); None where too little was followed in either direction."""
    followed = [_reports(session, step) for step in plan.steps if step.guided]
    size = cell_px(session, plan)
    if sum(len(one.t) for one in followed) < LEAST_REPORTS:
        return None
    best: tuple[float, float, Numbers] | None = None
    for lag in LAGS_MS:
        dots = [_dot(one.step, one.t - lag, CORNER_CELLS * size) for one in followed]
        straight = np.concatenate([good for _, good in dots])
        if straight.sum() < LEAST_REPORTS:
            return None
        places = np.concatenate([at for at, _ in dots])[straight]
        seen = np.concatenate([one.at for one in followed])[straight]
        if places.std(axis=0).min() < LEAST_SPREAD_CELLS * size:
            return None
        fitted = trimmed(places, seen)
        if best is None or fitted[0] < best[0]:
            best = (fitted[0], float(lag), fitted[1])
    if best is None:
        return None
    residual, lag_ms, found = best
    if residual > CLOCK_CELLS * size or lag_ms in (LAGS_MS[0], LAGS_MS[-1]):  # or no hand is as far behind
        held = [_reports(session, step) for step in plan.steps if step.kind == "hold" and step.path]
        known = Known([one for one in followed if len(one.t) > 1], [one for one in held if len(one.t)], size)
        laid = at_own_pace(session, known)
        if laid is None:
            return None
        residual, found = laid.residual_px, laid.found
    drawn = np.concatenate([_dot(one.step, one.t - lag_ms, 0.0)[0] for one in followed])
    strokes = sum(_stretches(one, size) for one in followed)
    hand_px = SURE_SIGMAS * residual / math.sqrt(max(strokes, 1))
    return _told(
        session,
        _Fitted(residual, lag_ms, found, drawn, hand_px),
        limits,
        session.panel.pitch_mm or limits.finger_mm / size,
    )


def _reports(session: Session, step: Step) -> Followed:
    own = (session.kind < 2) & (session.t >= step.start_ms) & (session.t <= step.end_ms)
    thin = slice(None, None, max(1, int(own.sum()) // MOST_A_STEP))
    return Followed(step, session.t[own][thin], np.stack([session.x[own], session.y[own]], axis=1)[thin])


def _dot(step: Step, t: Numbers, clear: float) -> tuple[Numbers, NDArray[np.bool_]]:
    """(n, 2) where the dot is, and whether it is clear of corners, which hands cut."""
    corners = np.array(step.path, float)
    lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
    way = (t - step.start_ms) / max(step.end_ms - step.start_ms, 1e-9) * lengths[-1]
    places = np.stack([np.interp(way, lengths, corners[:, n]) for n in (0, 1)], axis=1)
    at = np.clip(np.searchsorted(lengths, way), 1, len(lengths) - 1)
    return places, np.minimum(way - lengths[at - 1], lengths[at] - way) >= clear


class _Fitted(NamedTuple):
    """What a fit left (RMS px), the lag, the (3, 2) map, (n, 2) places that were followed, and how far a mean of them wanders with the hand, px."""

    residual_px: float
    lag_ms: float
    found: Numbers
    places: Numbers
    hand_px: float


def _stretches(one: Followed, size: float) -> int:
    """Straight stretches of a path of some length, as far as the reports go in time: each is drawn with a wandering of its own."""
    corners = np.array(one.step.path, float)
    long = int((np.hypot(*np.diff(corners, axis=0).T) > 2 * size).sum())
    share = float(np.ptp(one.t)) / max(one.step.end_ms - one.step.start_ms, 1e-9) if len(one.t) else 0.0
    return max(1, round(long * min(share, 1.0)))


def _told(session: Session, fitted: _Fitted, limits: TouchLimits, pitch_mm: float) -> PathFit:
    found, lag, residual = fitted.found, fitted.lag_ms, fitted.residual_px
    linear = found[:2].T
    swapped = abs(linear[0, 1]) + abs(linear[1, 0]) > abs(linear[0, 0]) + abs(linear[1, 1])
    along = (linear[0, 1], linear[1, 0]) if swapped else (linear[0, 0], linear[1, 1])
    mirrored = min(along) < 0
    axes: Axes = (
        "swapped_mirrored" if swapped and mirrored else "swapped" if swapped else "mirrored" if mirrored else "right"
    )
    middle = np.array([(session.panel.width - 1) / 2, (session.panel.height - 1) / 2, 1.0])
    dx, dy = (float(value) for value in middle @ found - middle[:2])
    scale = (float(along[0]), float(along[1]))
    centre = np.append(fitted.places.mean(axis=0), 1.0)
    off_px = float(np.hypot(*(centre @ found - centre[:2])))
    off_uncertainty_px = fitted.hand_px + HAND_OFFSET_MM / pitch_mm
    scale_uncertainty = HAND_SCALE + fitted.hand_px / (2 * float(fitted.places.std(axis=0).min()))
    away = off_px - off_uncertainty_px > limits.of("offset_mm") / pitch_mm
    stretched = max(abs(abs(value) - 1) for value in scale) - scale_uncertainty > limits.of("scale_off")
    words = {
        "right": "",
        "swapped": "axes swapped",
        "mirrored": "an axis mirrored",
        "swapped_mirrored": "axes swapped and mirrored",
    }[axes]
    told = [words] if words else []
    if axes == "right":
        told.append(f"offset {round(dx):+d}, {round(dy):+d} px, scale {scale[0]:.2f}, {scale[1]:.2f}")
    told.append(f"{residual:.0f} px rms left, {lag:.0f} ms behind the dot, hand and device together")
    return PathFit(
        axes=axes,
        offset_px=(round(dx, 1), round(dy, 1)),
        scale=(round(scale[0], 3), round(scale[1], 3)),
        residual_px=round(residual, 1),
        lag_ms=lag,
        off_px=round(off_px, 1),
        off_uncertainty_px=round(off_uncertainty_px, 1),
        scale_uncertainty=round(scale_uncertainty, 4),
        displaced=axes != "right" or away or stretched,
        text="; ".join(told),
    )


def out_of_reach(session: Session, plan: Plan, fit: PathFit) -> NDArray[np.bool_]:
    """(rows, columns) cells that a displaced surface cannot report: their places would lie outside the panel, so their silence says nothing."""
    width, height = session.panel.width, session.panel.height
    columns, rows = plan.grid.columns, plan.grid.rows
    across = ((np.arange(columns) + 0.5) / columns - 0.5) * (width - 1)
    down = ((np.arange(rows) + 0.5) / rows - 0.5) * (height - 1)
    if fit.axes.startswith("swapped"):
        x, y = (
            (fit.scale[0] * down)[:, None] + 0 * across[None, :],
            (fit.scale[1] * across)[None, :] + 0 * down[:, None],
        )
    else:
        x, y = (
            (fit.scale[0] * across)[None, :] + 0 * down[:, None],
            (fit.scale[1] * down)[:, None] + 0 * across[None, :],
        )
    x, y = x + fit.offset_px[0] + (width - 1) / 2, y + fit.offset_px[1] + (height - 1) / 2
    return np.asarray((x < 0) | (y < 0) | (x > width - 1) | (y > height - 1))


def turned_back(session: Session, fit: PathFit) -> Session:
    """The session with displaced reports put where the finger was, so that what was crossed can be told; as it is where one axis hardly
    moves."""
    if min(abs(value) for value in fit.scale) < LEAST_SCALE:
        return session
    middle_x, middle_y = (session.panel.width - 1) / 2, (session.panel.height - 1) / 2
    across = (session.x - middle_x - fit.offset_px[0]) / fit.scale[0]
    down = (session.y - middle_y - fit.offset_px[1]) / fit.scale[1]
    if fit.axes in ("swapped", "swapped_mirrored"):
        across, down = down, across
    return session._replace(x=middle_x + across, y=middle_y + down)
