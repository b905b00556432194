"""What was measured, judged anew: after a change of profile or decision, or of the dry fit that a closed device is held to."""

from django.db.models import Q, QuerySet

from server.common.notify import notify
from server.inspections import core_adapter, judged
from server.inspections.models import Run
from server.jobs.models import Job


def judge_runs(runs: QuerySet[Run]) -> None:
    """Judge runs anew, and with a dry fit the closed device that is held to it. A set that is being read just now is judged by its worker when it
    is stored."""
    list(
        Job.objects.select_for_update().filter(pk__in=runs.values("job_id")).order_by("pk")
    )  # the job first, as everywhere
    held = Q(stage="closed", job_id__in=runs.filter(stage="dry_fit").values("job_id"))
    wanted = Run.objects.filter(Q(pk__in=runs.values("pk")) | held, result__isnull=False)
    for run in sorted(
        wanted.select_for_update(of=("self",)).select_related("job"),
        key=lambda one: (one.job_id, one.stage == "closed"),
    ):
        measured = core_adapter.result_of(run)
        if measured is not None:
            core_adapter.store_result(run, core_adapter.judged(run, measured))
            run.save(update_fields=["result"])
            judged.enter(run)
            notify(run.job_id, "run", run.pk)
