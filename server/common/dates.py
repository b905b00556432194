"""Dates as warranties reckon them."""

import datetime as dt


def months_later(start: dt.date, months: int) -> dt.date:
    """The same day so many months on, or that month's last one."""
    month = start.month - 1 + months
    year, month = start.year + month // 12, month % 12 + 1
    last = (dt.date(year + month // 12, month % 12 + 1, 1) - dt.timedelta(days=1)).day
    return dt.date(year, month, min(start.day, last))
