"""Work in the background: photos of a run are read as they come, then the whole set is fused anew.

One job a run is queued at most; while one runs, another may wait and will see what came meanwhile. A job whose worker died
is taken up again, and since results are written by value, it changes nothing that was right.
"""

import logging

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from lens.errors import BadInput
from lens.photo import PhotoRead
from lens.records import Inspection
from server.common.notify import notify
from server.inspections import core_adapter
from server.inspections.models import Photo, Run

log = logging.getLogger("clear_lens.tasks")
STALLED_AFTER_S = 30
FAILED = "failed"  # an error that nobody expected; the log and the queue have it


def enqueue(run: Run) -> None:
    """Have the run's photos read and fused; does nothing when that is queued already."""
    try:
        with transaction.atomic():  # a refused second row must not break the action's own transaction
            analyse_run.configure(lock=f"run-{run.pk}", queueing_lock=f"run-{run.pk}").defer(run_id=run.pk)
    except AlreadyEnqueued:
        pass


@app.task(name="analyse_run")
def analyse_run(run_id: int) -> None:
    run = Run.objects.select_related("job").get(pk=run_id)
    _set_status(run, "working")
    try:
        for photo in run.photos.filter(removed=False, report=None).order_by("id"):
            _read_one(photo, run)
        photos = list(run.photos.filter(removed=False).order_by("id"))
        _store(run, photos, core_adapter.fuse(photos, run) if photos else None)
    except Exception:
        _set_status(run, FAILED)
        raise


def _set_status(run: Run, status: str) -> None:
    with transaction.atomic():
        Run.objects.filter(pk=run.pk).update(status=status)
        notify(run.job_id, "run", run.pk)


def _read_one(photo: Photo, run: Run) -> None:
    """Read one photo, so that its owner sees at once whether it is any good; the fusion writes the full report."""
    Photo.objects.filter(pk=photo.pk).update(status="reading")
    notify(run.job_id, "photo", run.pk, photo=photo.pk)
    told = core_adapter.read(photo, run)
    with transaction.atomic():
        if isinstance(told, BadInput):
            Photo.objects.filter(pk=photo.pk).update(status="refused")
            notify(run.job_id, "photo", run.pk, photo=photo.pk)
        elif isinstance(told, PhotoRead):
            # the bench steps on when a good photo of what is shown has come
            notify(run.job_id, "photo", run.pk, photo=photo.pk, pattern=told.pattern.id, good=not told.problems)


def _store(run: Run, photos: list[Photo], result: Inspection | None) -> None:
    with transaction.atomic():
        # job, profile and decisions may have changed while the photos were read
        locked = Run.objects.select_for_update(of=("self",)).select_related("job").get(pk=run.pk)
        result = core_adapter.judged(locked, result) if result is not None else None
        if result is not None:
            for photo, report in zip(photos, result.photos, strict=True):
                photo.report = report.model_dump(mode="json")
                photo.status = "read" if report.used else "refused"
                photo.save(update_fields=["report", "status"])
        locked.result = result.model_dump(mode="json") if result else None
        locked.status = "done" if result else "empty"
        locked.save(update_fields=["result", "status"])
        notify(run.job_id, "run", run.pk)


@app.periodic(cron="* * * * *")
@app.task(name="take_up_stalled", queueing_lock="take_up_stalled", pass_context=False)
async def take_up_stalled(timestamp: int) -> None:
    """Jobs whose worker has sent no heartbeat are run again."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER_S):
        log.warning("taking up job %s of a worker that died", job.id)
        await app.job_manager.retry_job(job)
