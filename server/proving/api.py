"""Answers of people at Prove and at the dry fit."""

from typing import Literal

from django.http import HttpRequest
from ninja import Field, Router, Schema

from lens.proving import FunctionOutcome
from lens.records import Stage
from server.handchecks import actions
from server.proving.facet import ProvingOut, proving_state
from server.verdicts.look import JobLook

router = Router(tags=["proving"])


class FunctionIn(Schema):
    function: str = Field(max_length=40)
    outcome: FunctionOutcome
    grade: Literal["seen", "told"] = "seen"
    note: str = Field(default="", max_length=300)


class EyeIn(Schema):
    aspect: str = Field(max_length=40)
    outcome: Literal["good", "bad", "cannot_tell"]


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
