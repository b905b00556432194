"""Inspecting a panel by itself: begun from an order, an offer or the register, ended by a decision that the supplier's record learns from."""

from typing import Literal, NamedTuple

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone

from lens.errors import BadInput
from lens.progress import JobVerdict
from lens.proving import DECISIONS, supplier_outcome
from lens.records import StageConditions
from lens.tables import not_known
from server.accounts.policy import require
from server.incoming.models import IncomingPanel
from server.inspections.actions import open_run
from server.inspections.conditions import set_conditions
from server.jobs.actions import Person, create_job, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Offer, PanelModel
from server.proving.verdict import panel_verdict
from server.purchasing.models import ARRIVED, OrderLine
from server.purchasing.orders import judge_line
from server.verdicts.look import JobLook

Place = Literal["rig", "device"]
DEFAULT_KIND = "clamshell"  # only its words differ: a panel's touch is asked of the panel


class Begun(NamedTuple):
    """What an inspection is begun from; one of them."""

    line_id: int | None = None
    offer_id: int | None = None
    panel_id: int | None = None


def _source(begun: Begun) -> tuple[PanelModel, Offer | None, OrderLine | None]:
    if begun.line_id is not None:
        line = get_object_or_404(OrderLine.objects.select_related("offer__panel", "order"), pk=begun.line_id)
        if line.order.state != ARRIVED:
            raise BadInput("It has not arrived yet. Mark the order as arrived first.", "not_arrived")
        return line.offer.panel, line.offer, line
    if begun.offer_id is not None:
        offer = get_object_or_404(Offer.objects.select_related("panel"), pk=begun.offer_id)
        return offer.panel, offer, None
    if begun.panel_id is not None:
        return get_object_or_404(PanelModel, pk=begun.panel_id), None, None
    raise BadInput("Say which panel: from an order, an offer, or the register.", "no_panel")


@transaction.atomic
def begin(user: Person, begun: Begun, place: Place, serial: str, profile: str, liners_whole: bool) -> Job:
    """A new inspection. Raises BadInput for a panel whose resolution nobody knows, or an order that has not arrived."""
    person = require(user, "job.change")
    panel, offer, line = _source(begun)
    spec = panel.specification
    if spec.width is None or spec.height is None:
        raise BadInput(
            f"Nobody knows the resolution of {panel.name} yet: enter it under Parts, so that patterns can be made for it.",
            "no_resolution",
        )
    job = create_job(
        user,
        {
            "subject": "panel",
            "title": f"{panel.name}{f' from {offer.supplier.name}' if offer else ''}"[:120],
            "device_type": DEFAULT_KIND,
            "panel_width": spec.width,
            "panel_height": spec.height,
            "diagonal_in": spec.diagonal_in,
            "profile": profile,
            "serial_printed": serial.strip()[:60],
            "wanted_panel": panel,
            "chosen_offer": offer,
            "assigned_to": person,
            "station": "inspect",
        },
    )
    IncomingPanel.objects.create(job=job, line=line, place=place, liners_whole=liners_whole)
    run = open_run(user, job.pk, "inspect")
    if place == "rig":
        set_conditions(user, run.pk, StageConditions(panel="loose"))
    return job


@transaction.atomic
def decide(user: Person, job_id: int, decision: str, note: str) -> IncomingPanel:
    """Say what becomes of it, and close its inspection. Raises BadInput where nothing was measured and nobody says why."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    incoming = get_object_or_404(IncomingPanel.objects.select_for_update(of=("self",)), job=job)
    if decision not in DECISIONS:
        raise not_known("decision", decision, DECISIONS, "unknown_decision")
    look = JobLook.at(job_id)
    verdict = panel_verdict(look)
    if not verdict.parts and not note.strip():
        raise BadInput(
            "Nothing was measured on this panel. Measure it, or say why it is decided all the same.", "nothing_measured"
        )
    if decision == "shelf" and verdict.result == "fail" and not note.strip():
        raise BadInput(f"{verdict.text} Say why it is kept all the same.", "kept_though_failed")
    incoming.decision, incoming.note, incoming.by, incoming.at = decision, note.strip()[:300], person, timezone.now()
    incoming.save()
    job.closed_at, job.station = incoming.at, "grade"
    job.save(update_fields=["closed_at", "station"])
    title = DECISIONS[decision].title
    words = f"{title}.{f' {incoming.note}' if incoming.note else ''}"
    write(
        job,
        person.username,
        "graded",
        words,
        decision=decision,
        verdict=verdict.model_dump(mode="json"),
        note=incoming.note,
    )
    if incoming.line is not None:
        judge_line(user, incoming.line.pk, _outcome(look, decision, verdict), f"Inspection {job.pk}: {words}"[:300])
    return incoming


def _outcome(look: JobLook, decision: str, verdict: JobVerdict) -> Literal["good", "dead", "marked"]:
    result = look.results.get("inspect")
    alive = result is None or not any(finding.kind == "no_light" for finding in result.findings)
    return supplier_outcome(decision, verdict.result, alive)
