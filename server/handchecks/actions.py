"""Answers of people, each kept and each in the record."""

from collections.abc import Sequence

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.proving import (
    ASPECTS,
    MOST_SEALS,
    OUTCOMES,
    SEAL_STATES,
    EyeAnswer,
    FunctionAnswer,
    Seal,
    check_aspect,
    check_function,
    check_seal,
    eye_verdict,
    functions,
)
from lens.records import STAGES
from lens.tables import not_known
from lens.touch import TouchSeen, eye_grid, touch_seen
from server.accounts.policy import require
from server.handchecks.models import HandCheck
from server.jobs.actions import Person, lock_open_job
from server.jobs.core_adapter import to_panel
from server.jobs.models import Job
from server.jobs.record import write

EYE, FUNCTION, SEAL, TOUCH = "eye", "function", "seal", "touch"
MOST_ANSWERS = 1000
MINE = ("proving", "fit", "isolate")
OUTCOME_WORDS: dict[str, str] = {
    "good": "works",
    "faulty": "does not work",
    "lost": "lost, as was to be expected",
    "was_so": "did not work before either",
    "not_there": "the device has none",
    "not_tested": "not tested",
    "bad": "bad",
    "cannot_tell": "cannot be told",
    "applied": "put on",
    "removed": "not put on after all",
    **{str(state): words for state, words in SEAL_STATES.items()},
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
    _check_stage(stage)
    check_aspect(aspect, outcome)
    _answer(user, job_id, stage, EYE, aspect, outcome, "", "seen", f"{STAGES[stage].title}, by eye: {ASPECTS[aspect]}")


def _check_stage(stage: str) -> None:
    if stage not in STAGES or not STAGES[stage].judged:
        raise BadInput(f"Nothing is looked at by eye at '{stage}'.", "unknown_stage")


@transaction.atomic
def mark_touch(user: Person, job_id: int, stage: str, cells: Sequence[tuple[int, int]]) -> None:
    """Which places did not answer to a slow drag over the whole surface; with none touch is good. Raises BadInput for places off the panel."""
    _check_stage(stage)
    seen = touch_seen(to_panel(get_object_or_404(Job, pk=job_id)), cells)
    title = f"{STAGES[stage].title}, touch by eye"
    told = " ".join(seen.told)
    _answer(
        user, job_id, stage, EYE, TOUCH, "bad" if seen.cells else "good", told, "seen", title, [*map(list, seen.cells)]
    )


def touch_seen_at(job: Job, stage: str) -> TouchSeen | None:
    """Touch as it was last tried by eye at a stage; None where nobody marked it, or somebody answered otherwise since. The panel's size may have
    been corrected since: what does not lie on it any more is left out."""
    own = [row for row in job.handchecks.all() if (row.what, row.stage, row.name) == (EYE, stage, TOUCH)]
    last = own[-1] if own else None
    if last is None or last.outcome == "cannot_tell" or (last.outcome == "bad" and not last.cells):
        return None
    panel = to_panel(job)
    grid = eye_grid(panel)
    cells = [(int(c), int(r)) for c, r in last.cells if 0 <= c < grid.columns and 0 <= r < grid.rows]
    return touch_seen(panel, cells) if cells or not last.cells else None


def seals_of(job: Job) -> tuple[Seal, ...]:
    """What the closed device left with."""
    last = {row.name: row for row in job.handchecks.all() if row.what == SEAL and row.stage == "closed"}
    return tuple(Seal(place=row.name, number=row.note) for row in last.values() if row.outcome == "applied")


def seals_as_found(job: Job, earlier: Job) -> tuple[Seal, ...]:
    """The seals of an earlier job, as somebody found them on this one."""
    found = {row.name: row.outcome for row in job.handchecks.all() if row.what == SEAL and row.stage == "inspect"}
    return tuple(
        one.model_copy(update={"state": found[one.place]}) if one.place in found else one for one in seals_of(earlier)
    )


@transaction.atomic
def put_seal(user: Person, job_id: int, place: str, number: str, on: bool = True) -> None:
    """A seal on the closed device as it goes; ``on`` False takes a wrong one back."""
    place, number = check_seal(place, number)
    job = get_object_or_404(Job, pk=job_id)
    if on and len(seals_of(job)) >= MOST_SEALS and place not in {one.place for one in seals_of(job)}:
        raise BadInput(f"A device has at most {MOST_SEALS} seals.", "too_many_seals")
    _answer(
        user, job_id, "closed", SEAL, place, "applied" if on else "removed", number, "seen", f"Seal {number}, {place}"
    )


@transaction.atomic
def find_seal(user: Person, job_id: int, place: str, state: str) -> None:
    """How a seal of an earlier job is found on the device that came back."""
    if state not in SEAL_STATES:
        raise not_known("state of a seal", state, SEAL_STATES, "unknown_seal_state")
    _answer(user, job_id, "inspect", SEAL, place[:40], state, "", "seen", f"Seal at {place[:40]}")


def _answer(
    user: Person,
    job_id: int,
    stage: str,
    what: str,
    name: str,
    outcome: str,
    note: str,
    grade: str,
    title: str,
    cells: Sequence[Sequence[int]] = (),
) -> None:
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    mine = HandCheck.objects.filter(job=job)
    last = mine.filter(stage=stage, what=what, name=name).last()
    note = note.strip()[:300]
    if last is not None and (last.outcome, last.note, last.grade, last.cells) == (outcome, note, grade, list(cells)):
        return
    if mine.count() >= MOST_ANSWERS:
        raise BadInput(f"A job holds at most {MOST_ANSWERS} answers.", "too_many_answers")
    HandCheck.objects.create(
        job=job,
        stage=stage,
        what=what,
        name=name,
        outcome=outcome,
        note=note,
        grade=grade,
        cells=list(cells),
        by=person,
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
