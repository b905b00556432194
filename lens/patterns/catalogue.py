"""The patterns themselves: what each shows."""

import difflib
from typing import Literal

from lens.errors import BadInput
from lens.records.base import Record

Drive = tuple[int, int, int]


class Pattern(Record):
    """A full-screen pattern. ``drive`` is the 8-bit level of red, green and blue outside the markers; ``brightness`` is the percent at
    which the device's brightness control shall stand, None where it does not matter."""

    id: str
    title: str
    code: int
    variant: int = 0
    drive: Drive
    ink: Drive
    figure: Literal["none", "dots", "ladder", "bits"] = "none"
    brightness: int | None = None

    @property
    def solid(self) -> bool:
        """True when every pixel outside the markers shows the same level."""
        return self.figure == "none"

    @property
    def outlined(self) -> bool:
        """True when it lights the panel from rim to rim, so that a photo shows the panel's outline."""
        return self.solid and max(self.drive) > 0


# Ink is what the markers are drawn with: black on light, a mid grey on black. Half drive keeps the dim markers of the
# black photo below clipping when it is exposed four times longer than the white one (0.2158 of white in sRGB).
_BLACK, _GREY = (0, 0, 0), (128, 128, 128)
_SOLIDS: tuple[tuple[str, str, int, Drive, Drive], ...] = (
    ("white", "White", 0, (255, 255, 255), _BLACK),
    ("black", "Black", 1, (0, 0, 0), _GREY),
    ("red", "Red", 2, (255, 0, 0), _BLACK),
    ("green", "Green", 3, (0, 255, 0), _BLACK),
    ("blue", "Blue", 4, (0, 0, 255), _BLACK),
    ("grey50", "Grey 50 %", 5, _GREY, _BLACK),
)


BRIGHTNESS_STEPS = (0, 25, 50, 75, 100)


def _catalogue() -> dict[str, Pattern]:
    patterns = [Pattern(id=i, title=t, code=c, drive=d, ink=k) for i, t, c, d, k in _SOLIDS]
    patterns += [
        Pattern(id=f"{i}-b", title=f"{t}, markers elsewhere", code=c, variant=1, drive=d, ink=k)
        for i, t, c, d, k in _SOLIDS
    ]
    patterns.append(Pattern(id="registration", title="Registration", code=6, drive=(255, 255, 255), ink=_BLACK, figure="dots"))
    patterns.append(Pattern(id="ladder", title="Grey ladder", code=7, drive=(255, 255, 255), ink=_BLACK, figure="ladder"))
    patterns.append(Pattern(id="bits", title="Data bits", code=8, drive=(255, 255, 255), ink=_BLACK, figure="bits"))
    patterns += [
        Pattern(
            id=f"brightness-{percent}", title=f"White, brightness at {percent} %", code=9 + n, drive=(255, 255, 255), ink=_BLACK,
            brightness=percent)
        for n, percent in enumerate(BRIGHTNESS_STEPS)]
    return {pattern.id: pattern for pattern in patterns}


PATTERNS: dict[str, Pattern] = _catalogue()

def get_pattern(pattern_id: str) -> Pattern:
    """The pattern of that name; raises BadInput with the nearest name."""
    if pattern_id in PATTERNS:
        return PATTERNS[pattern_id]
    near = difflib.get_close_matches(pattern_id, PATTERNS, n=1)
    hint = f" Did you mean '{near[0]}'?" if near else f" Known patterns: {', '.join(PATTERNS)}."
    raise BadInput(f"There is no pattern '{pattern_id}'.{hint}", "unknown_pattern")
