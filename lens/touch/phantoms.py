"""Touches that nobody made: what came while the plan said hands off."""

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from lens.records.base import Record
from lens.touch.passes import cell_px
from lens.touch.session import Numbers, Plan, Session, Step

PhantomKind = Literal["isolated", "stream", "fixed_spot", "edge", "charger_rows"]
SAME_SPOT_CELLS, SPOT_CONTACTS = 1.5, 3
STREAM_A_SECOND, STREAM_EVENTS = 4.0, 40
RIM_CELLS, STREAM_SPREAD_CELLS = 0.8, 2.0
ROW_CONTACTS, ROW_SPREAD_CELLS, ROW_THIN_CELLS = 5, 3.0, 0.8
# Hands leave late: a finger comes down once more as it goes, a palm rests for a moment (common practice). What touches only for an instant, and
# later than a finger that leaves, is nobody's; and so is whatever goes on for long after the step began.
SETTLING_MS, QUIET_MS, RESTING_MS, LEAVING_MS = 400.0, 700.0, 300.0, 3000.0
STILL_CELLS, MOST_PLACES, MOST_TAPS = 0.3, 5, 5000
NONE_SEEN_95 = 2.996  # -ln 0.05: a Poisson rate that would have shown nothing with 5 % probability


class Phantom(Record):
    x: float
    y: float
    events: int
    kind: PhantomKind


class Soak(NamedTuple):
    """All hands-off steps: what came, how long they were, and the rate a minute that it bounds at 95 %."""

    phantoms: tuple[Phantom, ...]
    minutes: float
    bound_a_minute: float | None


class _Contacts(NamedTuple):
    """(n,) middle of each contact, panel px, when it began, its events, and whether the charger was in: 1, 0, or -1 where nobody said."""

    x: Numbers
    y: Numbers
    start_ms: Numbers
    events: NDArray[np.int64]
    charging: NDArray[np.int8]

    def of(self, own: NDArray[np.bool_]) -> "_Contacts":
        return _Contacts._make(values[own] for values in self)


def find_phantoms(session: Session, plan: Plan) -> Soak:
    """Contacts that began in a hands-off step, grouped by place."""
    names, first = np.unique(session.contact, return_index=True)
    parts: list[_Contacts] = []
    minutes = 0.0
    for step in plan.steps:
        if step.kind != "hands_off":
            continue
        off_ms = hands_off_ms(session, step)
        minutes += max(step.end_ms - off_ms, 0) / 60_000
        own = session.by_contact((session.t >= off_ms) & (session.t <= step.end_ms) & (session.kind < 2))
        if not len(own):
            continue
        starts = np.flatnonzero(np.diff(session.contact[own], prepend=-1))
        events = np.diff(np.append(starts, len(own)))
        x, y = (np.add.reduceat(values[own], starts) / events for values in (session.x, session.y))
        begun = session.t[first[np.searchsorted(names, session.contact[own[starts]])]]
        charging = np.full(len(starts), -1 if step.charging is None else int(step.charging), np.int8)
        parts.append(_Contacts(x, y, begun, events, charging).of(begun >= off_ms))
    contacts = _Contacts._make(np.concatenate(values) for values in zip(*parts, strict=True)) if parts else None
    none = contacts is None or not len(contacts.x)
    phantoms = [] if contacts is None or none else _grouped(session, contacts, cell_px(session, plan))
    return Soak(tuple(phantoms), minutes, round(NONE_SEEN_95 / minutes, 2) if minutes and none else None)


def hands_off_ms(session: Session, step: Step) -> float:
    """When the hands were off in a hands-off step: at its start, or when the contacts that were there or came soon after had ended; the end of
    one that began before and stayed."""
    near = (session.t >= step.start_ms - LEAVING_MS) & (session.t <= step.end_ms)
    own = session.by_contact(near)
    if not len(own):
        return step.start_ms
    starts = np.flatnonzero(np.diff(session.contact[own], prepend=-1))
    begins, ends = session.t[own[starts]], session.t[own[np.append(starts[1:], len(own)) - 1]]
    off = step.start_ms
    for begin, end in sorted(zip(begins.tolist(), ends.tolist(), strict=True)):
        stayed = begin < step.start_ms < end
        soon = begin < off + (QUIET_MS if end - begin >= RESTING_MS else SETTLING_MS)
        if stayed or (step.start_ms <= begin < step.start_ms + LEAVING_MS and soon and end > off):
            off = max(off, end if stayed else min(end, step.start_ms + LEAVING_MS))
    return min(off, step.end_ms)


def _grouped(session: Session, contacts: _Contacts, size: float) -> list[Phantom]:
    rows = _charger_rows(contacts, size)
    if rows is not None:
        return [_phantom(contacts.of(rows), "charger_rows"), *_grouped(session, contacts.of(~rows), size)]
    if (
        len(contacts.x) >= 2 * SPOT_CONTACTS
        and _rate(contacts) >= STREAM_A_SECOND / 4
        and _spread(contacts) >= STREAM_SPREAD_CELLS * size
    ):
        return [_phantom(contacts, "stream")]
    left, out = contacts, []
    while len(left.x):
        x, y = float(left.x[0]), float(left.y[0])
        close = np.hypot(left.x - x, left.y - y) <= SAME_SPOT_CELLS * size
        near, left = left.of(close), left.of(~close)
        at_rim = min(x, y, session.panel.width - 1 - x, session.panel.height - 1 - y) <= RIM_CELLS * size
        kind: PhantomKind = "isolated"
        if len(near.x) >= SPOT_CONTACTS:
            kind = "edge" if at_rim else "fixed_spot"
        elif near.events.sum() >= STREAM_EVENTS:
            kind = "stream"
        out.append(_phantom(near, kind))
    return out


def _spread(contacts: _Contacts) -> float:
    return float(np.hypot(contacts.x.std(), contacts.y.std()))


def _rate(contacts: _Contacts) -> float:
    """Contacts a second."""
    return len(contacts.x) / max(float(np.ptp(contacts.start_ms)) / 1000, 1.0)


def _charger_rows(contacts: _Contacts, size: float) -> NDArray[np.bool_] | None:
    """Which contacts lie along one row or column, where contacts came only while the charger was in."""
    charged = contacts.charging == 1
    if charged.sum() < ROW_CONTACTS or (contacts.charging == 0).any():
        return None
    for along, across in ((contacts.x, contacts.y), (contacts.y, contacts.x)):
        line = charged & (np.abs(across - np.median(across[charged])) <= ROW_THIN_CELLS * size)
        if line.sum() >= ROW_CONTACTS and float(along[line].std()) >= ROW_SPREAD_CELLS * size / 2:
            return np.asarray(line, np.bool_)
    return None


def _phantom(contacts: _Contacts, kind: PhantomKind) -> Phantom:
    x, y = (round(float(values.mean()), 1) for values in (contacts.x, contacts.y))
    return Phantom(x=x, y=y, events=int(contacts.events.sum()), kind=kind)


def resting_places(session: Session, size: float) -> tuple[tuple[float, float, int], ...]:
    """Places (x, y, contacts) at which several contacts came down and did not move on, the most frequent first; ``size`` of a cell, px."""
    own = session.by_contact(session.kind < 2)
    if not len(own):
        return ()
    starts = np.flatnonzero(np.diff(session.contact[own], prepend=-1))
    spread = [
        np.maximum.reduceat(values[own], starts) - np.minimum.reduceat(values[own], starts)
        for values in (session.x, session.y)
    ]
    still = np.hypot(*spread) <= STILL_CELLS * size
    x, y = (values[own[starts]][still][:MOST_TAPS] for values in (session.x, session.y))
    out = []
    while len(x):
        near = np.hypot(x - x[0], y - y[0]) <= SAME_SPOT_CELLS * size
        if near.sum() >= SPOT_CONTACTS:
            out.append((float(x[near].mean()), float(y[near].mean()), int(near.sum())))
        x, y = x[~near], y[~near]
    return tuple(sorted(out, key=lambda one: -one[2])[:MOST_PLACES])
