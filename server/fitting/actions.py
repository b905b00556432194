"""Doing the steps of a build, and taking them back: a log that only grows."""

import datetime as dt

from django.db import transaction
from django.utils import timezone

from lens.errors import BadInput
from lens.fitting import (
    OWN,
    POWERED,
    DoneAt,
    Procedure,
    Running,
    StepNotes,
    check_build,
    check_counts,
    check_notes,
    check_step,
    inspection_of,
    running,
    to_move,
    with_power,
)
from lens.steps import Done, due, undo
from server.accounts.policy import require
from server.fitting.following import current_procedure, keep_procedure, procedure_of
from server.fitting.models import GatePassed
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Device
from server.verdicts import verdicts_by_stage

LOOSE = "_loose"  # a row that says how many loose things nobody can find
MOST_LOOSE = 10_000
MINE = ("fit",)  # what of a job these changes make stale, beside its head


def rows_of(job: Job) -> list[GatePassed]:
    """What stands of the log, in order."""
    return [row for row in job.gates.all() if not row.taken_back]


def log_of(procedure: Procedure, rows: list[GatePassed]) -> list[Done]:
    """The log as the core reads it; steps of an earlier version of the procedure are left out, and choices that it does not know any more."""
    known = procedure.graph.by_id
    told = []
    for row in rows:
        if row.gate == POWERED:
            told.append(Done(step=POWERED))
        elif row.gate in known:
            told.append(Done(step=row.gate, choice=row.choice if row.choice in known[row.gate].choices else None))
    return told


def unaccounted_of(rows: list[GatePassed]) -> int:
    """How many loose things nobody can find, as last said."""
    return next((int(row.choice or 0) for row in reversed(rows) if row.gate == LOOSE), 0)


def out_of(procedure: Procedure, rows: list[GatePassed]) -> dict[str, int]:
    """What is out of each group: what came out less what went back."""
    known = procedure.graph.by_id
    out: dict[str, int] = {}
    for row in rows:
        if row.gate in known:
            for group, usual in known[row.gate].counts.items():
                met = int(row.counts.get(group, 0))
                out[group] = out.get(group, 0) + (met if usual >= 0 else -met)
    return out


@transaction.atomic
def pass_gate(
    user: Person,
    job_id: int,
    step_id: str,
    choice: str,
    reason: str = "",
    counts: dict[str, int] | None = None,
    notes: StepNotes | None = None,
) -> None:
    """Do a step; raises BadInput with what is missing. A second click changes nothing. ``reason``: why, where its inspection proves nothing, fewer
    screws go back than came out, or something that is usually noted was not done."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    procedure, rows = _procedure(job), rows_of(job)
    log = log_of(procedure, rows)
    known = procedure.graph.by_id
    if (
        step_id in known
        and any(one.step == step_id for one in log)
        and not due(with_power(procedure), known[step_id], log)
    ):
        return
    told = results_by_stage(job)
    clocks = clocks_of(procedure, rows, timezone.now())
    step = check_step(
        procedure, step_id, log, told, choice, reason, unaccounted_of(rows), clocks, step_id in photographed_steps(job)
    )
    check_counts(step, counts or {}, out_of(procedure, rows), reason)
    noted = notes or StepNotes()
    titles = [procedure.liners[name].title for name in step.liners]
    check_notes(step, noted, parts_to_move(job, procedure), titles, reason)
    stage = inspection_of(step)
    kept = reason.strip()[:300] if stage is None or told.get(stage) != "pass" else ""
    details = noted.model_dump(mode="json", exclude_defaults=True)
    keep_procedure(job, procedure)
    met = {group: int((counts or {})[group]) for group in step.counts}
    GatePassed.objects.create(
        job=job,
        gate=step_id,
        choice=choice if step.choices else "",
        reason=kept,
        counts=met,
        details=details,
        by=person,
    )
    chosen = f": {step.choices[choice]}" if step.choices else ""
    counted = "".join(f", {count} {group.replace('_', ' ')} screws" for group, count in met.items())
    although = "" if not kept else f", not proven: {kept}" if stage else f", {kept}"
    write(
        job,
        person.username,
        "gate",
        f"Done: {step.title}{chosen}{counted}{although}.",
        gate=step_id,
        choice=choice,
        reason=kept,
        counts=met,
        notes=details,
        facets=MINE,
    )


def photographed_steps(job: Job) -> set[str]:
    """Steps at which a photo was taken."""
    shown = job.fit_notes.filter(taken_back=False, photo__removed=False)
    return set(shown.values_list("step", flat=True))


def clocks_of(procedure: Procedure, rows: list[GatePassed], now: dt.datetime) -> tuple[Running, ...]:
    """The clocks that what was done began."""
    steps = {step.id: step for step in procedure.steps}
    log = [
        DoneAt(row.gate, row.choice, row.at, StepNotes.model_validate(row.details)) for row in rows if row.gate in steps
    ]
    return running(steps, log, now)


def parts_to_move(job: Job, procedure: Procedure) -> tuple[str, ...]:
    """What the old display carries and the chosen offer's does not bring."""
    return to_move(procedure.carries, job.chosen_offer.comes_with if job.chosen_offer else ())


def results_by_stage(job: Job) -> dict[str, str]:
    """The verdict of each stage that was measured."""
    return {stage: verdict.result for stage, verdict in verdicts_by_stage(job).items()}


def _procedure(job: Job) -> Procedure:
    procedure = procedure_of(job)
    if procedure is None:
        raise BadInput(
            "Say first how the display is built in. Until then work by the maker's documents.", "no_procedure"
        )
    return procedure


@transaction.atomic
def take_back_gate(user: Person, job_id: int, step_id: str) -> None:
    """Go back to a step: it and what stands on it are taken back, as things were really done; the record keeps both."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    procedure, rows = _procedure(job), rows_of(job)
    if step_id not in procedure.graph.by_id:
        raise BadInput(f"There is no step '{step_id}' in this build.", "unknown_gate")
    log = [one for one in log_of(procedure, rows) if one.step != POWERED]
    if all(one.step != step_id for one in log):
        return
    back = undo(procedure.graph, step_id, log)
    GatePassed.objects.filter(pk__in=[row.pk for row in rows if row.gate in back]).update(taken_back=True)
    titles = [procedure.graph.by_id[name].title for name in back]
    again = " The dry fit is due again." if "dry_fit" in back else ""
    write(
        job,
        person.username,
        "gate_back",
        f"Taken back: {', '.join(titles)}.{again}",
        gate=step_id,
        steps=list(back),
        facets=MINE,
    )


@transaction.atomic
def switched_on(user: Person, job_id: int) -> None:
    """The device was powered outside of any step: it is not safe any more."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    _procedure(job)
    GatePassed.objects.create(job=job, gate=POWERED, by=person)
    write(
        job,
        person.username,
        "gate",
        "Switched on: it is made safe again before anything is touched.",
        gate=POWERED,
        facets=MINE,
    )


@transaction.atomic
def loose_things(user: Person, job_id: int, count: int) -> None:
    """How many screws, washers or tools nobody can find; none any more with 0. Raises BadInput for an impossible number."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    if not 0 <= count <= MOST_LOOSE:
        raise BadInput("Give a number from 0 on.", "loose_count")
    if unaccounted_of(rows_of(job)) == count:
        return
    GatePassed.objects.create(job=job, gate=LOOSE, choice=str(count), by=person)
    text = (
        f"Not accounted for: {count}. No power before each is found."
        if count
        else "Everything loose is accounted for again."
    )
    write(job, person.username, "gate", text, gate=LOOSE, count=count, facets=MINE)


@transaction.atomic
def choose_build(user: Person, job_id: int, build: str) -> None:
    """Say how the display is built in; the device of the register remembers it. Raises BadInput for a build of another kind of device, or once steps
    were done."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    check_build(build)
    procedure = current_procedure(build, job.device_type)
    if procedure is None:
        raise BadInput(
            "No device of this kind is built so. Change the kind of device at Intake, or choose another way.",
            "wrong_build",
        )
    if job.build == build:
        return
    if any(row.gate not in (LOOSE, POWERED) for row in rows_of(job)) and procedure_of(job):
        raise BadInput("Steps of the other procedure were done already. Take them back first.", "steps_done")
    Job.objects.filter(pk=job.pk).update(build=build)
    if job.device_id:  # a way of the shop's own that was chosen for it is better known than the one it was made of
        known = Device.objects.filter(pk=job.device_id, build__in=("", *([job.build] if OWN.fullmatch(build) else [])))
        known.update(build=build)
    write(
        job, person.username, "build", f"Built in this way: {procedure.title}.", build=build, facets=(*MINE, "buying")
    )
