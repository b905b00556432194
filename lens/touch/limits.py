"""What a touch surface must hold, as data, and each measured figure against its limit."""

from collections.abc import Mapping
from functools import cache
from pathlib import Path

from pydantic import Field

from lens.records.base import Record
from lens.records.touch_limits import LimitId
from lens.records.verdict import Criterion, Outcome
from lens.tables import shipped

DATA = Path(__file__).with_name("limits.yaml")


class TouchLimit(Record):
    """One figure's limit, the most or the least that it may be, and why."""

    title: str
    most: float | None = Field(default=None, gt=0)
    least: float | None = Field(default=None, gt=0)
    digits: int = Field(ge=0, le=4)
    unit: str
    reason: str


class TouchLimits(Record):
    finger_mm: float = Field(gt=0)
    limits: dict[LimitId, TouchLimit]

    def of(self, name: LimitId) -> float:
        """The limit's value, infinite where it is not judged."""
        limit = self.limits.get(name)
        told = None if limit is None else limit.most if limit.most is not None else limit.least
        return float("inf") if told is None else told

    def agreed(self, own: Mapping[LimitId, float | None]) -> "TouchLimits":
        """The limits with those that an acceptance profile sets instead; None is not judged."""
        held = {
            name: limit
            if name not in own
            else limit.model_copy(update={"most" if limit.most is not None else "least": own[name]})
            for name, limit in self.limits.items()
            if own.get(name, 1.0) is not None
        }
        return self.model_copy(update={"limits": held})

    def criterion(self, name: LimitId, value: float, uncertainty: float) -> Criterion | None:
        """The figure judged: it passes or fails when its whole interval lies on one side of the limit; None where that is not limited."""
        limit = self.limits.get(name)
        if limit is None:
            return None
        bound = self.of(name)
        margin = bound - value if limit.most is not None else value - bound
        result: Outcome = "pass" if margin >= uncertainty else "fail" if margin < -uncertainty else "not_proven"
        tail = {"pass": "", "fail": "; outside the limit", "not_proven": "; too close to the limit to tell"}[result]
        word = "at most" if limit.most is not None else "at least"
        text = f"{limit.title}: {value:.{limit.digits}f} {limit.unit}, {word} {bound:g}{tail}."
        return Criterion(
            id=name,
            result=result,
            value=round(value, limit.digits + 1),
            limit=bound,
            margin=round(margin, limit.digits + 1),
            unproven=0,
            text=text,
        )


@cache
def touch_limits() -> TouchLimits:
    """The limits that ship with the core."""
    return shipped(TouchLimits, DATA)
