"""The first job: what a simulated device would show whoever looks at it, so that a person can learn on it."""

import numpy as np
from django.conf import settings
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from lens.diagnosis import load_model, network_for
from lens.errors import BadInput
from server.accounts.policy import require
from server.jobs.models import Job
from server.simbench.world import begin_practice

LIKELY = 0.5  # of a feature, from which on the device shows it
router = Router(tags=["simulated bench"])


class PracticeBegun(Schema):
    job_id: int


class PracticeOut(Schema):
    """``practice``: whether this job is one to learn on; ``answers``: by check what the device shows; ``number``: what its panel's label says."""

    practice: bool
    answers: dict[str, str] = {}
    number: str = ""


class PracticeState(Schema):
    """``job_id``: of the job that this person learns on; ``done``: whether one was handed over."""

    job_id: int | None
    done: bool


def shown_by(cause: str, device_type: str) -> dict[str, str]:
    """By check the outcome that a device with this cause alone most likely shows."""
    model = load_model()
    network = network_for(model, device_type)
    alone = 1 + network.causes.index(cause)
    answers = {}
    for name, shares in network.shows.items():
        check, p = model.checks[name], shares[:, alone]
        if check.features:
            at = int(np.argmax(p[1:])) + 1
            answers[name] = list(check.outcomes)[at if p[at] >= LIKELY else 0]
        else:
            answers[name] = list(check.outcomes)[int(np.argmax(p))]
    return answers


@router.post("/practice", response=PracticeBegun, operation_id="beginPractice")
def begin(request: HttpRequest) -> dict[str, int]:
    """The job that this person learns on, made when there is none."""
    person = require(request.user, "job.change")
    if not settings.DEMO:
        raise BadInput("The first job is there in the demo only: start with ./clear-lens demo.", "no_demo")
    return {"job_id": begin_practice(person).pk}


@router.get("/practice", response=PracticeState, operation_id="getPractice")
def practice(request: HttpRequest) -> dict[str, object]:
    """How far this person is with the first job."""
    mine = Job.objects.filter(simulated__practice__by=request.user.get_username())
    job = mine.filter(closed_at=None).first()
    return {"job_id": job.pk if job else None, "done": mine.exclude(closed_at=None).exists()}


@router.get("/jobs/{job_id}/practice", response=PracticeOut, operation_id="getJobPractice")
def of_job(request: HttpRequest, job_id: int) -> dict[str, object]:
    """What a device to learn on would show; of any other job only that it is none."""
    job = get_object_or_404(Job, pk=job_id)
    told = (job.simulated or {}).get("practice")
    if not told:
        return {"practice": False}
    return {"practice": True, "answers": shown_by(told["cause"], job.device_type), "number": told["number"]}
