"""The plug on a panel's board: where it sits, and how many pins it has."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.label.comb import Comb, find_comb
from lens.label.frame import Frame, homography
from lens.label.outline import unbarrel
from lens.records.base import Record

STRIP_MM = 16.0  # along the upper and the lower edge, where boards are
PIN_PX = 3.6  # photo pixels a pin below which pins are not counted
CONTACT_MM = 2.0
BODY_MM, BODY_CONTRAST = (9.0, 36.0, 1.5, 8.0), 22  # length and height of a plug's body (common practice); grey values
LEFT, RIGHT = 0.42, 0.58  # of the width; between them is the middle
CLOSE_UP_SCALES, CLOSE_UP_ROW, CLOSE_UP_PX = (1.0, 0.5, 0.25, 0.125), 0.012, 3_500_000


class BackConnector(Record):
    """As seen from the back, label upright. None: this photo cannot tell."""

    side: Literal["left", "right", "middle"] | None = None
    edge: Literal["top", "bottom"] | None = None
    pins: int | None = None
    pitch_mm: float | None = None


def _flat_strip(
    grey: NDArray[np.uint8], frame: Frame, size: tuple[float, float, float], edge: str, px_a_mm: float
) -> NDArray[np.uint8]:
    """The strip along the photo's upper or lower edge of the panel, straightened."""
    width, height = size[0], size[1]
    columns, rows = int(width * px_a_mm), int(STRIP_MM * px_a_mm)
    y, x = np.mgrid[0:rows, 0:columns].astype(np.float64)
    along, down = (x + 0.5) / px_a_mm / width, (y + 0.5) / px_a_mm / height
    if edge == "bottom":
        down += 1 - STRIP_MM / height
    places = np.stack([along.ravel(), down.ravel()], axis=1)
    plain = cv2.perspectiveTransform(places[None], np.linalg.inv(homography(frame)))[0]
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


def connector_of(
    grey: NDArray[np.uint8],
    frame: Frame,
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


def pins_close_up(grey: NDArray[np.uint8]) -> Comb | None:
    """The most regular row of contacts in a photo in which the whole panel is not seen."""
    best: Comb | None = None
    for factor in CLOSE_UP_SCALES:
        sized = np.asarray(cv2.resize(grey, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA), np.uint8)
        if min(sized.shape) < 60 or sized.size > CLOSE_UP_PX:
            continue
        comb = find_comb(sized, CLOSE_UP_ROW * max(sized.shape))
        if comb is not None and (best is None or comb.strength > best.strength):
            best = comb
    return best
