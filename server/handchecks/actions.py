"""Answers of people, each kept and each in the record."""

from django.db import transaction

from lens.errors import BadInput
from lens.proving import (
    ASPECTS,
    OUTCOMES,
    EyeAnswer,
    FunctionAnswer,
    check_aspect,
    check_function,
    eye_verdict,
    functions,
)
from lens.records import STAGES
from server.accounts.policy import require
from server.handchecks.models import HandCheck
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write

EYE, FUNCTION = "eye", "function"
MOST_ANSWERS = 1000
MINE = ("proving", "fit")
OUTCOME_WORDS = {
    "good": "works",
    "faulty": "does not work",
    "lost": "lost, as was to be expected",
    "was_so": "did not work before either",
    "not_there": "the device has none",
    "not_tested": "not tested",
    "bad": "bad",
    "cannot_tell": "cannot be told",
}


def function_answers(job: Job) -> list[FunctionAnswer]:
    """In the order in which they were given."""
    return [
        FunctionAnswer(function=one.name, outcome=one.outcome, grade=one.grade, note=one.note)  # type: ignore[arg-type]
        for one in job.handchecks.all()
        if one.what == FUNCTION and one.outcome in OUTCOMES
    ]


def eye_answers(job: Job, stage: str) -> list[EyeAnswer]:
    return [
        EyeAnswer(aspect=one.name, outcome=one.outcome)  # type: ignore[arg-type]
        for one in job.handchecks.all()
        if one.what == EYE and one.stage == stage and one.outcome in ("good", "bad", "cannot_tell")
    ]


def eye_verdict_at(job: Job, stage: str, touch: bool) -> str | None:
    """What looks by eye came to at a stage; None where nobody looked."""
    return eye_verdict(eye_answers(job, stage), touch)


@transaction.atomic
def answer_function(
    user: Person, job_id: int, function: str, outcome: str, note: str = "", grade: str = "seen"
) -> None:
    """How a function of the closed device was found. The same answer twice is one."""
    check_function(function, outcome)
    _answer(user, job_id, "closed", FUNCTION, function, outcome, note, grade, functions()[function].title)


@transaction.atomic
def answer_eye(user: Person, job_id: int, stage: str, aspect: str, outcome: str) -> None:
    """What was seen of a panel where nothing could be measured."""
    if stage not in STAGES or not STAGES[stage].judged:
        raise BadInput(f"Nothing is looked at by eye at '{stage}'.", "unknown_stage")
    check_aspect(aspect, outcome)
    _answer(user, job_id, stage, EYE, aspect, outcome, "", "seen", f"{STAGES[stage].title}, by eye: {ASPECTS[aspect]}")


def _answer(
    user: Person, job_id: int, stage: str, what: str, name: str, outcome: str, note: str, grade: str, title: str
) -> None:
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    mine = HandCheck.objects.filter(job=job)
    last = mine.filter(stage=stage, what=what, name=name).last()
    note = note.strip()[:300]
    if last is not None and (last.outcome, last.note, last.grade) == (outcome, note, grade):
        return
    if mine.count() >= MOST_ANSWERS:
        raise BadInput(f"A job holds at most {MOST_ANSWERS} answers.", "too_many_answers")
    HandCheck.objects.create(
        job=job, stage=stage, what=what, name=name, outcome=outcome, note=note, grade=grade, by=person
    )
    tail = f" ({note})" if note else ""
    write(
        job,
        person.username,
        "hand_check",
        f"{title}: {OUTCOME_WORDS[outcome]}{tail}.",
        stage=stage,
        what=what,
        name=name,
        outcome=outcome,
        grade=grade,
        facets=MINE,
    )
