"""When a device is ready: the spread of the delivery, the chance of a dead panel, the queue, the work and the cure, in working days."""

import datetime as dt
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from lens.purchasing.calendar import HORIZON_DAYS, Calendar
from lens.purchasing.terms import EARLIEST, OfferTerms, purchasing_data
from lens.records.base import Record

DAY_MINUTES = 24 * 60
NEGLIGIBLE = 1e-4  # outcomes rarer than this are left out; what is left is told as a whole


class Work(Record):
    """``queue_minutes``: of the jobs that come before this one; ``minutes``: of this job, dry test included; ``cure_hours``: that pass after it."""

    minutes: float = Field(ge=0)
    queue_minutes: float = Field(default=0, ge=0)
    cure_hours: float = Field(default=0, ge=0)


class Ready(Record):
    """``chances``: by day, the chance that the device is ready on that day; days without any are left out."""

    chances: tuple[tuple[dt.date, float], ...]

    @cached_property
    def _cumulated(self) -> tuple[float, ...]:
        return tuple(float(value) for value in np.cumsum([chance for _, chance in self.chances]))

    def by(self, day: dt.date) -> float:
        """The chance that it is ready on that day or before."""
        return max((c for (d, _), c in zip(self.chances, self._cumulated, strict=True) if d <= day), default=0.0)

    def at(self, chance: float) -> dt.date:
        """The first day by which it is ready with that chance; the last one where none is enough."""
        for (day, _), cumulated in zip(self.chances, self._cumulated, strict=True):
            if cumulated >= chance:
                return day
        return self.chances[-1][0]


class Horizon:
    """The days that are looked ahead, from a shop's local time on, as arrays: working minutes before each, the first open day from each on."""

    def __init__(self, now: dt.datetime, calendar: Calendar) -> None:
        self.now, self.first, self.calendar = now, now.date(), calendar
        minutes = calendar.minutes_on(self.first, HORIZON_DAYS).astype(np.float64)
        self.full = minutes.copy()
        self.over_today = min(calendar.worked_until(now), minutes[0])
        minutes[0] -= self.over_today
        self.minutes = minutes
        self.before = np.concatenate([[0.0], np.cumsum(minutes)])
        open_days = np.flatnonzero(self.full > 0)
        self.next_open = open_days[np.minimum(np.searchsorted(open_days, np.arange(HORIZON_DAYS)), len(open_days) - 1)]

    def from_noon(self, day: NDArray[np.int64]) -> NDArray[np.float64]:
        """Working minutes from now to the moment on which a parcel of that day is there."""
        share = purchasing_data().arrival_share_of_day
        over = np.where(day == 0, 0.0, share * self.minutes[day])
        return self.before[day] + over

    def ready_on(self, end: NDArray[np.float64], cure_hours: float) -> NDArray[np.int64]:
        """The day on which work that ends after so many working minutes is ready, cure included."""
        day: NDArray[np.int64] = np.minimum(np.searchsorted(self.before[1:], end), HORIZON_DAYS - 1).astype(np.int64)
        if not cure_hours:
            return day
        worked = end - self.before[day] + np.where(day == 0, self.over_today, 0.0)
        start = self.first.weekday()
        clock = self.calendar.clock_after((start + day) % 7, worked)
        cured = day * DAY_MINUTES + clock + cure_hours * 60
        on = np.minimum((cured // DAY_MINUTES).astype(np.int64), HORIZON_DAYS - 1)
        closes = np.array([max((end for _, end in spans), default=0) for spans in self.calendar.spans])
        late = cured % DAY_MINUTES > closes[(start + on) % 7]
        ready: NDArray[np.int64] = self.next_open[np.minimum(on + late, HORIZON_DAYS - 1)]
        return ready


def ready_days(offer: OfferTerms, spread: NDArray[np.float64], chance_dead: float, work: Work, days: Horizon) -> Ready:
    """On which day a device is ready when this offer is ordered now.

    Parameters
    ----------
    spread : chance of each lateness, see `lateness_spread`
    chance_dead : a dead panel is found at once and ordered again, once; a second dead one counts with the latest day
    days : from the moment of ordering on; many offers share them

    Notes
    -----
    A parcel of the day is there at noon; the queue is worked off from now on by one pair of hands and takes 0.75 to 1.4 times its estimate.
    """
    arrives, chance = _arrivals(offer, spread, chance_dead, days)
    factors = np.array(purchasing_data().queue_spread)
    queue = work.queue_minutes * factors[:, 0]
    begin = np.maximum(days.from_noon(arrives)[:, None], queue[None, :])
    weight = chance[:, None] * factors[None, :, 1]
    on = days.ready_on((begin + work.minutes).ravel(), work.cure_hours)
    counted = np.bincount(on, weights=weight.ravel(), minlength=1)
    share = counted / counted.sum()
    return Ready(
        chances=tuple(
            (days.first + dt.timedelta(days=int(n)), float(share[n])) for n in np.flatnonzero(share > NEGLIGIBLE / 10)
        )
    )


def order_day(offer: OfferTerms, now: dt.datetime, calendar: Calendar) -> np.datetime64:
    """The business day from which a supplier counts: the next one after its cut-off time."""
    today = np.datetime64(now.date())
    late = offer.cut_off is not None and now.time() > offer.cut_off
    first = np.busday_offset(today, 0, roll="forward", busdaycal=calendar.carrier)
    return first + 0 if not late or first != today else np.busday_offset(first, 1, busdaycal=calendar.carrier)


def _arrivals(
    offer: OfferTerms, spread: NDArray[np.float64], chance_dead: float, days: Horizon
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Day offsets on which a good panel is there, and the chance of each."""
    if offer.on_shelf:
        return np.array([days.next_open[0]]), np.array([1.0])
    keep = spread > NEGLIGIBLE
    late, chance = np.flatnonzero(keep) + EARLIEST, spread[keep] / spread[keep].sum()
    took = np.maximum(offer.delivery_days + late, 1)
    carrier = days.calendar.carrier
    start = order_day(offer, days.now, days.calendar)
    once = np.busday_offset(start, took, busdaycal=carrier)
    again = np.busday_offset(once[:, None], took[None, :], busdaycal=carrier)
    dates = np.concatenate([once, again.ravel()])
    chances = np.concatenate([(1 - chance_dead) * chance, chance_dead * np.outer(chance, chance).ravel()])
    offset = np.clip((dates - np.datetime64(days.first)).astype(np.int64), 0, HORIZON_DAYS - 1)
    return days.next_open[offset], chances
