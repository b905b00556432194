"""The back of a panel in a photo: its outline in mm by a bank card that lies on it, how it is mounted, where its plug sits, how many pins."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.label.comb import Comb, find_comb
from lens.label.lines import upright_turn
from lens.label.outline import (
    SIDE_SAMPLES,
    SMALL_PX,
    Points,
    Side,
    barrel_of,
    crossing,
    edge_points,
    fit_side,
    lab,
    ordered,
    panel_quad,
    unbarrel,
)
from lens.photo import decode
from lens.records import Problem
from lens.records.base import Record

CARD_MM, CARD_THICK_MM = (85.60, 53.98), 0.76  # ISO/IEC 7810, ID-1
FOCAL_SHARE = 0.77  # of the photo's width: a phone's main camera (26 to 28 mm in 35 mm terms; common practice)
BRACKET_REACH_MM, STRIP_MM = 10.0, 16.0
ASPECT_TOLERANCE, SHAPE_TOLERANCE = 0.08, 0.02
FEWEST_POINTS, COVERED_SHARE = 8, 0.35
PIN_PX = 3.6  # photo pixels a pin below which pins are not counted
CONTACT_MM = 2.0
BODY_MM, BODY_CONTRAST = (9.0, 36.0, 1.5, 8.0), 22  # length and height of a plug's body (common practice); grey values
TOLD_HALF_WIDTH = 1.645  # of a normal distribution at 90 %
MARGINS_MM = ((8.0, 4.0), (14.0, 6.0))  # outline less active area, across and down, with their spread (common practice)
LEFT, RIGHT = 0.42, 0.58  # of the width; between them is the middle


class BackConnector(Record):
    """As seen from the back, label upright. None: this photo cannot tell."""

    side: Literal["left", "right", "middle"] | None = None
    edge: Literal["top", "bottom"] | None = None
    pins: int | None = None
    pitch_mm: float | None = None


class Back(Record):
    """``uncertainty_mm``: half-width at 90 % of the larger side. None: this photo cannot tell."""

    outline_mm: tuple[float, float] | None
    uncertainty_mm: float | None
    connector: BackConnector
    mounting: Literal["side_brackets", "ears", "adhesive", "bonded"] | None
    problems: tuple[Problem, ...]


class _Frame(NamedTuple):
    """The panel in the photo: corners without barrel, clockwise from the photo's top left; ``covered``: sides of which a bracket hides the most."""

    corners: Points
    barrel: float
    sides: tuple[Side, ...]
    rough: Points
    covered: tuple[bool, ...]


def read_back_photo(data: bytes, active_mm: tuple[float, float] | None = None) -> Back:
    """What a photo file of a panel's back tells. Raises BadInput for a file that is no photo."""
    return read_back(decode(data).pixels, active_mm)


def read_back(pixels: NDArray[np.uint8], active_mm: tuple[float, float] | None = None) -> Back:
    """Outline, plug and mounting of a panel seen from behind.

    Parameters
    ----------
    pixels : (h, w, 3) B, G, R, upright
    active_mm : width and height of the active area, where it is known and no card lies on the panel: the outline is told by the usual margins
        around it, so much less sure
    """
    grey = np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGR2GRAY), np.uint8)
    picture = lab(pixels)
    frame = _frame(pixels, picture)
    if frame is None:
        return _closeup(grey)
    problems: list[Problem] = []
    size = _by_card(pixels, picture, frame)
    if size is None and active_mm is not None:
        size = _by_active(frame, active_mm, pixels.shape)
    if size is None:
        problems.append(
            _problem(
                "no_reference",
                "No bank card was found on the panel. Lay one flat near its middle, all of it in the photo.",
            )
        )
    if size is not None and frame.covered[1] != frame.covered[3]:
        # brackets come in pairs: on the other side it was taken for the panel itself
        problems.append(
            _problem("bracket", "A bracket may count as panel on one side: the width may be less. Measure it.")
        )
        size = (size[0], size[1], size[2] + BRACKET_REACH_MM * 0.6)
    turn = upright_turn(grey)
    if turn is None:
        problems.append(
            _problem(
                "way_up",
                "The label could not be read: sides are told as the photo stands. Photograph it with the label upright.",
            )
        )
    elif turn.mirrored:
        problems.append(
            _problem(
                "mirrored", "The photo is mirrored; the sides told here are put right. Take it with the rear camera."
            )
        )
    shown = size or (300.0, 300.0 / _aspect(frame, pixels.shape), 0.0)
    upside_down = turn is not None and abs((turn.degrees + 180) % 360 - 180) > 90
    connector = _connector(grey, frame, shown, size is not None, upside_down, turn is not None and turn.mirrored)
    if connector.side is None:
        problems.append(_problem("no_connector", "The plug was not found. Take a close-up of it as well."))
    elif connector.pins is None:
        problems.append(_problem("pins_small", "The pins are too small to be counted. Take a close-up of the plug."))
    mounting = _mounting(picture, frame, shown)
    told = (round(size[0], 1), round(size[1], 1)) if size else None
    return Back(
        outline_mm=told,
        uncertainty_mm=round(size[2], 2) if size else None,
        connector=connector,
        mounting=mounting,
        problems=tuple(problems),
    )


def _problem(code: str, message: str) -> Problem:
    return Problem(code=code, message=message)


def _frame(pixels: NDArray[np.uint8], picture: NDArray[np.float32]) -> _Frame | None:
    """The panel's outline, or None where all of it is not in the photo."""
    factor = SMALL_PX / max(pixels.shape)
    small = np.asarray(cv2.resize(pixels, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
    rough = panel_quad(lab(small))
    if rough is None:
        return None
    rough = rough / factor
    reach = 0.045 * float(np.linalg.norm(rough[1] - rough[0]))
    points = [edge_points(picture, rough[n], rough[(n + 1) % 4], reach) for n in range(4)]
    if any(len(one) < FEWEST_POINTS for one in points):
        return None
    barrel = barrel_of(points, pixels.shape)
    sides = [fit_side(unbarrel(one, barrel, pixels.shape)) for one in points]
    if any(side is None for side in sides):
        return None
    told = tuple(side for side in sides if side is not None)
    corners = np.array([crossing(told[n - 1], told[n]) for n in range(4)])
    return _Frame(corners, barrel, told, rough, tuple(len(one) < COVERED_SHARE * SIDE_SAMPLES for one in points))


def _homography(frame: _Frame) -> NDArray[np.float64]:
    """From photo without barrel to the panel as the unit square."""
    unit = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    return cv2.getPerspectiveTransform(frame.corners.astype(np.float32), unit).astype(np.float64)


def _aspect(frame: _Frame, shape: tuple[int, ...]) -> float:
    """Width over height of the panel by its perspective, for a usual lens (Zhang and He 2007, whiteboards)."""
    back = np.linalg.inv(_homography(frame))
    focal = FOCAL_SHARE * max(shape[:2])
    k = np.array([[focal, 0, shape[1] / 2], [0, focal, shape[0] / 2], [0, 0, 1.0]])
    ways = np.linalg.solve(k, back)
    return float(np.linalg.norm(ways[:, 0]) / np.linalg.norm(ways[:, 1]))


def _by_card(
    pixels: NDArray[np.uint8], picture: NDArray[np.float32], frame: _Frame
) -> tuple[float, float, float] | None:
    """Width, height and uncertainty of the outline by the card on it."""
    to_unit, aspect = _homography(frame), _aspect(frame, pixels.shape)
    best: tuple[float, float, float, float] | None = None
    for rough in _quads_inside(pixels, frame, aspect):
        reach = 0.06 * float(np.linalg.norm(rough[1] - rough[0]))
        points = [edge_points(picture, rough[n], rough[(n + 1) % 4], reach, 0.14) for n in range(4)]
        sides = [fit_side(unbarrel(one, frame.barrel, pixels.shape)) for one in points]
        if any(side is None for side in sides):
            continue
        told = [side for side in sides if side is not None]
        corners = np.array([crossing(told[n - 1], told[n]) for n in range(4)])
        unit = cv2.perspectiveTransform(corners[None], to_unit)[0]
        for lengths in (CARD_MM, CARD_MM[::-1]):
            solved = _size_from(unit, lengths)
            if solved is None:
                continue
            width, height, misfit = solved
            off = abs(np.log(width / height / aspect))
            if off < ASPECT_TOLERANCE and misfit < SHAPE_TOLERANCE and (best is None or off + 2 * misfit < best[3]):
                card_px = float(np.linalg.norm(corners[1] - corners[0]) + np.linalg.norm(corners[3] - corners[0]))
                blur = max(0.35, *(side.scatter_px for side in told)) / (0.5 * card_px)
                best = (width, height, blur + 0.3 * misfit, off + 2 * misfit)
    if best is None:
        return None
    width, height, share, _ = best
    distance = FOCAL_SHARE * max(pixels.shape) * width / float(np.linalg.norm(frame.corners[1] - frame.corners[0]))
    nearer = CARD_THICK_MM / distance  # the card's face lies above the panel's
    width, height = width * (1 + nearer), height * (1 + nearer)
    return width, height, TOLD_HALF_WIDTH * max(width, height) * float(np.hypot(share, 0.3 * nearer)) + 0.15


def _size_from(unit: Points, lengths: Sequence[float]) -> tuple[float, float, float] | None:
    """The panel's width and height for which a quadrilateral on it has a card's sides and diagonals: linear in their squares.

    The third value is the relative misfit.
    """
    diagonal = float(np.hypot(*lengths))
    pairs = (
        (0, 1, lengths[0]),
        (1, 2, lengths[1]),
        (2, 3, lengths[0]),
        (3, 0, lengths[1]),
        (0, 2, diagonal),
        (1, 3, diagonal),
    )
    rows = np.array([(unit[b] - unit[a]) ** 2 / length**2 for a, b, length in pairs])
    squares, *_ = np.linalg.lstsq(rows, np.ones(len(rows)), rcond=None)
    if squares.min() <= 0:
        return None
    misfit = float(np.sqrt(np.mean((np.sqrt(rows @ squares) - 1) ** 2)))
    width, height = (float(v) for v in np.sqrt(squares))
    return width, height, misfit


def _quads_inside(pixels: NDArray[np.uint8], frame: _Frame, aspect: float) -> list[Points]:
    """Rough corners in the photo of four-sided things that lie on the panel, clockwise."""
    across = 1100
    down = max(200, int(across / aspect))
    target = np.array([[0, 0], [across, 0], [across, down], [0, down]], np.float32)
    flat_of = cv2.getPerspectiveTransform(frame.rough.astype(np.float32), target)
    flat = lab(np.asarray(cv2.warpPerspective(pixels, flat_of, (across, down), flags=cv2.INTER_AREA), np.uint8))
    flat = np.asarray(cv2.GaussianBlur(flat, (0, 0), 1.5), np.float32)
    metal = np.median(flat.reshape(-1, 3), axis=0)
    away = np.sqrt(((flat - metal) ** 2).sum(axis=2))
    found: list[Points] = []
    for level in (8.0, 14.0, 22.0):
        mask = cv2.morphologyEx((away > level).astype(np.uint8), cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
        shapes, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        for shape in shapes:
            share = cv2.contourArea(cv2.convexHull(shape)) / (across * down)
            corners = cv2.boxPoints(cv2.minAreaRect(shape)).astype(float)
            box = float(cv2.contourArea(corners.astype(np.float32))) / (across * down)
            if 0.02 < share < 0.7 and share > 0.82 * box:
                back = cv2.perspectiveTransform(ordered(corners)[None], np.linalg.inv(flat_of))[0]
                found.append(np.asarray(back, float))
    return found


def _by_active(frame: _Frame, active_mm: tuple[float, float], shape: tuple[int, ...]) -> tuple[float, float, float]:
    """The outline by the usual margins around a known active area, held together by the photo's own proportions."""
    ratio = _aspect(frame, shape)
    (mx, sx), (my, sy) = MARGINS_MM
    width, height = active_mm[0] + mx, active_mm[1] + my
    # least squares over the height, with width = ratio x height
    weight = np.array([ratio / sx, 1 / sy])
    height = float((weight @ np.array([width / sx, height / sy])) / (weight @ weight))
    spread = float(1 / np.sqrt(weight @ weight)) * max(ratio, 1.0)
    return ratio * height, height, TOLD_HALF_WIDTH * spread


def _flat_strip(
    grey: NDArray[np.uint8], frame: _Frame, size: tuple[float, float, float], edge: str, px_a_mm: float
) -> NDArray[np.uint8]:
    """The strip along the photo's upper or lower edge of the panel, straightened."""
    width, height = size[0], size[1]
    columns, rows = int(width * px_a_mm), int(STRIP_MM * px_a_mm)
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float64)
    along, down = (x + 0.5) / px_a_mm / width, (y + 0.5) / px_a_mm / height
    if edge == "bottom":
        down += 1 - STRIP_MM / height
    places = np.stack([along.ravel(), down.ravel()], axis=1)
    plain = cv2.perspectiveTransform(places[None], np.linalg.inv(_homography(frame)))[0]
    bent = unbarrel(plain, -frame.barrel, grey.shape).reshape(rows, columns, 2)
    return np.asarray(
        cv2.remap(
            grey,
            bent[..., 0].astype(np.float32),
            bent[..., 1].astype(np.float32),
            cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        np.uint8,
    )


def _connector(
    grey: NDArray[np.uint8],
    frame: _Frame,
    size: tuple[float, float, float],
    known: bool,
    upside_down: bool,
    mirrored: bool,
) -> BackConnector:
    photo_px_a_mm = float(np.linalg.norm(frame.corners[1] - frame.corners[0])) / size[0]
    px_a_mm = max(6.0, photo_px_a_mm * 1.3)
    strips = {edge: _flat_strip(grey, frame, size, edge, px_a_mm) for edge in ("top", "bottom")}
    combs = {edge: find_comb(strip, CONTACT_MM * px_a_mm) for edge, strip in strips.items()}
    found = [(comb.strength, edge, comb) for edge, comb in combs.items() if comb is not None]
    if found:
        _, edge, comb = max(found, key=lambda one: one[0])
        middle, pitch_px, pins = comb.x, comb.pitch_px, comb.teeth
    else:
        bodies = [(body, edge) for edge, strip in strips.items() for body in _plug_bodies(strip, px_a_mm)]
        if len(bodies) != 1:
            return BackConnector()
        (middle, edge), pitch_px, pins = bodies[0], 0.0, 0
    share = middle / (size[0] * px_a_mm)
    if upside_down:
        share, edge = 1 - share, "top" if edge == "bottom" else "bottom"
    if mirrored:
        share = 1 - share
    side: Literal["left", "right", "middle"] = "left" if share < LEFT else "right" if share > RIGHT else "middle"
    counted = pitch_px / px_a_mm * photo_px_a_mm >= PIN_PX
    return BackConnector(
        side=side,
        edge="bottom" if edge == "bottom" else "top",
        pins=pins if counted else None,
        pitch_mm=round(pitch_px / px_a_mm, 3) if known and counted else None,
    )


def _plug_bodies(strip: NDArray[np.uint8], px_a_mm: float) -> list[float]:
    """Middles of long narrow things on the board, where pins are too small to be told apart: a plug's body is longer than any chip."""
    away = np.abs(strip.astype(np.int16) - np.median(strip, axis=1, keepdims=True)) > BODY_CONTRAST
    _, _, stats, _ = cv2.connectedComponentsWithStats(away.astype(np.uint8), connectivity=8)
    told = []
    for x, _, w, h, _ in stats[1:]:
        long, tall = w / px_a_mm, h / px_a_mm
        if BODY_MM[0] < long < BODY_MM[1] and BODY_MM[2] < tall < BODY_MM[3] and long > 2.4 * tall:
            told.append(float(x + w / 2))
    return told


def _mounting(
    picture: NDArray[np.float32], frame: _Frame, size: tuple[float, float, float]
) -> Literal["side_brackets", "ears"] | None:
    """By what stands out from the outline: long strips at the sides, or tabs above and below. Adhesive and bonded look alike from behind."""
    px_a_mm = float(np.linalg.norm(frame.corners[1] - frame.corners[0])) / size[0]
    stands_out = []
    for n in range(4):
        start, end = frame.corners[n], frame.corners[(n + 1) % 4]
        way = end - start
        outward = np.array([way[1], -way[0]]) / np.hypot(*way)
        at = start + np.linspace(0.02, 0.98, 200)[:, None] * way
        near = _sampled(picture, at + outward * 3.0 * px_a_mm, frame)
        far = _sampled(picture, at + outward * BRACKET_REACH_MM * 1.15 * px_a_mm, frame)
        ground = np.median(far, axis=0)
        spread = 1.4826 * np.median(np.abs(far - ground), axis=0) + np.array([3.0, 2.0, 2.0])
        stands_out.append(float((np.sqrt((((near - ground) / spread) ** 2).sum(axis=1)) > 5).mean()))
    top, right, bottom, left = stands_out
    if min(left, right) > 0.5:
        return "side_brackets"
    if min(top, bottom) > 0.03 and max(top, bottom) < 0.4 and max(left, right) < 0.05:
        return "ears"
    return None


def _sampled(picture: NDArray[np.float32], places: Points, frame: _Frame) -> NDArray[np.float32]:
    bent = unbarrel(places, -frame.barrel, picture.shape).astype(np.float32)
    return np.asarray(
        cv2.remap(picture, bent[None, :, 0], bent[None, :, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0],
        np.float32,
    )


def _closeup(grey: NDArray[np.uint8]) -> Back:
    """A photo in which the whole panel is not seen: pins alone."""
    best: tuple[Comb, float] | None = None
    for factor in (1.0, 0.5, 0.25, 0.125):
        sized = np.asarray(cv2.resize(grey, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
        if min(sized.shape) < 60 or sized.size > 3_500_000:
            continue
        comb = find_comb(sized, 0.012 * max(sized.shape))
        if comb is not None and (best is None or comb.strength > best[0].strength):
            best = (comb, factor)
    problems = [
        _problem(
            "no_outline",
            "The whole panel is not in the photo, or does not stand out from what it lies on. Photograph all of it on a plain desk.",
        )
    ]
    if best is None:
        problems.append(_problem("no_connector", "The plug was not found. Take a close-up of it, sharp and level."))
    return Back(
        outline_mm=None,
        uncertainty_mm=None,
        connector=BackConnector(pins=best[0].teeth if best else None),
        mounting=None,
        problems=tuple(problems),
    )
