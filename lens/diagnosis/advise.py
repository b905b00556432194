"""What to do next: the check or the repair after which the expected cost of mending is least, two steps ahead.

One step ahead (``worth``) a check is held to repairing at once. That misses that a cheap repair which fails leaves every check open, and that two
checks may tell together what neither tells alone: so the best few of both are followed one step further, each outcome with its own best check or
repair after it.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from lens.diagnosis.evidence import REPAIR, Seen, ruled_out, said_already
from lens.diagnosis.load import Model
from lens.diagnosis.network import Network, Numbers
from lens.diagnosis.worth import (
    Ruled,
    Worth,
    cost_to_mend,
    narrowed,
    outcome_weights,
    repair_costs,
    weighed_cost,
    worth_of_checks,
    worth_of_repairs,
)

FIRST = "first_look"  # taken at intake, with the owner there
CHECKS_AHEAD, REPAIRS_AHEAD, CHECKS_AFTER = 5, 3, 6  # followed one step further, and the checks tried there


def open_checks(model: Model, network: Network, evidence: Sequence[Seen], skipped: Sequence[str] = ()) -> list[str]:
    """Checks that this device type has, that can be done as it stands, whose outcome is not implied, and that were not answered or put aside."""
    done = {seen.check for seen in evidence} | set(skipped)
    under_way = any(seen.belief == 1.0 and seen.check != FIRST for seen in evidence)
    lacking = states_lacking(model, evidence)
    return [
        check_id
        for check_id in network.shows
        if check_id not in done
        and not lacking & set(model.checks[check_id].wants)
        and not (under_way and model.checks[check_id].at == "intake")
        and len(model.checks[check_id].outcomes) - len(ruled_out(model, evidence, check_id)) > 1
    ]


def rules(model: Model, evidence: Sequence[Seen], checks: Sequence[str]) -> Ruled:
    """Outcomes by check that the answers leave no room for."""
    told = {
        check_id: (*ruled_out(model, evidence, check_id), *said_already(model, evidence, check_id))
        for check_id in checks
    }
    return {check_id: gone for check_id, gone in told.items() if gone}


def states_lacking(model: Model, evidence: Sequence[Seen]) -> set[str]:
    """Ids of the states that the answers say are not there: nothing that needs a picture is asked of a black screen."""
    return {
        name
        for name, state in model.states.items()
        if (_said(evidence, state.lacking) or not state.assumed) and not _said(evidence, state.there)
    }


def checks_without(model: Model, evidence: Sequence[Seen], without: Sequence[str]) -> list[str]:
    """Ids of the checks that want what the device never has, unless an answer says that it has."""
    never = {name for name in without if name in model.states and not _said(evidence, model.states[name].there)}
    return [check_id for check_id, check in model.checks.items() if never & set(check.wants)]


def _said(evidence: Sequence[Seen], answers: Mapping[str, tuple[str, ...]]) -> bool:
    return any(set(seen.outcomes) & set(answers.get(seen.check, ())) for seen in evidence)


def closed_repairs(model: Model, evidence: Sequence[Seen]) -> list[str]:
    """Ids of the repairs that are none here: those that were tried and did not mend it, and those that an answer excludes."""
    answers = {seen.check: seen.outcomes for seen in evidence}
    excluded = {
        name
        for name, repair in model.repairs.items()
        if any(set(outcomes) & set(answers.get(check, ())) for check, outcomes in repair.unless.items())
    }
    return [*tried_repairs(evidence), *(name for name in model.repairs if name in excluded)]


def tried_repairs(evidence: Sequence[Seen]) -> list[str]:
    """Ids of the repairs that were tried and did not mend it."""
    return [
        seen.check.removeprefix(REPAIR)
        for seen in evidence
        if seen.check.startswith(REPAIR) and seen.outcomes == ("same",)
    ]


def best_repair(model: Model, network: Network, p: Numbers, closed: Sequence[str] = ()) -> str | None:
    """The repair of the largest probability over cost; None when all are closed."""
    told = p @ network.touches / repair_costs(model)
    left = [n for n, name in enumerate(network.repairs) if name not in closed]
    return network.repairs[max(left, key=lambda n: told[n])] if left else None


class Choice(NamedTuple):
    """The ``step`` that is advised (None when no repair is left), and what every open check and repair is worth one step ahead."""

    step: Worth | None
    checks: Sequence[Worth]
    repairs: Sequence[Worth]


def weigh(
    model: Model,
    network: Network,
    p: Numbers,
    checks: Sequence[str],
    closed: Sequence[str] = (),
    ruled: Ruled | None = None,
) -> Choice:
    """What every open step is worth, and the one after which the expected cost is least.

    Parameters
    ----------
    p : (hypotheses,) what is believed
    checks : ids of the open checks
    closed : ids of repairs that are none here
    ruled : outcomes by check that cannot come
    """
    ruled = ruled or {}
    network, p = narrowed(network, p)
    repairs = worth_of_repairs(model, network, p, closed)
    told = {one.id: one for one in worth_of_checks(model, network, p, checks, closed, ruled)}
    if not repairs:
        return Choice(None, tuple(told.values()), ())
    costs = dict(zip(network.repairs, repair_costs(model), strict=True))
    by_worth = sorted(told.values(), key=lambda one: -one.saving)
    by_price = sorted(told.values(), key=lambda one: -one.saving / weighed_cost(model, one.id))
    ahead = list(dict.fromkeys(one.id for pair in zip(by_worth, by_price, strict=True) for one in pair))[:CHECKS_AHEAD]
    after = [one.id for one in by_worth[:CHECKS_AFTER]]
    sure = p @ network.touches
    first = sorted(repairs, key=lambda one: -sure[network.repairs.index(one.id)] / costs[one.id])[:REPAIRS_AHEAD]

    # what is believed after each step: every outcome of a check, and a repair that did not mend it
    states: list[tuple[str, str, Numbers]] = []
    for check_id in ahead:
        states += [
            ("check", check_id, row) for row in outcome_weights(model, network, check_id, ruled.get(check_id, ())) * p
        ]
    for one in first:
        states.append(("repair", one.id, _after_repair(network, p, one.id)))
    left = _left_after(model, network, states, after, closed, ruled)
    now = float(cost_to_mend(model, network, p[None], closed)[0])
    cost: dict[tuple[str, str], float] = {}
    for (kind, name, _), rest in zip(states, left, strict=True):
        own = weighed_cost(model, name) if kind == "check" else float(costs[name])
        if kind == "check":
            offered = model.checks[name].offered
            own, rest = own + (1 - offered) * now, offered * rest
        cost[kind, name] = cost.get((kind, name), own) + rest
    best_by_repair = min((cost["repair", one.id], one.id) for one in first)
    checked = min(((cost["check", name], name) for name in ahead), default=(np.inf, ""))
    if checked[0] < best_by_repair[0]:
        step = told[checked[1]]._replace(saving=best_by_repair[0] - checked[0])
    else:
        step = next(one for one in repairs if one.id == best_by_repair[1])
    return Choice(step, tuple(told.values()), repairs)


def _after_repair(network: Network, p: Numbers, repair: str) -> Numbers:
    """(hypotheses,) belief after a repair that is done right: of what it ends nothing is left (the first hypothesis), of a pair the other cause."""
    left = network.members & ~network.covers[network.repairs.index(repair)]
    size = left.sum(axis=1)
    single = network.singles
    now = np.where(size == 0, 0, np.where(size == 1, single[left.argmax(axis=1)], np.arange(len(p))))
    return np.asarray(np.bincount(now, weights=p, minlength=len(p)), np.float64)


def _left_after(
    model: Model,
    network: Network,
    states: Sequence[tuple[str, str, Numbers]],
    after: Sequence[str],
    closed: Sequence[str],
    ruled: Ruled,
) -> list[float]:
    """Expected cost of what is left after each step, times its chance: repairing at once, or the best of the checks that come ``after`` and then
    repairing. All in one matrix."""
    looks = {check_id: outcome_weights(model, network, check_id, ruled.get(check_id, ())) for check_id in after}
    parts: list[Numbers] = []
    for kind, name, weights in states:
        own = {check_id: rows for check_id, rows in looks.items() if (kind, check_id) != ("check", name)}
        parts.append(np.concatenate([weights[None], *(rows * weights for rows in own.values())]))
    costs = np.split(
        cost_to_mend(model, network, np.concatenate(parts), closed), np.cumsum([len(part) for part in parts])[:-1]
    )
    out = []
    for (kind, name, weights), own_costs in zip(states, costs, strict=True):
        least, at = float(own_costs[0]), 1
        for check_id, rows in looks.items():
            if (kind, check_id) == ("check", name):
                continue
            offered, open_share = model.checks[check_id].offered, float(weights[1:].sum())
            looked = float(own_costs[at : at + len(rows)].sum())
            looked = weighed_cost(model, check_id) * open_share + offered * looked + (1 - offered) * float(own_costs[0])
            least, at = min(least, looked), at + len(rows)
        out.append(least)
    return out
