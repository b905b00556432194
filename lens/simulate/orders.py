"""Parcels, dead panels and a bench with a queue, stepped through day by day: the world that promises are held to.

Written from how a parcel travels (picked, handed to the carrier at the evening, so many hubs, nights that fail) and shares no code with the rooms
that make promises.
"""

import datetime as dt
from collections.abc import Set
from typing import NamedTuple

import numpy as np

DAY = dt.timedelta(days=1)
SATURDAY = 5


class SimulatedSupplier(NamedTuple):
    """``picking_days``: median working days until a parcel is handed over; ``picking_spread``: sigma of its logarithm; ``hubs``: nights on the
    way; ``night_fails``: chance that a night brings a parcel no further; ``stockout``: chance that the panel has to come from elsewhere first."""

    name: str
    named_days: int
    picking_days: float
    picking_spread: float
    hubs: int
    night_fails: float
    stockout: float
    dead: float


class SimulatedShop(NamedTuple):
    """Open from ``opens`` to ``closes`` (hours) on weekdays below ``weekdays``; ``slow``: sigma of the logarithm of work against estimate."""

    opens: float = 8.0
    closes: float = 17.0
    weekdays: int = 5
    slow: float = 0.2
    closed_on: Set[dt.date] = frozenset()

    def works(self, day: dt.date) -> bool:
        return day.weekday() < self.weekdays and day not in self.closed_on


class Story(NamedTuple):
    """What became of an order. ``arrived``: of the first parcel."""

    arrived: dt.date
    dead: bool
    ready: dt.date


def _travels(day: dt.date, shop: SimulatedShop) -> bool:
    return day.weekday() < SATURDAY and day not in shop.closed_on


def arrival(supplier: SimulatedSupplier, ordered: dt.date, shop: SimulatedShop, rng: np.random.Generator) -> dt.date:
    """The day on which a parcel comes."""
    picking = supplier.picking_days * float(np.exp(supplier.picking_spread * rng.standard_normal()))
    if rng.random() < supplier.stockout:
        picking += float(rng.uniform(2, 7))
    day, left = ordered, picking
    while not _travels(day, shop):
        day += DAY
    while left >= 1:
        day += DAY
        if _travels(day, shop):
            left -= 1
    hubs = supplier.hubs
    while hubs > 0:
        day += DAY
        if _travels(day, shop) and rng.random() >= supplier.night_fails:
            hubs -= 1
    return day


def story(
    supplier: SimulatedSupplier,
    now: dt.datetime,
    shop: SimulatedShop,
    queue_minutes: float,
    minutes: float,
    cure_hours: float,
    rng: np.random.Generator,
) -> Story:
    """An order, its arrival, perhaps a second one, the queue before it, the work, the cure: stepped by the minute of the shop's hours."""
    came = first = arrival(supplier, now.date(), shop, rng)
    dead = bool(rng.random() < supplier.dead)
    if dead:
        came = arrival(supplier, came, shop, rng)
    hour = float(rng.uniform(9, 15))
    while not shop.works(came):
        came, hour = came + DAY, shop.opens
    there = dt.datetime.combine(came, dt.time()) + dt.timedelta(hours=hour)
    free = _worked(now, queue_minutes * float(np.exp(shop.slow * rng.standard_normal())), shop)
    over = _worked(max(there, free), minutes * float(np.exp(shop.slow * rng.standard_normal())), shop)
    cured = over + dt.timedelta(hours=cure_hours)
    day = cured.date()
    if cured.hour + cured.minute / 60 > shop.closes:
        day += DAY
    while not shop.works(day):
        day += DAY
    return Story(first, dead, day)


def _worked(start: dt.datetime, minutes: float, shop: SimulatedShop) -> dt.datetime:
    """The moment at which so many minutes of work are done."""
    moment = start
    while True:
        opens = dt.datetime.combine(moment.date(), dt.time()) + dt.timedelta(hours=shop.opens)
        closes = opens + dt.timedelta(hours=shop.closes - shop.opens)
        moment = max(moment, opens)
        if shop.works(moment.date()) and moment < closes:
            left = (closes - moment).total_seconds() / 60
            if minutes <= left:
                return moment + dt.timedelta(minutes=minutes)
            minutes -= left
        moment = opens - dt.timedelta(hours=shop.opens) + DAY
