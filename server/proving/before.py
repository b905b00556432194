"""The same device in earlier jobs: what it was handed over with, what is new since, and what was learnt.

A device is the same by its serial number, printed or in the system; by owner and kind of device where no serial is known, it may be.
"""

import datetime as dt
import re
from typing import Literal, NamedTuple

from django.db.models import Q, QuerySet

from lens.inspecting import Comparison, compare
from lens.progress import not_comparable
from server.common.dates import months_later
from server.inspections.core_adapter import result_of
from server.jobs.models import Job
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


def since_hand_over(job: Job, earlier: Job) -> Comparison | None:
    """As received now against as handed over then; None where one of them was not measured, or the panel is another one."""
    if (job.panel_width, job.panel_height) != (earlier.panel_width, earlier.panel_height):
        return None
    now = result_of(job.runs.filter(stage="inspect").first())
    then = {run.stage: run for run in earlier.runs.all()}
    stage = next((one for one in FINAL if one in then and then[one].result), None)
    if now is None or stage is None:
        return None
    before = result_of(then[stage])
    if before is None:
        return None
    told = conditions_of(earlier)[stage], conditions_of(job).get("inspect")
    apart = not_comparable(told[0], told[1]) if told[1] is not None else ()
    return compare(before, now, apart)


def lessons_for(job: Job) -> list[tuple[Job, str]]:
    """What was learnt at the last closed jobs of the same device of the register, or of the same panel."""
    same = Q(device_id=job.device_id) if job.device_id else Q()
    if job.wanted_panel_id:
        same |= Q(wanted_panel_id=job.wanted_panel_id)
    if not same:
        return []
    told = Job.objects.filter(same, closed_at__isnull=False).exclude(lesson="").exclude(pk=job.pk)
    return [(one, one.lesson) for one in told.order_by("-closed_at")[:3]]
