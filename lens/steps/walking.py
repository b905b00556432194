"""Where somebody stands in a graph: what is open, what is blocked and why, and the way back."""

from collections.abc import Sequence

from lens.errors import BadInput
from lens.steps.graph import Done, Graph, Step, comes_before, held, last_choice
from lens.tables import not_known


def check_log(graph: Graph, log: Sequence[Done]) -> None:
    """Raises BadInput for steps or choices that the graph does not have."""
    for done in log:
        step = step_of(graph, done.step)
        if done.choice is not None and done.choice not in step.choices:
            raise not_known(f"choice at '{step.title}' called", done.choice, step.choices, "unknown_choice")


def step_of(graph: Graph, name: str) -> Step:
    """The step of that name; raises BadInput with the known ones."""
    if name not in graph.by_id:
        raise not_known("step", name, graph.by_id, "unknown_step")
    return graph.by_id[name]


def applies(graph: Graph, step: Step, log: Sequence[Done]) -> bool | None:
    """Whether the choices made so far make a step apply; None while one of them is still to be made."""
    chosen, known = last_choice(log), graph.by_id
    answer: bool | None = True
    for name, allowed in step.when.items():
        if name in chosen:
            if chosen[name] not in allowed:
                return False
        elif applies(graph, known[name], log) is False:
            return False
        else:
            answer = None
    return answer


def due(graph: Graph, step: Step, log: Sequence[Done], states: frozenset[str] | None = None) -> bool:
    """Whether it is not done yet, or a state that it brings about was ended since and a step that is left asks for it."""
    done = last_choice(log)
    if step.id not in done:
        return True
    states = held(graph, log) if states is None else states
    ended = set(step.sets) - states
    return bool(ended) and any(
        ended & set(other.requires) and other.id not in done and applies(graph, other, log) is not False
        for other in graph.steps
    )


def blocked(graph: Graph, name: str, log: Sequence[Done]) -> str:
    """Why a step cannot be done now, in a sentence; empty when it can."""
    step, done, known = step_of(graph, name), last_choice(log), graph.by_id
    fits, states = applies(graph, step, log), held(graph, log)
    if fits is False:
        return "It does not apply: another way was chosen."
    if not due(graph, step, log, states):
        return "It is done."
    for before in comes_before(step):
        if before not in done and applies(graph, known[before], log) is not False:
            return f"'{known[before].title}' comes first."
    lacking = [state for state in step.requires if state not in states]
    if lacking:
        makers = [other.title for other in graph.steps if lacking[0] in other.sets]
        again = " again" if any(lacking[0] in known[one.step].sets for one in log) else ""
        return f"'{makers[0]}' comes first{again}." if makers else f"It needs the state '{lacking[0]}'."
    return ""


def open_steps(graph: Graph, log: Sequence[Done]) -> tuple[str, ...]:
    """The steps that may be done now, in the order in which they are written."""
    return tuple(step.id for step in graph.steps if not blocked(graph, step.id, log))


def finished(graph: Graph, log: Sequence[Done]) -> bool:
    """Whether every step that applies was done."""
    done = last_choice(log)
    return all(step.id in done or applies(graph, step, log) is False for step in graph.steps)


def undo(graph: Graph, name: str, log: Sequence[Done]) -> tuple[str, ...]:
    """What must be taken back to have a step undone, in the order of taking back, the step itself last: the steps that were built on it, the
    last one done first, as things really were done and not as they are written."""
    done = last_choice(log)
    if step_of(graph, name).id not in done:
        raise BadInput(f"'{graph.by_id[name].title}' was not done, so there is nothing to take back.", "not_done")
    standing, known = {name}, graph.by_id
    order = way_back(graph, log)
    while True:
        more = {other for other in order if set(comes_before(known[other])) & standing} - standing
        if not more:
            return (*(other for other in order if other in standing and other != name), name)
        standing |= more


def way_back(graph: Graph, log: Sequence[Done]) -> tuple[str, ...]:
    """Everything that was done, in the order of taking it back."""
    return tuple(dict.fromkeys(one.step for one in reversed(log)))


def done_after(graph: Graph, name: str, log: Sequence[Done], choice: str | None = None) -> tuple[Done, ...]:
    """The log with one more step; raises BadInput where it is blocked, or lacks its choice."""
    reason = blocked(graph, name, log)
    step = graph.by_id[name]
    if reason:
        raise BadInput(f"'{step.title}' cannot be done now. {reason}", "step_blocked")
    if step.choices and choice not in step.choices:
        raise BadInput(f"'{step.title}' asks for a choice: {', '.join(step.choices.values())}.", "step_choice")
    return (*log, Done(step=name, choice=choice if step.choices else None))
