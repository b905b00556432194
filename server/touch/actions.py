"""Changes of touch sessions."""

from collections.abc import Iterator, Sequence
from typing import Any

import msgspec
from django.db import IntegrityError, transaction
from django.shortcuts import get_object_or_404

from lens.diagnosis import is_cracked
from lens.errors import BadInput
from lens.records import STAGES
from lens.touch import MOST_EVENTS, SOAK_MS, Outline, Plan, Row, Step, again_over, free_step, soak_steps, standard_plan
from server.accounts.policy import require
from server.common.notify import notify
from server.inspections.actions import UNMEASURED
from server.inspections.growing import lock_stage
from server.inspections.models import Run
from server.jobs.actions import Person
from server.jobs.models import Evidence, Job
from server.jobs.record import write
from server.touch import core_adapter, tasks
from server.touch.models import TouchPart, TouchSession

COMMANDS = ("go", "skip", "back")
DRAWN_WITH = {"bare": "bare finger", "glove": "thin glove", "film": "through clear film"}
LEAST_SOAK_S, MOST_SOAK_S = 2, 3600


def _lock_job(run: Run) -> Job:
    return lock_stage(run.job_id, run.stage)


def _locked(session_id: int, **of: Any) -> tuple[TouchSession, Job]:
    """A session that may still change and its job, the job locked first, as everywhere."""
    job = _lock_job(get_object_or_404(TouchSession.objects.select_related("run"), pk=session_id, **of).run)
    return TouchSession.objects.select_for_update(of=("self",)).select_related("run__job").get(pk=session_id), job


def _words(run: Run) -> str:
    return f"'{STAGES[run.stage].title}'"


def is_cracked_at(run: Run) -> bool:
    """Whether the glass of this stage is known to be cracked: that of the device as it came."""
    if run.stage != "inspect":
        return False
    answers = Evidence.objects.filter(job_id=run.job_id, withdrawn=False)
    return is_cracked((answer.check_id, answer.outcome) for answer in answers)


def _make(run: Run, person: Any, plan: Plan, source: str, drawn_with: str = "") -> TouchSession:
    if run.stage in UNMEASURED:
        raise BadInput("At intake nothing is measured. Record the touch at Inspect.", "unmeasured")
    run.touches.filter(status="open").update(status="done")
    session = TouchSession.objects.create(
        run=run, made_by=person, plan=core_adapter.to_store(plan), source=source, drawn_with=drawn_with
    )
    notify(run.job_id, "touch", run.pk)
    return session


@transaction.atomic
def start_session(
    user: Person,
    run_id: int,
    soak_s: float,
    fingers: int,
    outline: Outline,
    drawn_with: str = "bare",
    started_by: str = "",
) -> TouchSession:
    """A new session with the bench's own plan; the glass of the run shows it. On cracked glass only through film. ``started_by``: who did, when it
    was not ``user``, who answers for it."""
    person = require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    job = _lock_job(run)
    if not LEAST_SOAK_S <= soak_s <= MOST_SOAK_S:
        raise BadInput(
            f"Hands off for {LEAST_SOAK_S} to {MOST_SOAK_S} seconds; {SOAK_MS / 1000:.0f} are usual.", "soak"
        )
    if drawn_with not in DRAWN_WITH:
        raise BadInput(f"Drawn with one of: {', '.join(DRAWN_WITH)}.", "drawn_with")
    if drawn_with != "film" and is_cracked_at(run):
        raise BadInput(
            "The glass is cracked: put clear film over it before anybody draws on it, and choose 'through clear film'. "
            "Without film touch is not drawn.",
            "cracked_glass",
        )
    session = _make(run, person, standard_plan(run.panel, soak_s * 1000, fingers, outline), "glass", drawn_with)
    write(
        job,
        started_by or person.username,
        "touch",
        f"Touch session started for {_words(run)}, {DRAWN_WITH[drawn_with]}.",
        touch=session.pk,
        soak_s=soak_s,
        fingers=fingers,
        drawn_with=drawn_with,
    )
    return session


@transaction.atomic
def command(user: Person, session_id: int, do: str) -> None:
    """Tell the glass what to do, as its own keys would."""
    require(user, "job.change")
    session, _ = _locked(session_id)
    if do not in COMMANDS:
        raise BadInput(f"The device page knows {', '.join(COMMANDS)}.", "unknown_command")
    session.command = {"number": session.command.get("number", 0) + 1, "do": do}
    session.save(update_fields=["command"])
    notify(session.run.job_id, "touch_command", session.run_id, **session.command)


@transaction.atomic
def add_steps(user: Person, session_id: int, what: str) -> TouchSession:
    """Ask for more: what is ``missing`` drawn again, ``free`` drawing, or one more ``soak``."""
    person = require(user, "job.change")
    session, job = _locked(session_id)
    plan, panel = core_adapter.plan_of(session), session.run.panel
    more: Sequence[Step]
    if what == "missing":
        result = core_adapter.result_of(session)
        cells = (
            []
            if result is None
            else [*result.unproven_cells, *(cell for zone in result.dead_zones for cell in zone.cells)]
        )
        step = again_over(panel, plan.grid, cells, "again")
        if step is None:
            raise BadInput("Nothing is missing: every cell was surely crossed.", "nothing_missing")
        more = [step]
    elif what == "free":
        more = [free_step(panel)]
    elif what == "soak":
        more = soak_steps()
    else:
        raise BadInput("Ask for 'missing', 'free' or 'soak'.", "unknown_steps")
    names = {step.id for step in plan.steps}
    renamed = [step.model_copy(update={"id": _fresh(step.id, names)}) for step in more]
    session.plan = core_adapter.to_store(plan.model_copy(update={"steps": (*plan.steps, *renamed)}))
    session.run.touches.filter(status="open").exclude(pk=session.pk).update(status="done")
    session.status = "open"
    session.save(update_fields=["plan", "status"])
    write(
        job,
        person.username,
        "touch",
        f"Touch session of {_words(session.run)}: asked for {', '.join(s.id for s in renamed)}.",
        touch=session.pk,
    )
    notify(session.run.job_id, "touch", session.run_id)
    return session


def _fresh(name: str, taken: set[str]) -> str:
    number = 2
    fresh = name
    while fresh in taken:
        fresh, number = f"{name} {number}", number + 1
    taken.add(fresh)
    return fresh


@transaction.atomic
def close_session(user: Person, session_id: int) -> TouchSession:
    """End the recording; the glass goes back to its patterns."""
    person = require(user, "job.change")
    session, job = _locked(session_id)
    if session.status == "open":
        session.status = "done"
        session.save(update_fields=["status"])
        write(
            job,
            person.username,
            "touch",
            f"Touch session of {_words(session.run)} ended, {session.events} events.",
            touch=session.pk,
        )
        notify(session.run.job_id, "touch", session.run_id)
        tasks.enqueue(session)
    return session


@transaction.atomic
def withdraw_session(user: Person, session_id: int, withdrawn: bool, reason: str) -> TouchSession:
    """Let a session count no more, or again; it stays in the record."""
    person = require(user, "job.change")
    session, job = _locked(session_id)
    if (session.status == "withdrawn") != withdrawn:
        session.status = "withdrawn" if withdrawn else "done"
        session.save(update_fields=["status"])
        words = f"withdrawn: {reason or 'no reason given'}" if withdrawn else "counts again"
        write(job, person.username, "touch", f"Touch session of {_words(session.run)} {words}.", touch=session.pk)
        notify(session.run.job_id, "touch", session.run_id)
    return session


def take_part(run: Run, session_id: int, part: core_adapter.PartIn) -> bool:
    """Store what a glass sent, once however often it is sent. The caller has checked who may. True when it was new."""
    try:
        with transaction.atomic():
            session, _ = _locked(session_id, run=run)
            if session.events + len(part.events) > MOST_EVENTS:
                raise BadInput("The session is full. End it on the bench and start another.", "touch_full")
            steps = core_adapter.checked_steps(session, part.steps)
            if part.events or steps:
                TouchPart.objects.create(
                    session=session, sender=part.sender, number=part.number, rows=core_adapter.to_text(part.events)
                )
            session.events += len(part.events)
            session.done = [*session.done, *steps]
            if session.origin_ms is None:
                session.origin_ms = part.origin_ms
            if part.now is not None:
                session.now = msgspec.to_builtins(part.now)
            session.save(update_fields=["events", "done", "origin_ms", "now"])
            if steps:
                tasks.enqueue(session)
            notify(run.job_id, "touch_now", run.pk)
    except IntegrityError:
        return False
    return True


@transaction.atomic
def import_recording(user: Person, run_id: int, rows: Iterator[Row], plan: Plan, source: str = "file") -> TouchSession:
    """A recording that was made elsewhere, as a session of its own."""
    person = require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    job = _lock_job(run)
    session = _make(run, person, plan, source)
    for number, part in enumerate(core_adapter.sliced(rows)):
        TouchPart.objects.create(session=session, sender="file", number=number, rows=core_adapter.to_text(part))
        session.events += len(part)
    session.done = [step.model_dump(mode="json") for step in plan.steps]
    session.status = "done"
    session.save(update_fields=["events", "done", "status"])
    words = "recorded by the simulated finger" if source == "simulated" else "read from a file"
    write(
        job,
        person.username,
        "touch",
        f"Touch session of {_words(run)} {words}, {session.events} events.",
        touch=session.pk,
    )
    tasks.enqueue(session)
    return session
