"""Panels that are inspected by themselves: begun, listed, decided."""

from datetime import datetime
from typing import Literal, cast

from django.http import HttpRequest
from ninja import Field, Router, Schema, Status

from lens.records import Outcome
from server.accounts.policy import require
from server.bench.summaries import refresh_stale
from server.incoming import actions
from server.incoming.actions import Begun, Place
from server.incoming.facet import IncomingOut, incoming_state
from server.incoming.models import IncomingPanel
from server.verdicts.look import JobLook

router = Router(tags=["incoming"])
SHOWN = 100


class BeginIn(Schema):
    """One of the three says which panel; ``liners_whole``: nothing was peeled yet."""

    line_id: int | None = None
    offer_id: int | None = None
    panel_id: int | None = None
    place: Place = "rig"
    serial: str = Field(default="", max_length=60)
    profile: str = Field(default="class-II", max_length=40)
    liners_whole: bool = True


class BegunOut(Schema):
    job_id: int


class PanelDecisionIn(Schema):
    decision: str = Field(max_length=20)
    note: str = Field(default="", max_length=300)


@router.post("/incoming", response={201: BegunOut}, operation_id="beginIncoming")
def begin(request: HttpRequest, body: BeginIn) -> Status[BegunOut]:
    """Inspect a panel that came, or lies on the shelf, without a customer's job."""
    begun = Begun(body.line_id, body.offer_id, body.panel_id)
    job = actions.begin(request.user, begun, body.place, body.serial, body.profile, body.liners_whole)
    return Status(201, BegunOut(job_id=job.pk))


@router.post("/jobs/{job_id}/incoming/decision", response=IncomingOut, operation_id="decideIncoming")
def decide(request: HttpRequest, job_id: int, body: PanelDecisionIn) -> IncomingOut:
    actions.decide(request.user, job_id, body.decision, body.note)
    return incoming_state(JobLook.at(job_id))


class IncomingLine(Schema):
    """``verdict`` is None where nothing was measured."""

    job_id: int
    title: str
    serial: str
    verdict: Outcome | None
    decision: str
    created_at: datetime
    closed: bool


class IncomingPage(Schema):
    panels: list[IncomingLine]
    more: bool


@router.get("/incoming", response=IncomingPage, operation_id="listIncoming")
def list_incoming(request: HttpRequest, state: Literal["open", "all"] = "open") -> IncomingPage:
    """The newest first: ``open`` ones, or all."""
    require(request.user, "job.view")
    refresh_stale()
    found = IncomingPanel.objects.select_related("job__summary")
    if state == "open":
        found = found.filter(job__closed_at=None)
    rows = list(found[: SHOWN + 1])
    return IncomingPage(
        panels=[
            IncomingLine(
                job_id=row.job_id,
                title=row.job.title,
                serial=row.job.serial_printed,
                verdict=cast(Outcome, row.job.summary.verdict or None) if hasattr(row.job, "summary") else None,
                decision=row.decision if row.job.closed_at else "",
                created_at=row.job.created_at,
                closed=row.job.closed_at is not None,
            )
            for row in rows[:SHOWN]
        ],
        more=len(rows) > SHOWN,
    )
