"""Quotes and promises: what an owner is told, what the owner answered, and what changed since."""

import datetime as dt
from decimal import Decimal
from typing import Literal

from django.db import transaction
from django.utils import timezone

from lens.errors import BadInput
from lens.fitting import look_inside_minutes
from lens.purchasing import Quote as CoreQuote
from lens.purchasing import QuoteLine, money, quote_of
from server.accounts.policy import require
from server.fitting.following import minutes_for
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Offer
from server.purchasing.core_adapter import local_now, ranked
from server.purchasing.models import Promise, Quote
from server.shop.actions import the_shop
from server.shop.models import Shop

HOW = ("in_person", "phone", "mail", "message")
RISKS = ("dead", "delay", "warranty", "duty")


def draft_lines(job: Job) -> tuple[QuoteLine, ...]:
    """What a quote of the chosen offer begins with; empty lines are left out."""
    offer = _chosen(job)
    estimate, shop = minutes_for(job), the_shop()
    lines: list[QuoteLine] = []
    if offer is not None:
        one = ranked(job, [offer], None)[0]
        parts = {part.id: part.amount for part in one.parts}
        lines.append(QuoteLine(kind="part", title="Display", amount=parts.get("price", offer.price)))
        if parts.get("freight"):
            lines.append(QuoteLine(kind="freight", title="Freight", amount=parts["freight"]))
        risk = sum((parts[name] for name in RISKS if name in parts), Decimal(0))
        if risk:
            lines.append(QuoteLine(kind="risk", title="Duty, returns and warranty", amount=risk))
    look = look_inside_minutes(job.build, job.device_type) if job.wanted_panel_id is None else None
    if look is not None:  # the part is known only by its label: opened, closed, and opened again once it is here
        lines.append(_work(shop, "Opening it to read the panel's label, and closing it", look))
    lines.append(_work(shop, "Work", estimate.minutes))
    return tuple(lines)


def _work(shop: Shop, title: str, minutes: float) -> QuoteLine:
    amount = money(shop.hourly_rate * Decimal(str(minutes)) / 60)
    return QuoteLine(kind="work", title=title, amount=amount, minutes=round(minutes))


@transaction.atomic
def make_quote(
    user: Person, job_id: int, lines: tuple[QuoteLine, ...], device_worth: Decimal | None, valid_days: int | None
) -> Quote:
    """Tell an owner a price. A second quote takes the place of the first; its yes does not count for the new price."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    shop, offer = the_shop(), _chosen(job)
    day = chance = None
    if offer is not None:
        one = ranked(job, [offer], None)[0]
        if one.ready is not None and one.ready_on is not None:
            day, chance = one.ready_on, one.ready.by(one.ready_on)
    told = quote_of(
        lines,
        shop.currency,
        shop.tax_percent,
        local_now().date(),
        valid_days or shop.quote_days,
        shop.round_to,
        device_worth,
        day,
        round(chance, 2) if chance is not None else None,
    )
    again = job.quotes.exists()
    quote = Quote.objects.create(job=job, content=told.model_dump(mode="json"), made_by=person)
    words = "A new quote" if again else "Quote"
    write(
        job,
        person.username,
        "quote",
        f"{words}: {told.total} {told.currency}, holds until {told.valid_until:%d %b %Y}.",
        quote=quote.pk,
    )
    return quote


@transaction.atomic
def answer_quote(user: Person, job_id: int, quote_id: int, answer: Literal["yes", "no"], by: str, how: str) -> Quote:
    """Record the owner's answer: who said it and how. Raises BadInput for a quote that is not the newest, is over, or has an answer."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    quote = job.quotes.order_by("-id").first()
    if quote is None or quote.pk != quote_id:
        raise BadInput("There is a newer quote. Tell the owner that one.", "quote_old")
    if quote.answer:
        raise BadInput(
            f"The owner's {quote.answer} is recorded already. Make a new quote if the price changes.", "quote_answered"
        )
    if not by.strip() or how not in HOW:
        raise BadInput("Say who answered, and how: in person, by phone, by mail or by message.", "quote_by")
    told = CoreQuote.model_validate(quote.content)
    if answer == "yes" and told.valid_until < local_now().date():
        raise BadInput(f"The quote held until {told.valid_until:%d %b %Y}. Make a new one.", "quote_over")
    quote.answer, quote.answered_by, quote.answered_how = answer, by.strip()[:120], how
    quote.answered_at, quote.recorded_by = timezone.now(), person
    quote.save()
    write(
        job,
        person.username,
        "quote",
        f"The owner's {answer} to {told.total} {told.currency}: {quote.answered_by}, {how.replace('_', ' ')}.",
        quote=quote.pk,
    )
    return quote


@transaction.atomic
def promise_day(user: Person, job_id: int, day: dt.date, because: str = "") -> Promise:
    """Tell the owner a day. A later one than before needs its reason, which the owner is told."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if day < local_now().date():
        raise BadInput("That day is over. Promise today or a later one.", "promise_over")
    before = job.promises.order_by("-id").first()
    if before is not None and before.day == day:
        return before
    if before is not None and day > before.day and not because.strip():
        raise BadInput(
            "The owner was told an earlier day. Say why it takes longer; the owner is told that.", "promise_because"
        )
    offer = _chosen(job)
    ready = ranked(job, [offer], day)[0].ready if offer is not None else None
    chance = round(ready.by(day), 2) if ready is not None else None
    promise = Promise.objects.create(job=job, day=day, chance=chance, because=because.strip()[:300], made_by=person)
    Job.objects.filter(pk=job.pk).update(due_on=day)
    kept = f", kept in {round(100 * chance)} of 100 cases" if chance is not None else ""
    moved = f" {_moved(before.day, promise)}" if before is not None else ""
    write(
        job,
        person.username,
        "promise",
        f"Promised for {day:%d %b %Y}{kept}.{moved}",
        day=day.isoformat(),
        chance=chance,
    )
    return promise


def _moved(before: dt.date, promise: Promise) -> str:
    """How a promise changed, as it is told: 'Two days later, because ...'."""
    days = (promise.day - before).days
    count = f"{abs(days)} day{'s' if abs(days) > 1 else ''} {'later' if days > 0 else 'earlier'}"
    return f"{count}, because {promise.because}" if promise.because else f"{count}."


def _chosen(job: Job) -> Offer | None:
    return Offer.objects.select_related("supplier", "panel").filter(pk=job.chosen_offer_id or 0).first()
