"""Ordering: lines that are collected, parcels that are ordered, travel and arrive, and what was in them."""

import datetime as dt

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.purchasing import order_day
from server.accounts.policy import require
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.actions import match_offer
from server.parts.models import Offer
from server.purchasing.core_adapter import calendar_of_shop, local_now, terms_of
from server.purchasing.models import ARRIVED, CANCELLED, OPEN, ORDERED, OUTCOMES, SHIPPED, Order, OrderEvent, OrderLine
from server.shop.actions import the_shop

FOR_A_PART = "part"  # what a job waits for meanwhile
NEXT = {OPEN: (ORDERED, CANCELLED), ORDERED: (SHIPPED, ARRIVED, CANCELLED), SHIPPED: (ARRIVED, CANCELLED)}
WORDS = {ORDERED: "ordered", SHIPPED: "shipped", ARRIVED: "arrived", CANCELLED: "cancelled"}


def live_line(job: Job) -> OrderLine | None:
    """The line that is on its way for a job, or came and was not dead."""
    lines = OrderLine.objects.filter(job=job).exclude(order__state=CANCELLED).exclude(outcome="dead")
    return lines.select_related("order__supplier", "offer__panel").order_by("-id").first()


@transaction.atomic
def order_for_job(user: Person, job_id: int, collect: bool = False) -> Order:
    """Order the chosen offer with what else waits for that supplier; with ``collect`` it waits there for the next order.

    Raises BadInput where nothing is chosen, the offer was withdrawn, or somebody ordered for this job already.
    """
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if job.chosen_offer_id is None:
        raise BadInput("Choose an offer first.", "no_offer")
    offers = Offer.objects.select_for_update(of=("self",)).select_related("supplier", "panel")
    offer = offers.get(pk=job.chosen_offer_id)
    known = live_line(job)
    if known is not None:
        by = known.order.events.order_by("id").values_list("by__username", flat=True).first()
        raise BadInput(
            f"Ordered already: {known.offer.panel.name} from {known.order.supplier.name}, by {by}.", "ordered_already"
        )
    if offer.withdrawn:
        raise BadInput("The offer was withdrawn after it was chosen. Choose another one.", "offer_withdrawn")
    risk = match_offer(job, offer).result == "ask"
    if offer.on_shelf is not None:
        return _from_shelf(person, job, offer, risk)
    order = Order.objects.select_for_update().filter(supplier=offer.supplier, state=OPEN).first()
    if order is None:
        order = Order.objects.create(supplier=offer.supplier)
        _log(order, person, "begun", local_now().date())
    OrderLine.objects.create(order=order, offer=offer, job=job, unit_price=offer.price, risk_taken=risk)
    if not collect:
        return advance(person, order.pk, ORDERED)
    write(
        job,
        person.username,
        "order",
        f"On the next order to {offer.supplier.name}: {offer.panel.name}.",
        order=order.pk,
    )
    _waits(job, True)
    return order


def _from_shelf(person: User, job: Job, offer: Offer, risk: bool) -> Order:
    """What lies here needs no order: it is there, and one less lies on the shelf."""
    if not offer.on_shelf:
        raise BadInput("None is left on the shelf. Choose another offer.", "shelf_empty")
    today = local_now().date()
    order = Order.objects.create(
        supplier=offer.supplier, state=ARRIVED, ordered_on=today, due_on=today, arrived_on=today
    )
    OrderLine.objects.create(order=order, offer=offer, job=job, unit_price=offer.price, risk_taken=risk)
    Offer.objects.filter(pk=offer.pk).update(on_shelf=offer.on_shelf - 1, withdrawn=offer.on_shelf == 1)
    _log(order, person, ARRIVED, today, "from the shelf")
    write(job, person.username, "order", f"Taken from the shelf: {offer.panel.name}.", order=order.pk)
    return order


@transaction.atomic
def advance(user: Person, order_id: int, what: str, on: dt.date | None = None, note: str = "") -> Order:
    """An order goes on: ordered, shipped, arrived, cancelled, on a day (today where none is given). Raises BadInput for what does not follow."""
    person = require(user, "job.change")
    order = get_object_or_404(Order.objects.select_for_update(of=("self",)).select_related("supplier"), pk=order_id)
    day = on or local_now().date()
    _check_step(order, what, day)
    order.state = what
    if what == ORDERED:
        order.ordered_on = day
        order.due_on = _named_day(order)
    elif what == SHIPPED:
        order.shipped_on = day
    elif what == ARRIVED:
        order.arrived_on = day
        order.late_days = _business_days(order.due_on, day) if order.due_on else None
    order.save()
    _log(order, person, what, day, note)
    for line in order.lines.select_related("job", "offer__panel"):
        if line.job is not None and line.job.closed_at is None:
            job = Job.objects.select_for_update().get(pk=line.job.pk)
            due = f", due {order.due_on:%d %b}" if what == ORDERED and order.due_on else ""
            text = f"{line.offer.panel.name} from {order.supplier.name}: {WORDS[what]} on {day:%d %b}{due}."
            write(job, person.username, "order", text, order=order.pk, state=what)
            _waits(job, what in (ORDERED, SHIPPED))
    return order


def _check_step(order: Order, what: str, day: dt.date) -> None:
    if what == order.state:
        at = {ORDERED: order.ordered_on, SHIPPED: order.shipped_on, ARRIVED: order.arrived_on}.get(what)
        raise BadInput(f"This order is {WORDS[what]} already{f', on {at:%d %b %Y}' if at else ''}.", "order_state")
    if what not in NEXT.get(order.state, ()):
        raise BadInput(
            f"An order that is {WORDS.get(order.state, 'open')} cannot become {WORDS.get(what, what)}.", "order_state"
        )
    if day > local_now().date():
        raise BadInput("That day is still to come. Give the day on which it happened.", "order_day")
    if what != ORDERED and order.ordered_on and day < order.ordered_on:
        raise BadInput(f"It was ordered on {order.ordered_on:%d %b %Y}. Give that day or a later one.", "order_day")


def _named_day(order: Order) -> dt.date | None:
    """The day that the supplier names: its longest delivery, counted from the cut-off time on."""
    lines = list(order.lines.select_related("offer__supplier"))
    if not lines or order.ordered_on is None:
        return None
    now = local_now()
    moment = now if order.ordered_on == now.date() else dt.datetime.combine(order.ordered_on, dt.time(12))
    calendar = calendar_of_shop(the_shop())
    days = max(line.offer.delivery_days for line in lines)
    start = order_day(terms_of(lines[0].offer), moment, calendar)
    return dt.date.fromisoformat(str(np.busday_offset(start, days, roll="forward", busdaycal=calendar.carrier)))


def _business_days(named: dt.date, came: dt.date) -> int:
    calendar = calendar_of_shop(the_shop()).carrier
    first, last = np.datetime64(named), np.datetime64(came)
    return int(np.busday_count(first, last, busdaycal=calendar))


@transaction.atomic
def judge_line(user: Person, line_id: int, outcome: str, note: str = "") -> OrderLine:
    """What the buyer saw of a panel at arrival: good, dead or marked. Raises BadInput before it arrived."""
    person = require(user, "job.change")
    line = get_object_or_404(
        OrderLine.objects.select_for_update(of=("self",)).select_related("order__supplier", "offer__panel", "job"),
        pk=line_id,
    )
    if outcome not in OUTCOMES:
        raise BadInput(f"Say whether it is {', '.join(OUTCOMES)}.", "unknown_outcome")
    if line.order.state != ARRIVED:
        raise BadInput("It has not arrived yet. Mark the order as arrived first.", "not_arrived")
    line.outcome, line.note = outcome, note.strip()[:300]
    line.save(update_fields=["outcome", "note"])
    _log(line.order, person, outcome, local_now().date(), line.note)
    if line.job is not None and line.job.closed_at is None:
        said = f" {line.note}" if line.note else ""
        write(
            line.job,
            person.username,
            "order",
            f"Arrived {outcome}: {line.offer.panel.name}.{said}",
            order=line.order_id,
            outcome=outcome,
        )
    return line


def _log(order: Order, person: User, what: str, on: dt.date, note: str = "") -> None:
    OrderEvent.objects.create(order=order, what=what, on=on, by=person, note=note[:300])


def _waits(job: Job, for_a_part: bool) -> None:
    """A job whose panel is on its way waits for it; what a person said it waits for stays."""
    if for_a_part and not job.waiting_for:
        Job.objects.filter(pk=job.pk).update(waiting_for=FOR_A_PART, stale=True)
    elif not for_a_part and job.waiting_for == FOR_A_PART:
        Job.objects.filter(pk=job.pk).update(waiting_for="", stale=True)
