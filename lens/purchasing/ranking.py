"""Offers side by side: what each costs, and by when the device is ready with it."""

import datetime as dt
from collections.abc import Mapping, Sequence
from decimal import Decimal
from functools import cache

import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.purchasing.calendar import Calendar
from lens.purchasing.cost import CostPart, Rates, landed_cost
from lens.purchasing.promise import Horizon, Ready, Work, ready_days
from lens.purchasing.terms import EARLIEST, DeadRate, OfferTerms, SupplierRecord, dead_rate, lateness_spread
from lens.records.base import Record

PROMISED = 0.85  # the chance at which a day is named to the owner
_NO_ORDERS = SupplierRecord()


class RankedOffer(Record):
    """``best``: no other offer is both cheaper and sooner. ``problem``: why it cannot be compared; the figures are empty then."""

    offer_id: int
    cost: Decimal | None = None
    parts: tuple[CostPart, ...] = ()
    ready: Ready | None = None
    ready_on: dt.date | None = None
    chance_in_time: float | None = None
    dead_rate: float | None = None
    dead_range: tuple[float, float] | None = None
    orders: int = 0
    best: bool = False
    problem: str = ""


def rank_offers(
    offers: Sequence[OfferTerms],
    records: Mapping[str, SupplierRecord],
    rates: Rates,
    work: Work,
    now: dt.datetime,
    calendar: Calendar,
    wanted_by: dt.date | None = None,
    in_parcel: Mapping[str, Sequence[Decimal]] | None = None,
) -> tuple[RankedOffer, ...]:
    """Each offer's landed cost and ready day, the cheapest first, those that cannot be compared last.

    Parameters
    ----------
    records : by supplier
    wanted_by : the promised day, where one was named
    in_parcel : by supplier, the prices of what other jobs wait to order there: freight is shared
    """
    days = Horizon(now, calendar)
    spread_of = cache(lambda supplier: lateness_spread(records.get(supplier, _NO_ORDERS)))
    dead_of = cache(lambda supplier, grade: dead_rate(grade, records.get(supplier, _NO_ORDERS)))
    told = [
        _ranked(
            offer,
            spread_of(offer.supplier),
            dead_of(offer.supplier, offer.grade),
            rates,
            work,
            days,
            wanted_by,
            (in_parcel or {}).get(offer.supplier, ()),
        )
        for offer in offers
    ]
    told.sort(key=lambda one: (one.cost is None, one.cost or 0, one.ready_on or dt.date.max))
    best: set[int] = set()
    soonest = dt.date.max
    for one in told:
        if one.ready_on is not None and one.ready_on < soonest:
            soonest = one.ready_on
            best.add(one.offer_id)
    return tuple(one.model_copy(update={"best": one.offer_id in best}) for one in told)


def _ranked(
    offer: OfferTerms,
    spread: NDArray[np.float64],
    rate: DeadRate,
    rates: Rates,
    work: Work,
    days: Horizon,
    wanted_by: dt.date | None,
    others: Sequence[Decimal],
) -> RankedOffer:
    chance = 0.0 if offer.on_shelf else rate.mean
    mean_days = max(1.0, offer.delivery_days + float(spread @ np.arange(EARLIEST, EARLIEST + len(spread))))
    try:
        parts = landed_cost(offer, rates, chance, mean_days, others)
    except BadInput as problem:
        return RankedOffer(offer_id=offer.id, problem=problem.message)
    ready = ready_days(offer, spread, chance, work, days)
    return RankedOffer(
        offer_id=offer.id,
        cost=sum((part.amount for part in parts), Decimal(0)),
        parts=parts,
        ready=ready,
        ready_on=ready.at(PROMISED),
        chance_in_time=round(ready.by(wanted_by), 3) if wanted_by else None,
        dead_rate=round(chance, 4),
        dead_range=(round(rate.low, 4), round(rate.high, 4)),
        orders=rate.orders,
    )
