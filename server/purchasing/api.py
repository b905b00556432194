"""Orders, quotes and promises."""

import datetime as dt
from decimal import Decimal
from typing import Literal

from django.db.models import Avg, Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from lens.purchasing import Quote as CoreQuote
from lens.purchasing import QuoteLine, quote_text
from server.jobs.models import Job
from server.purchasing import orders, quotes
from server.purchasing.core_adapter import local_now
from server.purchasing.models import CANCELLED, Order, OrderLine, Quote
from server.purchasing.state import BuyingState, OrderOut, QuoteOut, buying_state, order_out, quote_out
from server.shop.actions import the_shop
from server.verdicts.look import JobLook

router = Router(tags=["purchasing"])
MOST_LISTED = 200


class OrderIn(Schema):
    collect: bool = False


class Advance(Schema):
    what: Literal["ordered", "shipped", "arrived", "cancelled"]
    on: dt.date | None = None
    note: str = Field(default="", max_length=300)


class Outcome(Schema):
    outcome: Literal["good", "dead", "marked"]
    note: str = Field(default="", max_length=300)


class QuoteIn(Schema):
    lines: list[QuoteLine] = Field(min_length=1, max_length=40)
    device_worth: Decimal | None = Field(default=None, ge=0, lt=1_000_000)
    valid_days: int | None = Field(default=None, ge=1, le=365)


class QuoteDraft(Schema):
    lines: list[QuoteLine]


class AnswerIn(Schema):
    answer: Literal["yes", "no"]
    by: str = Field(max_length=120)
    how: Literal["in_person", "phone", "mail", "message"]


class PromiseIn(Schema):
    day: dt.date
    because: str = Field(default="", max_length=300)


class SupplierFigures(Schema):
    """What the shop's own orders tell: ``late_days`` on average, panels that ``arrived`` and were looked at, and those ``dead`` or marked."""

    supplier_id: int
    orders: int
    late_days: float | None
    arrived: int
    dead: int


class OrderPage(Schema):
    orders: list[OrderOut]
    more: bool


def _state(job_id: int) -> BuyingState:
    return buying_state(JobLook.at(job_id))


@router.post("/jobs/{job_id}/buying/order", response=BuyingState, operation_id="orderForJob")
def order_for_job(request: HttpRequest, job_id: int, body: OrderIn) -> BuyingState:
    orders.order_for_job(request.user, job_id, body.collect)
    return _state(job_id)


@router.get("/jobs/{job_id}/buying/quote", response=QuoteDraft, operation_id="draftQuote")
def draft_quote(request: HttpRequest, job_id: int) -> QuoteDraft:
    """The lines that a quote of the chosen offer begins with."""
    return QuoteDraft(lines=list(quotes.draft_lines(get_object_or_404(Job, pk=job_id))))


@router.post("/jobs/{job_id}/buying/quote", response=BuyingState, operation_id="makeQuote")
def make_quote(request: HttpRequest, job_id: int, body: QuoteIn) -> BuyingState:
    quotes.make_quote(request.user, job_id, tuple(body.lines), body.device_worth, body.valid_days)
    return _state(job_id)


@router.post("/jobs/{job_id}/buying/quotes/{quote_id}/answer", response=BuyingState, operation_id="answerQuote")
def answer_quote(request: HttpRequest, job_id: int, quote_id: int, body: AnswerIn) -> BuyingState:
    quotes.answer_quote(request.user, job_id, quote_id, body.answer, body.by, body.how)
    return _state(job_id)


@router.get("/jobs/{job_id}/buying/quotes/{quote_id}.txt", operation_id="quoteText")
def quote_as_text(request: HttpRequest, job_id: int, quote_id: int) -> HttpResponse:
    """A quote as text to send."""
    quote = get_object_or_404(Quote.objects.select_related("job"), pk=quote_id, job_id=job_id)
    told = CoreQuote.model_validate(quote.content)
    text = quote_text(told, the_shop().name, quote.job.title, quote.job.complaint)
    return HttpResponse(text, content_type="text/plain; charset=utf-8")


@router.get("/jobs/{job_id}/buying/quotes", response=list[QuoteOut], operation_id="listQuotes")
def list_quotes(request: HttpRequest, job_id: int) -> list[QuoteOut]:
    return [quote_out(quote) for quote in Quote.objects.filter(job_id=job_id).select_related("made_by")]


@router.post("/jobs/{job_id}/buying/promise", response=BuyingState, operation_id="promiseDay")
def promise_day(request: HttpRequest, job_id: int, body: PromiseIn) -> BuyingState:
    quotes.promise_day(request.user, job_id, body.day, body.because)
    return _state(job_id)


@router.get("/orders", response=OrderPage, operation_id="listOrders")
def list_orders(
    request: HttpRequest, state: Literal["coming", "late", "arrived", "all"] = "coming", before: int | None = None
) -> OrderPage:
    """Orders, the newest first, page by page: ``before`` is the last number of the page before."""
    found = Order.objects.select_related("supplier").prefetch_related("lines__offer__panel", "lines__job", "events__by")
    if state == "arrived":
        found = found.filter(state="arrived")
    elif state != "all":
        found = found.exclude(state__in=("arrived", CANCELLED))
    if state == "late":
        found = found.filter(due_on__lt=local_now().date())
    if before is not None:
        found = found.filter(pk__lt=before)
    page = list(found[: MOST_LISTED + 1])
    return OrderPage(orders=[order_out(order) for order in page[:MOST_LISTED]], more=len(page) > MOST_LISTED)


@router.get("/supplier-figures", response=list[SupplierFigures], operation_id="supplierFigures")
def supplier_figures(request: HttpRequest) -> list[SupplierFigures]:
    orders_of = Order.objects.filter(late_days__isnull=False).values("supplier").order_by()
    late = {
        row["supplier"]: (row["orders"], row["late"])
        for row in orders_of.annotate(orders=Count("id"), late=Avg("late_days"))
    }
    looked_at = OrderLine.objects.exclude(outcome="").values("order__supplier").order_by()
    bad = Count("id", filter=~Q(outcome="good"))
    seen = {
        row["order__supplier"]: (row["arrived"], row["bad"]) for row in looked_at.annotate(arrived=Count("id"), bad=bad)
    }
    told = []
    for pk in sorted({*late, *seen}):
        (orders_, late_days), (arrived, dead) = late.get(pk, (0, None)), seen.get(pk, (0, 0))
        told.append(SupplierFigures(supplier_id=pk, orders=orders_, late_days=late_days, arrived=arrived, dead=dead))
    return told


@router.get("/orders.csv", operation_id="exportOrders")
def export_orders(request: HttpRequest) -> HttpResponse:
    """All orders, a line for each panel."""
    from server.purchasing.table import orders_csv

    lines = OrderLine.objects.select_related("order__supplier", "offer__panel").order_by("order_id", "id")
    headers = {"Content-Disposition": 'attachment; filename="orders.csv"'}
    return HttpResponse(orders_csv(lines.iterator()), content_type="text/csv; charset=utf-8", headers=headers)


@router.post("/orders/{order_id}", response=OrderOut, operation_id="advanceOrder")
def advance_order(request: HttpRequest, order_id: int, body: Advance) -> OrderOut:
    return order_out(orders.advance(request.user, order_id, body.what, body.on, body.note))


@router.post("/orders/lines/{line_id}", response=OrderOut, operation_id="judgeLine")
def judge_line(request: HttpRequest, line_id: int, body: Outcome) -> OrderOut:
    return order_out(orders.judge_line(request.user, line_id, body.outcome, body.note).order)
