"""From evidence to ranked causes, the next steps, and when to stop looking."""

from collections.abc import Mapping, Sequence

import numpy as np

from lens.diagnosis.advise import (
    best_check,
    best_repair,
    cost_to_mend,
    open_checks,
    outcome_weights,
    tried_repairs,
    worth_of_checks,
    worth_of_repairs,
)
from lens.diagnosis.evidence import REPAIR, EvidenceItem, Seen, check_items, likelihood, marginals, posterior, seen_of
from lens.diagnosis.explain import against_and_for, contradictions, mind_changers, outvoted
from lens.diagnosis.load import DEVICES, NOT_POSSIBLE, Model, load_model
from lens.diagnosis.network import Network, Numbers, network_for
from lens.diagnosis.safety import made_safe, not_for_everybody
from lens.diagnosis.steps import Diagnosis, NextStep, PlanStep, RankedCause, Stop
from lens.errors import BadInput

PLAN_STEPS = 3


def diagnose(
    device: str,
    items: Sequence[EvidenceItem],
    model: Model | None = None,
    learned: Mapping[str, float] | None = None,
    skipped: Sequence[str] = (),
) -> Diagnosis:
    """Rank the causes and plan the next steps.

    Parameters
    ----------
    learned : shares of jobs by cause that the shop's own closed jobs gave
    skipped : ids of checks that somebody put aside

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
    skipped = (
        *skipped,
        *(item.check for item in items if item.outcome == NOT_POSSIBLE),
        *not_for_everybody(model, device),
    )
    p = posterior(model, network, evidence)
    share = marginals(network, p)
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
    plan = _plan(model, network, evidence, skipped)
    told = Diagnosis(
        causes=_with_a_reason(causes),
        next=_advised_first(_next_steps(model, network, evidence, p, skipped), plan),
        stop=_stop(model, network, evidence, p, skipped),
        plan=plan,
        contradictions=(*outvoted(model, items), *contradictions(model, network, evidence)),
        would_change=mind_changers(model, network, p, open_checks(model, network, evidence, skipped)),
        expected_cost=round(float(cost_to_mend(model, network, p[None], tried_repairs(evidence))[0]), 1),
    )
    return made_safe(model, device, evidence, told)


def _with_a_reason(causes: tuple[RankedCause, ...]) -> tuple[RankedCause, ...]:
    """The first cause always says why it stands there: where no answer speaks for it, it is how often it is met."""
    first = causes[0]
    if first.for_:
        return causes
    met = f"often met ({min(first.p, 0.99):.0%} now)."
    usual = (
        f"Something speaks against it, but it is {met}"
        if first.against
        else f"Nothing speaks against it, and it is {met}"
    )
    return (first.model_copy(update={"for_": (usual,)}), *causes[1:])


def _advised_first(steps: tuple[NextStep, ...], plan: tuple[PlanStep, ...]) -> tuple[NextStep, ...]:
    """One advice: the first step is the one that the plan begins with."""
    return tuple(sorted(steps, key=lambda step: (step.kind, step.id) != (plan[0].kind, plan[0].id))) if plan else steps


def _next_steps(
    model: Model, network: Network, evidence: Sequence[Seen], p: Numbers, skipped: Sequence[str]
) -> tuple[NextStep, ...]:
    tried = tried_repairs(evidence)
    steps = []
    for one in worth_of_checks(model, network, p, open_checks(model, network, evidence, skipped), tried):
        steps.append(
            NextStep(
                kind="check",
                id=one.id,
                title=model.checks[one.id].title,
                expected_saving_per_minute=round(one.saving / one.minutes, 2),
                reason=f"Takes {one.minutes:g} min and saves about {max(one.saving, 0):.0f} of expected cost, its own taken off.",
            )
        )
    for one in worth_of_repairs(model, network, p, tried):
        repair = model.repairs[one.id]
        steps.append(
            NextStep(
                kind="repair",
                id=one.id,
                title=repair.title,
                expected_saving_per_minute=round(one.saving / one.minutes, 2),
                reason=f"Mends it with probability {one.chance:.2f}; {repair.minutes:g} min and {repair.cost:g} in parts.",
            )
        )
    return tuple(sorted(steps, key=lambda step: -step.expected_saving_per_minute))


def _stop(model: Model, network: Network, evidence: Sequence[Seen], p: Numbers, skipped: Sequence[str]) -> Stop:
    tried = tried_repairs(evidence)
    check = best_check(model, network, p, open_checks(model, network, evidence, skipped), tried)
    repair = best_repair(model, network, p, tried)
    if not evidence or check is not None or repair is None:
        saved = 0.0 if check is None else check.saving
        return Stop(
            advised=False,
            reason=f"An open check still saves more than it costs, about {saved:.0f}."
            if check
            else "Begin with a check.",
        )
    return Stop(
        advised=True,
        repair=repair,
        reason=f"{model.repairs[repair].title} now: further checks cost more than they save.",
    )


def _plan(model: Model, network: Network, evidence: Sequence[Seen], skipped: Sequence[str]) -> tuple[PlanStep, ...]:
    """The next steps, each after the likeliest outcome of the one before."""
    seen, steps = list(evidence), []
    for _ in range(PLAN_STEPS):
        p, tried = posterior(model, network, seen), tried_repairs(seen)
        check = best_check(model, network, p, open_checks(model, network, seen, skipped), tried)
        if check is not None:
            names = list(model.checks[check.id].outcomes)
            outcome = names[int(np.argmax(outcome_weights(model, network, check.id) @ p))]
            steps.append(
                PlanStep(
                    kind="check",
                    id=check.id,
                    title=model.checks[check.id].title,
                    minutes=check.minutes,
                    assumes=model.checks[check.id].outcomes[outcome],
                )
            )
            told = () if model.checks[check.id].features and outcome == names[0] else (outcome,)
            seen.append(Seen(check.id, told, True))
            continue
        repair = best_repair(model, network, p, tried)
        if repair is None:
            break
        mends = float(likelihood(model, network, Seen(REPAIR + repair, ("mended",), True)) @ p) > 0.5
        steps.append(
            PlanStep(
                kind="repair",
                id=repair,
                title=model.repairs[repair].title,
                minutes=model.repairs[repair].minutes,
                assumes="It is mended" if mends else "Nothing changes",
            )
        )
        if mends:
            break
        seen.append(Seen(REPAIR + repair, ("same",), True))
    return tuple(steps)
