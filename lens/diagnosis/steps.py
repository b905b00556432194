"""What a diagnosis says: ranked causes, next steps, a plan, and whether to stop checking."""

from typing import Literal

from lens.records.base import Record


class RankedCause(Record):
    """``p`` is the probability that it is there, alone or with another cause."""

    id: str
    title: str
    p: float
    for_: tuple[str, ...]
    against: tuple[str, ...]


class NextStep(Record):
    kind: Literal["check", "repair"]
    id: str
    title: str
    expected_saving_per_minute: float
    reason: str
    cautions: tuple[str, ...] = ()


class PlanStep(Record):
    """A step of the plan; the one after it holds if this one comes out as ``assumes``. ``prepares``: it comes before the work and ends no fault by
    itself, so that it is only done."""

    kind: Literal["check", "repair"]
    id: str
    title: str
    minutes: float
    assumes: str
    prepares: bool = False
    cautions: tuple[str, ...] = ()


class Stop(Record):
    """``repair`` is what is advised, when further checks cost more than they save."""

    advised: bool
    reason: str
    repair: str | None = None


class Diagnosis(Record):
    causes: tuple[RankedCause, ...]
    next: tuple[NextStep, ...]
    stop: Stop
    plan: tuple[PlanStep, ...] = ()
    contradictions: tuple[str, ...] = ()
    would_change: tuple[str, ...] = ()
    expected_cost: float = 0.0
    cautions: tuple[str, ...] = ()
