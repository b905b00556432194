"""A verdict: pass, fail or not proven, criterion by criterion."""

from typing import Literal

from pydantic import Field

from lens.records.base import Record
from lens.records.kinds import Kind

Outcome = Literal["pass", "fail", "not_proven"]


class Criterion(Record):
    """One demand of a profile: what was counted, what is allowed, and what could not be seen."""

    id: str
    result: Outcome
    value: float
    limit: float
    margin: float
    unproven: float
    text: str
    kinds: tuple[Kind, ...] = Field(default=(), description="kinds of findings that it counts")


class Verdict(Record):
    result: Outcome
    profile: str
    proven_fraction: float
    criteria: tuple[Criterion, ...]
