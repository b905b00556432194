"""A precedence graph: steps with what must come before them, what they ask for, and what they change.

Procedures, plans and training cases are such graphs. A step is done once, unless it brings about a state (``sets``) that a later step ended
(``ends``): then it is due again. What was done is a log, in order, in which a step may stand several times.
"""

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property

from pydantic import Field

from lens.records.base import Record

MOST_STEPS = 500


class Step(Record):
    """One step. ``needs`` are steps that come before it; ``when`` makes it apply only where a choice was made; ``requires`` are states that
    must hold as it begins."""

    id: str = Field(pattern=r"^[a-z][a-z0-9_]{0,39}$")
    title: str = Field(min_length=1, max_length=80)
    how: tuple[str, ...] = ()
    why: str = ""
    needs: tuple[str, ...] = ()
    when: dict[str, tuple[str, ...]] = Field(default={}, description="choice step: the choices that make it apply")
    requires: tuple[str, ...] = ()
    sets: tuple[str, ...] = ()
    ends: tuple[str, ...] = ()
    minutes: float = Field(default=0, ge=0, le=10_000, description="of work")
    wait_minutes: float = Field(default=0, ge=0, le=100_000, description="that pass by themselves after the work")
    resources: tuple[str, ...] = Field(default=(), description="what it occupies while work is done")
    hazards: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    counts: dict[str, int] = Field(default={}, description="loose things by group: taken out (+) or put back (-)")
    parts_out: tuple[str, ...] = ()
    parts_in: tuple[str, ...] = ()
    evidence: tuple[str, ...] = Field(
        default=(), description="what must be shown for it, for example inspection:dry_fit"
    )
    choices: dict[str, str] = Field(default={}, description="id: title; one of them is made as the step is done")
    stop_sign: str = Field(default="", description="what says: do not go on by force")
    proof: str = Field(default="", description="what shows that it sits")
    needs_part: bool = Field(
        default=False, description="without it the step is work for the time in which the new part travels"
    )
    undo: str = Field(default="", description="how it is taken back; empty: the other way round")


class Done(Record):
    """A step that was done, with its choice where it has any."""

    step: str
    choice: str | None = None


class Graph(Record):
    """Steps by id; ``holds`` are the states that hold before anything is done."""

    id: str
    title: str
    steps: tuple[Step, ...] = Field(min_length=1, max_length=MOST_STEPS)
    holds: tuple[str, ...] = ()

    @cached_property
    def by_id(self) -> Mapping[str, Step]:
        return {step.id: step for step in self.steps}


def comes_before(step: Step) -> tuple[str, ...]:
    """Every step that must have been done, or turned out not to apply, before this one: needs and the choices that it hangs on."""
    return tuple(dict.fromkeys((*step.needs, *step.when)))


def held(graph: Graph, log: Sequence[Done]) -> frozenset[str]:
    """The states that hold after what was done."""
    states, steps = set(graph.holds), graph.by_id
    for done in log:
        step = steps[done.step]
        states = (states - set(step.ends)) | set(step.sets)
    return frozenset(states)


def last_choice(log: Iterable[Done]) -> dict[str, str | None]:
    """Of every step that was done, the choice that stands."""
    return {done.step: done.choice for done in log}
