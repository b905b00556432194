"""Working days of a shop: its hours by weekday, without the days on which it is closed."""

import datetime as dt
from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from lens.errors import BadInput
from lens.records.base import Record

WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
USUAL_SPANS = ((480, 1020),)  # 08:00 to 17:00, where a shop did not say
HORIZON_DAYS = 240  # so far ahead anything is worked out


class Calendar(Record):
    """``spans``: by weekday (Monday first) the hours as minutes of the day; an empty one is closed. ``closed_on``: single closed days."""

    spans: tuple[tuple[tuple[int, int], ...], ...] = Field(min_length=7, max_length=7)
    closed_on: tuple[dt.date, ...] = ()

    @cached_property
    def busday(self) -> np.busdaycalendar:
        return np.busdaycalendar(weekmask=[bool(day) for day in self.spans], holidays=list(self.closed_on))

    @cached_property
    def carrier(self) -> np.busdaycalendar:
        """Parcels travel Monday to Friday, and not on the shop's closed days."""
        return np.busdaycalendar(weekmask="1111100", holidays=list(self.closed_on))

    def minutes_on(self, first: dt.date, days: int) -> NDArray[np.int64]:
        """Working minutes of each of so many days from ``first`` on."""
        dates = np.datetime64(first) + np.arange(days)
        by_weekday = np.array([sum(end - start for start, end in day) for day in self.spans])
        weekday = (dates.astype("datetime64[D]").astype(np.int64) + 3) % 7  # 1970-01-01 was a Thursday
        return np.where(np.is_busday(dates, busdaycal=self.busday), by_weekday[weekday], 0)

    def clock_after(self, weekday: NDArray[np.int64], worked: NDArray[np.float64]) -> NDArray[np.float64]:
        """The minute of the day at which so many minutes of it were worked; the day's end where it is closed."""
        clock = np.full(len(weekday), 24.0 * 60)
        for number, spans in enumerate(self.spans):
            on = weekday == number
            if not spans or not on.any():
                continue
            over, clocks = [0.0], [float(spans[0][0])]
            for start, end in spans:
                over += [over[-1] + 1e-9, over[-1] + end - start]
                clocks += [float(start), float(end)]
            clock[on] = np.interp(worked[on], over, clocks)
        return clock

    def worked_until(self, moment: dt.datetime) -> float:
        """The working minutes of that day that are over."""
        minute = moment.hour * 60 + moment.minute
        return float(sum(max(0, min(minute, end) - start) for start, end in self.spans[moment.weekday()]))


def calendar_of(hours: Mapping[str, str], closed_on: Sequence[dt.date] = (), today: dt.date | None = None) -> Calendar:
    """A calendar of the hours that a shop's settings hold ('08:00-12:00, 13:00-17:00' by weekday; none at all: Monday to Friday, 8 to 17).

    Raises
    ------
    BadInput
        where no working day is left within the horizon from ``today`` on.
    """
    spans = tuple(tuple(_span(part) for part in hours[day].split(",")) if day in hours else () for day in WEEKDAYS)
    if not any(spans):
        spans = (USUAL_SPANS,) * 5 + ((), ())
    calendar = Calendar(spans=spans, closed_on=tuple(sorted(set(closed_on))))
    if today is not None and not calendar.minutes_on(today, HORIZON_DAYS).any():
        raise BadInput(
            f"The shop is closed on each of the next {HORIZON_DAYS} days. Take closed days out of its settings.",
            "no_working_day",
        )
    return calendar


def _span(text: str) -> tuple[int, int]:
    start, end = text.strip().split("-")
    return _minute(start), _minute(end)


def _minute(text: str) -> int:
    hour, minute = text.split(":")
    return int(hour) * 60 + int(minute)
