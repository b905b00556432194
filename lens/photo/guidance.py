"""What a frame of the hand camera's live picture lacks to be a good photo of a test pattern: one sign at a time, the most urgent first."""

import math
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns import Pattern, get_pattern
from lens.photo.blur import marker_edges, measure_blur
from lens.photo.fitness import BLURRED_PANEL_PX, COARSE_PX_PER_PX
from lens.photo.markers_seen import (
    ALL_WINDOWS_PX,
    MIN_MARKERS,
    ONE_WINDOW_PX,
    Sighting,
    brightest_channel,
    consistent,
    find_markers,
    first_fit,
    lit_channel,
    lit_channels,
    luma,
    read_markers,
)
from lens.photo.registration import Registration
from lens.photo.standpoint import standpoint

Sign = Literal[
    "no_panel",
    "too_dark",
    "other_pattern",
    "other_inspection",
    "cut_off",
    "closer",
    "tilted",
    "brighter",
    "darker",
    "reflection",
    "blurred",
    "good",
]
Point = tuple[float, float]

LONG_SIDE_PX = 1280  # a module of a marker is then 2.5 to 3 px where the panel fills the frame: read in 15 to 25 ms
MARGIN_SHARE = 0.004  # of the frame's long side: the hand moves on until the still is taken
SMALL_SHARE = 0.62  # of the frame's width or height: below it, going closer is always better
FULL_SHARE = 0.9  # a panel that fills so much cannot come closer
TILT_DEG = 15.0  # beyond it colours and light of many panels shift with the angle (common practice)
CLIPPED_CODE = 250
EVEN_ABOVE, EVEN_CODES = (
    180,
    1,
)  # sound panels fall off by 5 to 15 % towards their rims (common practice): 8 codes and more of 200
OVER_EXPOSED = "The picture is over-exposed. Tap the panel in the picture, or lower the exposure."
DARK_CODE = (
    45  # of the pattern's brightest colour: its noise then hides what a fault does (from memory of phones' noise)
)
DARKEST_FRAME = 12  # code of its brightest places: nothing is lit in it
BLURRED_FRAME_PX = 1.1  # reduced frames have 0.4 to 0.6 of their own
SMALLEST_AREA, LARGEST_AREA = 0.01, 0.9  # of the frame: smaller lights are lamps, a larger one is no outline
LIT_RATIO = 2.0  # of codes: a lit panel on a bench in the shade
GRID = (18, 32)
REFLECTION_RISE = (
    0.3  # over the smooth light of its surroundings; sound panels and mura stay within 0.15 (common practice)
)
FEW_MARKERS = 5  # fewer of the twelve are read again with more care
LOOKS_NEUTRAL = ((luma, ONE_WINDOW_PX), (luma, ALL_WINDOWS_PX))
LOOKS = (*LOOKS_NEUTRAL, (brightest_channel, ALL_WINDOWS_PX))


class Guidance(NamedTuple):
    """``corners`` of the panel in frame px, empty where it was not found; ``px_per_px`` frame px a panel px; ``at`` the place of a reflection in
    shares of the panel's width and height; ``detail`` says what to do."""

    sign: Sign
    detail: str
    corners: tuple[Point, ...] = ()
    px_per_px: float = 0.0
    at: Point | None = None
    pattern: str | None = None


# signs that a fault of the panel, or a camera that can do no better, may cause: where the panel was found, the photo is taken all the same when
# they stay
MAY_STAY: frozenset[Sign] = frozenset(("closer", "tilted", "brighter", "darker", "reflection", "blurred"))


def guide(pixels: NDArray[np.uint8], panel: Panel, pattern_id: str, run: int | None, still_factor: float) -> Guidance:
    """Judge one frame.

    Parameters
    ----------
    pixels : (h, w, 3) uint8 in B, G, R, upright, at most about 1280 px long
    pattern_id : what the device shows
    run : the run code that its markers carry; None takes any
    still_factor : pixels of the photo that will be taken for each of the frame's, along a side

    Returns the most urgent sign; ``good`` when nothing is missing.
    """
    pattern = get_pattern(pattern_id)
    inverted = max(pattern.drive) == 0
    # each costs more than the one before: luma shows a dim red or blue worse
    for light_of, windows_px in LOOKS_NEUTRAL if pattern.neutral else LOOKS:
        light = light_of(pixels)
        kept = consistent(panel, find_markers(light, (LONG_SIDE_PX,), (inverted,), windows_px))
        if len(kept) >= (FEW_MARKERS if windows_px == ONE_WINDOW_PX else MIN_MARKERS):
            break
    else:
        return _not_found(panel, pixels, find_markers(light, (LONG_SIDE_PX,), (not inverted,)))
    reading = read_markers(panel, list(kept))
    if reading.pattern is not None and reading.pattern != pattern_id:
        return _other_pattern(reading.pattern)
    if run is not None and not reading.may_be_of(run):
        return Guidance(
            "other_inspection", "The device shows patterns of another inspection. Open this one's device page on it."
        )
    registration = first_fit(panel, pattern, kept, light)
    return _judged(pixels, panel, pattern, registration, list(kept), still_factor)


def _not_found(panel: Panel, pixels: NDArray[np.uint8], other: Sighting) -> Guidance:
    told = read_markers(panel, list(consistent(panel, other))).pattern
    if told is not None:
        return _other_pattern(told)
    small = np.ascontiguousarray(pixels[::4, ::4])
    light = brightest_channel(small)
    if float(np.percentile(light, 99.5)) < DARKEST_FRAME:
        return Guidance("too_dark", "Nothing is lit in the picture. Uncover the lens, or wake the device.")
    outline = _lit_outline(light)
    if outline is not None:
        height, width = light.shape
        filled = float(max(np.ptp(outline[:, 0]) / width, np.ptp(outline[:, 1]) / height))
        if filled < SMALL_SHARE:
            return Guidance("closer", f"The panel fills {100 * filled:.0f} % of the picture: too far to be read.")
        inside = cv2.fillConvexPoly(np.zeros_like(light), outline.astype(np.int32), 1) > 0
        if _closed(small[inside].min(axis=-1)):
            return Guidance("darker", OVER_EXPOSED)
        return Guidance("blurred", "The panel is seen, but not its markers. Tap it to focus, and keep glare off it.")
    return Guidance("no_panel", "No test pattern is seen. Show all of the panel, sharp and without glare.")


def _closed(code: NDArray[np.uint8]) -> bool:
    """Whether a lit surface is over-exposed in all its colours: at the end of the scale, or half of it at one code, where the camera's tone curve
    ends lower (places that it lifts stand above)."""
    low, middle = np.percentile(code, (5, 50))
    return bool(middle >= CLIPPED_CODE or (middle > EVEN_ABOVE and middle - low <= EVEN_CODES))


def _lit_outline(light: NDArray[np.uint8]) -> NDArray[np.float64] | None:
    """(4, 2) corners of the one lit four-sided area of a reduced frame, None where there is none. So looks a panel whose markers cannot be read."""
    _, lit = cv2.threshold(light, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    lit = cv2.morphologyEx(lit, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
    found, _ = cv2.findContours(lit, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    if not found:
        return None
    largest = max(found, key=cv2.contourArea)
    corners = cv2.approxPolyDP(largest, 0.03 * cv2.arcLength(largest, True), True).reshape(-1, 2)
    inside = lit > 0
    if len(corners) != 4 or not SMALLEST_AREA < cv2.contourArea(largest) / light.size < LARGEST_AREA:
        return None
    if np.median(light[inside]) < LIT_RATIO * max(float(np.median(light[~inside])), 1.0):
        return None
    return np.asarray(corners, float)


def _other_pattern(told: str) -> Guidance:
    return Guidance("other_pattern", f"It still shows '{told}'.", pattern=told)


def _judged(
    pixels: NDArray[np.uint8],
    panel: Panel,
    pattern: Pattern,
    registration: Registration,
    marker_ids: list[int],
    still_factor: float,
) -> Guidance:
    height, width = pixels.shape[:2]
    corners = registration.to_photo(np.array(panel.corners, float))
    middle = np.array([[(panel.width - 1) / 2, (panel.height - 1) / 2]])
    px_per_px = float(registration.scale_at(middle)[0])
    outline = tuple((round(float(x), 1), round(float(y), 1)) for x, y in corners)

    def told(sign: Sign, detail: str, at: Point | None = None) -> Guidance:
        return Guidance(sign, detail, outline, px_per_px, at, pattern.id)

    beyond = _sides_beyond(corners, width, height)
    if beyond:
        return told("cut_off", f"The panel is cut off at the {' and the '.join(beyond)}. Step back, or turn there.")
    filled = float(max(np.ptp(corners[:, 0]) / width, np.ptp(corners[:, 1]) / height))
    fuller = f"The panel fills {100 * filled:.0f} % of the picture. More shows smaller faults."
    if filled < SMALL_SHARE:
        return told("closer", fuller)
    angle, way = _tilt(panel, registration)
    if angle > TILT_DEG:
        return told("tilted", f"You look from {angle:.0f}° aside. Hold the camera parallel: go {way}.")
    seen = _rectified(pixels, panel, registration)
    if max(pattern.drive) > 0:
        code = max(float(np.median(seen[..., channel])) for channel in lit_channels(pattern))
        if _closed(seen[..., lit_channels(pattern)].min(axis=-1)):
            return told("darker", OVER_EXPOSED)
        if code < DARK_CODE:
            return told("brighter", "The panel looks very dark. Tap it in the picture, or set its brightness higher.")
        at = _reflection(seen, pattern)
        if at is not None:
            return told("reflection", "Something is mirrored here. Move the lamp, or shade it.", at)
    if px_per_px * still_factor < COARSE_PX_PER_PX and filled < FULL_SHARE:
        return told("closer", fuller)
    blur_px = measure_blur(marker_edges(panel, pattern, registration).of(marker_ids), pixels, lit_channel(pattern))
    if blur_px is not None and blur_px > max(BLURRED_FRAME_PX, BLURRED_PANEL_PX * px_per_px):
        return told("blurred", "The picture is not sharp. Tap the panel to focus, and hold still.")
    return told("good", "Hold still.")


def _sides_beyond(corners: NDArray[np.float64], width: int, height: int) -> list[str]:
    margin = MARGIN_SHARE * max(width, height)
    x, y = corners[:, 0], corners[:, 1]
    out = {
        "left": x.min() < margin,
        "right": x.max() > width - 1 - margin,
        "top": y.min() < margin,
        "bottom": y.max() > height - 1 - margin,
    }
    return [side for side, is_out in out.items() if is_out]


def _tilt(panel: Panel, registration: Registration) -> tuple[float, str]:
    """Degrees between the panel's normal and the look at its middle, and the way back as seen in the picture."""
    eye = standpoint(registration)
    middle = np.array([(panel.width - 1) / 2, (panel.height - 1) / 2])
    aside = eye[:2] - middle
    angle = math.degrees(math.atan2(float(np.hypot(*aside)), max(float(eye[2]), 1.0)))
    # from the panel's directions to those of the picture: the phone may be held any way round
    back = registration.to_photo(np.stack([middle, middle - aside / max(float(np.hypot(*aside)), 1e-6)]))
    dx, dy = back[1] - back[0]
    way = ("right" if dx > 0 else "left") if abs(dx) > abs(dy) else ("down" if dy > 0 else "up")
    return angle, way


def _rectified(pixels: NDArray[np.uint8], panel: Panel, registration: Registration) -> NDArray[np.uint8]:
    """(rows, columns, 3) codes in the middles of a coarse grid over the panel, each a mean of some frame px."""
    rows, columns = GRID
    x = (np.arange(columns) + 0.5) / columns * panel.width - 0.5
    y = (np.arange(rows) + 0.5) / rows * panel.height - 0.5
    at = registration.to_photo(np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)).astype(np.float32)
    soft = cv2.blur(pixels, (5, 5))
    seen = cv2.remap(soft, at[:, 0].reshape(rows, columns), at[:, 1].reshape(rows, columns), cv2.INTER_LINEAR)
    return np.asarray(seen, np.uint8)


def _reflection(seen: NDArray[np.uint8], pattern: Pattern) -> Point | None:
    """Where the light stands out over the smooth field of the panel, in shares of its sides; None where it nowhere does.

    Codes, not linear light: phones lift dark places, and a rise of a third in codes is a doubling of light.
    """
    rows, columns = GRID
    if not pattern.solid:
        return None
    light = np.asarray(seen, float).mean(axis=-1)
    y, x = np.mgrid[-1 : 1 : rows * 1j, -1 : 1 : columns * 1j]
    terms = np.stack([np.ones_like(x), x, y, x * x, y * y, x * y], axis=-1).reshape(-1, 6)
    value, weight = light.ravel(), np.ones(light.size)
    field = value
    for _ in range(4):  # places that stand out count less and less (iterated weights, Tukey's biweight)
        found, *_ = np.linalg.lstsq(terms * weight[:, None], value * weight, rcond=None)
        field = terms @ found
        rest = value - field
        spread = max(1.4826 * float(np.median(np.abs(rest))), 1.0)
        weight = np.clip(1 - (rest / (4.685 * spread)) ** 2, 0, None)
    rise = (value / np.maximum(field, 1.0) - 1).reshape(rows, columns)
    # one cell alone is a bright line or spot of the panel, not a lamp
    even = cv2.blur(rise, (2, 2))
    row, column = np.unravel_index(int(np.argmax(even)), even.shape)
    if even[row, column] < REFLECTION_RISE:
        return None
    return round((float(column) + 0.5) / columns, 3), round((float(row) + 0.5) / rows, 3)
