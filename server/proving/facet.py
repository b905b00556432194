"""What Prove asks for beside photos and touch, and what it says of itself."""

from datetime import datetime
from typing import Any

from ninja import Schema

from lens.fitting import POWERED
from lens.progress import StationTold, stations
from lens.proving import ASPECTS, AskedFunction, Seal, aspects_asked, closing_hints, expected_losses, no_start_ladder
from lens.touch import touch_seen
from server.fitting.actions import log_of, rows_of
from server.fitting.following import base_build, procedure_of
from server.fitting.state import fasteners_of
from server.handchecks.actions import EYE, FUNCTION, eye_verdict_at, seals_of, touch_seen_at
from server.handchecks.models import HandCheck
from server.jobs.core_adapter import to_panel
from server.jobs.facets import Facet
from server.jobs.models import Job
from server.proving.verdict import curing, functions_of, verdict_of
from server.verdicts import JUDGED, seen_of, touch_wanted
from server.verdicts.look import JobLook


class HandAnswer(Schema):
    outcome: str
    grade: str
    note: str
    by: str
    at: datetime


class FunctionOut(AskedFunction):
    """A function that was touched, with its last answer."""

    answer: HandAnswer | None = None


class AspectOut(Schema):
    id: str
    title: str
    answer: HandAnswer | None = None


class TouchSeenOut(Schema):
    """Touch tried by eye: the grid that places are marked on, those that were, and what they make; ``told`` is empty where all answered."""

    columns: int
    rows: int
    tried: bool
    cells: list[tuple[int, int]] = []
    told: list[str] = []


class EyeOut(Schema):
    """A stage as looked at by eye; ``verdict`` is seen, fail or not_proven, None where nobody looked."""

    stage: str
    aspects: list[AspectOut]
    verdict: str | None
    touch: TouchSeenOut


class ProvingOut(Schema):
    """``losses``: what the chosen display is likely to cost, to be told before the owner says yes; ``closing_hints``: which step to undo for what
    closing brought; ``no_start``: what to try when it does not start any more."""

    functions: list[FunctionOut]
    eye: list[EyeOut]
    seals: list[Seal] = []
    losses: list[str] = []
    closing_hints: list[str] = []
    no_start: list[str] = []


def _answer(row: HandCheck | None) -> HandAnswer | None:
    if row is None:
        return None
    return HandAnswer(outcome=row.outcome, grade=row.grade, note=row.note, by=row.by.username, at=row.at)


def _touch_seen(job: Job, stage: str) -> TouchSeenOut:
    seen = touch_seen_at(job, stage)
    told = seen or touch_seen(to_panel(job), ())
    return TouchSeenOut(
        columns=told.columns, rows=told.rows, tried=seen is not None, cells=list(told.cells), told=list(told.told)
    )


def proving_state(look: JobLook) -> ProvingOut:
    job = look.job
    rows = list(job.handchecks.all())
    last = {(one.what, one.stage, one.name): one for one in rows}
    functions = [
        FunctionOut(**asked.model_dump(), answer=_answer(last.get((FUNCTION, "closed", asked.id))))
        for asked in functions_of(job)
    ]
    touch = touch_wanted(job, seen_of(job))
    eye = [
        EyeOut(
            stage=stage,
            aspects=[
                AspectOut(id=name, title=ASPECTS[name], answer=_answer(last.get((EYE, stage, name))))
                for name in aspects_asked(touch)
            ],
            verdict=eye_verdict_at(job, stage, touch),
            touch=_touch_seen(job, stage),
        )
        for stage in JUDGED
    ]
    told = ProvingOut(functions=functions, eye=eye, seals=list(seals_of(job)))
    if job.chosen_offer is not None:
        told.losses = list(expected_losses(base_build(job), job.chosen_offer.grade or None))
    procedure = procedure_of(job)
    if procedure is not None:
        log = [one for one in log_of(procedure, rows_of(job)) if one.step != POWERED]
        told.no_start = list(no_start_ladder(procedure, log))
        if look.comparison is not None and look.comparison.new:
            spots = {name: group.spots for name, group in fasteners_of(job, procedure).items()}
            size = (job.panel_width, job.panel_height)
            told.closing_hints = list(closing_hints(procedure, log, look.comparison.new, size, spots))
    return told


def _view(look: JobLook) -> dict[str, Any]:
    return proving_state(look).model_dump()


def _prove(look: JobLook) -> StationTold:
    verdict = verdict_of(look)
    return stations.measured(verdict, "No photo yet.", verdict.next)


FACET = Facet("proving", ProvingOut, _view, stations={"prove": _prove}, hinders=lambda look: curing(look.job))
