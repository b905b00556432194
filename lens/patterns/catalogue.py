"""The patterns themselves: what each shows."""

from typing import Literal

from lens.records.base import Record
from lens.tables import not_known

Drive = tuple[int, int, int]


class Pattern(Record):
    """A full-screen pattern. ``drive`` is the 8-bit level of red, green and blue outside the markers; ``family`` is what it is a kind of, the
    same for a pattern and its variants; ``brightness`` is the percent at which the device's brightness control shall stand, None where it does
    not matter."""

    id: str
    title: str
    family: str
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

    @property
    def neutral(self) -> bool:
        """True when it is lit without colour."""
        return min(self.drive) > 0 and len(set(self.drive)) == 1

    @property
    def pure(self) -> bool:
        """True when it lights one colour alone."""
        return sum(level > 0 for level in self.drive) == 1


# Ink is what the markers are drawn with: black on light, a mid grey on black. Half drive keeps the dim markers of the
# black photo below clipping when it is exposed four times longer than the white one (0.2158 of white in sRGB).
_BLACK, _GREY = (0, 0, 0), (128, 128, 128)
# A camera that exposes by itself gives a black screen 25 to 80 times white's exposure: markers of 1.2 % of white (28 of 255 in sRGB) then
# shine like white's ground, where those of 22 % would bloom. Pure red and blue lie outside a phone's gamut: with some light of the other two
# their channels stay off its end, and yet the colour itself outweighs them in lightness, which coders keep. Levels by the ideal observer through
# the phone (benchmarks/paleness.py): SNR of a dark subpixel of the own colour in the weakest tenth of the panel, median of ten phones: red 2.9,
# 3.4, 6.1, 6.1, 5.6 at 0, 64, 100, 128 and 150 (worst phones 0, 1.4, 0.8, 1.9, 3.5), blue 7.0, 8.3, 8.6, 5.9 at 0, 64, 80, 100 (worst 5.5, 6.1,
# 6.7, 1.9), green 11.5 to 11.7 from 100 to 188.
_DIM, _PALE, _PALE_BLUE = (28, 28, 28), 140, 64
_SOLIDS: tuple[tuple[str, str, str, int, Drive, Drive], ...] = (
    ("white", "White", "white", 0, (255, 255, 255), _BLACK),
    ("black", "Black", "black", 1, (0, 0, 0), _GREY),
    ("red", "Red", "red", 2, (255, 0, 0), _BLACK),
    ("green", "Green", "green", 3, (0, 255, 0), _BLACK),
    ("blue", "Blue", "blue", 4, (0, 0, 255), _BLACK),
    ("grey50", "Grey 50 %", "grey50", 5, _GREY, _BLACK),
    ("black-dim", "Black, dim markers", "black", 14, (0, 0, 0), _DIM),
    ("pale-red", "Pale red", "red", 15, (255, _PALE, _PALE), _BLACK),
    ("pale-green", "Pale green", "green", 16, (_PALE, 255, _PALE), _BLACK),
    ("pale-blue", "Pale blue", "blue", 17, (_PALE_BLUE, _PALE_BLUE, 255), _BLACK),
)


BRIGHTNESS_STEPS = (0, 25, 50, 75, 100)


def _catalogue() -> dict[str, Pattern]:
    white = {"drive": (255, 255, 255), "ink": _BLACK}
    patterns = [Pattern(id=i, title=t, family=f, code=c, drive=d, ink=k) for i, t, f, c, d, k in _SOLIDS]
    patterns += [
        Pattern(
            id=f"{i}-b",
            title=f"{t}{' and' if ',' in t else ','} markers elsewhere",
            family=f,
            code=c,
            variant=1,
            drive=d,
            ink=k,
        )
        for i, t, f, c, d, k in _SOLIDS
    ]
    patterns.append(
        Pattern(id="registration", title="Registration", family="registration", code=6, figure="dots", **white)
    )
    patterns.append(Pattern(id="ladder", title="Grey ladder", family="ladder", code=7, figure="ladder", **white))
    patterns.append(Pattern(id="bits", title="Data bits", family="bits", code=8, figure="bits", **white))
    patterns += [
        Pattern(
            id=f"brightness-{percent}",
            title=f"White, brightness at {percent} %",
            family=f"brightness-{percent}",
            code=9 + n,
            brightness=percent,
            **white,
        )
        for n, percent in enumerate(BRIGHTNESS_STEPS)
    ]
    return {pattern.id: pattern for pattern in patterns}


PATTERNS: dict[str, Pattern] = _catalogue()


def get_pattern(pattern_id: str) -> Pattern:
    """The pattern of that name; raises BadInput with the nearest name."""
    if pattern_id in PATTERNS:
        return PATTERNS[pattern_id]
    raise not_known("pattern", pattern_id, PATTERNS, "unknown_pattern")
