"""Panel geometry: resolution, density, pitch and the one place where panel coordinates are defined.

Panel pixel (0, 0) is centred at (0, 0) and covers -0.5..0.5, x to the right, y down, so the active area reaches from
-0.5 to width - 0.5. Points are (x, y) in every record; arrays are indexed [y, x].
"""

import math

from pydantic import Field

from lens.errors import BadInput
from lens.records.base import Record

MIN_SIDE_PX, MAX_LONG_PX, MAX_SHORT_PX = 240, 7680, 4320


class Panel(Record):
    """A panel's pixel grid and, where known, its visible diagonal."""

    width: int = Field(description="panel pixels across")
    height: int = Field(description="panel pixels down")
    diagonal_in: float | None = Field(default=None, description="visible diagonal in inches")

    @property
    def pixels(self) -> int:
        return self.width * self.height

    @property
    def corners(self) -> tuple[tuple[float, float], ...]:
        """Outer corners of the active area: top-left, top-right, bottom-right, bottom-left."""
        right, bottom = self.width - 0.5, self.height - 0.5
        return ((-0.5, -0.5), (right, -0.5), (right, bottom), (-0.5, bottom))

    @property
    def ppi(self) -> float | None:
        """Pixels per inch: sqrt(w^2 + h^2) / diagonal."""
        return math.hypot(self.width, self.height) / self.diagonal_in if self.diagonal_in else None

    @property
    def pitch_mm(self) -> float | None:
        """Distance of two neighbouring pixels: 25.4 / ppi."""
        return 25.4 / self.ppi if self.ppi else None


def make_panel(width: int, height: int, diagonal_in: float | None = None) -> Panel:
    """A checked panel.

    Raises
    ------
    BadInput
        when the resolution or the diagonal cannot be those of a panel.
    """
    long_px, short_px = max(width, height), min(width, height)
    if not (MIN_SIDE_PX <= short_px <= MAX_SHORT_PX and 320 <= long_px <= MAX_LONG_PX) or long_px > 5 * short_px:
        raise BadInput(
            f"A panel of {width}x{height} pixels is outside what can be tested (320x240 to 7680x4320). "
            "Give its native resolution as WIDTHxHEIGHT, for example 1920x1080.",
            "panel_size",
        )
    if diagonal_in is not None and not 1.0 <= diagonal_in <= 120.0:
        raise BadInput(
            f"A diagonal of {diagonal_in:g} inches cannot be right: give the visible diagonal, 1 to 120 inches.",
            "panel_diagonal",
        )
    return Panel(width=width, height=height, diagonal_in=diagonal_in)


def parse_panel(text: str, diagonal_in: float | None = None) -> Panel:
    """Read ``1920x1080``; raises BadInput with what was expected."""
    parts = text.lower().replace("×", "x").split("x")
    if len(parts) != 2 or not all(part.strip().isdigit() and len(part.strip()) <= 6 for part in parts):
        raise BadInput(f"'{text}' is no resolution: give it as WIDTHxHEIGHT, for example 1920x1080.", "panel_size")
    return make_panel(int(parts[0]), int(parts[1]), diagonal_in)
