"""Gates of fitting."""

from datetime import datetime

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from lens.errors import BadInput
from lens.fitting import Gate, check_gate, get_build
from server.accounts.policy import require
from server.fitting import actions
from server.jobs.models import Job

router = Router(tags=["fitting"])


class GateOut(Schema):
    """``blocked`` says why the gate cannot be passed now; empty when it can."""

    gate: Gate
    passed_by: str
    passed_at: datetime | None
    choice: str
    blocked: str


class FitState(Schema):
    build: str
    title: str
    gates: list[GateOut]


class PassGate(Schema):
    gate: str
    choice: str = ""


def _blocked(job: Job, gate: Gate, passed: list[str], verdicts: dict[str, str]) -> str:
    try:
        check_gate(get_build(job.build), gate.id, passed, verdicts, next(iter(gate.choices), ""))
    except BadInput as reason:
        return reason.message
    return ""


def fit_state(job: Job) -> FitState:
    build = get_build(job.build)
    passed = {gate.gate: gate for gate in job.gates.select_related("by")}
    verdicts = actions.verdicts(job)
    gates = []
    for gate in build.gates:
        done = passed.get(gate.id)
        gates.append(GateOut(
            gate=gate, passed_by=done.by.username if done else "", passed_at=done.at if done else None, choice=done.choice if done else "",
            blocked="" if done else _blocked(job, gate, list(passed), verdicts)))
    return FitState(build=job.build, title=build.title, gates=gates)


@router.get("/jobs/{job_id}/fit", response=FitState, operation_id="getFit")
def get_fit(request: HttpRequest, job_id: int) -> FitState:
    require(request.user, "job.view")
    return fit_state(get_object_or_404(Job, pk=job_id))


@router.post("/jobs/{job_id}/fit/gates", response=FitState, operation_id="passGate")
def pass_gate(request: HttpRequest, job_id: int, body: PassGate) -> FitState:
    actions.pass_gate(request.user, job_id, body.gate, body.choice)
    return fit_state(Job.objects.get(pk=job_id))


@router.delete("/jobs/{job_id}/fit/gates/{gate_id}", response=FitState, operation_id="takeBackGate")
def take_back_gate(request: HttpRequest, job_id: int, gate_id: str) -> FitState:
    actions.take_back_gate(request.user, job_id, gate_id)
    return fit_state(Job.objects.get(pk=job_id))
