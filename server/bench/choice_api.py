"""A new panel whose touch fails: what the ways out are expected to cost, what was decided, and the shop's school."""

from typing import Literal, cast

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from lens.errors import BadInput
from lens.fitting import TOUCH_RULE, OfferTerms, School, TouchChoice, picture_choice, touch_choice
from lens.house_rules import check_school
from server.accounts.policy import require
from server.jobs.actions import lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Offer
from server.profiles.actions import rules_in_force
from server.purchasing.core_adapter import dead_rates_of
from server.verdicts import results_of, seen_of, touch_results

router = Router(tags=["touch choice"])
MOST_OTHERS = 20


class ChoiceOut(Schema):
    """None where nothing fails at dry fit or no offer was chosen; ``fails`` is what does. ``decided`` are the ways that were taken, the last one
    last."""

    fails: Literal["touch", "picture", ""] = ""
    choice: TouchChoice | None
    decided: list[str]


class DecideIn(Schema):
    way: Literal["rework", "return", "rebuy"]
    reason: str = Field(default="", max_length=200)


def _terms(offer: Offer, dead_rate: float) -> OfferTerms:
    return OfferTerms(
        supplier=offer.supplier.name,
        panel=offer.panel.name,
        price=float(offer.price),
        shipping=float(offer.shipping),
        delivery_days=offer.delivery_days,
        doa_days=offer.doa_days,
        dead_rate=dead_rate,
    )


def _out(job: Job) -> ChoiceOut:
    decided = [entry.data["way"] for entry in job.entries.filter(kind="touch_choice")]
    result = touch_results(job).get("dry_fit")
    touch = result is not None and result.verdict == "fail"
    seen = seen_of(job).get("dry_fit")
    if job.chosen_offer is None or not (touch or (seen is not None and seen.picture == "fail")):
        return ChoiceOut(choice=None, decided=decided)
    bought = job.chosen_offer
    # the same panel from elsewhere, or another one that takes touch in the same size
    wanted = {name: bought.panel.spec.get(name) for name in ("width", "height", "touch", "connector_pins", "signal")}
    near = (
        Offer.objects.select_related("panel", "supplier")
        .exclude(pk=bought.pk)
        .filter(**{f"panel__spec__{name}": value for name, value in wanted.items()})
    )
    rates = dead_rates_of([bought, *near[:MOST_OTHERS]])
    terms = _terms(bought, rates[bought.pk])
    others = [_terms(offer, rates[offer.pk]) for offer in near[:MOST_OTHERS]]
    if result is not None and touch:
        suspects = {one.cause: one.p for one in result.suspects}
        choice = touch_choice(suspects, terms, others, _school(job))
        return ChoiceOut(fails="touch", choice=choice, decided=decided)
    picture = results_of(job).get("dry_fit")
    kinds = {one.kind for one in picture.findings if one.counts} if picture else set()
    return ChoiceOut(fails="picture", choice=picture_choice(kinds, terms, others), decided=decided)


def _school(job: Job) -> School:
    """The school that the job was begun with; one from before it was kept follows what the shop does now."""
    told = job.rules.get(TOUCH_RULE) or rules_in_force()[TOUCH_RULE]
    return cast(School, check_school(TOUCH_RULE, told))


def _job(job_id: int) -> Job:
    wanted = Job.objects.select_related("chosen_offer__panel", "chosen_offer__supplier").prefetch_related(
        "runs__touches"
    )
    return get_object_or_404(wanted, pk=job_id)


@router.get("/jobs/{job_id}/touch-choice", response=ChoiceOut, operation_id="touchChoice")
def get_choice(request: HttpRequest, job_id: int) -> ChoiceOut:
    return _out(_job(job_id))


@router.post("/jobs/{job_id}/touch-choice", response=ChoiceOut, operation_id="decideTouchChoice")
def decide(request: HttpRequest, job_id: int, body: DecideIn) -> ChoiceOut:
    person = require(request.user, "job.change")
    with transaction.atomic():
        lock_open_job(job_id)
        job = _job(job_id)
        told = _out(job)
        if told.choice is None:
            raise BadInput(
                "There is nothing to choose: the new panel does not fail its dry fit, or no offer was chosen.",
                "no_choice",
            )
        option = next((one for one in told.choice.options if one.way == body.way), None)
        if option is None:
            raise BadInput("Nothing else that fits is on offer. Return the panel, or rework it.", "no_offer")
        reason = f" {body.reason.strip()}" if body.reason.strip() else ""
        write(
            job,
            person.username,
            "touch_choice",
            f"The new panel fails at dry fit ({told.fails}). Decided: {option.title}.{reason}",
            way=body.way,
            cost=option.cost,
            days=option.days,
        )
    return _out(_job(job_id))
