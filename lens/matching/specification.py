"""What is known of a panel; None is unknown, which is never the same as 'alike'."""

import math
from typing import Literal

from pydantic import Field

from lens.records.base import Record

Mounting = Literal["side_brackets", "ears", "adhesive", "bonded"]
Side = Literal["left", "right", "middle"]
Finish = Literal["matt", "glossy"]
Signal = Literal["eDP", "LVDS", "MIPI"]
Edge = Literal["top", "bottom"]
Controller = Literal["panel", "separate_board", "mainboard"]
Mm = tuple[float, float]
EDID_IDENTITY = "^[A-Z]{3}-[0-9A-F]{4}$"


class PanelSpec(Record):
    """Sides are as seen from the back, label up."""

    part_number: str | None = Field(default=None, max_length=80)
    other_numbers: tuple[str, ...] = Field(
        default=(), max_length=12, description="further numbers of the same panel on its label"
    )
    revision: str | None = Field(default=None, max_length=20)
    width: int | None = Field(default=None, gt=0, le=16_384, description="pixels")
    height: int | None = Field(default=None, gt=0, le=16_384)
    visible_mm: Mm | None = Field(default=None, description="width and height of the active area")
    outline_mm: Mm | None = Field(default=None, description="width and height without tabs")
    thickness_mm: float | None = Field(default=None, gt=0, le=60)
    mounting: Mounting | None = None
    connector_pins: int | None = Field(default=None, gt=0, le=200)
    connector_family: str | None = Field(default=None, max_length=60)
    locking_bar: bool | None = None
    connector_side: Side | None = None
    connector_edge: Edge | None = None
    signal: Signal | None = None
    lanes: int | None = Field(default=None, gt=0, le=16, description="lanes, or channels of LVDS")
    touch: bool | None = None
    touch_controller: Controller | None = Field(default=None, description="where it sits")
    finish: Finish | None = None
    luminance_cd_m2: int | None = Field(default=None, gt=0, le=10_000)
    refresh_hz: float | None = Field(default=None, gt=0, le=1000)
    bits_per_colour: int | None = Field(default=None, ge=4, le=16)
    gamut_srgb_percent: float | None = Field(
        default=None, gt=0, le=300, description="area in the CIE 1931 xy diagram against that of sRGB"
    )
    edid_identity: str | None = Field(
        default=None,
        pattern=EDID_IDENTITY,
        description="maker's three letters and product code of its EDID, four hex digits",
    )

    @property
    def diagonal_in(self) -> float | None:
        """Of the active area, in inches; None where its size is not known."""
        return round(math.hypot(*self.visible_mm) / 25.4, 2) if self.visible_mm else None

    def numbers(self) -> tuple[str, ...]:
        """All numbers that name it, as they are compared."""
        return tuple(
            normal_number(number) for number in (self.part_number or "", *self.other_numbers) if normal_number(number)
        )


def normal_number(part_number: str) -> str:
    """A part number as it is compared: no spaces or dashes, capitals."""
    return "".join(filter(str.isalnum, part_number.upper()))
