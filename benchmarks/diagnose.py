"""./clear-lens benchmark diagnose: made-up jobs worked through as advised, against fixed ways of working, and how sure it may be."""

import statistics
import time
from collections.abc import Sequence

import numpy as np

from benchmarks.calibration import Stated, print_reliability
from benchmarks.evidence import print_evidence
from benchmarks.stories import print_stories
from lens.diagnosis import DEVICES, EvidenceItem, Model, build_network, diagnose, load_model
from lens.diagnosis.exact import search
from lens.diagnosis.load import Cause, Check, Repair
from lens.diagnosis.scenarios import Altered, Course, Job, advised, follow, listed, make_job, repaired_in_order

TUNING_JOBS, LIST_JOBS, LONGEST_LIST, CANDIDATES = 300, 80, 5, 14
WORLDS = (
    ("as the model says", Altered()),
    ("likelihoods off by 20 %", Altered(0.2)),
    ("likelihoods off by 50 %", Altered(0.5)),
    ("10 % unknown causes", Altered(0.0, 0.1)),
)
LEAST_JOBS = 400
ERROR_STEPS = 10
SMALL_MODELS = 40


def _mean_cost(model: Model, jobs: Sequence[Job], order: Sequence[str]) -> float:
    return statistics.mean(repaired_in_order(model, job, order) for job in jobs)


def _best_order(model: Model, jobs: Sequence[Job]) -> list[str]:
    """The cheapest fixed order of repairs: chance over cost first, then exchanges of neighbours and of any two as long as one helps."""
    device = jobs[0].device
    share = {
        name: sum(cause.prior[device] for cause in model.causes.values() if name in cause.repaired_by)
        / (repair.minutes + repair.cost)
        for name, repair in model.repairs.items()
    }
    order = sorted((name for name in share if share[name]), key=lambda name: -share[name])
    best, improved = _mean_cost(model, jobs, order), True
    while improved:
        improved = False
        for a in range(len(order)):
            for b in range(a + 1, len(order)):
                other = order.copy()
                other.insert(a, other.pop(b))
                cost = _mean_cost(model, jobs, other)
                if cost < best:
                    order, best, improved = other, cost, True
    return order


def _best_list(model: Model, jobs: Sequence[Job]) -> list[str]:
    """The best fixed list of checks, grown one by one; after it repairs go by probability over cost."""
    quick = sorted(model.checks, key=lambda name: model.checks[name].minutes + model.checks[name].risk)[:CANDIDATES]
    chosen: list[str] = []
    best = statistics.mean(follow(model, job, listed(chosen)).cost for job in jobs)
    while len(chosen) < LONGEST_LIST:
        tried = {
            name: statistics.mean(follow(model, job, listed([*chosen, name])).cost for job in jobs)
            for name in quick
            if name not in chosen
        }
        name = min(tried, key=lambda n: tried[n])
        if tried[name] >= best:
            break
        chosen, best = [*chosen, name], tried[name]
    return chosen


def _calibration_error(courses: Sequence[Course]) -> float:
    """Expected calibration error over ten steps (Naeini, Cooper, Hauskrecht 2015)."""
    step = [min(int(course.sure * ERROR_STEPS), ERROR_STEPS - 1) for course in courses]
    total = 0.0
    for n in range(ERROR_STEPS):
        own = [course for course, at in zip(courses, step, strict=True) if at == n]
        if own:
            total += abs(sum(c.sure for c in own) - sum(c.right_at_stop for c in own))
    return total / len(courses)


def _small_model(seed: int) -> Model:
    """Four causes, three checks, four repairs, made up."""
    rng = np.random.default_rng(seed)
    names = ["a", "b", "c", "d"]
    causes = {
        name: Cause(title=name, prior=dict.fromkeys(DEVICES, float(rng.uniform(0.5, 4))), repaired_by=(f"mend_{name}",))
        for name in names
    }
    repairs = {
        f"mend_{name}": Repair(title=name, minutes=float(rng.uniform(5, 60)), cost=float(rng.uniform(0, 100)))
        for name in names
    }
    checks = {}
    for number in range(3):
        rows = {name: float(np.clip(rng.beta(0.6, 0.6), 0.03, 0.97)) for name in names}
        checks[f"look_{number}"] = Check(
            title="?",
            outcomes={"no": "no", "yes": "yes"},
            minutes=float(rng.uniform(1, 10)),
            how=("look",),
            likelihood={"none": (0.97, 0.03), "other": (0.9, 0.1), **{name: (1 - p, p) for name, p in rows.items()}},
        )
    return Model(version=1, repairs=repairs, causes=causes, checks=checks)


def _regret_row(first_seed: int) -> None:
    lost, first_is_best = [], 0
    for seed in range(first_seed, first_seed + SMALL_MODELS):
        model = _small_model(seed)
        told = search(model, build_network(model, DEVICES[0]))
        lost.append(max(told.advised / told.best - 1, 0.0))
        first_is_best += told.first_is_best
    print(
        f"\nregret against the best policy by full search, {SMALL_MODELS} models of 4 causes, 3 checks, 4 repairs: "
        f"mean {statistics.mean(lost):.3f}, largest {max(lost):.3f}; first step is one of the best in {first_is_best} of {SMALL_MODELS}"
    )


def _speed() -> None:
    model = load_model()
    items = [
        EvidenceItem(check=name, outcome=list(check.outcomes)[0])
        for name, check in model.checks.items()
        if not check.features
    ]
    print("\nevidence items    causes, next steps, plan of three")
    for count in (0, 10, 20, len(items)):
        took = []
        for _ in range(7):
            start = time.perf_counter()
            diagnose("tablet", items[:count])
            took.append(time.perf_counter() - start)
        print(f"{count:14d}    {1000 * statistics.median(took):6.1f} ms")


def print_diagnose(jobs: int, first_seed: int) -> None:
    """All rows."""
    model = load_model()
    print(
        f"{len(model.causes)} causes, {len(model.checks)} checks, {len(model.repairs)} repairs; {jobs} made-up jobs a row, seeds from {first_seed}"
    )
    tuning = [make_job(model, seed) for seed in range(TUNING_JOBS)]
    orders = {device: _best_order(model, [job for job in tuning if job.device == device]) for device in DEVICES}
    checklist = _best_list(model, tuning[:LIST_JOBS])
    print(f"best fixed list of checks (found on {LIST_JOBS} jobs below the reporting seeds): {', '.join(checklist)}")
    print(
        "cost of the advised way as a share of: repairs in the best fixed order, the panel first, the best fixed list of checks with our repairs;"
    )
    print(
        "least: what would be left of that list's cost if every check were done and cost nothing, which no way of working can go under"
    )
    print(
        "world                     first true   at the stop   checks   cost   fixed order   panel first   fixed list   least   calibration error"
    )
    sure: list[Stated] = []
    for name, altered in WORLDS:
        own = [make_job(model, seed, altered) for seed in range(first_seed, first_seed + jobs)]
        courses = [follow(model, job, advised) for job in own]
        cost = statistics.mean(course.cost for course in courses)
        fixed = statistics.mean(repaired_in_order(model, job, orders[job.device]) for job in own)
        swap = statistics.mean(
            repaired_in_order(model, job, ["panel", *(r for r in orders[job.device] if r != "panel")]) for job in own
        )
        by_list = statistics.mean(follow(model, job, listed(checklist)).cost for job in own)
        least = statistics.mean(
            follow(model, job, listed(list(model.checks)), free=True).cost for job in own[:LEAST_JOBS]
        )
        least /= statistics.mean(follow(model, job, listed(checklist)).cost for job in own[:LEAST_JOBS])
        print(
            f"{name:24s}  {statistics.mean(c.right_at_end for c in courses):10.3f}   "
            f"{statistics.mean(c.right_at_stop for c in courses):11.3f}   "
            f"{statistics.mean(c.checks for c in courses):6.1f}   {cost:4.0f}   {cost / fixed:11.2f}   "
            f"{cost / swap:11.2f}   {cost / by_list:10.2f}   {least:5.2f}   {_calibration_error(courses):17.3f}",
            flush=True,
        )
        if not altered.likelihoods and not altered.unknown:
            sure = [Stated(course.sure, course.right_at_stop) for course in courses]
    print_reliability(sure)
    _regret_row(first_seed)
    print_stories()
    print_evidence(first_seed)
    _speed()
