"""The steps of fitting."""

import datetime as dt

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Field, Router, Schema

from lens.fitting import LONGEST_H, KeepOut, PlacedFastener, StepNotes, find_build, questions
from server.accounts.doors import lead_profiles
from server.accounts.policy import require
from server.fitting import actions, following, notes, places
from server.fitting.following import follow_newer, procedure_of
from server.fitting.models import GatePassed
from server.fitting.own import fork_at_bench
from server.fitting.shapes import ClockOut, FitState
from server.fitting.state import clock_out, fit_state
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


class PlacesIn(Schema):
    """``photo_id``: the places are of that photo of the job."""

    places: list[PlacedFastener] = Field(max_length=60)
    photo_id: int | None = None


class ForkIn(Schema):
    differs: str = Field(max_length=120)


class SubIn(Schema):
    sub: str = Field(max_length=40)


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


@router.post("/jobs/{job_id}/fit/fork", auth=lead_profiles, response=FitState, operation_id="forkProcedure")
def fork(request: HttpRequest, job_id: int, body: ForkIn) -> FitState:
    """This device differs from the procedure: from here the job and its device follow a way of the shop's own, which a lead edits in the settings."""
    fork_at_bench(request.user, job_id, body.differs)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/sub", response=FitState, operation_id="takeInSub")
def take_in_sub(request: HttpRequest, job_id: int, body: SubIn) -> FitState:
    """Take a sub-procedure into the course of this job: the display comes off its plug again."""
    with transaction.atomic():
        actions.take_back_gate(request.user, job_id, "plug")
        following.take_in_sub(request.user, job_id, body.sub)
    return _now(job_id)


@router.delete("/jobs/{job_id}/fit/sub", response=FitState, operation_id="leaveSubs")
def leave_subs(request: HttpRequest, job_id: int) -> FitState:
    """Go on without it, with this display or another one."""
    with transaction.atomic():
        actions.take_back_gate(request.user, job_id, "plug")
        left = following.leave_subs(request.user, job_id)
        GatePassed.objects.filter(job_id=job_id, gate__in=left).update(taken_back=True)
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


@router.put("/jobs/{job_id}/fit/places/{group}", response=FitState, operation_id="placeFasteners")
def place_fasteners(request: HttpRequest, job_id: int, group: str, body: PlacesIn) -> FitState:
    """Where the screws of a group sit on this device, instead of where they usually do; an empty list goes back to that."""
    places.place_fasteners(request.user, job_id, group, body.places, body.photo_id)
    return _now(job_id)


@router.post("/jobs/{job_id}/fit/keep-outs", response=FitState, operation_id="addKeepOut")
def add_keep_out(request: HttpRequest, job_id: int, body: KeepOut) -> FitState:
    """Where no pick may go on this device, beside what is usual for its build."""
    places.add_keep_out(request.user, job_id, body)
    return _now(job_id)


@router.delete("/jobs/{job_id}/fit/keep-outs/{keep_out_id}", response=FitState, operation_id="takeBackKeepOut")
def take_back_keep_out(request: HttpRequest, job_id: int, keep_out_id: int) -> FitState:
    places.take_back_keep_out(request.user, job_id, keep_out_id)
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
