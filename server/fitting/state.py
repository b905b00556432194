"""What Fit shows of a job: the steps and what may come next, clocks, parts, liners, notes, what was met last time."""

from collections.abc import Mapping
from typing import Literal

from django.utils import timezone

from lens.errors import BadInput
from lens.fitting import (
    ISOLATED,
    POWERED,
    Balance,
    FitStep,
    PlacedFastener,
    Procedure,
    Running,
    StepNotes,
    check_step,
    get_procedure,
    going_back,
    hazards,
    inspection_of,
    parts,
    standing,
    subs_for,
)
from lens.house_rules import house_rules
from lens.records import START_CONSENTS
from lens.steps import Done, applies
from server.fitting import actions, last_time, places
from server.fitting.following import newer_for, offered, procedure_of
from server.fitting.models import GatePassed
from server.fitting.shapes import (
    BuildOut,
    ClockOut,
    FastenersOut,
    FitState,
    FittingStep,
    KeepOutOut,
    LastTime,
    LinerOut,
    NoteOut,
    PartOut,
    SchoolLine,
    StepOut,
    SubOut,
)
from server.jobs.models import Job


def fit_state(job: Job) -> FitState:
    builds = [
        BuildOut(**one.model_dump(include={"id", "title", "opened_from", "held_by"}), own=own)
        for one, own in offered(job.device_type)
    ]
    procedure = procedure_of(job)
    if procedure is None:
        return FitState(
            build=job.build, title="", builds=builds, steps=[], out={}, unaccounted=0, way_back=[], minutes_left=0
        )
    rows = actions.rows_of(job)
    clocks = actions.clocks_of(procedure, rows, timezone.now())
    steps = _steps(job, procedure, rows, clocks)
    log = actions.log_of(procedure, rows)
    titles = procedure.graph.by_id
    out = actions.balance_of(procedure, rows)
    last = last_time.last_job_of(job)
    return FitState(
        build=job.build,
        title=procedure.title,
        builds=builds,
        steps=steps,
        out={group: one.out for group, one in out.items() if one.out},
        unaccounted=actions.unaccounted_of(rows),
        way_back=[titles[name].title for name in standing(procedure, log).undo],
        minutes_left=sum(one.step.minutes for one in steps if one.state in ("open", "blocked")),
        opens=procedure.opens,
        clocks=[clock_out(one) for one in clocks],
        parts=_parts(job, procedure, rows),
        liners=_liners(procedure, rows),
        keep_outs=_keep_outs(job, procedure),
        fasteners=_fasteners(job, procedure, out, last),
        notes=notes_of(job),
        last_time=LastTime(
            job_id=last.pk,
            closed_at=last.closed_at or last.created_at,
            told=last_time.told_by_step(last, procedure),
            photos=last_time.photos_by_step(last),
        )
        if last
        else None,
        newer=newer_for(job) is not None,
        subs=[SubOut(id=one.id, title=one.title) for one in subs_for(procedure)],
        subs_taken=[SubOut(id=name, title=get_procedure(name).title) for name in procedure.subs],
        panel=job.wanted_panel.specification if job.wanted_panel else None,
    )


def _fasteners(
    job: Job, procedure: Procedure, standing_of: Mapping[str, Balance], last: Job | None
) -> dict[str, FastenersOut]:
    """Each group with how it stands and where its screws sit, as best known."""
    here, before = places.places_of(job), places.places_of(last) if last else {}
    told = {}
    for name, group in procedure.fasteners.items():
        row = here.get(name) or before.get(name)
        spots = [PlacedFastener(x=x, y=y) for x, y in group.places]
        told[name] = FastenersOut(
            **group.model_dump(),
            balance=standing_of.get(name, Balance()),
            placed="here" if name in here else "last_time" if row else "usual",
            spots=[PlacedFastener.model_validate(one) for one in row.places] if row else spots,
            photo_id=row.photo_id if row else None,
        )
    return told


def fasteners_of(job: Job, procedure: Procedure) -> dict[str, FastenersOut]:
    """The groups of a job's procedure as they stand, with where their screws sit as best known."""
    return _fasteners(job, procedure, actions.balance_of(procedure, actions.rows_of(job)), last_time.last_job_of(job))


def _keep_outs(job: Job, procedure: Procedure) -> list[KeepOutOut]:
    found = places.keep_outs_found(job)
    usual = [KeepOutOut(**one.model_dump()) for one in procedure.keep_outs]
    return usual + [KeepOutOut(**row.place, id=row.pk, by=row.by.username) for row in found]


def clock_out(one: Running) -> ClockOut:
    return ClockOut(
        step=one.step,
        title=one.clock.title,
        began=one.began,
        ends=one.ends,
        left_s=round(one.left_s, 1),
        known=one.known,
        blocks=one.clock.blocks,
    )


def _parts(job: Job, procedure: Procedure, rows: list[GatePassed]) -> list[PartOut]:
    moving = actions.parts_to_move(job, procedure)
    fates = {name: fate for row in rows for name, fate in StepNotes.model_validate(row.details).parts.items()}
    return [
        PartOut(
            id=name,
            **parts()[name].model_dump(include={"title", "freed", "risk"}),
            functions=list(parts()[name].functions),
            comes=name not in moving,
            fate=fates.get(name, ""),
        )
        for name in procedure.carries
    ]


def _liners(procedure: Procedure, rows: list[GatePassed]) -> list[LinerOut]:
    seen = {name: state for row in rows for name, state in StepNotes.model_validate(row.details).liners.items()}
    at = {liner: step.id for step in procedure.steps for liner in step.liners}
    return [
        LinerOut(id=name, title=one.title, ends_return=one.ends_return, step=at[name], state=seen.get(name, "on"))
        for name, one in procedure.liners.items()
    ]


def notes_of(job: Job) -> list[NoteOut]:
    """What was photographed or met, in order."""
    return [
        NoteOut(
            id=note.pk,
            step=note.step,
            text=note.text,
            place=note.place,
            was_so=note.was_so,
            consent_needed=note.consent_needed,
            photo_id=note.photo_id if note.photo and not note.photo.removed else None,
            by=note.by.username,
            at=note.at,
        )
        for note in job.fit_notes.select_related("by", "photo")
        if not note.taken_back
    ]


def _steps(job: Job, procedure: Procedure, rows: list[GatePassed], clocks: tuple[Running, ...]) -> list[StepOut]:
    log, lost = actions.log_of(procedure, rows), actions.unaccounted_of(rows)
    shown_at = actions.photographed_steps(job)
    verdicts = actions.results_by_stage(job)
    where = standing(procedure, log, unaccounted=lost)
    waits = dict(where.blocked)
    last = {row.gate: row for row in rows}
    plain = [one for one in log if one.step != POWERED]
    told = []
    for step in procedure.steps:
        done = last.get(step.id)
        refused = _refused(procedure, step, log, verdicts, lost, clocks, shown_at) if step.id in where.open else ""
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
                cautions=[*(hazards()[name] for name in step.hazards), *_consent(job, step)],
                schools=[_school_line(job, rule) for rule in step.schools],
                inspection=inspection_of(step),
                state=state,
                done_by=shown.by.username if shown else "",
                done_at=shown.at if shown else None,
                choice=shown.choice if shown else "",
                reason=shown.reason if shown else "",
                counts=shown.counts if shown else {},
                notes=StepNotes.model_validate(shown.details) if shown else StepNotes(),
                blocked=refused if state == "open" else waits.get(step.id, "") if state == "blocked" else "",
                back=going_back(procedure, step.id, log, "closed" in verdicts) if shown else None,
                with_reason=bool(refused)
                and not _refused(procedure, step, log, verdicts, lost, clocks, shown_at, "said"),
            )
        )
    return told


def _consent(job: Job, step: FitStep) -> list[str]:
    """What the owner said of starting it, at the steps that do."""
    told = START_CONSENTS.get(job.start_consent)
    return [f"The owner: {told.title[0].lower()}{told.title[1:]}."] if told and ISOLATED in step.ends else []


def _school_line(job: Job, rule: str) -> SchoolLine:
    told = house_rules()[rule]
    school = told.schools[actions.school_of(job, rule)]
    return SchoolLine(rule=rule, question=told.title, title=school.title, reason=school.reason)


def _refused(
    procedure: Procedure,
    step: FitStep,
    log: list[Done],
    verdicts: dict[str, str],
    lost: int,
    clocks: tuple[Running, ...],
    shown_at: set[str],
    reason: str = "",
) -> str:
    try:
        check_step(
            procedure, step.id, log, verdicts, next(iter(step.choices), ""), reason, lost, clocks, step.id in shown_at
        )
    except BadInput as told:
        return told.message
    return ""
