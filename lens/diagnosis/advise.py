"""What to do next: repairs in the order of probability over cost, and a check where it saves more than it costs.

Expected costs are those of repairing, best first, until the fault is gone (Heckerman, Breese, Rommelse 1995); the worth of a check is what
it takes off that on average, one step ahead, less its own minutes, cost and risk.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from lens.diagnosis.evidence import REPAIR, Seen
from lens.diagnosis.load import Model
from lens.diagnosis.network import Network, Numbers

COST_PER_MINUTE = 1.0
LEAST_SAVING = 0.5  # of money: less is not worth getting up for
NEGLIGIBLE = 1e-3  # share that is left when nobody would go on


class Worth(NamedTuple):
    """A step and what it is worth: ``saving`` of money on average, its own cost taken off; ``minutes`` it takes."""

    kind: str
    id: str
    saving: float
    minutes: float
    chance: float


def repair_costs(model: Model) -> Numbers:
    """(repairs,) money, minutes included."""
    return np.array([repair.minutes * COST_PER_MINUTE + repair.cost for repair in model.repairs.values()])


def check_cost(model: Model, check_id: str) -> float:
    """Money, minutes and risk included."""
    check = model.checks[check_id]
    return check.minutes * COST_PER_MINUTE + check.cost + check.risk


def cost_to_mend(model: Model, network: Network, weights: Numbers, tried: Sequence[str] = ()) -> Numbers:
    """(n,) expected cost, times the sum of the weights, of (n, hypotheses) weights: repairs by probability over cost until it is mended."""
    costs, members = repair_costs(model), network.members.astype(float)
    touches = (members @ network.covers.T.astype(float) > 0).astype(float)
    covered = np.zeros((len(weights), len(network.causes)))
    usable = np.ones((len(weights), len(costs)))
    usable[:, [network.repairs.index(name) for name in tried]] = 0.0
    total = np.zeros(len(weights))
    whole = np.maximum(weights.sum(axis=1), 1e-300)
    size = members.sum(axis=1)
    for _ in costs:
        left = weights * (covered @ members.T < size - 0.5)
        remaining = left.sum(axis=1)
        going = remaining > NEGLIGIBLE * whole
        if not going.any():
            break
        best = np.argmax((left @ touches) * usable / costs, axis=1)
        total += np.where(going, remaining * costs[best], 0.0)
        covered = np.maximum(covered, network.covers[best])
        usable[np.arange(len(best)), best] = 0.0
    return total


def outcome_weights(model: Model, network: Network, check_id: str) -> Numbers:
    """(outcomes, hypotheses) P(outcome | h) of an open check; of features the worst one that shows counts."""
    shows = network.shows[check_id]
    if not model.checks[check_id].features:
        return shows
    silent = np.cumprod((1 - shows[:0:-1]), axis=0)[::-1]  # P(none from this one on)
    worst = shows[1:] * np.concatenate([silent[1:], np.ones((1, shows.shape[1]))])
    return np.concatenate([shows[:1], worst])


def open_checks(model: Model, network: Network, evidence: Sequence[Seen], skipped: Sequence[str] = ()) -> list[str]:
    """Checks that this device type has, that can be done as it stands, and that were not answered or put aside."""
    done = {seen.check for seen in evidence} | set(skipped)
    lacking = states_lacking(model, evidence)
    return [
        check_id
        for check_id in network.shows
        if check_id not in done and not lacking & set(model.checks[check_id].wants)
    ]


def states_lacking(model: Model, evidence: Sequence[Seen]) -> set[str]:
    """Ids of the states that the answers say are not there: nothing that needs a picture is asked of a black screen."""

    def said(answers: Mapping[str, tuple[str, ...]]) -> bool:
        return any(set(seen.outcomes) & set(answers.get(seen.check, ())) for seen in evidence)

    return {name for name, state in model.states.items() if said(state.lacking) and not said(state.there)}


def worth_of_checks(
    model: Model, network: Network, p: Numbers, checks: Sequence[str], tried: Sequence[str] = ()
) -> list[Worth]:
    """What each check is worth now."""
    if not checks:
        return []
    parts = [outcome_weights(model, network, check_id) * p for check_id in checks]
    after = cost_to_mend(model, network, np.concatenate([p[None], *parts]), tried)
    now, after = float(after[0]), after[1:]
    ends = np.cumsum([len(part) for part in parts])
    return [
        Worth(
            "check", check_id, now - float(own.sum()) - check_cost(model, check_id), model.checks[check_id].minutes, 0.0
        )
        for check_id, own in zip(checks, np.split(after, ends[:-1]), strict=True)
    ]


def worth_of_repairs(model: Model, network: Network, p: Numbers, tried: Sequence[str] = ()) -> list[Worth]:
    """What each open repair is worth: the work that it ends when it mends the fault, less its own cost."""
    now = float(cost_to_mend(model, network, p[None], tried)[0])
    costs = repair_costs(model)
    size = network.members.sum(axis=1)
    out = []
    for n, name in enumerate(network.repairs):
        if name in tried:
            continue
        mended = float(p[(size > 0) & ~(network.members & ~network.covers[n]).any(axis=1)].sum())
        out.append(Worth("repair", name, mended * now - float(costs[n]), model.repairs[name].minutes, mended))
    return out


def best_repair(model: Model, network: Network, p: Numbers, tried: Sequence[str] = ()) -> str | None:
    """The repair of the largest probability over cost; None when all were tried."""
    told = p @ (network.members.astype(float) @ network.covers.T.astype(float) > 0) / repair_costs(model)
    left = [n for n, name in enumerate(network.repairs) if name not in tried]
    return network.repairs[max(left, key=lambda n: told[n])] if left else None


def best_check(
    model: Model, network: Network, p: Numbers, checks: Sequence[str], tried: Sequence[str] = ()
) -> Worth | None:
    """The check that saves the most for what it costs; None when none saves anything worth a move."""
    worth = [one for one in worth_of_checks(model, network, p, checks, tried) if one.saving > LEAST_SAVING]
    return max(worth, key=lambda one: one.saving / check_cost(model, one.id), default=None)


def tried_repairs(evidence: Sequence[Seen]) -> list[str]:
    """Ids of the repairs that were tried and did not mend it."""
    return [
        seen.check.removeprefix(REPAIR)
        for seen in evidence
        if seen.check.startswith(REPAIR) and seen.outcomes == ("same",)
    ]
