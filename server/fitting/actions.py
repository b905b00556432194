"""Doing the steps of a build, and taking them back: a log that only grows."""

import datetime as dt

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from lens.errors import BadInput
from lens.fitting import (
    OWN,
    POWERED,
    Balance,
    DoneAt,
    FitStep,
    Procedure,
    Running,
    StepNotes,
    balance,
    check_build,
    check_counts,
    check_notes,
    check_step,
    fastener_words,
    inspection_of,
    running,
    to_move,
    with_power,
)
from lens.house_rules import house_rules
from lens.steps import Done, due, undo
from server.accounts.policy import may, require
from server.fitting.following import current_procedure, keep_procedure, procedure_of
from server.fitting.models import GatePassed
from server.handchecks.actions import eye_verdict_at
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Device
from server.verdicts import JUDGED, seen_of, touch_wanted, verdicts_by_stage

LOOSE = "_loose"  # a row that says how many loose things nobody can find
MOST_LOOSE = 10_000
WITHOUT_PROOF = "dry_fit_proof"  # the house rule that says who may go on where the dry fit proves nothing
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


def balance_of(procedure: Procedure, rows: list[GatePassed]) -> dict[str, Balance]:
    """How each group of loose things stands."""
    known = procedure.graph.by_id
    return balance(
        [
            (known[row.gate].counts, row.counts, StepNotes.model_validate(row.details).fasteners)
            for row in rows
            if row.gate in known
        ]
    )


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
    stage = inspection_of(step)
    if stage is not None:
        _check_without_proof(person, job, step, told.get(stage), reason)
    noted = notes or StepNotes()
    lengths = {name: group.length_mm for name, group in procedure.fasteners.items() if group.length_mm is not None}
    check_counts(step, counts or {}, balance_of(procedure, rows), reason, noted.fasteners, lengths)
    titles = [procedure.liners[name].title for name in step.liners]
    check_notes(step, noted, parts_to_move(job, procedure), titles, reason, procedure.devices)
    noted = noted.model_copy(update={"by_eye": stage is not None and told.get(stage) == "seen"})
    kept = reason.strip()[:300] if stage is None or told.get(stage) not in ("pass", "seen") else ""
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
    inside = sum(one.lost_inside for one in noted.fasteners.values())
    if inside:
        GatePassed.objects.create(job=job, gate=LOOSE, choice=str(unaccounted_of(rows) + inside), by=person)
    chosen = f": {step.choices[choice]}" if step.choices else ""
    apart = deviations(job, step, choice)
    other_way = f", other than the house rule ({'; '.join(apart).lower()})" if apart else ""
    counted = "".join(f", {count} {group.replace('_', ' ')} screws" for group, count in met.items())
    counted += "".join(f", {words}" for words in fastener_words(noted.fasteners))
    although = (
        ", seen by eye" if noted.by_eye else "" if not kept else f", not proven: {kept}" if stage else f", {kept}"
    )
    write(
        job,
        person.username,
        "gate",
        f"Done: {step.title}{chosen}{other_way}{counted}{although}.",
        gate=step_id,
        choice=choice,
        reason=kept,
        counts=met,
        notes=details,
        deviates=apart,
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
    """The verdict of each stage that was measured, or looked at by eye: what a person sees to be bad stops whatever was measured, and
    'seen' stands where a measurement proves nothing, never over a failed one."""
    told: dict[str, str] = {stage: verdict.result for stage, verdict in verdicts_by_stage(job).items()}
    touch = touch_wanted(job, seen_of(job))
    for stage in JUDGED:
        by_eye = eye_verdict_at(job, stage, touch)
        if by_eye == "fail" or (by_eye == "seen" and told.get(stage) in (None, "not_proven")):
            told[stage] = by_eye
    return told


def school_of(job: Job, rule: str) -> str:
    """The school that a job follows: as it was taken in, else the one that holds where nobody chose."""
    told = house_rules()[rule]
    kept = job.rules.get(rule, told.default)
    return kept if kept in told.schools else told.default


def deviations(job: Job, step: FitStep, choice: str) -> list[str]:
    """The questions in which a choice is another school's than this job's."""
    rules = [(rule, house_rules()[rule]) for rule in step.schools]
    return [told.title for rule, told in rules if choice in told.schools and choice != school_of(job, rule)]


def _check_without_proof(person: User, job: Job, step: FitStep, verdict: str | None, reason: str) -> None:
    """Who may go on where an inspection proves nothing, by the house rule of the job."""
    rule = school_of(job, WITHOUT_PROOF)
    if verdict in ("pass", "seen") or not reason.strip() or rule == "anyone":
        return
    if rule == "lead" and may(person, "gate.override"):
        return
    who = "a lead decides" if rule == "lead" else "nobody goes"
    raise BadInput(
        f"'{step.title}': in this shop {who} {'whether to go ' if rule == 'lead' else ''}on without proof. Measure it, or look at it by eye."
        + (" Or ask a lead to do this step." if rule == "lead" else ""),
        "leads_only",
    )


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
