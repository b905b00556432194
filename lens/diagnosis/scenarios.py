"""Made-up jobs to try a way of working on: a device with one or two true causes, answers drawn as the model says or otherwise, and some
checks that cannot be done there. Seeded; the policies see nothing but the answers."""

import zlib
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from lens.diagnosis.advise import best_repair, open_checks, rules, weigh
from lens.diagnosis.evidence import (
    REPAIR,
    REPAIR_WORKS,
    SAID_ALREADY,
    Seen,
    marginals,
    posterior,
    ruled_out,
    said_already,
)
from lens.diagnosis.load import DEVICES, Device, Model
from lens.diagnosis.network import Network, Numbers, network_for
from lens.diagnosis.worth import Ruled, Worth, check_cost, repair_costs, without_a_hunt

KNOWN_AT_INTAKE, ASKED_AT_INTAKE = "first_look", "onset"
OWNER_KNOWS, NOT_POSSIBLE_SHARE = 0.7, 0.15
MOST_STEPS = 80
MOST_DRAWS = 50  # of features until one shows


class Altered(NamedTuple):
    """How the truth differs from the model: every likelihood by up to this share, and the share of jobs whose cause the model does not
    know (they answer like two unrelated causes at once, and only a specialist mends them)."""

    likelihoods: float = 0.0
    unknown: float = 0.0


class Job(NamedTuple):
    """``truth`` is the set of causes, empty for one that the model does not know; ``shows[check]`` (outcomes,) is how this device
    answers."""

    device: Device
    truth: frozenset[str]
    shows: dict[str, Numbers]
    not_possible: frozenset[str]
    seed: int


class Course(NamedTuple):
    """How a job went: its cost, whether the first cause was true when looking stopped and when it was mended, the probability that the
    first cause had when looking stopped, and the checks done."""

    cost: float
    right_at_stop: bool
    right_at_end: bool
    sure: float
    checks: int


AS_MODELLED = Altered()


def make_job(model: Model, seed: int, altered: Altered = AS_MODELLED) -> Job:
    """A job of a random device type."""
    rng = np.random.default_rng(seed)
    device = DEVICES[int(rng.integers(len(DEVICES)))]
    network = network_for(model, device)
    faulty = network.prior * (network.members.sum(axis=1) > 0)
    h = int(rng.choice(len(faulty), p=faulty / faulty.sum()))
    unknown = rng.random() < altered.unknown
    shows = {}
    for check_id, table in network.shows.items():
        row = table[:, h]
        if unknown:
            row = table[:, rng.choice(len(faulty), 2)].mean(axis=1)
        if altered.likelihoods:
            row = row * rng.uniform(1 - altered.likelihoods, 1 + altered.likelihoods, len(row))
            row = np.clip(row, 0, 1) if model.checks[check_id].features else row / row.sum()
        shows[check_id] = np.asarray(row, float)
    never = frozenset(
        c for c in shows if c != KNOWN_AT_INTAKE and rng.random() < max(NOT_POSSIBLE_SHARE, 1 - model.checks[c].offered)
    )
    truth = (
        frozenset()
        if unknown
        else frozenset(c for c, there in zip(network.causes, network.members[h], strict=True) if there)
    )
    return Job(device, truth, shows, never, seed)


class Bench:
    """The device on the bench: it answers checks, and is mended by the right repairs."""

    def __init__(self, model: Model, job: Job) -> None:
        self.model, self.job = model, job
        self.network = network_for(model, job.device)
        self.left = set(job.truth) or {"unknown"}
        self.cost = 0.0

    def _rng(self, step: str) -> np.random.Generator:
        """Chance of its own for each step of each job, so that ways of working are compared by what they do and not by their luck."""
        return np.random.default_rng([self.job.seed, zlib.crc32(step.encode())])

    def look(self, check_id: str, charged: bool = True, known: Sequence[Seen] = ()) -> Seen:
        """Do a check; what the ``known`` answers leave no room for does not come."""
        self.cost += check_cost(self.model, check_id) if charged else 0.0
        check, row = self.model.checks[check_id], self.job.shows[check_id]
        names, rng = list(check.outcomes), self._rng(check_id)
        if check.features:
            return self._features(check_id, known, rng)
        gone = ruled_out(self.model, known, check_id)
        row = np.where([name in gone for name in names], 0.0, row)
        return Seen(check_id, (names[int(rng.choice(len(row), p=row / row.sum()))],), True, gone=gone)

    def _features(self, check_id: str, known: Sequence[Seen], rng: np.random.Generator) -> Seen:
        """What a check with features shows: what other answers said is there or is not, and none at all as often as the device does so."""
        row, names = self.job.shows[check_id], list(self.model.checks[check_id].outcomes)[1:]
        gone, again = ruled_out(self.model, known, check_id), said_already(self.model, known, check_id)
        chance = [
            SAID_ALREADY if name in again else 0.0 if name in gone else p
            for name, p in zip(names, row[1:], strict=True)
        ]
        silent = not again and not gone and rng.random() < row[0]
        shown: tuple[str, ...] = ()
        for _ in range(0 if silent else MOST_DRAWS):
            shown = tuple(name for name, p in zip(names, chance, strict=True) if rng.random() < p)
            if shown or again or gone:
                break
        return Seen(check_id, shown, True, gone=gone, again=again)

    def repair(self, name: str) -> bool:
        """Do a repair; True when the device is mended by it."""
        n = self.network.repairs.index(name)
        self.cost += float(repair_costs(self.model)[n])
        covered = {cause for cause, there in zip(self.network.causes, self.network.covers[n], strict=True) if there}
        rng = self._rng(REPAIR + name)
        self.left -= {cause for cause in sorted(self.left & covered) if rng.random() < REPAIR_WORKS}
        if name == "send_on":
            self.left = set()
        return not self.left

    def _told(self, seen: Seen) -> Seen:
        """The same by the owner's word: mistaken as often as such words are, and then any of the answers."""
        belief, names = self.model.sources.get("told", 1.0), list(self.model.checks[seen.check].outcomes)
        rng = self._rng("told " + seen.check)
        outcome = seen.outcomes[0] if rng.random() < belief else names[int(rng.integers(len(names)))]
        return Seen(seen.check, (outcome,), True, belief=belief)

    def at_intake(self) -> list[Seen]:
        """What is known before anything is done."""
        known = [self.look(KNOWN_AT_INTAKE, charged=False)]
        if self._rng("owner").random() < OWNER_KNOWS and ASKED_AT_INTAKE in self.job.shows:
            known.append(self._told(self.look(ASKED_AT_INTAKE, charged=False)))
        return known


Step = tuple[str, str]  # check or repair, and its id
Chooser = Callable[[Model, Network, Numbers, Sequence[str], Sequence[str], Ruled], Step | None]


def advised(
    model: Model, network: Network, p: Numbers, checks: Sequence[str], tried: Sequence[str], ruled: Ruled
) -> Step | None:
    """The next step of the plan."""
    best: Worth | None = weigh(model, network, without_a_hunt(network, p), checks, tried, ruled).step
    return None if best is None else (best.kind, best.id)


def listed(order: Sequence[str]) -> Chooser:
    """A fixed list of checks, done in order whatever they show."""

    def choose(
        model: Model, network: Network, p: Numbers, checks: Sequence[str], tried: Sequence[str], ruled: Ruled
    ) -> Step | None:
        check = next((check for check in order if check in checks), None)
        repair = best_repair(model, network, p, tried)
        return ("check", check) if check else ("repair", repair) if repair else None

    return choose


def follow(model: Model, job: Job, choose: Chooser = advised, free: bool = False) -> Course:
    """Work through a job: checks and repairs as chosen, checks for nothing where they are ``free``, until it is mended."""
    bench = Bench(model, job)
    network = bench.network
    seen = bench.at_intake()
    tried: list[str] = []
    at_stop: tuple[str, float] | None = None
    checks = 0
    for _ in range(MOST_STEPS):
        p = posterior(model, network, seen)
        opened = [c for c in open_checks(model, network, seen) if c not in job.not_possible]
        kind, name = choose(model, network, p, opened, tried, rules(model, seen, opened)) or ("repair", "send_on")
        if kind == "check":
            seen.append(bench.look(name, not free, seen))
            checks += 1
            continue
        if at_stop is None:
            at_stop = _first(network, p)
        if bench.repair(name):
            end = _first(network, posterior(model, network, [*seen, Seen(REPAIR + name, ("mended",), True)]))[0]
            return Course(bench.cost, at_stop[0] in job.truth, end in job.truth, at_stop[1], checks)
        tried.append(name)
        seen.append(Seen(REPAIR + name, ("same",), True))
    bench.repair("send_on")
    return Course(bench.cost, bool(at_stop and at_stop[0] in job.truth), False, at_stop[1] if at_stop else 0.0, checks)


def repaired_in_order(model: Model, job: Job, order: Sequence[str]) -> float:
    """Cost of a job that is repaired in a fixed order, without looking."""
    bench = Bench(model, job)
    for name in order:
        if bench.repair(name):
            return bench.cost
    bench.repair("send_on")
    return bench.cost


def _first(network: Network, p: Numbers) -> tuple[str, float]:
    share = marginals(network, p)
    best = max(share, key=lambda cause: share[cause])
    return best, share[best]
