"""Having a file read, and taking in what a table says."""

import datetime as dt
from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.errors import BadInput
from lens.matching import VALUE_SOURCES
from lens.photo_file import MAX_BYTES
from lens.tables import not_known
from server.accounts.policy import require
from server.jobs.actions import Person
from server.jobs.models import Job
from server.readings.models import BACK, LABEL, OFFERS, PANELS, PHOTOS, TABLES, Reading
from server.readings.tasks import READING

KINDS = (LABEL, BACK, PANELS, OFFERS)
MOST_CSV_BYTES = 40 * 1024 * 1024
MOST_WAITING = 10  # of one person; who sends more has a program that runs wild
KEPT = dt.timedelta(days=1)


@transaction.atomic
def send_file(
    user: Person, kind: str, data: bytes, job_id: int | None, source: str, active_mm: tuple[float, float] | None
) -> Reading:
    """Have a file read in the background. Raises BadInput for an unknown kind, a file that is too large, or too many that wait already."""
    person = require(user, "job.change")
    if kind not in KINDS:
        raise not_known("kind of file", kind, KINDS, "unknown_reading")
    if source not in VALUE_SOURCES:
        raise not_known("source", source, VALUE_SOURCES, "unknown_source")
    if kind in PHOTOS and len(data) > MAX_BYTES:
        raise BadInput("The photo is too large.", "photo_size")
    if len(data) > MOST_CSV_BYTES:
        raise BadInput("The file is too large. Send it in parts of at most 100,000 rows.", "csv")
    forget_old()
    sent = Reading.objects.filter(made_by=person)
    if sent.filter(settled=0).count() >= MOST_WAITING:
        raise BadInput("Several of your files are being read. Wait for them first.", "readings_waiting")
    job = get_object_or_404(Job, pk=job_id) if job_id is not None else None
    told: dict[str, Any] = {"source": source} | ({"active_mm": active_mm} if active_mm else {})
    reading = Reading.objects.create(kind=kind, data=data, told=told, job=job, made_by=person)
    READING.ask(reading.pk)
    return mine(user, reading.pk)


@transaction.atomic
def take_in(user: Person, reading_id: int) -> Reading:
    """Take in the table that was looked at. Raises BadInput for what is no table, or is not read yet; a second time changes nothing."""
    mine(user, reading_id)
    reading = Reading.objects.select_for_update().defer("data").get(pk=reading_id)
    if reading.kind not in TABLES or reading.result is None:
        raise BadInput("Only a table that was read can be taken in.", "no_table")
    if not reading.apply:
        Reading.objects.filter(pk=reading.pk).update(apply=True, result=None, rows=0, of=0)
        READING.ask(reading.pk)
    return mine(user, reading_id)


def mine(user: Person, reading_id: int) -> Reading:
    """A file that this person sent; raises Http404 for any other."""
    person = require(user, "job.change")
    return get_object_or_404(Reading.objects.defer("data"), pk=reading_id, made_by=person)


def forget_old() -> None:
    """Files that nobody took in for a day."""
    Reading.objects.filter(made_at__lt=timezone.now() - KEPT).delete()


def forget(user: Person, reading_id: int) -> None:
    """What was read is taken or not wanted: the file goes."""
    mine(user, reading_id).delete()
