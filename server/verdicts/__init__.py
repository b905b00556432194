"""What was measured at each stage of a job, and the one verdict over it."""

from lens.inspecting import Comparison, compare
from lens.progress import JobVerdict, Seen, has_touch, job_verdict, stage_verdict
from lens.records import STAGES, Inspection
from lens.touch import TouchComparison, TouchResult, compare_touch
from server.inspections.core_adapter import result_of
from server.jobs.models import Job
from server.profiles.actions import profile_title
from server.touch.core_adapter import counting, verdict_of
from server.touch.core_adapter import result_of as touch_result_of

JUDGED = tuple(stage.id for stage in STAGES.values() if stage.judged)


def results_of(job: Job) -> dict[str, Inspection]:
    """Of each stage the stored inspection."""
    found = {run.stage: result_of(run) for run in job.runs.all()}
    return {stage: result for stage, result in found.items() if result is not None}


def touch_results(job: Job) -> dict[str, TouchResult]:
    """Of each stage what its last session says that counts."""
    found = {run.stage: touch_result_of(counting(run)) for run in job.runs.all()}
    return {stage: result for stage, result in found.items() if result is not None}


def seen_of(job: Job) -> dict[str, Seen]:
    """The verdicts of each stage by themselves, without reading whole results."""
    seen = {}
    for run in job.runs.all():
        told = run.result["verdict"] if run.result else None
        one = Seen(told["result"] if told else None, profile_title(told["profile"]) if told else "", verdict_of(run))  # type: ignore[arg-type]
        if one.picture is not None or one.touch is not None:
            seen[run.stage] = one
    return seen


def touch_wanted(job: Job, seen: dict[str, Seen]) -> bool:
    """Whether this job's device is one whose touch must be proven."""
    on_record = bool(job.wanted_panel.spec.get("touch")) if job.wanted_panel else False
    return has_touch(job.device_type, on_record, any(one.touch is not None for one in seen.values()))


def comparison(results: dict[str, Inspection]) -> Comparison | None:
    """Dry fit against closed, when both were measured."""
    return compare(results["dry_fit"], results["closed"]) if {"dry_fit", "closed"} <= set(results) else None


def touch_comparison(touched: dict[str, TouchResult]) -> TouchComparison | None:
    """The last stage whose touch was recorded against the one before it."""
    stages = [stage for stage in JUDGED if stage in touched]
    return compare_touch(touched[stages[-2]], touched[stages[-1]]) if len(stages) > 1 else None


def verdict_of_job(
    job: Job, results: dict[str, Inspection] | None = None, touched: dict[str, TouchResult] | None = None
) -> JobVerdict:
    """The verdict of the device as it is handed over. Whole results are read only where two stages are to be compared, and the caller has not."""
    seen = seen_of(job)
    compared = all(stage in seen and seen[stage].picture for stage in ("dry_fit", "closed"))
    closing = comparison(results_of(job) if results is None else results) if compared else None
    twice = sum(one.touch is not None for one in seen.values()) > 1
    change = touch_comparison(touch_results(job) if touched is None else touched) if twice else None
    return job_verdict(
        seen,
        touch_wanted(job, seen),
        (closing.result, closing.text) if closing else None,
        (change.result, change.text) if change else None,
    )


def verdicts_by_stage(job: Job) -> dict[str, JobVerdict]:
    """Of each stage at which anything was measured, picture and touch together."""
    seen = seen_of(job)
    wanted = touch_wanted(job, seen)
    return {stage: stage_verdict(stage, one, wanted) for stage, one in seen.items()}
