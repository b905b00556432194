"""The best possible way of working on a fault, by full search; for models small enough, to see what looking one step ahead loses."""

from collections.abc import Sequence
from functools import cache
from typing import NamedTuple

from lens.diagnosis.advise import weigh
from lens.diagnosis.evidence import REPAIR, Seen, likelihood, posterior
from lens.diagnosis.load import Model
from lens.diagnosis.network import Network
from lens.diagnosis.worth import outcome_weights, repair_costs, weighed_cost

MOST_STATES = 20_000
TIE = 0.005  # of the cost: two steps that differ by less are both the best
State = tuple[tuple[str, str], ...]


class Policies(NamedTuple):
    """Expected cost from the start of the ``best`` policy and of the ``advised`` one, and whether the advised first step is one of the best ones."""

    best: float
    advised: float
    first_is_best: bool


def search(model: Model, network: Network) -> Policies:
    """Full search over weighed costs, the last resort being the dearest repair.

    Raises
    ------
    ValueError
        when the model has more states than can be searched, or checks with features.
    """
    states = 2 ** len(model.repairs)
    for check in model.checks.values():
        states *= len(check.outcomes) + 1
        if check.features:
            raise ValueError("checks with features are not searched")
    if states > MOST_STATES:
        raise ValueError(f"{states} states are too many to search")
    costs = dict(zip(model.repairs, repair_costs(model), strict=True))
    last_resort = max(costs.values())

    def step(state: State, kind: str, name: str, value: object) -> float:
        p = posterior(model, network, [Seen(check, (outcome,), True) for check, outcome in state])
        go = best if value is best else own
        if kind == "check":
            shares = outcome_weights(model, network, name) @ p
            return weighed_cost(model, name) + sum(
                float(share) * go((*state, (name, outcome)))
                for share, outcome in zip(shares, model.checks[name].outcomes, strict=True)
            )
        fails = float(likelihood(model, network, Seen(REPAIR + name, ("same",), True)) @ p)
        return float(costs[name]) + fails * go((*state, (REPAIR + name, "same")))

    def steps(state: State) -> tuple[list[str], list[str]]:
        done = {name for name, _ in state}
        return [c for c in model.checks if c not in done], [r for r in model.repairs if REPAIR + r not in done]

    @cache
    def searched(state: frozenset[tuple[str, str]]) -> float:
        checks, repairs = steps(tuple(state))
        choices = [("check", name) for name in checks] + [("repair", name) for name in repairs]
        return min((step(tuple(state), kind, name, best) for kind, name in choices), default=last_resort)

    def best(state: State) -> float:
        return searched(frozenset(state))

    @cache
    def advised(state: frozenset[tuple[str, str]]) -> float:
        told: Sequence[Seen] = [Seen(check, (outcome,), True) for check, outcome in state]
        p = posterior(model, network, told)
        checks, repairs = steps(tuple(state))
        tried = [r for r in model.repairs if r not in repairs]
        one = weigh(model, network, p, checks, tried).step
        return last_resort if one is None else step(tuple(state), one.kind, one.id, own)

    def own(state: State) -> float:
        return advised(frozenset(state))

    checks, repairs = steps(())
    choices = {("check", c): step((), "check", c, best) for c in checks} | {
        ("repair", r): step((), "repair", r, best) for r in repairs
    }
    one = weigh(model, network, posterior(model, network, []), checks).step
    first = one is not None and choices[one.kind, one.id] <= min(choices.values()) * (1 + TIE)
    return Policies(best(()), own(()), first)
