"""Which runs may still grow: those of open jobs, and a re-test that was asked for, which is done after the device was handed over."""

from django.db.models import Q, QuerySet

from lens.errors import BadInput
from server.inspections.models import Run
from server.jobs.actions import JOB_CLOSED, lock_open_job
from server.jobs.models import Job

_RETEST = Q(job__rechecks__isnull=False, job__rechecks__settled_at=None)


def lock_stage(job_id: int, stage: str) -> Job:
    """The job, locked for this transaction, when a stage of it may still grow; raises BadInput otherwise."""
    if stage == "recheck":
        asked = Job.objects.filter(pk=job_id, rechecks__settled_at=None, rechecks__isnull=False)
        job = Job.objects.select_for_update().filter(pk__in=asked.values("pk")).first()
        if job is not None:
            return job
    return lock_open_job(job_id)


def growing(run_id: int) -> QuerySet[Run]:
    """The run, when it may still grow, for one atomic update: no lock, no round trip more."""
    retests = Run.objects.filter(_RETEST, stage="recheck").values("pk")
    return Run.objects.filter(Q(job__closed_at=None) | Q(pk__in=retests), pk=run_id)


def refuse_closed(run_id: int) -> None:
    """Raises BadInput where the run is there and may not grow."""
    if Run.objects.filter(pk=run_id).exists():
        raise BadInput(*JOB_CLOSED)
