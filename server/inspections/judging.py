"""What was measured, judged anew: after a change of profile or decision, or of the dry fit that a closed device is held to."""

from django.db.models import QuerySet

from server.common.notify import notify
from server.inspections import core_adapter, judged
from server.inspections.models import Run
from server.jobs.models import Job


def judge_runs(runs: QuerySet[Run]) -> None:
    """Judge what was measured anew. A set that is being read just now is judged by its worker when it is stored."""
    list(Job.objects.select_for_update().filter(pk__in=runs.values("job_id")).order_by("pk"))  # the job first, as everywhere
    # the dry fit before the closed device, which is held to it
    for run in runs.filter(result__isnull=False).select_for_update(of=("self",)).select_related("job").order_by("job_id", "id"):
        measured = core_adapter.result_of(run)
        if measured is not None:
            core_adapter.store_result(run, core_adapter.judged(run, measured))
            run.save(update_fields=["result"])
            judged.enter(run)
            notify(run.job_id, "run", run.pk)
