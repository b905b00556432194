"""One line of a data sheet or an offer, as people paste it, read into a panel's properties; what cannot be meant surely is left out and said."""

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

from lens.matching.specification import PanelSpec
from lens.records import Problem
from lens.records.base import Record

MOST_LETTERS = 2000
NUM = r"(\d+(?:[.,]\d+)?)"
TIMES = r"\s*(?:mm)?\s*(?:\([HWV]\)\s*)?[x×*]\s*"
# names of picture sizes that mean one size only (common practice; 'HD' and 'WXGA' mean several)
NAMED_SIZES = {
    "HD+": (1600, 900),
    "FHD": (1920, 1080),
    "WUXGA": (1920, 1200),
    "QHD": (2560, 1440),
    "WQXGA": (2560, 1600),
    "UHD": (3840, 2160),
}
COLOURS = {"262K": 6, "262,144": 6, "16.7M": 8, "16.8M": 8, "1.07B": 10, "1.07G": 10}
# the NTSC triangle of 1953 has 0.1582 of the CIE 1931 xy plane, that of sRGB (IEC 61966-2-1) 0.1121: from their primaries by the shoelace formula
SRGB_OF_NTSC = 0.1121 / 0.1582
SMALLEST_MM = 20.0  # a side that is shorter is a thickness
THICKEST_MM = 30.0


class DataSheetLine(Record):
    """``spec`` holds what was read; ``problems`` what stands there and was not taken."""

    spec: PanelSpec
    problems: tuple[Problem, ...]


class _Value(NamedTuple):
    field: str
    value: Any


def read_data_sheet(text: str) -> DataSheetLine:
    """The properties in a line such as '14.0 in FHD 1920x1080 IPS matt, 300 nits, 45 % NTSC, 60 Hz, eDP 2 lanes 30 pin, 315.8 x 205.6 x 2.6 mm'."""
    words = " ".join(text[:MOST_LETTERS].split())
    problems: list[Problem] = []
    values: dict[str, Any] = {}
    for found in (*_picture(words), *_sizes(words), *_link(words), *_look(words), *_mounted(words)):
        if values.setdefault(found.field, found.value) != found.value:
            problems.append(_problem("two_values", f"It says two things of '{found.field}': the first is taken."))
    side = re.search(r"\b(left|right)\b", words, re.I)
    view = re.search(r"\b(front|back|rear)\b", words, re.I)
    if side is not None and re.search(r"connector|plug|socket", words, re.I):
        if view is None:
            message = "It does not say from which side left and right are seen. Look at the panel's back yourself."
            problems.append(_problem("view_unknown", message))
        else:
            mirrored = view[1].lower() == "front"
            values["connector_side"] = (
                {"left": "right", "right": "left"}[side[1].lower()] if mirrored else side[1].lower()
            )
    if not values:
        problems.append(
            _problem("nothing_read", "Nothing of this line could be read. Type what it says into the fields.")
        )
    return DataSheetLine(spec=PanelSpec.model_validate(values), problems=tuple(problems))


def _picture(words: str) -> Iterator[_Value]:
    size = re.search(
        r"\b(\d{3,5})\s*(?:\(?RGB\)?\s*)?[x×*]\s*(?:RGB\s*[x×*]\s*)?(\d{3,5})\b(?!\s*[x×*.,]?\d*\s*mm)", words, re.I
    )
    named = next(
        (px for name, px in NAMED_SIZES.items() if re.search(rf"(?<!\w){re.escape(name)}(?![\w+])", words)), None
    )
    width, height = (int(size[1]), int(size[2])) if size else named or (None, None)
    if width and height:
        yield _Value("width", width)
        yield _Value("height", height)
    if rate := re.search(rf"{NUM}\s*Hz\b", words, re.I):
        yield _Value("refresh_hz", _number(rate[1]))
    if light := re.search(r"\b(\d{2,5})\s*(?:nits?\b|cd\s*/\s*m)", words, re.I):
        yield _Value("luminance_cd_m2", int(light[1]))
    if gamut := re.search(rf"{NUM}\s*%\s*(?:of\s*)?(NTSC|sRGB)", words, re.I):
        share = _number(gamut[1]) / (SRGB_OF_NTSC if gamut[2].upper() == "NTSC" else 1.0)
        yield _Value("gamut_srgb_percent", round(share))
    if bits := re.search(r"\b(\d{1,2})\s*-?\s*bits?\b", words, re.I):
        count = int(bits[1])
        yield _Value("bits_per_colour", count // 3 if count >= 18 else count)
    for name, depth in COLOURS.items():
        if re.search(rf"(?<!\w){re.escape(name)}\b", words, re.I):
            yield _Value("bits_per_colour", depth)


def _sizes(words: str) -> Iterator[_Value]:
    """Sizes in mm: by the word before them, else the larger pair is the outline and the smaller what is lit."""
    pairs = []
    for found in re.finditer(rf"{NUM}{TIMES}{NUM}(?:{TIMES}{NUM})?\s*(?:\([HWVDT]\)\s*)?mm\b", words, re.I):
        width, height = _number(found[1]), _number(found[2])
        if min(width, height) < SMALLEST_MM:
            continue
        if found[3] and _number(found[3]) <= THICKEST_MM:
            yield _Value("thickness_mm", _number(found[3]))
        before = words[max(0, found.start() - 24) : found.start()]
        lit = re.search(r"active|visible|display area|\bAA\b", before, re.I) is not None
        pairs.append(("visible_mm" if lit else "", (width, height)))
    unnamed = [pair for kind, pair in pairs if not kind]
    if len(unnamed) > 1 and not any(kind for kind, _ in pairs):
        yield _Value("visible_mm", min(unnamed))
    if unnamed:
        yield _Value("outline_mm", max(unnamed))
    for kind, pair in pairs:
        if kind:
            yield _Value(kind, pair)
    thick = re.search(rf"thick(?:ness)?\D{{0,12}}{NUM}\s*mm|{NUM}\s*mm\s*(?:thick|\(?max)", words, re.I)
    if thick:
        yield _Value("thickness_mm", _number(thick[1] or thick[2]))


def _link(words: str) -> Iterator[_Value]:
    for name in ("eDP", "LVDS", "MIPI"):
        if re.search(rf"\b{name}", words, re.I):
            yield _Value("signal", name)
            break
    if lanes := re.search(r"\b(\d)\s*-?\s*(?:lanes?|ch(?:annels?)?)\b", words, re.I):
        yield _Value("lanes", int(lanes[1]))
    elif twice := re.search(r"\b(single|dual)[- ](?:channel|link|ch)\b", words, re.I):
        yield _Value("lanes", 1 if twice[1].lower() == "single" else 2)
    if pins := re.search(r"\b(\d{2,3})\s*-?\s*pins?\b", words, re.I):
        yield _Value("connector_pins", int(pins[1]))
    if edge := re.search(
        r"(?:connector|plug|socket)\D{0,20}\b(top|bottom)\b|\b(top|bottom)\b\W{0,3}(?:left|right|middle)?\W{0,3}(?:connector|plug|socket)",
        words,
        re.I,
    ):
        yield _Value("connector_edge", (edge[1] or edge[2]).lower())


def _look(words: str) -> Iterator[_Value]:
    if re.search(r"\bmatte?\b|anti[- ]?glare|\bAG\b", words, re.I):
        yield _Value("finish", "matt")
    elif re.search(r"\bgloss|\bglare\b", words, re.I):
        yield _Value("finish", "glossy")
    if re.search(r"\b(?:non|no|without)[- ]*touch", words, re.I):
        yield _Value("touch", False)
    elif re.search(r"\btouch", words, re.I):
        yield _Value("touch", True)


def _mounted(words: str) -> Iterator[_Value]:
    if re.search(r"\b(?:no|without)\s*(?:side\s*)?(?:brackets?|screw)", words, re.I):
        yield _Value("mounting", "adhesive")
    elif re.search(r"\b(?:ears?|tabs?)\b|brackets?\W+(?:at\s+)?(?:top|up)", words, re.I):
        yield _Value("mounting", "ears")
    elif re.search(r"side\s*brackets?|brackets?\W+(?:at\s+|on\s+)?(?:the\s+)?(?:left|sides?)", words, re.I):
        yield _Value("mounting", "side_brackets")


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _problem(code: str, message: str) -> Problem:
    return Problem(code=code, message=message)
