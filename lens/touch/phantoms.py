"""Touches that nobody made: what came while the plan said hands off."""

from typing import Literal, NamedTuple

import numpy as np

from lens.records.base import Record
from lens.touch.passes import cell_px
from lens.touch.session import Numbers, Plan, Session

PhantomKind = Literal["isolated", "stream", "fixed_spot", "edge", "charger_rows"]
SAME_SPOT_CELLS, SPOT_CONTACTS = 1.5, 3
STREAM_A_SECOND, STREAM_EVENTS = 4.0, 40
RIM_CELLS, STREAM_SPREAD_CELLS = 0.8, 2.0
ROW_CONTACTS, ROW_SPREAD_CELLS, ROW_THIN_CELLS = 5, 3.0, 0.8
SETTLING_MS = 400.0  # the hand that started the step leaves
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


class _Contact(NamedTuple):
    x: float
    y: float
    start_ms: float
    events: int
    charging: bool | None


def find_phantoms(session: Session, plan: Plan) -> Soak:
    """Contacts that began in a hands-off step, grouped by place."""
    contacts: list[_Contact] = []
    minutes = 0.0
    for step in plan.steps:
        if step.kind != "hands_off":
            continue
        minutes += max(step.end_ms - step.start_ms, 0) / 60_000
        own = (session.t >= step.start_ms + SETTLING_MS) & (session.t <= step.end_ms) & (session.kind < 2)
        for contact in np.unique(session.contact[own]):
            mine = own & (session.contact == contact)
            begun = session.t[session.contact == contact].min()
            if begun >= step.start_ms:
                contacts.append(_Contact(
                    float(session.x[mine].mean()), float(session.y[mine].mean()), float(begun), int(mine.sum()), step.charging))
    size = cell_px(session, plan)
    phantoms = _grouped(session, contacts, size)
    return Soak(tuple(phantoms), minutes, round(NONE_SEEN_95 / minutes, 2) if minutes and not contacts else None)


def _grouped(session: Session, contacts: list[_Contact], size: float) -> list[Phantom]:
    rows = _charger_rows(contacts, size)
    if rows:
        return [_phantom(rows, "charger_rows"), *_grouped(session, [c for c in contacts if c not in rows], size)]
    if len(contacts) >= 2 * SPOT_CONTACTS and _rate(contacts) >= STREAM_A_SECOND / 4 and _spread(contacts) >= STREAM_SPREAD_CELLS * size:
        return [_phantom(contacts, "stream")]
    left, out = list(contacts), []
    while left:
        seed = left[0]
        near = [c for c in left if np.hypot(c.x - seed.x, c.y - seed.y) <= SAME_SPOT_CELLS * size]
        left = [c for c in left if c not in near]
        events = sum(c.events for c in near)
        span_s = max((max(c.start_ms for c in near) - min(c.start_ms for c in near)) / 1000, 1.0)
        at_rim = min(seed.x, seed.y, session.panel.width - 1 - seed.x, session.panel.height - 1 - seed.y) <= RIM_CELLS * size
        kind: PhantomKind = "isolated"
        if len(near) >= SPOT_CONTACTS:
            kind = "edge" if at_rim else "fixed_spot"
        elif events >= STREAM_EVENTS or len(near) / span_s >= STREAM_A_SECOND and len(near) >= SPOT_CONTACTS:
            kind = "stream"
        out.append(_phantom(near, kind))
    return out


def _spread(contacts: list[_Contact]) -> float:
    return float(np.hypot(np.std([c.x for c in contacts]), np.std([c.y for c in contacts])))


def _rate(contacts: list[_Contact]) -> float:
    span_s = (max(c.start_ms for c in contacts) - min(c.start_ms for c in contacts)) / 1000
    return len(contacts) / max(span_s, 1.0)


def _charger_rows(contacts: list[_Contact], size: float) -> list[_Contact]:
    """Contacts along one row or column that came only while the charger was in."""
    charged = [c for c in contacts if c.charging]
    if len(charged) < ROW_CONTACTS or any(c.charging is False for c in contacts):
        return []
    for along, across in (("x", "y"), ("y", "x")):
        middle = float(np.median([getattr(c, across) for c in charged]))
        line = [c for c in charged if abs(getattr(c, across) - middle) <= ROW_THIN_CELLS * size]
        if len(line) >= ROW_CONTACTS and float(np.std([getattr(c, along) for c in line])) >= ROW_SPREAD_CELLS * size / 2:
            return line
    return []


def _phantom(contacts: list[_Contact], kind: PhantomKind) -> Phantom:
    return Phantom(x=_mean([c.x for c in contacts]), y=_mean([c.y for c in contacts]), events=sum(c.events for c in contacts), kind=kind)


def _mean(values: list[float] | Numbers) -> float:
    return round(float(np.mean(values)), 1)
