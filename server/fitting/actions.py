"""Passing the gates of a build, in their order."""

from django.db import transaction

from lens.errors import BadInput
from lens.fitting import Build, check_gate, procedure_for
from server.accounts.policy import require
from server.fitting.models import GatePassed
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.verdicts import verdicts_by_stage


@transaction.atomic
def pass_gate(user: Person, job_id: int, gate_id: str, choice: str, reason: str = "") -> None:
    """Pass a gate; raises BadInput with what is missing. A second click changes nothing. ``reason``: why, where the inspection proves nothing."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if job.gates.filter(gate=gate_id).exists():
        return
    told = results_by_stage(job)
    gate = check_gate(_procedure(job), gate_id, list(job.gates.values_list("gate", flat=True)), told, choice, reason)
    proven = gate.needs_inspection is None or told.get(gate.needs_inspection) == "pass"
    kept = "" if proven else reason.strip()[:300]
    GatePassed.objects.create(job=job, gate=gate_id, choice=choice, reason=kept, by=person)
    chosen = f": {gate.choices[choice]}" if choice else ""
    although = f", not proven: {kept}" if kept else ""
    write(
        job,
        person.username,
        "gate",
        f"Gate passed: {gate.title}{chosen}{although}.",
        gate=gate_id,
        choice=choice,
        reason=kept,
    )


def results_by_stage(job: Job) -> dict[str, str]:
    """The verdict of each stage that was measured."""
    return {stage: verdict.result for stage, verdict in verdicts_by_stage(job).items()}


def _procedure(job: Job) -> Build:
    build = procedure_for(job.build, job.device_type)
    if build is None:
        raise BadInput(
            "There is no procedure for this device yet, so it has no gates. Work by the maker's documents.",
            "no_procedure",
        )
    return build


@transaction.atomic
def take_back_gate(user: Person, job_id: int, gate_id: str) -> None:
    """Go back to a gate: it and all after it are open again; the record keeps both."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    gates = [gate.id for gate in _procedure(job).gates]
    if gate_id not in gates:
        raise BadInput(f"There is no gate '{gate_id}' in this build.", "unknown_gate")
    reopened = job.gates.filter(gate__in=gates[gates.index(gate_id) :])
    if reopened.exists():
        reopened.delete()
        write(
            job,
            person.username,
            "gate_back",
            f"Back to the gate '{gate_id.replace('_', ' ')}'; it and all after it are open again.",
            gate=gate_id,
        )
