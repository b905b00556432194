"""Choosing what to look for and what to order."""

from collections.abc import Iterable

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.matching import Match, Matcher, School, check_school, match
from server.accounts.policy import require
from server.jobs.actions import Person, lock_open_job
from server.jobs.models import Job
from server.jobs.record import write
from server.parts.models import Offer, PanelModel
from server.profiles.actions import rules_in_force

RULE, HISTORY_RULE = "matching", "order_from_history"  # the house rules
PANEL = ("match", "buying", "fit")  # what of a job its panel and offer make stale, beside its head
AGREEING = 3  # closed jobs that must agree by the school of that name


def match_offer(job: Job, offer: Offer) -> Match:
    """How an offered panel fits in place of the job's own; raises BadInput when that one is not named yet."""
    if job.wanted_panel is None:
        raise BadInput("Say first which panel is in the device: read the label on its back.", "wanted_missing")
    return match(job.wanted_panel.specification, offer.panel.specification, school_of(job))


def match_offers(job: Job, offers: Iterable[Offer]) -> list[tuple[Offer, Match]]:
    """How each of many offers fits; the job's own panel and its school are read once."""
    if job.wanted_panel is None:
        return []
    matcher = Matcher(job.wanted_panel.specification, school_of(job))
    return [(offer, matcher.match(offer.panel.specification)) for offer in offers]


def school_of(job: Job) -> School:
    """The school of matching that the job was begun with; one from before it was kept follows what the shop does now."""
    return check_school(job.rules.get(RULE) or rules_in_force()[RULE])


def history_is_enough(job: Job, jobs: int, of: int) -> bool:
    """Whether the shop orders a panel by what closed jobs of the device had, before the label was seen."""
    rule = job.rules.get(HISTORY_RULE) or rules_in_force()[HISTORY_RULE]
    return rule == "one_is_enough" and jobs >= 1 or rule == "three_agree" and jobs == of >= AGREEING


@transaction.atomic
def name_panel(user: Person, job_id: int, panel_id: int) -> Job:
    """Say which panel is in the device."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    panel = get_object_or_404(PanelModel, pk=panel_id)
    if job.wanted_panel_id != panel.pk:
        job.wanted_panel, job.chosen_offer = panel, None
        job.save(update_fields=["wanted_panel", "chosen_offer"])
        write(job, person.username, "panel", f"Panel in the device: {panel.name}.", panel=panel.name, facets=PANEL)
    return job


@transaction.atomic
def choose_offer(user: Person, job_id: int, offer_id: int, consequences_told: bool) -> Job:
    """Choose an offer. A stop is refused; consequences must have been told to the owner."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    offer = get_object_or_404(Offer.objects.select_related("panel", "supplier"), pk=offer_id)
    if offer.withdrawn and job.chosen_offer_id != offer.pk:
        raise BadInput("This offer was withdrawn. Choose another one.", "offer_withdrawn")
    result = match_offer(job, offer)
    if result.result == "stop":
        raise BadInput(result.text + " This panel is not ordered.", "match_stop")
    if result.result == "ask" and not consequences_told:
        raise BadInput(result.text + " Find it out first, or tick that the owner takes the risk.", "match_unknown")
    if result.result == "fits_with_consequences" and not consequences_told:
        raise BadInput(result.text + " Tell the owner, tick that it was told, then choose it.", "consequences_untold")
    if job.chosen_offer_id != offer.pk:
        job.chosen_offer = offer
        job.save(update_fields=["chosen_offer"])
        write(
            job,
            person.username,
            "offer",
            f"Chosen: {offer.panel.name} from {offer.supplier.name}. {result.text}",
            offer=offer.pk,
            result=result.result,
            told=consequences_told,
            facets=PANEL,
        )
    return job
