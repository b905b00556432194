"""From stored offers, orders and the shop's settings to what the core reckons with, and back."""

import datetime as dt
from collections import defaultdict
from collections.abc import Iterable
from decimal import Decimal
from functools import reduce
from typing import cast

from django.db.models import Count
from django.utils import timezone

from lens.fitting import minutes_of
from lens.purchasing import (
    GRADES,
    Calendar,
    Grade,
    OfferTerms,
    RankedOffer,
    Rates,
    SupplierRecord,
    Work,
    calendar_of,
    dead_rate,
    rank_offers,
)
from server.fitting.following import minutes_for
from server.jobs.models import Job
from server.parts.models import Offer
from server.purchasing.models import OPEN, Order, OrderLine
from server.shop.actions import the_shop, zone
from server.shop.models import Shop

MOST_ORDERS = 500  # the newest of a supplier tell enough


def terms_of(offer: Offer) -> OfferTerms:
    """An offer with its supplier's terms."""
    supplier = offer.supplier
    return OfferTerms(
        id=offer.pk,
        supplier=supplier.name,
        grade=cast(Grade, offer.grade) if offer.grade else None,
        price=offer.price,
        freight=offer.shipping,
        free_freight_from=supplier.free_freight_from,
        currency=offer.currency,
        breaks=tuple((int(quantity), Decimal(str(price))) for quantity, price in offer.breaks),
        duty_percent=offer.duty_percent,
        delivery_days=0 if offer.on_shelf else offer.delivery_days,
        cut_off=supplier.cut_off,
        doa_days=offer.doa_days,
        warranty_months=offer.warranty_months,
        return_cost=supplier.return_cost,
        on_shelf=bool(offer.on_shelf),
    )


def rates_of(shop: Shop) -> Rates:
    return Rates(
        currency=shop.currency,
        hourly_rate=shop.hourly_rate,
        delay_cost_a_day=shop.delay_cost_a_day,
        warranty_months=shop.warranty_months,
    )


def calendar_of_shop(shop: Shop, today: dt.date | None = None) -> Calendar:
    """Raises BadInput for a shop that is closed on every day to come."""
    return calendar_of(shop.hours, [dt.date.fromisoformat(day) for day in shop.closed_on], today)


def local_now() -> dt.datetime:
    """The shop's clock, as the core takes it."""
    return timezone.now().astimezone(zone()).replace(tzinfo=None)


def queue_minutes(job: Job) -> float:
    """Estimated work of the other jobs that are here and wait for nothing outside."""
    waiting = Job.objects.filter(subject="device", closed_at=None, waiting_for="").exclude(pk=job.pk)
    rows = waiting.values("build", "device_type").annotate(jobs=Count("id")).order_by()
    return reduce(
        lambda sum_, row: sum_ + row["jobs"] * minutes_of(row["build"], row["device_type"]).minutes, rows, 0.0
    )


def work_of(job: Job) -> Work:
    estimate = minutes_for(job)
    return Work(minutes=estimate.minutes, queue_minutes=queue_minutes(job), cure_hours=estimate.cure_hours)


def supplier_records(suppliers: Iterable[str]) -> dict[str, SupplierRecord]:
    """What the shop's own orders tell of each supplier."""
    names = list(suppliers)
    late: dict[str, list[int]] = defaultdict(list)
    orders = Order.objects.filter(supplier__name__in=names, late_days__isnull=False).order_by("-id")[:MOST_ORDERS]
    for name, days in orders.values_list("supplier__name", "late_days"):
        late[name].append(days or 0)
    good: dict[str, dict[str, int]] = defaultdict(dict)
    dead: dict[str, dict[str, int]] = defaultdict(dict)
    lines = OrderLine.objects.filter(order__supplier__name__in=names).exclude(outcome="")
    counts = lines.values("order__supplier__name", "offer__grade", "outcome").annotate(lines=Count("id")).order_by()
    for row in counts:
        into = good if row["outcome"] == "good" else dead
        of_supplier, grade = into[row["order__supplier__name"]], row["offer__grade"] or "unknown"
        of_supplier[grade] = of_supplier.get(grade, 0) + row["lines"]
    return {name: SupplierRecord(lateness=tuple(late[name]), good=good[name], dead=dead[name]) for name in names}


def dead_rates_of(offers: Iterable[Offer]) -> dict[int, float]:
    """By offer the share of its supplier's panels of that grade that arrive dead or marked, as its own orders tell."""
    known = list(offers)
    records = supplier_records({offer.supplier.name for offer in known})
    told = {}
    for offer in known:
        grade = next((one for one in GRADES if one == offer.grade), None)
        told[offer.pk] = round(dead_rate(grade, records[offer.supplier.name]).mean, 3)
    return told


def in_parcels(job: Job, suppliers: Iterable[str]) -> dict[str, list[Decimal]]:
    """Prices of what other jobs wait to order from each supplier: they travel together."""
    told: dict[str, list[Decimal]] = defaultdict(list)
    lines = OrderLine.objects.filter(order__state=OPEN, order__supplier__name__in=list(suppliers)).exclude(job=job)
    for name, price, quantity in lines.values_list("order__supplier__name", "unit_price", "quantity"):
        told[name] += [price] * quantity
    return dict(told)


def ranked(job: Job, offers: list[Offer], wanted_by: dt.date | None) -> tuple[RankedOffer, ...]:
    """The offers with their cost and their ready day."""
    shop, now = the_shop(), local_now()
    names = {offer.supplier.name for offer in offers}
    return rank_offers(
        [terms_of(offer) for offer in offers],
        supplier_records(names),
        rates_of(shop),
        work_of(job),
        now,
        calendar_of_shop(shop, now.date()),
        wanted_by,
        in_parcels(job, names),
    )
