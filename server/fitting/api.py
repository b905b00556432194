"""Gates of fitting."""

from datetime import datetime

from django.http import HttpRequest
from ninja import Field, Router, Schema

from lens.errors import BadInput
from lens.fitting import Build, Gate, check_gate, procedure_for
from server.fitting import actions
from server.jobs.models import Job

router = Router(tags=["fitting"])


class GateOut(Schema):
    """``blocked`` says why the gate cannot be passed now, empty when it can; ``with_reason``: it can when somebody says why."""

    gate: Gate
    passed_by: str
    passed_at: datetime | None
    choice: str
    reason: str
    blocked: str
    with_reason: bool


class FitState(Schema):
    """``title`` is empty where there is no procedure for the device."""

    build: str
    title: str
    gates: list[GateOut]


class PassGate(Schema):
    gate: str
    choice: str = ""
    reason: str = Field(default="", max_length=300)


def _blocked(build: Build, gate: Gate, passed: list[str], verdicts: dict[str, str], reason: str = "") -> str:
    try:
        check_gate(build, gate.id, passed, verdicts, next(iter(gate.choices), ""), reason)
    except BadInput as told:
        return told.message
    return ""


def fit_state(job: Job) -> FitState:
    build = procedure_for(job.build, job.device_type)
    if build is None:
        return FitState(build=job.build, title="", gates=[])
    passed = {gate.gate: gate for gate in job.gates.select_related("by")}
    verdicts = actions.results_by_stage(job)
    gates = []
    for gate in build.gates:
        done = passed.get(gate.id)
        blocked = "" if done else _blocked(build, gate, list(passed), verdicts)
        gates.append(
            GateOut(
                gate=gate,
                passed_by=done.by.username if done else "",
                passed_at=done.at if done else None,
                choice=done.choice if done else "",
                reason=done.reason if done else "",
                blocked=blocked,
                with_reason=bool(blocked) and not _blocked(build, gate, list(passed), verdicts, "said"),
            )
        )
    return FitState(build=job.build, title=build.title, gates=gates)


@router.post("/jobs/{job_id}/fit/gates", response=FitState, operation_id="passGate")
def pass_gate(request: HttpRequest, job_id: int, body: PassGate) -> FitState:
    actions.pass_gate(request.user, job_id, body.gate, body.choice, body.reason)
    return fit_state(Job.objects.get(pk=job_id))


@router.delete("/jobs/{job_id}/fit/gates/{gate_id}", response=FitState, operation_id="takeBackGate")
def take_back_gate(request: HttpRequest, job_id: int, gate_id: str) -> FitState:
    actions.take_back_gate(request.user, job_id, gate_id)
    return fit_state(Job.objects.get(pk=job_id))
