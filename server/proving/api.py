"""Answers of people at Prove and at the dry fit."""

from datetime import datetime
from typing import Literal

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from lens.inspecting import LookedBack
from lens.proving import PAYERS, Charge, FunctionOutcome, Seal
from lens.records import Finding, Stage
from server.accounts.policy import require
from server.handchecks import actions
from server.handchecks.actions import seals_as_found
from server.jobs.models import Job
from server.proving import before
from server.proving.facet import ProvingOut, proving_state
from server.verdicts.look import JobLook

router = Router(tags=["proving"])
SINCE = {
    "unchanged": "Nothing is new since it was handed over.",
    "changed": "New since it was handed over.",
    "not_proven": "What is new since then cannot be told: too little was seen, then or now.",
}


class FunctionIn(Schema):
    function: str = Field(max_length=40)
    outcome: FunctionOutcome
    grade: Literal["seen", "told"] = "seen"
    note: str = Field(default="", max_length=300)


class EyeIn(Schema):
    aspect: str = Field(max_length=40)
    outcome: Literal["good", "bad", "cannot_tell"]


class TouchSeenIn(Schema):
    """``cells``: column and row, from the top left, of each place that did not answer; none where all of it did."""

    cells: list[tuple[int, int]] = Field(max_length=400)


class SealIn(Schema):
    """``on`` False takes one back that was entered wrongly."""

    place: str = Field(max_length=40)
    number: str = Field(max_length=40)
    on: bool = True


class SealFoundIn(Schema):
    place: str = Field(max_length=40)
    state: str = Field(max_length=10)


class ChargeIn(Schema):
    earlier_id: int
    charged_to: str = Field(max_length=10)
    reason: str = Field(default="", max_length=300)


class EarlierOut(Schema):
    """An earlier job of this device: ``how`` it is known to be the same one, what warranty still holds, what is new since it left, its seals as
    they are found now, and who pays: as proposed, and as decided (empty while nobody did)."""

    job_id: int
    title: str
    closed_at: datetime
    how: Literal["serial", "owner"]
    panel: str
    under_warranty: list[str]
    new: list[Finding]
    same: int
    unclear: int
    looked_back: list[LookedBack]
    compared: str
    seals: list[Seal]
    proposed: Charge
    charged_to: str
    charge_reason: str


class LessonOut(Schema):
    job_id: int
    title: str
    text: str


class BeforeOut(Schema):
    earlier: list[EarlierOut]
    payers: dict[str, str]
    lessons: list[LessonOut]


@router.get("/jobs/{job_id}/before", response=BeforeOut, operation_id="whatWasBefore")
def what_was_before(request: HttpRequest, job_id: int) -> BeforeOut:
    """Earlier jobs of the same device with what changed since, and what was learnt at devices like it."""
    require(request.user, "job.view")
    return _before(job_id)


def _before(job_id: int) -> BeforeOut:
    job = get_object_or_404(Job.objects.prefetch_related("runs", "evidence", "handchecks", "comebacks"), pk=job_id)
    earlier = before.earlier_jobs(job)
    before.ask_to_look_back(job, earlier)
    return BeforeOut(
        earlier=[_earlier_out(job, one) for one in earlier],
        payers={str(name): title for name, title in PAYERS.items()},
        lessons=[LessonOut(job_id=one.pk, title=one.title, text=text) for one, text in before.lessons_for(job)],
    )


def _earlier_out(job: Job, one: before.Earlier) -> EarlierOut:
    told = before.since_hand_over(job, one.job)
    decided = next((row for row in reversed(job.comebacks.all()) if row.earlier_id == one.job.pk), None)
    day = job.created_at.date()
    holds = [
        f"{what} until {until:%Y-%m-%d}"
        for what, until in (("the display", one.part_until), ("our work", one.work_until))
        if until is not None and day <= until
    ]
    return EarlierOut(
        job_id=one.job.pk,
        title=one.job.title,
        closed_at=one.job.closed_at or one.job.created_at,
        how=one.how,
        panel=one.job.chosen_offer.panel.name if one.job.chosen_offer else "",
        under_warranty=holds,
        new=list(told.new) if told else [],
        same=len(told.same) if told else 0,
        unclear=len(told.unclear) if told else 0,
        looked_back=list(told.looked_back) if told else [],
        compared=SINCE[told.result] if told else "",
        seals=list(seals_as_found(job, one.job)),
        proposed=before.proposed(job, one, told),
        charged_to=decided.charged_to if decided else "",
        charge_reason=decided.reason if decided else "",
    )


@router.post("/jobs/{job_id}/before/charge", response=BeforeOut, operation_id="decideCharge")
def decide_charge(request: HttpRequest, job_id: int, body: ChargeIn) -> BeforeOut:
    """Who pays for a device that came back."""
    before.decide_charge(request.user, job_id, body.earlier_id, body.charged_to, body.reason)
    return _before(job_id)


@router.post("/jobs/{job_id}/before/seals", response=BeforeOut, operation_id="findSeal")
def find_seal(request: HttpRequest, job_id: int, body: SealFoundIn) -> BeforeOut:
    """How a seal of an earlier job is found on this device."""
    actions.find_seal(request.user, job_id, body.place, body.state)
    return _before(job_id)


@router.post("/jobs/{job_id}/proving/seals", response=ProvingOut, operation_id="putSeal")
def put_seal(request: HttpRequest, job_id: int, body: SealIn) -> ProvingOut:
    """A seal on the closed device as it goes: its place and its number."""
    actions.put_seal(request.user, job_id, body.place, body.number, body.on)
    return proving_state(JobLook.at(job_id))


@router.post("/jobs/{job_id}/proving/functions", response=ProvingOut, operation_id="answerFunction")
def answer_function(request: HttpRequest, job_id: int, body: FunctionIn) -> ProvingOut:
    """How a function of the closed device was found; a later answer counts."""
    actions.answer_function(request.user, job_id, body.function, body.outcome, body.note, body.grade)
    return proving_state(JobLook.at(job_id))


@router.post("/jobs/{job_id}/proving/eye/{stage}", response=ProvingOut, operation_id="answerEye")
def answer_eye(request: HttpRequest, job_id: int, stage: Stage, body: EyeIn) -> ProvingOut:
    """What was seen of a panel that cannot be measured at a stage."""
    actions.answer_eye(request.user, job_id, stage, body.aspect, body.outcome)
    return proving_state(JobLook.at(job_id))


@router.post("/jobs/{job_id}/proving/touch-by-eye/{stage}", response=ProvingOut, operation_id="markTouch")
def mark_touch(request: HttpRequest, job_id: int, stage: Stage, body: TouchSeenIn) -> ProvingOut:
    """Touch tried by eye: which places did not answer to a slow drag over the whole surface."""
    actions.mark_touch(request.user, job_id, stage, body.cells)
    return proving_state(JobLook.at(job_id))
