"""Between stored jobs and the core."""

from collections import Counter
from functools import lru_cache

from lens.diagnosis import (
    DEVICES,
    BaseRate,
    Device,
    Diagnosis,
    EvidenceItem,
    base_rates,
    diagnose,
    evidence_from_inspection,
    evidence_from_touch,
    evidence_from_touch_seen,
    load_model,
    set_aside,
)
from lens.inspecting import Witness
from lens.panel import Panel, make_panel
from lens.records import Inspection, StageConditions
from lens.touch import TouchResult, TouchSeen
from server.jobs.meter_actions import nominal_of
from server.jobs.models import Evidence, Job, RateReset
from server.shop.actions import the_shop


def to_panel(job: Job) -> Panel:
    return make_panel(job.panel_width, job.panel_height, job.diagonal_in)


OUTSIDE = {"clean": "clean", "same_fault": "same_fault", "partly": "same_fault"}


def set_aside_because(answer: Evidence) -> str:
    """Why an answer does not count under its conditions; empty where it does."""
    return set_aside(answer.check_id, answer.outcome, StageConditions.model_validate(answer.conditions))


def evidence_items(
    job: Job,
    answers: list[Evidence],
    inspection: Inspection | None,
    witness: Witness | None,
    touch: TouchResult | None,
    dragged: TouchSeen | None,
) -> list[EvidenceItem]:
    """Answers that stand, what the photos measured, what an external screen says of it, what the touch layer answered, and what a person saw who
    dragged over it."""
    items = [evidence_from_touch_seen(dragged)] if dragged else []
    items += [
        EvidenceItem.model_validate({"check": a.check_id, "outcome": a.outcome, "source": a.source})
        for a in answers
        if not a.withdrawn and not set_aside_because(a)
    ]
    if witness is not None and witness.outcome in OUTSIDE:
        items.append(EvidenceItem(check="external_output", outcome=OUTSIDE[witness.outcome], source="measured"))
    known = {item.check for item in items if item.source == "measured"}
    # a meter is better than a photo's exposure
    photos = (
        evidence_from_inspection(inspection, None if "luminance" in known else nominal_of(job)[0]) if inspection else ()
    )
    return [*items, *photos, *(evidence_from_touch(touch) if touch else ())]


def counted_causes(device: str) -> dict[str, int]:
    """How often each cause was the true one in the shop's closed jobs of a device type, since the last reset."""
    closed = Job.objects.filter(device_type=device, closed_at__isnull=False).exclude(true_causes=[])
    last = RateReset.objects.last()
    jobs = closed.filter(closed_at__gt=last.at) if last else closed
    return Counter(cause for causes in jobs.values_list("true_causes", flat=True) for cause in causes)


def rates_of(device: Device) -> tuple[BaseRate, ...]:
    return base_rates(load_model(), device, counted_causes(device))


def diagnose_job(
    job: Job,
    answers: list[Evidence],
    inspection: Inspection | None,
    witness: Witness | None,
    touch: TouchResult | None,
    dragged: TouchSeen | None = None,
) -> Diagnosis:
    """Ranked causes by the shop's own base rates."""
    rates = rates_of(next(device for device in DEVICES if device == job.device_type))
    learned = tuple((rate.cause, rate.now) for rate in rates) if any(rate.counted for rate in rates) else None
    items = tuple(evidence_items(job, answers, inspection, witness, touch, dragged))
    # a panel on record without touch is never asked for it
    without = ("touch",) if job.wanted_panel is not None and job.wanted_panel.spec.get("touch") is False else ()
    return _diagnosed(job.device_type, items, learned, the_shop().currency, without)


# most jobs' evidence is the same from one look to the next, and thinking it through takes most of a request's time
@lru_cache(maxsize=1024)
def _diagnosed(
    device: str,
    items: tuple[EvidenceItem, ...],
    learned: tuple[tuple[str, float], ...] | None,
    currency: str,
    without: tuple[str, ...],
) -> Diagnosis:
    return diagnose(
        device, items, learned=dict(learned) if learned is not None else None, currency=currency, without=without
    )
