"""How long a graph takes at the least, and legal orders of its steps."""

from collections.abc import Sequence
from graphlib import TopologicalSorter
from typing import Literal, NamedTuple

from lens.errors import BadInput
from lens.records.base import Record
from lens.steps.graph import Done, Graph, comes_before
from lens.steps.walking import applies, finished, open_steps

Policy = Literal["written", "long_waits_first", "short_first"]


class CriticalPath(Record):
    """The chain of steps that decides how long it takes however many people work."""

    steps: tuple[str, ...]
    minutes: float


class Slot(Record):
    """When one pair of hands begins a step, and when its waiting is over; minutes from the start."""

    step: str
    start: float
    worked: float
    over: float


def tails(graph: Graph, skipped: frozenset[str] = frozenset()) -> dict[str, float]:
    """Of every step the minutes from its beginning to the end of the longest chain that begins with it."""
    known = {step.id: step for step in graph.steps if step.id not in skipped}
    before = {name: [other for other in comes_before(step) if other in known] for name, step in known.items()}
    tail: dict[str, float] = {}
    after: dict[str, list[str]] = {name: [] for name in known}
    for name, others in before.items():
        for other in others:
            after[other].append(name)
    for name in reversed(tuple(TopologicalSorter(before).static_order())):
        tail[name] = known[name].minutes + known[name].wait_minutes + max((tail[o] for o in after[name]), default=0.0)
    return tail


def critical_path(graph: Graph, log: Sequence[Done] = ()) -> CriticalPath:
    """The longest chain of what is left, work and waiting together; what turned out not to apply is left out."""
    done = {one.step for one in log}
    gone = frozenset(s.id for s in graph.steps if s.id in done or applies(graph, s, log) is False)
    tail, known = tails(graph, gone), graph.by_id
    if not tail:
        return CriticalPath(steps=(), minutes=0.0)
    name = max(tail, key=lambda one: tail[one])
    chain, minutes = [name], tail[name]
    while True:
        rest = tail[name] - known[name].minutes - known[name].wait_minutes
        following = [o for o in tail if name in comes_before(known[o]) and abs(tail[o] - rest) < 1e-9]
        if not following:
            return CriticalPath(steps=tuple(chain), minutes=minutes)
        name = following[0]
        chain.append(name)


def order(
    graph: Graph, policy: Policy = "written", choices: dict[str, str] | None = None, log: Sequence[Done] = ()
) -> tuple[Done, ...]:
    """One legal order of all steps that are left: as they are written, with the longest waiting ahead begun first, or the shortest work first.

    ``choices`` are made where a step has any, the first one where none is given. Steps that bring a state about again come only when a step
    that is left asks for it. Raises BadInput where nothing is open and something is left.
    """
    told = list(log)
    weight = _weights(graph, policy)
    while not finished(graph, told):
        ready = open_steps(graph, told)
        fresh = [name for name in ready if all(one.step != name for one in told)] or list(ready)
        if not fresh:
            raise BadInput("No step is open although some are left.", "dead_end")
        name = min(fresh, key=lambda one: weight[one])
        step = graph.by_id[name]
        choice = (choices or {}).get(name, next(iter(step.choices), None))
        told.append(Done(step=name, choice=choice))
    return tuple(told[len(log) :])


class _Weight(NamedTuple):
    first: float
    place: int


def _weights(graph: Graph, policy: Policy) -> dict[str, _Weight]:
    tail = tails(graph) if policy == "long_waits_first" else {}
    first = {
        step.id: {"written": 0.0, "short_first": step.minutes, "long_waits_first": -tail.get(step.id, 0.0)}[policy]
        for step in graph.steps
    }
    return {step.id: _Weight(first[step.id], place) for place, step in enumerate(graph.steps)}


def schedule(graph: Graph, told: Sequence[Done]) -> tuple[Slot, ...]:
    """When one pair of hands does the steps in that order, as soon as what each stands on is over; waiting runs beside other work."""
    over: dict[str, float] = {}
    hands, slots = 0.0, []
    for one in told:
        step = graph.by_id[one.step]
        start = max([hands, *(over[name] for name in comes_before(step) if name in over)])
        hands = start + step.minutes
        over[step.id] = hands + step.wait_minutes
        slots.append(Slot(step=step.id, start=start, worked=hands, over=over[step.id]))
    return tuple(slots)
