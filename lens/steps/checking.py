"""A graph is checked in full: every fault by its place, before anybody walks it."""

from collections import Counter

from lens.errors import ModelInconsistent
from lens.steps.graph import Graph, Step, comes_before
from lens.tables import unknown


def check(graph: Graph) -> None:
    """Raises ModelInconsistent with all faults at once: doubled and unknown ids, circles, and steps that nobody can ever reach."""
    faults: dict[str, str] = {}
    for name, count in Counter(step.id for step in graph.steps).items():
        if count > 1:
            faults[name] = f"is there {count} times"
    known, settable = graph.by_id, {*graph.holds, *(state for step in graph.steps for state in step.sets)}
    for step in graph.steps:
        for other in comes_before(step):
            if other not in known:
                faults[f"{step.id}.needs"] = unknown(other, known)
            elif other in step.when:
                faults |= _faults_of_choice(step, known[other])
        for state in {*step.requires, *step.ends} - settable:
            faults[f"{step.id}.requires"] = f"no step brings about {unknown(state, settable)}"
    for circle in circles(graph):
        faults[circle[0]] = f"waits for itself: {' -> '.join((*circle, circle[0]))}"
    if not faults:
        faults = dict.fromkeys(sorted(set(known) - reachable(graph)), "can never be reached")
    if faults:
        raise ModelInconsistent(faults)


def _faults_of_choice(step: Step, asked: Step) -> dict[str, str]:
    if not asked.choices:
        return {f"{step.id}.when": f"'{asked.id}' has no choices"}
    wrong = [choice for choice in step.when[asked.id] if choice not in asked.choices]
    return {f"{step.id}.when.{asked.id}": unknown(choice, asked.choices) for choice in wrong}


def circles(graph: Graph) -> list[tuple[str, ...]]:
    """Each group of steps that wait for one another, as one round through it (Tarjan 1972; iterative, since graphs may be deep)."""
    known = graph.by_id
    before = {step.id: [name for name in comes_before(step) if name in known] for step in graph.steps}
    number: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[tuple[str, ...]] = []
    for root in before:
        work = [(root, iter(before[root]))] if root not in number else []
        while work:
            name, left = work[-1]
            if name not in number:
                number[name] = low[name] = len(number)
                stack.append(name)
            for other in left:
                if other not in number:
                    work.append((other, iter(before[other])))
                    break
                if other in stack:
                    low[name] = min(low[name], number[other])
            else:
                work.pop()
                if work:
                    low[work[-1][0]] = min(low[work[-1][0]], low[name])
                if low[name] == number[name]:
                    group = stack[stack.index(name) :]
                    del stack[stack.index(name) :]
                    if len(group) > 1 or name in before[name]:
                        found.append(_round(group, before))
    return found


def _round(group: list[str], before: dict[str, list[str]]) -> tuple[str, ...]:
    """A shortest way from the group's first step back to itself."""
    start, inside = group[0], set(group)
    ways: list[tuple[str, ...]] = [(start,)]
    seen: set[str] = set()
    while ways:
        way = ways.pop(0)
        for other in before[way[-1]]:
            if other == start:
                return way
            if other in inside and other not in seen:
                seen.add(other)
                ways.append((*way, other))
    return tuple(group)


def reachable(graph: Graph) -> set[str]:
    """The steps that some order and some choices come to."""
    found: set[str] = set()
    states, known = set(graph.holds), graph.by_id
    while True:
        fresh = [
            step
            for step in graph.steps
            if step.id not in found
            and all(name in found for name in comes_before(step))
            and all(set(allowed) & set(known[name].choices) for name, allowed in step.when.items())
            and set(step.requires) <= states
        ]
        if not fresh:
            return found
        found |= {step.id for step in fresh}
        states |= {state for step in fresh for state in step.sets}
