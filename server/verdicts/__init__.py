"""What was measured at each stage of a job, and the one verdict over it."""

from typing import Any, Protocol

from lens.inspecting import Comparison, compare
from lens.progress import JobVerdict, Seen, Told, has_touch, job_verdict, not_comparable, stage_verdict
from lens.records import STAGES, Inspection, StageConditions
from lens.touch import TouchComparison, TouchResult, compare_touch
from server.inspections.core_adapter import result_of
from server.inspections.looking_back import looked_back
from server.jobs.models import Job
from server.profiles.actions import profile_title
from server.touch.core_adapter import counting
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


def conditions_of(job: Job) -> dict[str, StageConditions]:
    """Of each stage under what it was looked at."""
    return {run.stage: StageConditions.model_validate(run.conditions) for run in job.runs.all()}


def _fails(verdict: dict[str, Any]) -> frozenset[str]:
    return frozenset(one["id"] for one in verdict.get("criteria", ()) if one["result"] == "fail")


def seen_of(job: Job) -> dict[str, Seen]:
    """The verdicts of each stage by themselves, without reading whole results."""
    seen, conditions = {}, conditions_of(job)
    for run in job.runs.all():
        picture = run.result["verdict"] if run.result else None
        session = counting(run)
        touch = session.result if session is not None and session.result else None
        if picture is None and touch is None:
            continue
        seen[run.stage] = Seen(
            picture["result"] if picture else None,
            profile_title(picture["profile"]) if picture else "",
            touch["verdict"] if touch else None,
            _fails(picture) if picture else frozenset(),
            _fails(touch) if touch else frozenset(),
            conditions[run.stage],
            run.tried_at if picture else None,
            session.made_at if session is not None and touch else None,
        )
    return seen


def touch_wanted(job: Job, seen: dict[str, Seen]) -> bool:
    """Whether this job's device is one whose touch must be proven."""
    on_record = bool(job.wanted_panel.spec.get("touch")) if job.wanted_panel else False
    if job.subject == "panel":  # it has touch by itself, whatever device it is made for
        return on_record or any(one.touch is not None for one in seen.values())
    return has_touch(job.device_type, on_record, any(one.touch is not None for one in seen.values()))


def comparison(job: Job, results: dict[str, Inspection]) -> Comparison | None:
    """Dry fit against closed, when both were measured."""
    if not {"dry_fit", "closed"} <= set(results):
        return None
    told = conditions_of(job)
    apart = not_comparable(told["dry_fit"], told["closed"])
    closed = next((run for run in job.runs.all() if run.stage == "closed"), None)
    return compare(results["dry_fit"], results["closed"], apart, looked_back(closed, results["dry_fit"]))


def touch_comparison(touched: dict[str, TouchResult]) -> TouchComparison | None:
    """The last stage whose touch was recorded against the one before it."""
    stages = [stage for stage in JUDGED if stage in touched]
    return compare_touch(touched[stages[-2]], touched[stages[-1]]) if len(stages) > 1 else None


class Measured(Protocol):
    """A job with what was measured of it, read once."""

    @property
    def job(self) -> Job: ...
    @property
    def comparison(self) -> Comparison | None: ...
    @property
    def touch_comparison(self) -> TouchComparison | None: ...


def measured_verdict(look: Measured, told: Told) -> JobVerdict:
    """The verdict of the device as it is handed over, with what others have to tell. Whole results are read only where two stages are compared."""
    job = look.job
    seen = seen_of(job)
    compared = all(stage in seen and seen[stage].picture for stage in ("dry_fit", "closed"))
    closing = look.comparison if compared else None
    twice = sum(one.touch is not None for one in seen.values()) > 1
    change = look.touch_comparison if twice else None
    return job_verdict(
        seen,
        touch_wanted(job, seen),
        (closing.result, closing.text) if closing else None,
        (change.result, change.text) if change else None,
        told,
    )


def verdicts_by_stage(job: Job) -> dict[str, JobVerdict]:
    """Of each stage at which anything was measured, picture and touch together."""
    seen = seen_of(job)
    wanted = touch_wanted(job, seen)
    return {stage: stage_verdict(stage, one, wanted) for stage, one in seen.items()}
