"""Photos of a run are read in the background as they come, then the whole set is fused anew."""

import logging
import time

from django.db import transaction
from django.db.models import F, Q
from procrastinate.contrib.django import app

from lens.errors import BadInput
from lens.photo import PhotoRead
from lens.records import Inspection
from server.common.notify import MEASURED, notify
from server.common.queue import FAILED, MOST_TRIES, PASSING, Work
from server.inspections import core_adapter, judged
from server.inspections.judging import judge_runs
from server.inspections.looking_back import look_back_from
from server.inspections.models import Photo, Run
from server.jobs.models import Job

log = logging.getLogger("clear_lens.tasks")
READING = Work(Run, "run", "run_id")
INTERIM_SHARE = 3.0  # times as long as the last fusion took are read first: many photos are not fused after each
INTERIM_S = (
    4.0  # so long reading may take until what is known so far is shown; small sets are read sooner, and fused but once
)


def enqueue(run: Run) -> None:
    """Have the run's photos read and fused."""
    READING.ask(run.pk)


@app.task(name="analyse_run")
def analyse_run(run_id: int) -> None:
    run = Run.objects.select_related("job").get(pk=run_id)
    asked = READING.begin(run_id)
    _set_status(run, "working")
    try:
        # what ended a reader before is read last, so that it keeps no other waiting
        unread = list(run.photos.filter(removed=False, report__isnull=True).order_by("tries", "id"))
        told, pause_s = time.monotonic(), INTERIM_S
        for n, photo in enumerate(unread, 1):
            _read_one(photo, run)
            began = time.monotonic()
            if n < len(unread) and began - told > pause_s and READING.may_try(run_id):
                _store_so_far(run, [one.pk for one in unread[:n]])
                READING.survived(run_id)
                told = time.monotonic()
                pause_s = max(INTERIM_S, INTERIM_SHARE * (told - began))
        photos = list(run.photos.filter(removed=False).order_by("id"))
        for photo in photos:
            core_adapter.read(photo, run)  # what another process read before, and this one has not in memory
        if not READING.may_try(run_id):
            log.error("the analysis of run %s has ended its process %s times and is given up", run_id, MOST_TRIES)
            _give_up(run, asked)
            return
        _store(run, photos, core_adapter.fuse(photos, run) if photos else None)
        _look_back(run)
        READING.settle(run_id, asked)
    except PASSING:
        raise
    except Exception:
        _give_up(run, asked)
        raise


def _store_so_far(run: Run, read: list[int]) -> None:
    """What the photos show that are read already: a set of large ones takes a minute. It is no verdict yet, and does not enter the record."""
    photos = list(run.photos.filter(Q(pk__in=read) | Q(report__isnull=False), removed=False).order_by("id"))
    _store(run, photos, core_adapter.fuse(photos, run), whole=False)


def _look_back(run: Run) -> None:
    """What it alone shows is looked up in the look before it; a closed device is held to a new dry fit anew."""
    held = Run.objects.filter(job_id=run.job_id, stage="closed") if run.stage == "dry_fit" else Run.objects.none()
    for one in (*Run.objects.filter(pk=run.pk).select_related("job"), *held.select_related("job")):
        if look_back_from(one):
            notify(one.job_id, "run", one.pk, facets=(*MEASURED, "before"))


def _give_up(run: Run, asked: int) -> None:
    """Say that it failed; it is asked for again by a person or by the next photo."""
    with transaction.atomic():
        READING.settle(run.pk, asked)
        run.photos.filter(status="reading").update(status="queued")
        _set_status(run, FAILED)


def _set_status(run: Run, status: str) -> None:
    with transaction.atomic():
        Run.objects.filter(pk=run.pk).update(status=status)
        notify(run.job_id, "run", run.pk)


def _read_one(photo: Photo, run: Run) -> None:
    """Read one photo, so that its owner sees at once whether it is any good; the fusion writes the full report."""
    Photo.objects.filter(pk=photo.pk).update(status="reading", tries=F("tries") + 1)
    notify(run.job_id, "photo", run.pk, photo=photo.pk)
    told = core_adapter.read(photo, run)
    with transaction.atomic():
        Photo.objects.filter(pk=photo.pk).update(tries=0)
        if isinstance(told, BadInput):
            Photo.objects.filter(pk=photo.pk).update(status="refused", tries=photo.tries)
            notify(run.job_id, "photo", run.pk, photo=photo.pk)
        elif isinstance(told, PhotoRead):
            # the bench steps on when a good photo of what is shown has come
            notify(run.job_id, "photo", run.pk, photo=photo.pk, pattern=told.pattern.id, good=not told.problems)


def _store(run: Run, photos: list[Photo], result: Inspection | None, whole: bool = True) -> None:
    """``whole``: all photos of the run are read; else this is what is known so far."""
    with transaction.atomic():
        # job, profile and decisions may have changed while the photos were read; whoever locks both locks the job first
        Job.objects.select_for_update().get(pk=run.job_id)
        locked = Run.objects.select_for_update(of=("self",)).select_related("job").get(pk=run.pk)
        result = core_adapter.judged(locked, result) if result is not None else None
        if result is not None:
            for photo, report in zip(photos, result.photos, strict=True):
                core_adapter.store_report(photo, report)
                photo.status = "read" if report.used else "refused"
                photo.save(update_fields=["report", "status"])
        core_adapter.store_result(locked, result)
        if whole:
            locked.status = "done" if result else "empty"
        locked.save(update_fields=["result", "status"])
        if whole:
            judged.enter(locked)
        if whole and locked.stage == "dry_fit":
            judge_runs(Run.objects.filter(job_id=run.job_id, stage="closed"))
        notify(run.job_id, "run", run.pk)


READING.task = analyse_run
