"""The same device in earlier jobs: what it was handed over with, what is new since, and what was learnt.

A device is the same by its serial number, printed or in the system; by owner and kind of device where no serial is known, it may be.
"""

import datetime as dt
import re
from collections.abc import Sequence
from typing import Literal, NamedTuple

from django.db import transaction
from django.db.models import Q, QuerySet

from lens.errors import BadInput
from lens.inspecting import Comparison, compare
from lens.progress import not_comparable
from lens.proving import PAYERS, Charge, ComebackFacts, charge, seals_found
from lens.tables import not_known
from server.accounts.policy import require
from server.common.dates import months_later
from server.handchecks.actions import seals_as_found
from server.inspections.core_adapter import result_of
from server.inspections.looking_back import is_due, looked_back
from server.inspections.models import Run
from server.inspections.tasks import enqueue
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.proving.models import Comeback
from server.shop.actions import the_shop
from server.verdicts import conditions_of

FINAL = ("recheck", "closed")
MOST = 5
PLAIN = re.compile(r"[^A-Z0-9]")


class Earlier(NamedTuple):
    """``how``: by serial it is the same device, by owner it may be. ``under_warranty``: None where nothing was granted, or nothing was fitted."""

    job: Job
    how: Literal["serial", "owner"]
    work_until: dt.date | None
    part_until: dt.date | None


def _plain(serial: str) -> str:
    return PLAIN.sub("", serial.upper())


def earlier_jobs(job: Job) -> list[Earlier]:
    """Closed jobs of the same device, the latest first."""
    serials = {_plain(one) for one in (job.serial_printed, job.serial_system) if len(_plain(one)) >= 4}
    closed = Job.objects.filter(subject="device", closed_at__isnull=False, closed_at__lt=job.created_at).exclude(
        pk=job.pk
    )
    found: list[Earlier] = []
    if serials:
        # serials are compared as they are read, without spaces and dashes: two short columns of all jobs that have any
        named = closed.exclude(serial_printed="", serial_system="").order_by("-closed_at")
        rows = named.values_list("pk", "serial_printed", "serial_system").iterator()
        same = [pk for pk, printed, system in rows if {_plain(printed), _plain(system)} & serials]
        found = [_earlier(one, "serial") for one in _whole(closed.filter(pk__in=same[:MOST]))]
    if not found and job.owner.strip() and job.device_id:
        maybe = closed.filter(owner__iexact=job.owner.strip(), device_id=job.device_id)
        found = [_earlier(one, "owner") for one in _whole(maybe)[:MOST]]
    return found


def _whole(jobs: QuerySet[Job]) -> QuerySet[Job]:
    return jobs.select_related("chosen_offer__panel").prefetch_related("runs", "gates").order_by("-closed_at")


def _earlier(job: Job, how: Literal["serial", "owner"]) -> Earlier:
    day = (job.closed_at or job.created_at).date()
    fitted = any(not row.taken_back and row.gate in ("plug", "panel_in") for row in job.gates.all())
    months = job.chosen_offer.warranty_months if job.chosen_offer and fitted else 0
    work = the_shop().warranty_months if fitted else 0
    return Earlier(job, how, months_later(day, work) if work else None, months_later(day, months) if months else None)


def _handed_over(job: Job, earlier: Job) -> Run | None:
    """The last look at the device before it left then; None where nothing was measured, or its panel is another one now."""
    if (job.panel_width, job.panel_height) != (earlier.panel_width, earlier.panel_height):
        return None
    then = {run.stage: run for run in earlier.runs.all() if run.result}
    # a device that nobody opened, and for which nothing was ordered, left as it was received
    untouched = not earlier.gates.all() and earlier.chosen_offer_id is None
    stages = (*FINAL, "inspect") if untouched else FINAL
    return next((then[one] for one in stages if one in then), None)


def looked_up_in(run: Run) -> Run | None:
    """A device as received is held against how it was handed over at its last job, where it is surely the same one."""
    if run.stage != "inspect" or run.job.subject != "device":
        return None
    one = next((one for one in earlier_jobs(run.job) if one.how == "serial"), None)
    return _handed_over(run.job, one.job) if one is not None else None


def since_hand_over(job: Job, earlier: Job) -> Comparison | None:
    """As received now against as handed over then; None where one of them was not measured, or the panel is another one."""
    run, then = job.runs.filter(stage="inspect").first(), _handed_over(job, earlier)
    now, before = result_of(run), result_of(then)
    if now is None or then is None or before is None:
        return None
    told = conditions_of(earlier)[then.stage], conditions_of(job).get("inspect")
    apart = not_comparable(told[0], told[1]) if told[1] is not None else ()
    return compare(before, now, apart, looked_back(run, before))


def ask_to_look_back(job: Job, earlier: Sequence[Earlier]) -> None:
    """Where the serial number came after the photos: have what is new looked up in the photos of then. A closed job stays as it is."""
    one = next((one for one in earlier if one.how == "serial"), None)
    run = job.runs.select_related("job").filter(stage="inspect", status="done", result__isnull=False).first()
    if one is None or run is None or job.closed_at is not None or job.subject != "device":
        return
    before = result_of(_handed_over(job, one.job))
    if before is not None and is_due(run, before):
        enqueue(run)


# answers that say what happened to a device: (check, outcome)
HAPPENED: dict[tuple[str, str], Literal["drop", "liquid"]] = {
    ("onset", "drop"): "drop",
    ("impact", "glass"): "drop",
    ("impact", "cell"): "drop",
    ("onset", "liquid"): "liquid",
    ("liquid_traces", "some"): "liquid",
}


def proposed(job: Job, one: Earlier, since: Comparison | None) -> Charge:
    """Who pays for this comeback, as far as it can be told."""
    day = job.created_at.date()
    said = {
        HAPPENED[row.check_id, row.outcome]
        for row in job.evidence.all()
        if not row.withdrawn and (row.check_id, row.outcome) in HAPPENED
    }
    return charge(
        ComebackFacts(
            compared=since.result if since else "",
            new_kinds=tuple(finding.kind for finding in since.new) if since else (),
            seals=seals_found(seals_as_found(job, one.job)),
            part_holds=one.part_until is not None and day <= one.part_until,
            work_holds=one.work_until is not None and day <= one.work_until,
            said=tuple(sorted(said)),
        )
    )


@transaction.atomic
def decide_charge(user: Person, job_id: int, earlier_id: int, charged_to: str, reason: str) -> None:
    """Who pays is a person's word. Raises BadInput for a payer that is none, or another one than proposed without a reason."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    one = next((one for one in earlier_jobs(job) if one.job.pk == earlier_id), None)
    if one is None:
        raise BadInput("That is no earlier job of this device. Reload the page.", "no_earlier_job")
    if charged_to not in PAYERS:
        raise not_known("payer", charged_to, PAYERS, "unknown_payer")
    told = proposed(job, one, since_hand_over(job, one.job))
    reason = reason.strip()[:300]
    if charged_to not in (told.payer, "open") and told.payer != "open" and not reason:
        raise BadInput(f"The facts say: {' '.join(told.reasons)} Say why it is decided otherwise.", "charge_reason")
    Comeback.objects.create(
        job=job, earlier=one.job, charged_to=charged_to, reason=reason, proposed=told.model_dump(mode="json"), by=person
    )
    write(
        job,
        person.username,
        "comeback",
        f"Comeback of job {one.job.pk}, charged to: {PAYERS[charged_to]}.{f' {reason}' if reason else ''}",  # type: ignore[index]
        earlier=one.job.pk,
        charged_to=charged_to,
        proposed=told.payer,
        facets=("proving",),
    )


def lessons_for(job: Job) -> list[tuple[Job, str]]:
    """What was learnt at the last closed jobs of the same device of the register, or of the same panel."""
    same = Q(device_id=job.device_id) if job.device_id else Q()
    if job.wanted_panel_id:
        same |= Q(wanted_panel_id=job.wanted_panel_id)
    if not same:
        return []
    told = Job.objects.filter(same, closed_at__isnull=False).exclude(lesson="").exclude(pk=job.pk)
    return [(one, one.lesson) for one in told.order_by("-closed_at")[:3]]
