"""The steps of fitting."""

from datetime import datetime
from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from lens.errors import BadInput
from lens.fitting import POWERED, Procedure, builds_for, check_step, hazards, inspection_of, procedure_for, standing
from lens.steps import Done, Step, applies
from server.fitting import actions
from server.fitting.models import GatePassed
from server.jobs.models import Job

router = Router(tags=["fitting"])


class FittingStep(Step):
    """A step of a procedure, under a name that no other step of the API has."""


class StepOut(Schema):
    """``blocked`` says why the step cannot be done now, empty when it can; ``with_reason``: it can when somebody says why. ``cautions``: its hazards
    in words; ``counts``: what was met."""

    step: FittingStep
    cautions: list[str]
    inspection: str | None
    state: Literal["done", "open", "blocked", "left_out"]
    done_by: str
    done_at: datetime | None
    choice: str
    reason: str
    counts: dict[str, int]
    blocked: str
    with_reason: bool


class BuildOut(Schema):
    id: str
    title: str
    opened_from: str
    held_by: str


class FitState(Schema):
    """``title`` is empty where nobody said yet how the display is built in: ``builds`` are the ways. ``out``: loose things by group;
    ``way_back``: titles, in the order of taking back."""

    build: str
    title: str
    builds: list[BuildOut]
    steps: list[StepOut]
    out: dict[str, int]
    unaccounted: int
    way_back: list[str]
    minutes_left: float


class PassGate(Schema):
    gate: str
    choice: str = ""
    reason: str = Field(default="", max_length=300)
    counts: dict[str, int] = Field(default={}, max_length=10)


class Loose(Schema):
    count: int = Field(ge=0, le=10_000)


class BuildIn(Schema):
    build: str = Field(max_length=40)


def fit_state(job: Job) -> FitState:
    builds = [
        BuildOut(**one.model_dump(include={"id", "title", "opened_from", "held_by"}))
        for one in builds_for(job.device_type)
    ]
    procedure = procedure_for(job.build, job.device_type)
    if procedure is None:
        return FitState(
            build=job.build, title="", builds=builds, steps=[], out={}, unaccounted=0, way_back=[], minutes_left=0
        )
    rows = actions.rows_of(job)
    steps = _steps(job, procedure, rows)
    log = actions.log_of(procedure, rows)
    titles = procedure.graph.by_id
    return FitState(
        build=job.build,
        title=procedure.title,
        builds=builds,
        steps=steps,
        out={group: count for group, count in actions.out_of(procedure, rows).items() if count},
        unaccounted=actions.unaccounted_of(rows),
        way_back=[titles[name].title for name in standing(procedure, log).undo],
        minutes_left=sum(one.step.minutes for one in steps if one.state in ("open", "blocked")),
    )


def _steps(job: Job, procedure: Procedure, rows: list[GatePassed]) -> list[StepOut]:
    log, lost = actions.log_of(procedure, rows), actions.unaccounted_of(rows)
    verdicts = actions.results_by_stage(job)
    where = standing(procedure, log, unaccounted=lost)
    waits = dict(where.blocked)
    last = {row.gate: row for row in rows}
    plain = [one for one in log if one.step != POWERED]
    told = []
    for step in procedure.steps:
        done = last.get(step.id)
        refused = _refused(procedure, step, log, verdicts, lost) if step.id in where.open else ""
        state: Literal["done", "open", "blocked", "left_out"] = "blocked"
        if step.id in where.open:
            state = "open"
        elif done is not None:
            state = "done"
        elif applies(procedure.graph, step, plain) is False:
            state = "left_out"
        again = state == "open" and done is not None  # it is due once more
        shown = None if again else done
        told.append(
            StepOut(
                step=FittingStep.model_validate(step.model_dump()),
                cautions=[hazards()[name] for name in step.hazards],
                inspection=inspection_of(step),
                state=state,
                done_by=shown.by.username if shown else "",
                done_at=shown.at if shown else None,
                choice=shown.choice if shown else "",
                reason=shown.reason if shown else "",
                counts=shown.counts if shown else {},
                blocked=refused if state == "open" else waits.get(step.id, "") if state == "blocked" else "",
                with_reason=bool(refused) and not _refused(procedure, step, log, verdicts, lost, "said"),
            )
        )
    return told


def _refused(
    procedure: Procedure, step: Step, log: list[Done], verdicts: dict[str, str], lost: int, reason: str = ""
) -> str:
    try:
        check_step(procedure, step.id, log, verdicts, next(iter(step.choices), ""), reason, lost)
    except BadInput as told:
        return told.message
    return ""


def _now(job_id: int) -> FitState:
    return fit_state(Job.objects.prefetch_related("gates__by").get(pk=job_id))


@router.post("/jobs/{job_id}/fit/gates", response=FitState, operation_id="passGate")
def pass_gate(request: HttpRequest, job_id: int, body: PassGate) -> FitState:
    actions.pass_gate(request.user, job_id, body.gate, body.choice, body.reason, body.counts)
    return _now(job_id)


@router.delete("/jobs/{job_id}/fit/gates/{gate_id}", response=FitState, operation_id="takeBackGate")
def take_back_gate(request: HttpRequest, job_id: int, gate_id: str) -> FitState:
    actions.take_back_gate(request.user, job_id, gate_id)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/build", response=FitState, operation_id="chooseBuild")
def choose_build(request: HttpRequest, job_id: int, body: BuildIn) -> FitState:
    actions.choose_build(request.user, job_id, body.build)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/powered", response=FitState, operation_id="switchedOn")
def switched_on(request: HttpRequest, job_id: int) -> FitState:
    actions.switched_on(request.user, job_id)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/loose", response=FitState, operation_id="looseThings")
def loose_things(request: HttpRequest, job_id: int, body: Loose) -> FitState:
    actions.loose_things(request.user, job_id, body.count)
    return _now(job_id)
