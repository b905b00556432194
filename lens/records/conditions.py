"""Under what a stage was looked at, as far as somebody said; what is not said is None."""

from typing import Literal

from pydantic import Field

from lens.records.base import Record


class StageConditions(Record):
    """``hand``: what touched the surface. ``panel``: lying loose and ungrounded, or in its place."""

    film: Literal["on", "off"] | None = None
    bezel: Literal["on", "off"] | None = None
    panel: Literal["loose", "mounted"] | None = None
    hand: Literal["bare", "glove", "over_film"] | None = None
    mains: bool | None = None
    battery_percent: int | None = Field(default=None, ge=0, le=100)
    room: Literal["dark", "dim", "bright"] | None = None
