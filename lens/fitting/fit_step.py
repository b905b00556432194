"""What a step of fitting says beside its place in the order: what is held and waited for, what is noted, which parts and liners it is about."""

from typing import Any, Literal

from pydantic import Field, field_validator, model_validator

from lens.records.base import Record
from lens.steps import Step

Blocks = Literal["next", "power", "hand_over"]
Noted = Literal["heat", "adhesive"]


class Clock(Record):
    """What must pass by itself. ``blocks``: the steps that come after it, every power-up, or only the hand-over. ``asked``: the hours stand on the
    adhesive's data sheet and are asked for; ``minutes`` counts where nobody knows them."""

    title: str = Field(min_length=1, max_length=60)
    minutes: float = Field(gt=0, le=10_080)
    blocks: Blocks
    asked: bool = False


class FitStep(Step):
    """``hold_s``: seconds by a clock before it is done; ``clocks``: by choice, '' for a step without one; ``moves``: parts are moved over here;
    ``liners``: those that come off at it; ``schools``: house rules that say how it is done here."""

    hold_s: int = Field(default=0, ge=0, le=600)
    clocks: dict[str, Clock] = {}
    notes: tuple[Noted, ...] = ()
    moves: bool = False
    liners: tuple[str, ...] = ()
    schools: tuple[str, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _one_school(cls, told: Any) -> Any:
        """A step named one 'school' before it could name several; shops' own files and jobs under way still do."""
        if isinstance(told, dict) and "school" in told:
            one = told["school"]
            return {name: value for name, value in told.items() if name != "school"} | (
                {"schools": (one,)} if one else {}
            )
        return told


class Liner(Record):
    """A film, liner or tab that must come off. ``ends_return``: the supplier takes nothing back after it."""

    title: str = Field(min_length=1, max_length=80)
    ends_return: bool = False


class KeepOut(Record):
    """Where a pick must not go. ``edge`` of the device seen from the front; ``along`` from its left or upper end, in shares of the edge."""

    edge: Literal["top", "bottom", "left", "right"]
    along: tuple[float, float]
    depth_mm: float = Field(gt=0, le=80)
    what: str = Field(min_length=1, max_length=80)

    @field_validator("along")
    @classmethod
    def _a_stretch(cls, told: tuple[float, float]) -> tuple[float, float]:
        if not 0 <= told[0] < told[1] <= 1:
            raise ValueError("it runs from a smaller to a larger share of the edge, 0 to 1")
        return told


class Fasteners(Record):
    """A group of screws or plates. ``where``: in words; ``places``: on the device seen from the front (x, y in shares), as they usually sit."""

    title: str = Field(min_length=1, max_length=60)
    where: str = Field(min_length=1, max_length=120)
    drive: str = ""
    head: str = ""
    length_mm: float | None = Field(default=None, gt=0, le=100)
    captive: bool = False  # they are loosened and stay where they are
    places: tuple[tuple[float, float], ...] = Field(default=(), max_length=40)
    caution: str = ""
