"""Maps of a whole surface without the dot's clock: reports laid on the path by each of some maps, and the map fitted to where they lie, in turns.

As in matching point clouds by their nearest points (Besl and McKay 1992). The ways in which axes can point, and shifts by a row, are tried each,
as a path that runs beside itself looks alike a row further on; a ring on which a finger was held is the one place that no pace explains away.
"""

import itertools
import math
from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np

from lens.touch.pace import STRAYED_CELLS2
from lens.touch.passes import laid_on_path
from lens.touch.session import Numbers, Session, Step

LEAST_REPORTS, MOST_LAID, MOST_HELD, PLACE_CELLS, ROUNDS, KEPT_SHARE = 60, 140, 60, 1.0, 3, 0.8
LEAST_SPREAD_CELLS = 2.0
LEAST_SCALE = 0.2  # a layer that is stuck in one direction cannot be turned back
TURNS, MOST_TURNED, SCALE_STEP = 4, 3, 1.12
# squared cells a report: what a sound surface leaves at any pace, what is no fit of anything, and the share that a less simple map must come down to
WELL_LAID, STILL_LAID, CLEARLY_LESS = 0.26, 0.5, 0.8


class Followed(NamedTuple):
    """Reports of a guided step: (n,) ms, (n, 2) panel px."""

    step: Step
    t: Numbers
    at: Numbers


class Known(NamedTuple):
    """What was followed, what was held on a ring, and the side of a cell in px. A ring is the one place that a pace cannot explain away."""

    followed: Sequence[Followed]
    held: Sequence[Followed]
    size: float


def at_own_pace(session: Session, known: Known) -> "Laid | None":
    """Without the dot's clock: of the maps that lay the reports on the path about as well, the simplest; None where none does."""
    laid = _turned_to_fit(_axes_map(session, False, 1, 1), known)
    if not math.isfinite(laid.cost):
        return None
    if laid.cost > WELL_LAID:
        laid = _best_of(laid, _moved_maps(session, known), known)
        laid = _best_of(laid, _turned_maps(session), known)
    return laid if laid.cost <= STILL_LAID else None


def _best_of(simple: "Laid", maps: Iterable[Numbers], known: Known) -> "Laid":
    """The best of some maps, each turned to fit, where it is clearly better than a simpler one."""
    starts = sorted((_laid(one, known) for one in maps), key=lambda one: one.cost)
    best = min((_turned_to_fit(one.found, known) for one in starts[:MOST_TURNED]), key=lambda one: one.cost)
    return best if best.cost < CLEARLY_LESS * simple.cost else simple


def _moved_maps(session: Session, known: Known) -> Iterable[Numbers]:
    """The shift that a held finger shows, or else shifts by a row; and scales about the first corner and about the middle."""
    right = _axes_map(session, False, 1, 1)
    held = [np.median(one.at, axis=0) - np.array(one.step.path[0]) for one in known.held]
    rows = itertools.product((-known.size, 0.0, known.size), repeat=2)
    for shift in held or [np.array(one) for one in rows if any(one)]:
        yield np.vstack([right[:2], right[2] + shift])
    middle = np.array([session.panel.width - 1, session.panel.height - 1]) / 2
    for across, down in itertools.product((1 / SCALE_STEP, 1.0, SCALE_STEP), repeat=2):
        if across != 1 or down != 1:
            scale = np.array([across, down])
            yield np.vstack([np.diag(scale), np.zeros(2)])
            yield np.vstack([np.diag(scale), middle * (1 - scale)])


def _turned_maps(session: Session) -> Iterable[Numbers]:
    return (
        _axes_map(session, *way) for way in itertools.product((False, True), (1, -1), (1, -1)) if way != (False, 1, 1)
    )


class Laid(NamedTuple):
    """A map, what it costs to lay the reports on the path after it is taken back (squared cells a report), and the RMS in px."""

    found: Numbers
    cost: float
    residual_px: float


def _turned_to_fit(found: Numbers, known: Known) -> Laid:
    """The map that a few turns of laying and fitting come to."""
    best = _laid(found, known)
    latest = best
    for _ in range(TURNS):
        latest = _laid(latest.found, known, fitted=True)
        if latest.cost >= 0.98 * best.cost:
            break
        best = latest
    return best


def _laid(found: Numbers, known: Known, fitted: bool = False) -> Laid:
    """What a map costs; ``fitted``: after it was fitted anew to the places on which the reports lie by it."""
    (followed, held, size), cost, count, places, seen = known, 0.0, 0, [], []
    for one in held:
        thin = one.at[:: max(1, len(one.at) // MOST_HELD)]
        ring = np.array(one.step.path[0])
        away2 = np.sum((_taken_back(found, thin) - ring) ** 2, axis=1) / size**2
        cost, count = cost + float(np.minimum(away2, STRAYED_CELLS2).sum()), count + len(thin)
        places.append(np.tile(ring, (len(thin), 1)))
        seen.append(thin)
    for one in followed:
        back = _taken_back(found, one.at)
        way, each = laid_on_path(one.step, one.t, back[:, 0], back[:, 1], size, MOST_LAID, PLACE_CELLS)
        corners = np.array(one.step.path, float)
        lengths = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
        at = np.stack([np.interp(way * size, lengths, corners[:, n]) for n in (0, 1)], axis=1)
        near = np.hypot(*(at - back).T) <= 2 * size
        places.append(at[near])
        seen.append(one.at[near])
        cost, count = cost + each * len(one.t), count + len(one.t)
    on, reported = np.concatenate(places), np.concatenate(seen)
    if len(on) < LEAST_REPORTS or on.std(axis=0).min() < LEAST_SPREAD_CELLS * size:
        return Laid(found, math.inf, math.inf)
    residual, anew = trimmed(on, reported)
    if not fitted:
        return Laid(found, cost / count, residual)
    return _laid(_axes_only(anew, found), known)._replace(residual_px=residual)


def _axes_map(session: Session, swapped: bool, across: int, down: int) -> Numbers:
    """(3, 2) map of the whole panel onto itself with its axes exchanged or mirrored."""
    width, height = session.panel.width - 1, session.panel.height - 1
    linear = (
        np.array([[0, across * width / height], [down * height / width, 0]])
        if swapped
        else np.diag([across, down]).astype(float)
    )
    middle = np.array([width / 2, height / 2])
    return np.vstack([linear.T, middle - linear @ middle])


def _axes_only(found: Numbers, like: Numbers) -> Numbers:
    """A map without shear: what the weaker pair of terms adds is of the hand."""
    swapped = abs(like[0, 0]) < abs(like[0, 1])
    out = found.copy()
    out[[0, 1], [0, 1] if swapped else [1, 0]] = 0
    return out


def _taken_back(found: Numbers, at: Numbers) -> Numbers:
    """(n, 2) places of the finger whose reports a map would put at ``at``."""
    linear = found[:2]
    if abs(np.linalg.det(linear)) < LEAST_SCALE**2:
        return at
    return np.asarray((at - found[2]) @ np.linalg.inv(linear), np.float64)


def trimmed(places: Numbers, seen: Numbers) -> tuple[float, Numbers]:
    """(RMS, (3, 2) map) of seen = [place, 1] @ map."""
    design = np.column_stack([places, np.ones(len(places))])
    kept, found = np.ones(len(places), bool), np.zeros((3, 2))
    for _ in range(ROUNDS):
        found = np.asarray(np.linalg.lstsq(design[kept], seen[kept], rcond=None)[0], np.float64)
        away = np.hypot(*(seen - design @ found).T)
        kept = away <= np.quantile(away, KEPT_SHARE)
    return float(np.sqrt(np.mean(away[kept] ** 2))), found
