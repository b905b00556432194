"""One pair of hands over one day: the job that is due first goes first, and others fill the time in which it waits by itself.

With every job ready at once and nothing waiting this is Jackson's rule (earliest due date first), which keeps the largest lateness smallest
(J. R. Jackson, 1955, from memory). With clocks between the pieces no such rule is known; the same choice is then made each time a hand is free.
"""

import datetime as dt
from collections.abc import Sequence
from typing import NamedTuple

from pydantic import Field

from lens.purchasing import Calendar
from lens.records.base import Record

SHORTEST_MIN = 1.0  # a piece is not begun for less before the doors close


class Piece(Record):
    """Work without a pause: ``minutes`` at the bench, then ``wait_minutes`` that pass by themselves before the job's next piece."""

    title: str
    minutes: float = Field(ge=0)
    wait_minutes: float = Field(default=0, ge=0)


class DayJob(Record):
    """``ready_at``: when its running clock is over, by the shop's own time; None: it can be gone on with at once. ``whole``: the pieces are all
    that is left of it; otherwise it waits for something after them."""

    id: int
    pieces: tuple[Piece, ...]
    ready_at: dt.datetime | None = None
    due: dt.date | None = None
    urgent: bool = False
    whole: bool = True


class DaySlot(NamedTuple):
    """``until``: when what it then waits for is over, None where nothing does. ``whole``: the piece is done by ``ends``; otherwise the day ended."""

    job: int
    piece: str
    begins: dt.datetime
    ends: dt.datetime
    until: dt.datetime | None
    whole: bool


class DayPlan(NamedTuple):
    """``done``: jobs of which nothing is left today; ``late``: jobs due by this day of which something is."""

    slots: tuple[DaySlot, ...]
    done: tuple[int, ...]
    late: tuple[int, ...]


class _Standing(NamedTuple):
    job: DayJob
    piece: int
    left_min: float
    ready: dt.datetime

    @property
    def urgency(self) -> tuple[bool, dt.date, float, int]:
        """Due first; of several the one with the longest waiting ahead, since that runs beside other work."""
        waiting = sum(one.wait_minutes for one in self.job.pieces[self.piece :])
        return (not self.job.urgent, self.job.due or dt.date.max, -waiting, self.job.id)


def plan_day(jobs: Sequence[DayJob], calendar: Calendar, now: dt.datetime) -> DayPlan:
    """What one person does for the rest of the day.

    Parameters
    ----------
    jobs : those that wait for nothing outside; a job without pieces is done
    calendar : the shop's hours; on a closed day nothing is planned
    now : the shop's own time, without a zone

    A piece that was begun is ended before another one is, over a closed hour too.
    """
    waiting = {
        one.id: _Standing(one, 0, one.pieces[0].minutes, max(one.ready_at or now, now)) for one in jobs if one.pieces
    }
    slots: list[DaySlot] = []
    begun: int | None = None
    for opens, closes in _open_hours(calendar, now):
        at = max(opens, now)
        while waiting and at < closes:
            ready = [one for one in waiting.values() if one.ready <= at]
            if not ready:
                at = min(one.ready for one in waiting.values())
                continue
            if (closes - at).total_seconds() < 60 * SHORTEST_MIN:
                break
            one = waiting[begun] if begun is not None else min(ready, key=lambda standing: standing.urgency)
            ends = at + dt.timedelta(minutes=one.left_min)
            piece = one.job.pieces[one.piece]
            if ends > closes:
                slots.append(DaySlot(one.job.id, piece.title, at, closes, None, False))
                begun = one.job.id
                waiting[begun] = one._replace(left_min=(ends - closes).total_seconds() / 60, ready=closes)
                break
            over = ends + dt.timedelta(minutes=piece.wait_minutes)
            slots.append(DaySlot(one.job.id, piece.title, at, ends, over if piece.wait_minutes else None, True))
            begun, at = None, ends
            if one.piece + 1 < len(one.job.pieces):
                following = one.job.pieces[one.piece + 1]
                waiting[one.job.id] = _Standing(one.job, one.piece + 1, following.minutes, over)
            else:
                del waiting[one.job.id]
    left = set(waiting) | {one.id for one in jobs if not one.whole}
    return DayPlan(
        slots=tuple(slots),
        done=tuple(one.id for one in jobs if one.id not in left),
        late=tuple(one.id for one in jobs if one.id in left and one.due is not None and one.due <= now.date()),
    )


def _open_hours(calendar: Calendar, now: dt.datetime) -> list[tuple[dt.datetime, dt.datetime]]:
    """What is left of the shop's hours on this day."""
    if now.date() in calendar.closed_on:
        return []
    midnight = dt.datetime.combine(now.date(), dt.time())
    hours = [
        (midnight + dt.timedelta(minutes=start), midnight + dt.timedelta(minutes=end))
        for start, end in calendar.spans[now.weekday()]
    ]
    return [(start, end) for start, end in sorted(hours) if end > now]
