"""Passing the gates of a build, in their order."""

from django.db import transaction

from lens.errors import BadInput
from lens.fitting import check_gate, get_build
from server.accounts.policy import require
from server.fitting.models import GatePassed
from server.inspections.core_adapter import result_of
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.touch.core_adapter import verdict_of


def verdicts(job: Job) -> dict[str, str]:
    """Verdict by stage of the inspections that have one; a touch that fails fails its stage, whatever the picture."""
    results = {run.stage: result_of(run) for run in job.runs.all()}
    found: dict[str, str] = {stage: result.verdict.result for stage, result in results.items() if result is not None}
    for run in job.runs.all():
        if verdict_of(run) == "fail":
            found[run.stage] = "fail"
    return found


@transaction.atomic
def pass_gate(user: Person, job_id: int, gate_id: str, choice: str) -> None:
    """Pass a gate; raises BadInput with what is missing. A second click changes nothing."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if job.gates.filter(gate=gate_id).exists():
        return
    gate = check_gate(get_build(job.build), gate_id, list(job.gates.values_list("gate", flat=True)), verdicts(job), choice)
    GatePassed.objects.create(job=job, gate=gate_id, choice=choice, by=person)
    chosen = f": {gate.choices[choice]}" if choice else ""
    write(job, person.username, "gate", f"Gate passed: {gate.title}{chosen}.", gate=gate_id, choice=choice)


@transaction.atomic
def take_back_gate(user: Person, job_id: int, gate_id: str) -> None:
    """Go back to a gate: it and all after it are open again; the record keeps both."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    gates = [gate.id for gate in get_build(job.build).gates]
    if gate_id not in gates:
        raise BadInput(f"There is no gate '{gate_id}' in this build.", "unknown_gate")
    reopened = job.gates.filter(gate__in=gates[gates.index(gate_id):])
    if reopened.exists():
        reopened.delete()
        write(job, person.username, "gate_back", f"Back to the gate '{gate_id.replace('_', ' ')}'; it and all after it are open again.", gate=gate_id)
