"""The steps of fitting."""

import datetime as dt

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Field, Router, Schema

from lens.fitting import LONGEST_H, StepNotes, find_build, questions
from server.accounts.policy import require
from server.fitting import actions, notes
from server.fitting.following import follow_newer, procedure_of
from server.fitting.models import GatePassed
from server.fitting.state import ClockOut, FitState, clock_out, fit_state
from server.jobs.models import Job

router = Router(tags=["fitting"])
RUNG = dt.timedelta(hours=1)


class NoteIn(Schema):
    """``was_so``: found on the way; false: done by us; null: only a photo of how it is."""

    step: str = Field(default="", max_length=40)
    text: str = Field(default="", max_length=300)
    place: str = Field(default="", max_length=80)
    was_so: bool | None = None
    consent_needed: bool = False
    photo_id: int | None = None


class FinderOut(Schema):
    """The next question, its id empty where none tells more; ``builds`` are those that are left."""

    id: str
    title: str
    how: str
    answers: dict[str, str]
    builds: list[str]
    contradiction: bool


class JobClock(Schema):
    job_id: int
    title: str
    clock: ClockOut


class PassGate(Schema):
    gate: str
    choice: str = ""
    reason: str = Field(default="", max_length=300)
    counts: dict[str, int] = Field(default={}, max_length=10)
    notes: StepNotes = StepNotes()


class Loose(Schema):
    count: int = Field(ge=0, le=10_000)


class BuildIn(Schema):
    build: str = Field(max_length=40)


def _now(job_id: int) -> FitState:
    return fit_state(Job.objects.select_related("followed").prefetch_related("gates__by").get(pk=job_id))


@router.post("/jobs/{job_id}/fit/gates", response=FitState, operation_id="passGate")
def pass_gate(request: HttpRequest, job_id: int, body: PassGate) -> FitState:
    actions.pass_gate(request.user, job_id, body.gate, body.choice, body.reason, body.counts, body.notes)
    return _now(job_id)


@router.delete("/jobs/{job_id}/fit/gates/{gate_id}", response=FitState, operation_id="takeBackGate")
def take_back_gate(request: HttpRequest, job_id: int, gate_id: str) -> FitState:
    actions.take_back_gate(request.user, job_id, gate_id)
    return _now(job_id)


@router.get("/jobs/{job_id}/fit/finder", response=FinderOut, operation_id="findBuild")
def finder(request: HttpRequest, job_id: int, answers: str = "") -> FinderOut:
    """What the answers so far leave of the builds, and the next question. ``answers``: 'question:answer', with commas between."""
    require(request.user, "job.view")
    job = get_object_or_404(Job, pk=job_id)
    told = dict(one.partition(":")[::2] for one in answers[:400].split(",") if ":" in one)
    found = find_build(job.device_type, told)
    question = questions()[found.question] if found.question else None
    return FinderOut(
        id=found.question or "",
        title=question.title if question else "",
        how=question.how if question else "",
        answers=question.answers if question else {},
        builds=list(found.builds),
        contradiction=found.contradiction,
    )


@router.post("/jobs/{job_id}/fit/build", response=FitState, operation_id="chooseBuild")
def choose_build(request: HttpRequest, job_id: int, body: BuildIn) -> FitState:
    actions.choose_build(request.user, job_id, body.build)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/newer", response=FitState, operation_id="followNewer")
def newer(request: HttpRequest, job_id: int) -> FitState:
    """Go on by the procedure as it is now."""
    follow_newer(request.user, job_id)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/powered", response=FitState, operation_id="switchedOn")
def switched_on(request: HttpRequest, job_id: int) -> FitState:
    actions.switched_on(request.user, job_id)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/loose", response=FitState, operation_id="looseThings")
def loose_things(request: HttpRequest, job_id: int, body: Loose) -> FitState:
    actions.loose_things(request.user, job_id, body.count)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/notes", response=FitState, operation_id="addFitNote")
def add_note(request: HttpRequest, job_id: int, body: NoteIn) -> FitState:
    """A photo at a step, or what was found on the way or done by us."""
    notes.add_note(request.user, job_id, **body.model_dump())
    return _now(job_id)


@router.delete("/jobs/{job_id}/fit/notes/{note_id}", response=FitState, operation_id="takeBackFitNote")
def take_back_note(request: HttpRequest, job_id: int, note_id: int) -> FitState:
    notes.take_back_note(request.user, job_id, note_id)
    return _now(job_id)


@router.get("/clocks", response=list[JobClock], operation_id="listClocks")
def list_clocks(request: HttpRequest) -> list[JobClock]:
    """The clocks of all open jobs that run, or ran out within the last hour; the next to ring first."""
    require(request.user, "job.view")
    now = timezone.now()
    told = []
    # every screen asks this twice a minute: only jobs at which something was done within the longest clock
    lately = GatePassed.objects.filter(at__gt=now - dt.timedelta(hours=LONGEST_H) - RUNG).values("job")
    jobs = Job.objects.filter(closed_at=None, pk__in=lately).select_related("followed").prefetch_related("gates")
    for job in jobs:
        procedure = procedure_of(job)
        if procedure is None or not any(step.clocks for step in procedure.steps):
            continue
        for one in actions.clocks_of(procedure, actions.rows_of(job), now):
            if one.ends > now - RUNG:
                told.append(JobClock(job_id=job.pk, title=job.title, clock=clock_out(one)))
    return sorted(told, key=lambda one: one.clock.ends)
