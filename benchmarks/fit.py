"""Procedures walked in random legal orders, with power-ups in between, things lost for a while and steps taken back, and held to a checker of its
own; how many questions name a build; how long it takes to say where somebody stands."""

import random
import time

from lens.fitting import POWERED, FitStep, builds_for, find_build, get_procedure, procedures, questions, standing
from lens.fitting.procedures import Procedure
from lens.steps import Done, critical_path, finished, undo

WALKS, STEPS, WANTED_MS, ROUNDS = 1000, 60, 20.0, 20
POWER_UP, GO_BACK, LOST = 0.04, 0.04, 0.1  # chances at each move
MOST_QUESTIONS = 4.0
TOUCHES_CABLE = ("plug", "open", "display_plug", "plates_on")
GLUE = ("adhesive", "strips_new", "cure")


def walk(name: str, rng: random.Random) -> list[Done]:
    """One legal order, its choices and detours by chance: somebody switches it on in between, loses a screw for a while, goes back to a step."""
    procedure = get_procedure(name)
    log: list[Done] = []
    known = procedure.graph.by_id
    for _ in range(400):
        if finished(procedure.graph, [one for one in log if one.step != POWERED]):
            return log
        detour = rng.random()
        if detour < POWER_UP:
            log.append(Done(step=POWERED))
        elif detour < POWER_UP + GO_BACK and (done := [one.step for one in log if one.step != POWERED]):
            back = set(undo(procedure.graph, rng.choice(done), [one for one in log if one.step != POWERED]))
            log = [one for one in log if one.step not in back]
        lost = int(rng.random() < LOST)
        ready = standing(procedure, log, unaccounted=lost).open
        if lost:
            assert not any("isolated" in known[one].ends for one in ready), f"{name}: power with a screw missing"
            ready = ready or standing(procedure, log).open  # it was found
        assert ready, f"{name}: a dead end after {[one.step for one in log]}"
        step = known[rng.choice(ready)]
        log.append(Done(step=step.id, choice=rng.choice(list(step.choices)) if step.choices else None))
    raise AssertionError(f"{name} does not end")


def broken(name: str, log: list[Done]) -> list[str]:
    """What a walk did that must not be done: told from the steps themselves, without the engine that leads the way."""
    told, isolated, seen = [], False, set()
    known = get_procedure(name).graph.by_id
    fitted = False
    for done in log:
        if done.step == POWERED:
            isolated = False
            continue
        step = known[done.step]
        if "isolated" in step.requires and not isolated:
            told.append(f"{step.id} while not made safe")
        if step.id in TOUCHES_CABLE and not isolated:
            told.append(f"{step.id} on a live cable")
        if (step.id in GLUE or step.id.startswith("bezel_on")) and not fitted:
            told.append(f"{step.id} before the dry fit")
        told += [f"{step.id} before {before}" for before in step.needs if before not in seen and not known[before].when]
        seen.add(step.id)
        fitted = fitted or step.id == "dry_fit"
        isolated = "isolated" not in step.ends and (isolated or "isolated" in step.sets)
    return told


def balance(name: str, log: list[Done]) -> dict[str, int]:
    """What is still out of each group at the end."""
    known = get_procedure(name).graph.by_id
    out: dict[str, int] = {}
    for step in dict.fromkeys(done.step for done in log if done.step != POWERED):
        for group, count in known[step].counts.items():
            out[group] = out.get(group, 0) + count
    return {group: count for group, count in out.items() if count}


def _long_one() -> Procedure:
    """A procedure of sixty steps: each stands on two before it, every tenth powers up."""
    steps = [FitStep(id="make_safe", title="Make safe", sets=("isolated",))]
    for n in range(1, STEPS):
        needs = tuple(f"s{k}" for k in (n - 1, n - 3) if k >= 1) or ("make_safe",)
        ends = ("isolated",) if n % 10 == 0 else ()
        steps.append(FitStep(id=f"s{n}", title=f"Step {n}", needs=needs, requires=("isolated",), ends=ends, minutes=2))
    return Procedure(id="long", title="Long", devices=("clamshell",), opened_from="", held_by="", steps=tuple(steps))


def questions_asked() -> list[int]:
    """How many questions name each build of each kind of device, answered as it is; of several possible answers the first."""
    counts = []
    for device in ("clamshell", "handset", "tablet", "all_in_one"):
        for build in builds_for(device):
            answers: dict[str, str] = {}
            while (question := find_build(device, answers).question) is not None:
                asked = questions()[question]
                answers[question] = asked.builds.get(build.id, tuple(asked.answers))[0]
            assert find_build(device, answers).builds == (build.id,), build.id
            counts.append(len(answers))
    return counts


def print_fit(seed: int, walks: int = WALKS) -> int:
    """Print the table; 0 when no order breaks anything and the figure is reached."""
    rng, bad = random.Random(seed), 0
    for name in procedures():
        faults, unbalanced, longest = 0, 0, 0
        for _ in range(walks):
            log = walk(name, rng)
            faults += len(broken(name, log))
            unbalanced += bool(balance(name, log)) and any(done.step == "close" for done in log)
            longest = max(longest, len(log))
        bad += faults + unbalanced
        print(
            f"  {name:18} {walks} orders, longest {longest:2} steps: {faults} broken rules, {unbalanced} out of balance"
        )
    asked = questions_asked()
    print(
        f"  a build is named after {sum(asked) / len(asked):.1f} questions on average, {max(asked)} at most ({MOST_QUESTIONS:.0f} wanted)"
    )
    bad += sum(asked) / len(asked) > MOST_QUESTIONS
    long, log = _long_one(), []
    took = []
    while not finished(long.graph, log):
        ready = standing(long, log).open
        log.append(Done(step=rng.choice(ready)))
    for cut in range(0, len(log), max(1, len(log) // ROUNDS)):
        started = time.perf_counter()
        standing(long, log[:cut])
        critical_path(long.graph, log[:cut])
        took.append(1000 * (time.perf_counter() - started))
    print(
        f"  where one stands among {STEPS} steps, the way back and the critical path: at most {max(took):.1f} ms ({WANTED_MS:.0f} wanted)"
    )
    return int(bad > 0 or max(took) > WANTED_MS)
