"""Several fingers at once: how many were told apart, how near they lay, and those that were taken for one."""

import itertools
from collections.abc import Iterator

import numpy as np
from pydantic import Field

from lens.records.base import Record
from lens.touch.passes import cell_px
from lens.touch.session import Numbers, Plan, Session, Step

LAID_BEFORE_MS = 300.0
JUMP_CELLS = 2.5  # what no held finger moves between two reports
MOMENTS, SETTLED_SHARE, AGREEING_SHARE = (
    24,
    0.3,
    0.5,
)  # looks at the last part of a step, and the share of them that must say the same
NEAR_SHARE, MIDDLE_SHARE = (
    0.3,
    0.2,
)  # of the distance of two places: how far a finger lies from its own, and a merged one from their middle
LEAST_APART_CELLS, MOST_MERGED = 0.5, 5
MOST_JUMPS, MOST_CONTACTS = (
    2000,
    200,
)  # a layer that leaps all the time says the same in every leap; hands have ten fingers
TAKEN_FOR_ONE_MS = 60.0  # a contact ends, and the other one jumps, within this


class Fingers(Record):
    """Several fingers at once: how many were asked for, the most that were told apart, and how often a held one jumped to another's place."""

    asked: int
    most: int
    jumps: int
    nearest_px: float | None = Field(default=None, description="the nearest two that were told apart")
    merged_px: float | None = Field(default=None, description="the furthest apart that two were taken for one")


def fingers_at_once(session: Session, plan: Plan) -> Fingers | None:
    """What came of the steps that asked for several fingers; None where there was none."""
    asked = most = jumps = 0
    nearest: list[float] = []
    merged: list[float] = []
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
        looks = [*_moments(session, step)]
        nearest += [_nearest(at) for at in looks if len(at) > 1]
        merged += _merged(step, looks, size)
    merged += taken_for_one(session, size, plan)
    if not asked and not merged:
        return None
    return Fingers(
        asked=asked,
        most=most,
        jumps=jumps,
        nearest_px=round(min(nearest), 1) if nearest else None,
        merged_px=round(max(merged), 1) if merged else None,
    )


def _moments(session: Session, step: Step) -> Iterator[Numbers]:
    """(n, 2) places of all contacts that are down, at moments of the last part of a step."""
    own = session.by_contact((session.t >= step.start_ms - LAID_BEFORE_MS) & (session.t <= step.end_ms))
    ends = np.flatnonzero(np.diff(session.contact[own], append=-1)) + 1
    contacts = [own[a:b] for a, b in zip([0, *ends[:-1]], ends, strict=True)] if len(own) else []
    contacts = sorted(contacts, key=len, reverse=True)[:MOST_CONTACTS]
    for t in np.linspace(
        step.start_ms + SETTLED_SHARE * (step.end_ms - step.start_ms), step.end_ms, MOMENTS, endpoint=False
    ):
        at = []
        for contact in contacts:
            last = int(np.searchsorted(session.t[contact], t, side="right")) - 1
            if last >= 0 and session.kind[contact[last]] < 2:
                at.append((session.x[contact[last]], session.y[contact[last]]))
        yield np.array(at, float).reshape(-1, 2)


def _apart(at: Numbers) -> Numbers:
    return np.asarray(np.hypot(*(at[:, None, :] - at[None, :, :]).transpose(2, 0, 1)), float)


def _nearest(at: Numbers) -> float:
    return float(_apart(at)[np.triu_indices(len(at), 1)].min())


def _merged(step: Step, looks: list[Numbers], size: float) -> Iterator[float]:
    """Of places that were asked for and of which most moments show one contact in their middle and none near any of them: how far the nearest
    two lie apart."""
    places = np.array(step.path, float).reshape(-1, 2)
    for count in range(2, min(len(places), MOST_MERGED) + 1):
        for some in itertools.combinations(range(len(places)), count):
            own = places[[*some]]
            apart = _nearest(own)
            if apart < LEAST_APART_CELLS * size:
                continue
            off = [(np.hypot(*(at - own.mean(axis=0)).T).min(), _between(own, at)) for at in looks if len(at)]
            if sum(
                middle <= MIDDLE_SHARE * apart and near > NEAR_SHARE * apart for middle, near in off
            ) >= AGREEING_SHARE * len(looks):
                yield apart


def _between(places: Numbers, at: Numbers) -> float:
    """The least distance of any contact from any of some places."""
    return float(np.hypot(*(places[:, None, :] - at[None, :, :]).transpose(2, 0, 1)).min())


def taken_for_one(session: Session, size: float, plan: Plan | None = None) -> list[float]:
    """Distances at which one of two contacts ended while the other jumped to the middle between them, or parted the same way; with a plan
    only outside its soaks."""
    touching = session.kind < 2
    for step in plan.steps if plan is not None else ():
        if step.kind == "hands_off":
            touching &= (session.t < step.start_ms) | (session.t > step.end_ms)
    own = session.by_contact(touching)
    if len(own) < 2:
        return []
    t, x, y, contact = (values[own] for values in (session.t, session.x, session.y, session.contact))
    jump = (np.diff(contact) == 0) & (np.hypot(np.diff(x), np.diff(y)) > LEAST_APART_CELLS / 2 * size)
    first = np.flatnonzero(np.diff(contact, prepend=-1))
    last = np.append(first[1:], len(own)) - 1
    out = []
    jumps = np.flatnonzero(jump)
    for n in jumps[:: max(1, len(jumps) // MOST_JUMPS)]:
        own_number = int(np.searchsorted(contact[first], contact[n]))
        begun, ended = t[first[own_number]], t[last[own_number]]
        for places, here, there in ((last, n, n + 1), (first, n + 1, n)):  # two become one; one becomes two
            at_once = (t[places] > begun) & (
                t[places] < ended
            )  # both were down: one finger that lifts and comes down again is no two
            near = places[
                (np.abs(t[places] - t[n + 1]) <= TAKEN_FOR_ONE_MS) & (contact[places] != contact[n]) & at_once
            ]
            for other in near:
                apart = float(np.hypot(x[other] - x[here], y[other] - y[here]))
                off = float(np.hypot((x[other] + x[here]) / 2 - x[there], (y[other] + y[here]) / 2 - y[there]))
                if apart >= LEAST_APART_CELLS * size and off <= MIDDLE_SHARE * apart:
                    out.append(apart)
    return out
