"""From evidence to ranked causes, the next steps, and when to stop looking."""

from collections.abc import Mapping, Sequence

import numpy as np

from lens.diagnosis.advise import Choice, checks_without, closed_repairs, open_checks, rules, weigh
from lens.diagnosis.evidence import (
    REPAIR,
    EvidenceItem,
    Seen,
    check_items,
    likelihood,
    marginals,
    posterior,
    ruled_out,
    seen_of,
)
from lens.diagnosis.explain import against_and_for, contradictions, mind_changers, outvoted
from lens.diagnosis.load import DEVICES, NOT_POSSIBLE, Model, load_model
from lens.diagnosis.network import Network, network_for
from lens.diagnosis.safety import Hazards, hazards_of, made_safe
from lens.diagnosis.steps import Diagnosis, NextStep, PlanStep, RankedCause, Stop
from lens.diagnosis.worth import Worth, cost_to_mend, outcome_weights, without_a_hunt
from lens.errors import BadInput

PLAN_STEPS = 3
MENDED = "It is mended"
MOST_TOLD = 0.99  # nothing is told as surer than this


def diagnose(
    device: str,
    items: Sequence[EvidenceItem],
    model: Model | None = None,
    learned: Mapping[str, float] | None = None,
    skipped: Sequence[str] = (),
    currency: str = "",
    without: Sequence[str] = (),
) -> Diagnosis:
    """Rank the causes and plan the next steps.

    Parameters
    ----------
    learned : shares of jobs by cause that the shop's own closed jobs gave
    skipped : ids of checks, and 'repair:ID' of repairs, that somebody put aside
    currency : the shop's, beside amounts in the reasons
    without : ids of states that the record says this device never has, such as 'touch'; an answer that says otherwise counts more

    Raises
    ------
    BadInput
        when the device, a check or an outcome is unknown.
    """
    model = model or load_model()
    if device not in DEVICES:
        raise BadInput(f"'{device}' is no device type: choose {', '.join(DEVICES)}.", "unknown_device")
    check_items(model, items)
    network = network_for(model, device, learned)
    evidence = seen_of(model, items)
    p = posterior(model, network, evidence)
    share = marginals(network, p)
    hazards = hazards_of(model, device, evidence, share)
    skipped = (
        *skipped,
        *(item.check for item in items if item.outcome == NOT_POSSIBLE),
        *hazards.not_asked,
        *checks_without(model, evidence, without),
    )
    reasons = against_and_for(model, network, evidence)
    causes = tuple(
        RankedCause(
            id=cause,
            title=model.causes[cause].title,
            p=round(share[cause], 4),
            for_=reasons[cause][0],
            against=reasons[cause][1],
        )
        for cause in sorted(share, key=lambda c: -share[c])
    )
    choice = _weigh(model, network, evidence, skipped)
    plan = _plan(model, network, evidence, skipped, hazards, choice)
    steps = _next_steps(model, choice, currency)
    checks = open_checks(model, network, evidence, skipped)
    told = Diagnosis(
        causes=_with_a_reason(causes),
        next=_advised_first(steps, plan),
        stop=_stop(model, evidence, plan, hazards),
        plan=plan,
        contradictions=(*outvoted(model, items), *contradictions(model, network, evidence, checks)),
        would_change=mind_changers(model, network, p, checks, rules(model, evidence, checks)),
        expected_cost=round(float(cost_to_mend(model, network, p[None], closed_repairs(model, evidence))[0]), 1),
    )
    return made_safe(model, evidence, hazards, told)


def _with_a_reason(causes: tuple[RankedCause, ...]) -> tuple[RankedCause, ...]:
    """The first cause always says why it stands there: where no answer speaks for it, it is how often it is met."""
    first = causes[0]
    if first.for_:
        return causes
    met = f"often met ({min(first.p, MOST_TOLD):.0%} now)."
    usual = (
        f"Something speaks against it, but it is {met}"
        if first.against
        else f"Nothing speaks against it, and it is {met}"
    )
    return (first.model_copy(update={"for_": (usual,)}), *causes[1:])


def _advised_first(steps: tuple[NextStep, ...], plan: tuple[PlanStep, ...]) -> tuple[NextStep, ...]:
    """One advice: the first step is the one that the plan begins with."""
    if not plan:
        return steps
    own = (plan[0].kind, plan[0].id)
    first = next((step for step in steps if (step.kind, step.id) == own), None)
    if first is None:  # a step that ends nothing by itself, and comes before all others
        first = NextStep(
            kind=plan[0].kind,
            id=plan[0].id,
            title=plan[0].title,
            expected_saving_per_minute=0.0,
            reason="Before anything else.",
        )
    return (first, *(step for step in steps if (step.kind, step.id) != own))


def _next_steps(model: Model, choice: Choice, currency: str) -> tuple[NextStep, ...]:
    steps = []
    for one in choice.checks:
        steps.append(
            NextStep(
                kind="check",
                id=one.id,
                title=model.checks[one.id].title,
                expected_saving_per_minute=round(one.saving / one.minutes, 2),
                reason=f"Takes {one.minutes:g} min. {_saves(one, currency)}",
            )
        )
    for one in choice.repairs:
        repair = model.repairs[one.id]
        parts = f" and {_money(repair.cost, currency)} for parts" if repair.cost else ""
        steps.append(
            NextStep(
                kind="repair",
                id=one.id,
                title=repair.title,
                expected_saving_per_minute=round(one.saving / one.minutes, 2),
                reason=f"Likely to mend it: {min(one.chance, MOST_TOLD):.0%}. It takes {repair.minutes:g} min{parts}.",
            )
        )
    return tuple(sorted(steps, key=lambda step: -step.expected_saving_per_minute))


def _money(amount: float, currency: str) -> str:
    return f"{amount:.0f} {currency or 'in money'}"


def _saves(one: Worth, currency: str) -> str:
    """What a check takes off on average, minutes and money each by itself."""
    minutes, money = round(one.saved_minutes), round(one.saved_money)
    if minutes <= 0 and money <= 0:
        return "It saves nothing on average as things stand."
    if money <= 0:
        return f"On average it saves about {minutes} min of work."
    if minutes <= 0:
        return f"On average it saves about {_money(money, currency)}."
    return f"On average it saves about {minutes} min of work and {_money(money, currency)}."


def _stop(model: Model, evidence: Sequence[Seen], plan: Sequence[PlanStep], hazards: Hazards) -> Stop:
    if not evidence:
        return Stop(advised=False, reason="Begin with a check.")
    if not plan:
        return Stop(advised=False, reason="No repair is left: give it to a specialist.")
    first = plan[0]
    if first.id == hazards.first and not hazards.ends:
        return Stop(advised=False, reason=f"{first.title}.")
    if first.kind == "check":
        return Stop(advised=False, reason="A check still saves more than it costs.")
    why = (
        f"{first.title} now: further checks cost more than they save."
        if first.assumes == MENDED
        else f"{first.title} first: trying it costs less than looking further."
    )
    return Stop(advised=True, repair=first.id, reason=why)


def _weigh(model: Model, network: Network, evidence: Sequence[Seen], skipped: Sequence[str]) -> Choice:
    """The next step by what it is worth; a check comes before a repair that asks for it, and before any repair where nothing is known."""
    acting = without_a_hunt(network, posterior(model, network, evidence))
    aside = [one.removeprefix(REPAIR) for one in skipped if one.startswith(REPAIR)]
    closed, checks = [*closed_repairs(model, evidence), *aside], open_checks(model, network, evidence, skipped)
    choice = weigh(model, network, acting, checks, closed, rules(model, evidence, checks))
    if choice.step is None or choice.step.kind == "check":
        return choice
    asks = model.repairs[choice.step.id].asks
    if asks in checks:
        return choice._replace(step=Worth("check", asks, 0.0, model.checks[asks].minutes, 0.0))
    if not evidence and checks:
        return choice._replace(step=max(choice.checks, key=lambda one: one.saving))
    return choice


def _plan(
    model: Model, network: Network, evidence: Sequence[Seen], skipped: Sequence[str], hazards: Hazards, choice: Choice
) -> tuple[PlanStep, ...]:
    """The next steps, each after the likeliest outcome of the one before; ``choice`` is the first one."""
    seen, steps = list(evidence), []
    if hazards.first is not None:
        repair = model.repairs[hazards.first]
        steps.append(
            PlanStep(
                kind="repair",
                id=hazards.first,
                title=repair.title,
                minutes=repair.minutes,
                assumes="It is done",
                prepares=model.prepares(hazards.first),
            )
        )
        if hazards.ends:
            return tuple(steps)
    while len(steps) < PLAN_STEPS:
        one = (choice if len(seen) == len(evidence) else _weigh(model, network, seen, skipped)).step
        if one is None:
            break
        p = posterior(model, network, seen)
        if one.kind == "check":
            check, names = model.checks[one.id], list(model.checks[one.id].outcomes)
            rows = outcome_weights(model, network, one.id, rules(model, seen, [one.id]).get(one.id, ()))
            outcome = names[int(np.argmax(rows @ p))]
            steps.append(
                PlanStep(
                    kind="check", id=one.id, title=check.title, minutes=one.minutes, assumes=check.outcomes[outcome]
                )
            )
            told = () if check.features and outcome == names[0] else (outcome,)
            seen.append(Seen(one.id, told, True, gone=ruled_out(model, seen, one.id)))
            continue
        mends = float(likelihood(model, network, Seen(REPAIR + one.id, ("mended",), True)) @ p) > 0.5
        steps.append(
            PlanStep(
                kind="repair",
                id=one.id,
                title=model.repairs[one.id].title,
                minutes=model.repairs[one.id].minutes,
                assumes=MENDED if mends else "Nothing changes",
            )
        )
        if mends:
            break
        seen.append(Seen(REPAIR + one.id, ("same",), True))
    return tuple(steps)
