"""What a job's screen shows of buying: offers ranked, the order, the quote, the promise."""

import datetime as dt
from decimal import Decimal
from typing import Literal, cast

from ninja import Schema

from lens.purchasing import CostPart, RankedOffer
from lens.purchasing import Quote as CoreQuote
from server.parts.actions import match_offers
from server.parts.models import Offer
from server.purchasing.core_adapter import local_now, ranked, work_of
from server.purchasing.models import ARRIVED, CANCELLED, Order, Promise, Quote
from server.purchasing.orders import live_line
from server.verdicts.look import JobLook

OrderState = Literal["open", "ordered", "shipped", "arrived", "cancelled"]


class RankedOut(Schema):
    """See `lens.purchasing.RankedOffer`; the spread of days is left out."""

    offer_id: int
    cost: Decimal | None
    parts: list[CostPart]
    ready_on: dt.date | None
    chance_in_time: float | None
    dead_rate: float | None
    dead_range: tuple[float, float] | None
    orders: int
    best: bool
    problem: str


class LineOut(Schema):
    id: int
    panel: str
    job_id: int | None
    job_title: str
    quantity: int
    unit_price: Decimal
    outcome: str
    note: str
    risk_taken: bool


class EventOut(Schema):
    what: str
    on: dt.date
    by: str
    note: str


class OrderOut(Schema):
    id: int
    supplier: str
    state: OrderState
    ordered_on: dt.date | None
    shipped_on: dt.date | None
    due_on: dt.date | None
    arrived_on: dt.date | None
    late: bool
    lines: list[LineOut]
    events: list[EventOut]


class QuoteOut(Schema):
    id: int
    quote: CoreQuote
    made_by: str
    answer: str
    answered_by: str
    answered_how: str
    over: bool


class PromiseOut(Schema):
    day: dt.date
    chance: float | None
    because: str
    made_by: str


class BuyingState(Schema):
    """``chance_now``: that the promised day is kept as things stand; None where nothing is chosen or promised."""

    minutes: float
    queue_minutes: float
    cure_hours: float
    wanted_by: dt.date | None
    ranked: list[RankedOut]
    order: OrderOut | None
    quote: QuoteOut | None
    promises: list[PromiseOut]
    chance_now: float | None


def order_out(order: Order) -> OrderOut:
    lines = [
        LineOut(
            id=line.pk,
            panel=line.offer.panel.name,
            job_id=line.job.pk if line.job else None,
            job_title=line.job.title if line.job else "",
            quantity=line.quantity,
            unit_price=line.unit_price,
            outcome=line.outcome,
            note=line.note,
            risk_taken=line.risk_taken,
        )
        for line in order.lines.all()
    ]
    events = [EventOut(what=e.what, on=e.on, by=e.by.username, note=e.note) for e in order.events.all()]
    travels = order.state not in (ARRIVED, CANCELLED)
    return OrderOut(
        id=order.pk,
        supplier=order.supplier.name,
        state=cast(OrderState, order.state),
        ordered_on=order.ordered_on,
        shipped_on=order.shipped_on,
        due_on=order.due_on,
        arrived_on=order.arrived_on,
        late=travels and order.due_on is not None and order.due_on < local_now().date(),
        lines=lines,
        events=events,
    )


def quote_out(quote: Quote) -> QuoteOut:
    told = CoreQuote.model_validate(quote.content)
    return QuoteOut(
        id=quote.pk,
        quote=told,
        made_by=quote.made_by.username,
        answer=quote.answer,
        answered_by=quote.answered_by,
        answered_how=quote.answered_how,
        over=not quote.answer and told.valid_until < local_now().date(),
    )


def _promise_out(promise: Promise) -> PromiseOut:
    return PromiseOut(day=promise.day, chance=promise.chance, because=promise.because, made_by=promise.made_by.username)


def buying_state(look: JobLook) -> BuyingState:
    """Offers that may fit, ranked; an open job's only, since a closed one buys nothing."""
    job = look.job
    promises = list(job.promises.select_related("made_by"))
    wanted_by = promises[-1].day if promises else job.due_on
    work = work_of(job)
    told: tuple[RankedOffer, ...] = ()
    if job.wanted_panel is not None and job.closed_at is None:
        offers = Offer.objects.filter(withdrawn=False) | Offer.objects.filter(pk=job.chosen_offer_id or 0)
        found = list(offers.select_related("panel", "supplier"))
        told = ranked(job, [offer for offer, fit in match_offers(job, found) if fit.result != "stop"], wanted_by)
    quote = job.quotes.select_related("made_by").order_by("-id").first()
    line = live_line(job)
    chosen = next((one for one in told if one.offer_id == job.chosen_offer_id), None)
    return BuyingState(
        minutes=work.minutes,
        queue_minutes=work.queue_minutes,
        cure_hours=work.cure_hours,
        wanted_by=wanted_by,
        ranked=[RankedOut(**one.model_dump(exclude={"ready"})) for one in told],
        order=order_out(line.order) if line else None,
        quote=quote_out(quote) if quote else None,
        promises=[_promise_out(promise) for promise in promises],
        chance_now=chosen.chance_in_time if chosen and promises else None,
    )
