"""What is known of a panel; None is unknown, which is never the same as 'alike'."""

from typing import Literal

from pydantic import Field

from lens.records.base import Record

Mounting = Literal["side_brackets", "ears", "adhesive", "bonded"]
Side = Literal["left", "right", "middle"]
Finish = Literal["matt", "glossy"]
Signal = Literal["eDP", "LVDS", "MIPI"]


class PanelSpec(Record):
    """Sides are as seen from the back, label up."""

    part_number: str | None = Field(default=None, max_length=80)
    width: int | None = Field(default=None, gt=0, le=16_384, description="pixels")
    height: int | None = Field(default=None, gt=0, le=16_384)
    outline_mm: tuple[float, float] | None = Field(default=None, description="width and height without tabs")
    thickness_mm: float | None = Field(default=None, gt=0, le=60)
    mounting: Mounting | None = None
    connector_pins: int | None = Field(default=None, gt=0, le=200)
    connector_family: str | None = Field(default=None, max_length=60)
    connector_side: Side | None = None
    signal: Signal | None = None
    lanes: int | None = Field(default=None, gt=0, le=16, description="lanes, or channels of LVDS")
    touch: bool | None = None
    finish: Finish | None = None
    luminance_cd_m2: int | None = Field(default=None, gt=0, le=10_000)
    refresh_hz: float | None = Field(default=None, gt=0, le=1000)
    bits_per_colour: int | None = Field(default=None, ge=4, le=16)


def normal_number(part_number: str) -> str:
    """A part number as it is compared: no spaces or dashes, capitals."""
    return "".join(letter for letter in part_number.upper() if letter.isalnum())
