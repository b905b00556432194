"""From evidence to ranked causes and the next step worth its minutes.

One cause at a time (single-fault Bayesian troubleshooting with costs: Heckerman, Breese, Rommelse 1995): repairs in the
order of probability over cost, a check where the expected cost after it, its own minutes included, is lower.
"""

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from lens.diagnosis.load import DEVICES, Model, load_model
from lens.errors import BadInput
from lens.records import Inspection
from lens.records.base import Record

COST_PER_MINUTE = 1.0
STRONG_WEIGHT = 0.7  # |log likelihood ratio| from which evidence is named for or against a cause


class EvidenceItem(Record):
    check: str
    outcome: str
    source: Literal["measured", "seen", "told"] = "seen"


class RankedCause(Record):
    id: str
    title: str
    p: float
    for_: tuple[str, ...]
    against: tuple[str, ...]


class NextStep(Record):
    kind: Literal["check", "repair"]
    id: str
    title: str
    expected_saving_per_minute: float
    reason: str


class Stop(Record):
    advised: bool
    reason: str


class Diagnosis(Record):
    causes: tuple[RankedCause, ...]
    next: tuple[NextStep, ...]
    stop: Stop


def posterior(model: Model, device: str, evidence: Sequence[tuple[str, str]]) -> dict[str, float]:
    """P(cause | evidence), causes exclusive and complete. ``evidence`` are (check id, outcome id)."""
    weights = {cause_id: cause.prior[device] for cause_id, cause in model.causes.items()}
    for check_id, outcome in evidence:
        for cause_id in weights:
            weights[cause_id] *= max(model.checks[check_id].p(outcome, cause_id), 1e-6)
    total = sum(weights.values())
    return {cause_id: weight / total for cause_id, weight in weights.items()}


def _repair_cost(model: Model, cause_id: str) -> float:
    repair = model.causes[cause_id].repair
    return repair.minutes * COST_PER_MINUTE + repair.cost


def expected_cost(model: Model, p: Mapping[str, float]) -> float:
    """Expected cost of repairing in the order of probability / cost until the fault is gone."""
    order = sorted(p, key=lambda c: -p[c] / _repair_cost(model, c))
    open_share, total = 1.0, 0.0
    for cause_id in order:
        total += open_share * _repair_cost(model, cause_id)
        open_share -= p[cause_id]
    return total


def _check_saving(model: Model, device: str, evidence: list[tuple[str, str]], p: Mapping[str, float], check_id: str) -> float:
    check = model.checks[check_id]
    after = 0.0
    for outcome in check.outcomes:
        share = sum(p[c] * check.p(outcome, c) for c in p)
        if share > 0:
            after += share * expected_cost(model, posterior(model, device, [*evidence, (check_id, outcome)]))
    return expected_cost(model, p) - after - check.minutes * COST_PER_MINUTE


def _weights(model: Model, p: Mapping[str, float], cause_id: str, check_id: str, outcome: str) -> float:
    """Log likelihood ratio of an outcome for one cause against all others, weighed by their probability."""
    check = model.checks[check_id]
    rest = sum(p[c] for c in p if c != cause_id)
    others = sum(p[c] * check.p(outcome, c) for c in p if c != cause_id) / max(rest, 1e-12)
    return math.log(max(check.p(outcome, cause_id), 1e-6) / max(others, 1e-6))


def diagnose(device: str, items: Sequence[EvidenceItem], model: Model | None = None) -> Diagnosis:
    """Rank the causes; raises BadInput when the device, a check or an outcome is unknown."""
    model = model or load_model()
    if device not in DEVICES:
        raise BadInput(f"'{device}' is no device type: choose {', '.join(DEVICES)}.", "unknown_device")
    latest: dict[str, EvidenceItem] = {}
    for item in items:
        if item.check not in model.checks:
            raise BadInput(f"There is no check '{item.check}'. Known: {', '.join(model.checks)}.", "unknown_check")
        if item.outcome not in model.checks[item.check].outcomes:
            raise BadInput(
                f"'{item.outcome}' is no outcome of '{item.check}': choose {', '.join(model.checks[item.check].outcomes)}.", "unknown_outcome")
        if item.check not in latest or item.source == "measured" or latest[item.check].source != "measured":
            latest[item.check] = item
    evidence = [(item.check, item.outcome) for item in latest.values()]
    p = posterior(model, device, evidence)
    causes = []
    for cause_id in sorted(p, key=lambda c: -p[c]):
        told = [(check_id, outcome, _weights(model, p, cause_id, check_id, outcome)) for check_id, outcome in evidence]
        words = {key: f"{model.checks[key[0]].title} {model.checks[key[0]].outcomes[key[1]]}" for key in evidence}
        causes.append(RankedCause(
            id=cause_id, title=model.causes[cause_id].title, p=round(p[cause_id], 4),
            for_=tuple(words[c, o] for c, o, w in told if w >= STRONG_WEIGHT),
            against=tuple(words[c, o] for c, o, w in told if w <= -STRONG_WEIGHT)))
    return Diagnosis(causes=tuple(causes), next=_next_steps(model, device, evidence, p), stop=_stop(model, device, evidence, p))


def _open_checks(model: Model, evidence: list[tuple[str, str]]) -> list[str]:
    return [check_id for check_id in model.checks if check_id not in {c for c, _ in evidence}]


def _next_steps(model: Model, device: str, evidence: list[tuple[str, str]], p: Mapping[str, float]) -> tuple[NextStep, ...]:
    steps = []
    for check_id in _open_checks(model, evidence):
        check = model.checks[check_id]
        saving = _check_saving(model, device, evidence, p, check_id)
        steps.append(NextStep(
            kind="check", id=check_id, title=check.title, expected_saving_per_minute=round(saving / check.minutes, 2),
            reason=f"Takes {check.minutes:g} min and saves about {max(saving, 0):.0f} min of work on average."))
    for cause_id, cause in model.causes.items():
        repair = cause.repair
        saving = p[cause_id] * expected_cost(model, p) - _repair_cost(model, cause_id)
        steps.append(NextStep(
            kind="repair", id=cause_id, title=repair.title, expected_saving_per_minute=round(saving / repair.minutes, 2),
            reason=f"Mends it with probability {p[cause_id]:.2f}; {repair.minutes:g} min and {repair.cost:g} in parts."))
    return tuple(sorted(steps, key=lambda s: -s.expected_saving_per_minute))


def _stop(model: Model, device: str, evidence: list[tuple[str, str]], p: Mapping[str, float]) -> Stop:
    best = max(p, key=lambda c: p[c])
    savings = [_check_saving(model, device, evidence, p, check_id) for check_id in _open_checks(model, evidence)]
    if evidence and (not savings or max(savings) <= 0):
        return Stop(advised=True, reason=f"{model.causes[best].repair.title}: further checks cost more than they save.")
    return Stop(advised=False, reason="An open check still saves more than it costs.")


UNSURE = 0.5  # the confidence of an artifact that only says that too much differs


def evidence_from_inspection(inspection: Inspection) -> EvidenceItem | None:
    """What the photos say, as one measured item; None while they prove too little and show nothing."""
    kinds = {f.kind for f in inspection.findings if f.counts}
    if any(f.kind == "artifact" and f.counts and f.confidence > UNSURE for f in inspection.findings):
        outcome = "picture"
    elif "no_light" in kinds:
        outcome = "no_light"
    elif "crack" in kinds:
        outcome = "crack"
    elif kinds & {"line", "band"}:
        outcome = "lines"
    elif kinds & {"dark_zone", "bright_zone"}:
        outcome = "zones"
    elif "dim" in kinds:
        outcome = "dim"
    elif kinds & {"dead_pixel", "bright_pixel", "dark_subpixel", "bright_subpixel"}:
        outcome = "pixels"
    elif inspection.verdict.proven_fraction >= 0.9:
        outcome = "clean"
    else:
        return None
    return EvidenceItem(check="photos", outcome=outcome, source="measured")
