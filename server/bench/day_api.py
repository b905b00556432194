"""The day at the bench, as it is now: what one person does next and when, around the clocks that run."""

import datetime as dt
from typing import Literal

from django.contrib.auth.models import User
from django.db.models import F, Q
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema

from lens.errors import BadInput
from lens.fitting import Procedure
from lens.planning import DayJob, Piece, pieces_left, plan_day
from server.accounts.policy import require
from server.fitting.actions import clocks_of, log_of, rows_of
from server.fitting.following import minutes_for, procedure_of
from server.fitting.models import GatePassed
from server.jobs.models import Job
from server.purchasing.core_adapter import calendar_of_shop, local_now
from server.purchasing.models import ARRIVED, OrderLine
from server.shop.actions import the_shop, zone

MOST_PLANNED = 40  # a day has no more; those that are due first
# measuring, the functions and the report of a device that is closed; finding out what it is and choosing a panel (common practice)
PROVE_MIN, CHOOSE_MIN = 20.0, 20.0
router = Router(tags=["bench"])


class DaySlotOut(Schema):
    """``until``: when what it then waits for is over; ``whole``: the piece is done by ``ends``, otherwise the shop closes before."""

    job_id: int
    title: str
    piece: str
    begins: dt.datetime
    ends: dt.datetime
    until: dt.datetime | None
    whole: bool


class DayOut(Schema):
    """``late``: titles of jobs that are due and will not be done; ``left_out``: jobs beyond the first ones."""

    slots: list[DaySlotOut]
    late: list[str]
    left_out: int


def _part_here(job: Job, arrived: set[int]) -> bool:
    return job.pk in arrived or bool(job.chosen_offer and job.chosen_offer.on_shelf)


def _planned(job: Job, arrived: set[int], now: dt.datetime) -> DayJob:
    procedure, rows = procedure_of(job), rows_of(job)
    pieces, whole = _pieces(job, procedure, rows, _part_here(job, arrived))
    if whole:
        last = pieces[-1] if pieces else None
        if last is None or last.wait_minutes:
            pieces = (*pieces, Piece(title="Prove and hand over", minutes=PROVE_MIN))
        else:
            pieces = (*pieces[:-1], last.model_copy(update={"minutes": last.minutes + PROVE_MIN}))
    clocks = clocks_of(procedure, rows, now) if procedure is not None else ()
    holds = [one.ends for one in clocks if one.clock.blocks != "power" and one.left_s > 0]
    return DayJob(
        id=job.pk,
        pieces=pieces,
        ready_at=max(holds).astimezone(zone()).replace(tzinfo=None) if holds else None,
        due=job.due_on,
        urgent=job.urgent,
        whole=whole,
    )


def _pieces(
    job: Job, procedure: Procedure | None, rows: list[GatePassed], here: bool
) -> tuple[tuple[Piece, ...], bool]:
    """What is left of it for now, and whether that is all of it."""
    if job.chosen_offer is None and not rows:
        return (Piece(title="Find out and choose the panel", minutes=CHOOSE_MIN),), False
    if procedure is None:
        return (Piece(title="Fit it", minutes=minutes_for(job).minutes),) if here else (), here
    log = log_of(procedure, rows)
    known = {step.id: step for step in procedure.steps}
    here = here or any(one.step in known and known[one.step].needs_part for one in log)
    try:
        return pieces_left(procedure, log, here), here
    except BadInput:  # a way of the shop's own in which nothing is open
        return (Piece(title=procedure.title[:80], minutes=minutes_for(job).minutes),), here


def planned_jobs(person: User, whose: str) -> tuple[list[Job], int]:
    """The jobs of a day, those that are due first, and how many more there are."""
    mine = Q(assigned_to=person) if whose == "mine" else Q()
    found = Job.objects.filter(mine, subject="device", closed_at=None, waiting_for="").order_by(
        F("due_on").asc(nulls_last=True), "-urgent", "id"
    )
    jobs = (
        found.select_related("followed", "chosen_offer")
        .prefetch_related("gates")
        .defer("simulated", "edid", "readings")
    )
    return list(jobs[:MOST_PLANNED]), max(0, found.count() - MOST_PLANNED)


@router.get("/day", response=DayOut, operation_id="getDay")
def day(request: HttpRequest, whose: Literal["mine", "all"] = "mine") -> DayOut:
    """One pair of hands over the rest of the shop's day; nothing that waits for somebody else is planned."""
    person = require(request.user, "job.view")
    jobs, left_out = planned_jobs(person, whose)
    titles = {job.pk: job.title for job in jobs}
    now = local_now().replace(second=0, microsecond=0)
    try:
        calendar = calendar_of_shop(the_shop(), now.date())
    except BadInput:  # closed for months: there is no day to plan
        return DayOut(slots=[], late=[], left_out=0)
    arrived = set(
        OrderLine.objects.filter(job__in=jobs, order__state=ARRIVED)
        .exclude(outcome="dead")
        .values_list("job_id", flat=True)
    )
    plan = plan_day([_planned(job, arrived, timezone.now()) for job in jobs], calendar, now)
    here = zone()
    return DayOut(
        slots=[
            DaySlotOut(
                job_id=one.job,
                title=titles[one.job],
                piece=one.piece,
                begins=one.begins.replace(tzinfo=here),
                ends=one.ends.replace(tzinfo=here),
                until=one.until.replace(tzinfo=here) if one.until else None,
                whole=one.whole,
            )
            for one in plan.slots
        ],
        late=[titles[one] for one in plan.late],
        left_out=left_out,
    )
