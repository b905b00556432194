"""The back of a panel in a photo: its outline in mm by a bank card that lies on it, how it is mounted, where its plug sits, how many pins."""

from collections.abc import Sequence
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.label.frame import FOCAL_SHARE, Frame, aspect_of, find_frame, homography
from lens.label.lines import upright_turn
from lens.label.outline import Points, crossing, edge_points, fit_side, lab, ordered, unbarrel
from lens.label.plug import BackConnector, connector_of, pins_close_up
from lens.photo_file import decode
from lens.records import Problem
from lens.records.base import Record

CARD_MM, CARD_THICK_MM = (85.60, 53.98), 0.76  # ISO/IEC 7810, ID-1
BRACKET_REACH_MM = 10.0
ASPECT_TOLERANCE, SHAPE_TOLERANCE = 0.08, 0.02
TOLD_HALF_WIDTH = 1.645  # of a normal distribution at 90 %
MARGINS_MM = ((8.0, 4.0), (14.0, 6.0))  # outline less active area, across and down, with their spread (common practice)


class Back(Record):
    """``uncertainty_mm``: half-width at 90 % of the larger side. None: this photo cannot tell."""

    outline_mm: tuple[float, float] | None
    uncertainty_mm: float | None
    connector: BackConnector
    mounting: Literal["side_brackets", "ears", "adhesive", "bonded"] | None
    problems: tuple[Problem, ...]


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
    frame = find_frame(pixels, picture)
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
    shown = size or (300.0, 300.0 / aspect_of(frame, pixels.shape), 0.0)
    upside_down = turn is not None and abs((turn.degrees + 180) % 360 - 180) > 90
    connector = connector_of(grey, frame, shown, size is not None, upside_down, turn is not None and turn.mirrored)
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


def _by_card(
    pixels: NDArray[np.uint8], picture: NDArray[np.float32], frame: Frame
) -> tuple[float, float, float] | None:
    """Width, height and uncertainty of the outline by the card on it."""
    to_unit, aspect = homography(frame), aspect_of(frame, pixels.shape)
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


def _quads_inside(pixels: NDArray[np.uint8], frame: Frame, aspect: float) -> list[Points]:
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


def _by_active(frame: Frame, active_mm: tuple[float, float], shape: tuple[int, ...]) -> tuple[float, float, float]:
    """The outline by the usual margins around a known active area, held together by the photo's own proportions."""
    ratio = aspect_of(frame, shape)
    (mx, sx), (my, sy) = MARGINS_MM
    width, height = active_mm[0] + mx, active_mm[1] + my
    # least squares over the height, with width = ratio x height
    weight = np.array([ratio / sx, 1 / sy])
    height = float((weight @ np.array([width / sx, height / sy])) / (weight @ weight))
    spread = float(1 / np.sqrt(weight @ weight)) * max(ratio, 1.0)
    return ratio * height, height, TOLD_HALF_WIDTH * spread


def _mounting(
    picture: NDArray[np.float32], frame: Frame, size: tuple[float, float, float]
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


def _sampled(picture: NDArray[np.float32], places: Points, frame: Frame) -> NDArray[np.float32]:
    bent = unbarrel(places, -frame.barrel, picture.shape).astype(np.float32)
    return np.asarray(
        cv2.remap(picture, bent[None, :, 0], bent[None, :, 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0],
        np.float32,
    )


def _closeup(grey: NDArray[np.uint8]) -> Back:
    """A photo in which the whole panel is not seen: pins alone."""
    comb = pins_close_up(grey)
    problems = [
        _problem(
            "no_outline",
            "The whole panel is not in the photo, or does not stand out from what it lies on. Photograph all of it on a plain desk.",
        )
    ]
    if comb is None:
        problems.append(_problem("no_connector", "The plug was not found. Take a close-up of it, sharp and level."))
    return Back(
        outline_mm=None,
        uncertainty_mm=None,
        connector=BackConnector(pins=comb.teeth if comb else None),
        mounting=None,
        problems=tuple(problems),
    )
