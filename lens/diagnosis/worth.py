"""What it costs to mend a device from what is believed, and what each check and repair takes off that.

Expected costs are those of repairing, best first, until the fault is gone (Heckerman, Breese, Rommelse 1995); the worth of a check is what
it takes off that on average, less its own minutes, cost and risk.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from lens.diagnosis.load import Model
from lens.diagnosis.network import Network, Numbers

COST_PER_MINUTE = 1.0
HANDLING_MINUTES = (
    3.0  # of every check: tools down, the device turned, the answer noted (common practice; nothing was timed)
)
NEGLIGIBLE = 1e-3  # share that is left when nobody would go on
SMALLEST = 1e-5  # hypotheses less likely than this move no decision
MOST_REPAIRS = 8  # in a row; what is left then costs as much as the dearest one
ASKED_FOR = (
    1.5  # times as likely as with one cause that the evidence must be with two, before the second one is looked for
)

Ruled = Mapping[str, Sequence[str]]


class Worth(NamedTuple):
    """A step and what it is worth: ``saving`` of money on average, its own cost taken off, and of what it is made: ``saved_minutes`` of work and
    ``saved_money``; ``minutes`` it takes; ``chance`` that a repair mends it."""

    kind: str
    id: str
    saving: float
    minutes: float
    chance: float
    saved_minutes: float = 0.0
    saved_money: float = 0.0


def repair_costs(model: Model) -> Numbers:
    """(repairs,) money, minutes included."""
    return np.array([repair.minutes * COST_PER_MINUTE + repair.cost + repair.risk for repair in model.repairs.values()])


def check_cost(model: Model, check_id: str) -> float:
    """Money, minutes and risk included."""
    check = model.checks[check_id]
    return check.minutes * COST_PER_MINUTE + check.cost + check.risk


def weighed_cost(model: Model, check_id: str) -> float:
    """The same with what it costs to put the tools down and take them up again, which is weighed, and charged to nobody."""
    return check_cost(model, check_id) + HANDLING_MINUTES * COST_PER_MINUTE


class Path(NamedTuple):
    """(n,) expected ``cost`` of mending, of which ``minutes`` of work."""

    cost: Numbers
    minutes: Numbers


def paths(model: Model, network: Network, weights: Numbers, closed: Sequence[str] = ()) -> Path:
    """Mending from (n, hypotheses) weights, times their sum: repairs by probability over cost until it is mended, without those that are
    ``closed``."""
    costs, members = repair_costs(model), network.members.astype(float)
    minutes = np.array([repair.minutes for repair in model.repairs.values()])
    touches = network.touches
    covered = np.zeros((len(weights), len(network.causes)))
    usable = np.ones((len(weights), len(costs)))
    usable[:, [network.repairs.index(name) for name in closed]] = 0.0
    total, work = np.zeros(len(weights)), np.zeros(len(weights))
    enough = NEGLIGIBLE * np.maximum(weights.sum(axis=1), 1e-300)
    size = members.sum(axis=1)
    rows = np.arange(len(weights))  # those that are not mended yet
    left = weights * (size > 0)
    for turn in range(MOST_REPAIRS + 1):
        remaining = left.sum(axis=1)
        going = remaining > enough[rows]
        if turn == MOST_REPAIRS:
            total[rows[going]] += remaining[going] * costs.max()
            work[rows[going]] += remaining[going] * minutes[costs.argmax()]
            break
        rows, left, remaining, covered, usable = (
            rows[going],
            left[going],
            remaining[going],
            covered[going],
            usable[going],
        )
        if not len(rows):
            break
        best = np.argmax((left @ touches) * usable / costs, axis=1)
        total[rows] += remaining * costs[best]
        work[rows] += remaining * minutes[best]
        covered = np.maximum(covered, network.covers[best])
        usable[np.arange(len(best)), best] = 0.0
        left = left * (covered @ members.T < size - 0.5)
    return Path(total, work)


def cost_to_mend(model: Model, network: Network, weights: Numbers, closed: Sequence[str] = ()) -> Numbers:
    """(n,) expected cost, times the sum of the weights, of (n, hypotheses) weights."""
    return paths(model, network, weights, closed).cost


def narrowed(network: Network, p: Numbers) -> tuple[Network, Numbers]:
    """The network of the hypotheses that can move a decision, and what is believed of them: sound, each cause alone, and the pairs that are not too
    unlikely."""
    keep = (network.members.sum(axis=1) < 2) | (p > SMALLEST)
    return network.of(keep), p[keep]


def outcome_weights(model: Model, network: Network, check_id: str, gone: Sequence[str] = ()) -> Numbers:
    """(outcomes, hypotheses) P(outcome | h) of an open check, none of those that are ``gone``; of features the worst one that shows counts."""
    shows = network.shows[check_id]
    if model.checks[check_id].features:
        if gone:  # a feature that is known already tells no more: what is left of the others counts
            fresh = [n for n, name in enumerate(model.checks[check_id].outcomes) if n and name not in gone]
            silent = np.cumprod((1 - shows[fresh][::-1]), axis=0)[::-1]
            rest = shows[fresh] * np.concatenate([silent[1:], np.ones((1, shows.shape[1]))])
            out = np.zeros_like(shows)
            out[0], out[fresh] = silent[0], rest
            return out
        silent = np.cumprod((1 - shows[:0:-1]), axis=0)[::-1]  # P(none from this one on)
        worst = shows[1:] * np.concatenate([silent[1:], np.ones((1, shows.shape[1]))])
        return np.concatenate([shows[:1], worst * (1 - shows[0]) / np.maximum(1 - silent[0], 1e-9)])
    if not gone:
        return shows
    left = np.where(np.array([name in gone for name in model.checks[check_id].outcomes])[:, None], 0.0, shows)
    return np.asarray(left / left.sum(axis=0), float)


def without_a_hunt(network: Network, p: Numbers) -> Numbers:
    """(hypotheses,) the same belief for acting on: a second cause counts only where the evidence is more likely with it than with the better of
    the two alone, else its share goes to that one. Without this a sure fault would be followed by a search for another that nothing asks for."""
    size = network.members.sum(axis=1)
    chance = p / network.prior
    single = network.singles
    pairs = np.flatnonzero(size == 2)
    if not len(pairs):
        return p
    parts = single[np.nonzero(network.members[pairs])[1].reshape(-1, 2)]
    better = np.where(chance[parts[:, 0]] >= chance[parts[:, 1]], parts[:, 0], parts[:, 1])
    alone = chance[pairs] < ASKED_FOR * chance[better]
    acting = p.copy()
    np.add.at(acting, better[alone], p[pairs[alone]])
    acting[pairs[alone]] = 0.0
    return acting


def worth_of_checks(
    model: Model,
    network: Network,
    p: Numbers,
    checks: Sequence[str],
    closed: Sequence[str] = (),
    ruled: Ruled | None = None,
) -> list[Worth]:
    """What each check is worth now, one step ahead."""
    if not checks:
        return []
    parts = [outcome_weights(model, network, check_id, (ruled or {}).get(check_id, ())) * p for check_id in checks]
    told = paths(model, network, np.concatenate([p[None], *parts]), closed)
    ends = np.cumsum([len(part) for part in parts])[:-1]
    after = [part.sum() for part in np.split(told.cost[1:], ends)]
    work = [part.sum() for part in np.split(told.minutes[1:], ends)]
    now, now_minutes = float(told.cost[0]), float(told.minutes[0])
    out = []
    for check_id, cost, minutes in zip(checks, after, work, strict=True):
        own = model.checks[check_id].minutes
        offered = model.checks[check_id].offered
        saved, saved_minutes = offered * (now - float(cost)), offered * (now_minutes - float(minutes))
        money = saved - saved_minutes * COST_PER_MINUTE
        out.append(Worth("check", check_id, saved - check_cost(model, check_id), own, 0.0, saved_minutes, money))
    return out


def worth_of_repairs(model: Model, network: Network, p: Numbers, closed: Sequence[str] = ()) -> list[Worth]:
    """What each open repair is worth: the work that it ends when it mends the fault, less its own cost."""
    now = float(cost_to_mend(model, network, p[None], closed)[0])
    costs, chance = repair_costs(model), p @ network.ends
    return [
        Worth("repair", name, float(chance[n]) * now - float(costs[n]), model.repairs[name].minutes, float(chance[n]))
        for n, name in enumerate(network.repairs)
        if name not in closed and network.covers[n].any()
    ]
