"""What Grade shows: which panel it is, what it was bought as, the classes that it passes, and what became of it."""

import datetime as dt
from typing import Any

from ninja import Schema

from lens.errors import BadInput
from lens.progress import StationTold, stations
from lens.proving import DECISIONS
from lens.records.verdict import Outcome
from server.incoming.models import IncomingPanel
from server.inspections import core_adapter
from server.jobs.facets import Facet
from server.jobs.models import Job
from server.profiles.actions import offered_profiles
from server.verdicts.look import JobLook


class ClassTold(Schema):
    """What an acceptance profile says of the panel as it was measured."""

    id: str
    title: str
    result: Outcome
    fails: list[str]


class PanelDecisionOut(Schema):
    id: str
    title: str


class IncomingOut(Schema):
    """``panel`` is empty for a customer's device. ``claim_until``: the last day of the supplier's window for a panel that came dead."""

    panel: str = ""
    supplier: str = ""
    grade: str = ""
    order: int | None = None
    arrived_on: dt.date | None = None
    claim_until: dt.date | None = None
    place: str = ""
    liners_whole: bool = True
    classes: list[ClassTold] = []
    decisions: list[PanelDecisionOut] = []
    decision: str = ""
    note: str = ""
    by: str = ""
    at: dt.datetime | None = None


def incoming_of(job: Job) -> IncomingPanel | None:
    if job.subject != "panel":
        return None
    return IncomingPanel.objects.select_related("line__order", "by").filter(job=job).first()


def classes_of(look: JobLook) -> list[ClassTold]:
    """Every class and profile of the shop on the same measurement: which of them it passes decides what it can be sold or fitted as."""
    run = next((one for one in look.job.runs.all() if one.stage == "inspect"), None)
    measured = look.results.get("inspect")
    if run is None or measured is None:
        return []
    told = []
    for profile, _ in offered_profiles():
        try:
            verdict = core_adapter.judged_by(run, measured, profile).verdict
        except BadInput:  # a rule that asks for a size nobody knows
            continue
        fails = [one.text for one in verdict.criteria if one.result == "fail"]
        told.append(ClassTold(id=profile.id, title=profile.title, result=verdict.result, fails=fails))
    return told


def incoming_state(look: JobLook) -> IncomingOut:
    job, incoming = look.job, incoming_of(look.job)
    if incoming is None:
        return IncomingOut()
    offer, line = job.chosen_offer, incoming.line
    arrived = line.order.arrived_on if line else None
    until = arrived + dt.timedelta(days=offer.doa_days) if arrived and offer and offer.doa_days else None
    return IncomingOut(
        panel=job.wanted_panel.name if job.wanted_panel else "",
        supplier=offer.supplier.name if offer else "",
        grade=offer.grade.replace("_", " ") if offer else "",
        order=line.order_id if line else None,
        arrived_on=arrived,
        claim_until=until,
        place=incoming.place,
        liners_whole=incoming.liners_whole,
        classes=classes_of(look),
        decisions=[PanelDecisionOut(id=name, title=one.title) for name, one in DECISIONS.items()],
        decision=incoming.decision,
        note=incoming.note,
        by=incoming.by.username if incoming.by else "",
        at=incoming.at,
    )


def _view(look: JobLook) -> dict[str, Any]:
    return incoming_state(look).model_dump()


def _grade(look: JobLook) -> StationTold:
    incoming = incoming_of(look.job)
    decided = (
        DECISIONS[incoming.decision].title if incoming is not None and incoming.decision and look.job.closed_at else ""
    )
    return stations.grade(f"{decided}." if decided else "", "inspect" in look.stages)


FACET = Facet("incoming", IncomingOut, _view, stations={"grade": _grade})
