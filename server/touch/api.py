"""Touch sessions and re-tests for people who are signed in."""

from datetime import date, datetime
from typing import Any, BinaryIO, Literal, cast

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, File, Form, Router, Schema, Status
from ninja.files import UploadedFile

from lens.touch import SOAK_MS, Outline, Plan, TouchResult, grid_for, read_recording
from server.accounts.policy import require
from server.inspections.models import Run
from server.touch import actions, core_adapter, rechecks
from server.touch.models import Recheck, TouchSession

router = Router(tags=["touch"])
MOST_PLAN_BYTES = 1024 * 1024
REPLAY_GAP_MS = 12.0


class TouchOut(Schema):
    """``now`` is what the glass last said of itself: the step it is at, and whether it waits, runs or asks."""

    id: int
    run_id: int
    stage: str
    source: str
    drawn_with: str
    status: Literal["open", "done", "withdrawn"]
    plan: Plan
    done: list[str]
    events: int
    now: dict[str, Any] | None
    problem: str
    result: TouchResult | None
    made_by: str
    made_at: datetime


class RecheckOut(Schema):
    id: int
    job_id: int
    title: str
    due_on: date
    reason: str
    settled_at: datetime | None
    settled_because: str


class StartIn(Schema):
    soak_s: float = SOAK_MS / 1000
    fingers: int = Field(default=0, ge=0, le=10)
    outline: Outline = Outline()
    drawn_with: Literal["bare", "glove", "film"] = "bare"


class CommandIn(Schema):
    do: str = Field(max_length=20)


class MoreIn(Schema):
    what: Literal["missing", "free", "soak"]


class WithdrawIn(Schema):
    withdrawn: bool
    reason: str = Field(default="", max_length=200)


class RecheckIn(Schema):
    due_on: date
    reason: str = Field(max_length=200)


class SettleIn(Schema):
    because: str = Field(default="", max_length=200)


class Stroke(Schema):
    """One contact: its points as t ms, x, y, thinned for drawing."""

    points: list[tuple[float, float, float]]


def touch_out(session: TouchSession, run: Run) -> dict[str, Any]:
    """A session without its events."""
    names = ("source", "drawn_with", "status", "events", "now", "problem", "made_at")
    return {
        **{name: getattr(session, name) for name in names},
        "plan": core_adapter.stored_plan(session),
        "result": core_adapter.stored_result(session),
        "id": session.pk,
        "run_id": run.pk,
        "stage": run.stage,
        "done": [step["id"] for step in session.done],
        "made_by": session.made_by.username,
    }


def recheck_out(one: Recheck) -> dict[str, Any]:
    names = ("due_on", "reason", "settled_at", "settled_because", "job_id")
    return {**{name: getattr(one, name) for name in names}, "id": one.pk, "title": one.job.title}


def _out(session: TouchSession) -> dict[str, Any]:
    return touch_out(session, session.run)


@router.post("/runs/{run_id}/touch", response={201: TouchOut}, operation_id="startTouch")
def start(request: HttpRequest, run_id: int, body: StartIn) -> Status[dict[str, Any]]:
    session = actions.start_session(request.user, run_id, body.soak_s, body.fingers, body.outline, body.drawn_with)
    return Status(201, _out(session))


@router.post("/runs/{run_id}/touch/file", response={201: TouchOut}, operation_id="importTouch")
def import_file(
    request: HttpRequest, run_id: int, file: File[UploadedFile], plan: Form[str] = ""
) -> Status[dict[str, Any]]:
    """JSON Lines, an evemu or a libinput recording; the last two may have their plan beside them. Without a plan a recording is judged for what
    it can tell, and never passes."""
    require(request.user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    recording = read_recording(cast(BinaryIO, file.file), run.panel, plan.encode()[:MOST_PLAN_BYTES] or None)
    told = recording.plan or Plan(grid=grid_for(run.panel))
    return Status(201, _out(actions.import_recording(request.user, run_id, recording.rows, told)))


@router.post("/touch/{session_id}/command", response={204: None}, operation_id="commandTouch")
def command(request: HttpRequest, session_id: int, body: CommandIn) -> Status[None]:
    actions.command(request.user, session_id, body.do)
    return Status(204, None)


@router.post("/touch/{session_id}/more", response=TouchOut, operation_id="moreTouch")
def more(request: HttpRequest, session_id: int, body: MoreIn) -> dict[str, Any]:
    return _out(actions.add_steps(request.user, session_id, body.what))


@router.post("/touch/{session_id}/end", response=TouchOut, operation_id="endTouch")
def end(request: HttpRequest, session_id: int) -> dict[str, Any]:
    return _out(actions.close_session(request.user, session_id))


@router.patch("/touch/{session_id}", response=TouchOut, operation_id="withdrawTouch")
def withdraw(request: HttpRequest, session_id: int, body: WithdrawIn) -> dict[str, Any]:
    return _out(actions.withdraw_session(request.user, session_id, body.withdrawn, body.reason))


def _viewed(request: HttpRequest, session_id: int) -> TouchSession:
    return get_object_or_404(TouchSession.objects.select_related("run__job"), pk=session_id)


@router.get("/touch/{session_id}/strokes", response=list[Stroke], operation_id="touchStrokes")
def strokes(request: HttpRequest, session_id: int) -> list[Stroke]:
    """All contacts in the order of time, for the replay."""
    session = _viewed(request, session_id)
    underway: dict[int | str, list[tuple[float, float, float]]] = {}
    out: list[list[tuple[float, float, float]]] = []
    for t, name, ev, x, y, *_ in core_adapter.rows_of(session):
        if ev == "down" or name not in underway:
            underway[name] = []
            out.append(underway[name])
        line = underway[name]
        if (
            x is not None
            and y is not None
            and ev in ("down", "move")
            and (not line or t - line[-1][0] >= REPLAY_GAP_MS)
        ):
            line.append((round(t), round(x, 1), round(y, 1)))
        if ev in ("up", "cancel"):
            del underway[name]
    return [Stroke(points=line) for line in out if line]


@router.get("/touch/{session_id}/session.jsonl", operation_id="touchFile")
def session_file(request: HttpRequest, session_id: int) -> HttpResponse:
    session = _viewed(request, session_id)
    name = f"touch-job{session.run.job_id}-{session.run.stage}-{session.pk}.jsonl"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    # joined: a stream of a synchronous view would be read at once by the server all the same
    return HttpResponse(b"".join(core_adapter.exported(session)), content_type="application/jsonl", headers=headers)


@router.post("/jobs/{job_id}/rechecks", response={201: RecheckOut}, operation_id="askRecheck")
def ask(request: HttpRequest, job_id: int, body: RecheckIn) -> Status[dict[str, Any]]:
    return Status(201, recheck_out(rechecks.ask(request.user, job_id, body.due_on, body.reason)))


@router.get("/rechecks", response=list[RecheckOut], operation_id="dueRechecks")
def due(request: HttpRequest) -> list[dict[str, Any]]:
    """Those that are not settled, the earliest first."""
    return [recheck_out(one) for one in Recheck.objects.select_related("job").filter(settled_at=None)]


@router.post("/rechecks/{recheck_id}/settle", response=RecheckOut, operation_id="settleRecheck")
def settle(request: HttpRequest, recheck_id: int, body: SettleIn) -> dict[str, Any]:
    return recheck_out(rechecks.settle(request.user, recheck_id, body.because))
