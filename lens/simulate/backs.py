"""Photos of a panel's back with a bank card laid on it: outline, brackets or tabs, board with chips and plug, label; with the truth beside."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

CARD_MM = (85.60, 53.98)  # ISO/IEC 7810, ID-1
CARD_CORNER_MM, CARD_THICK_MM = 3.18, 0.76
PHOTO = (4000, 3000)
DRAWN_PX_A_MM = 12
MARGIN_MM = 60.0
BOARD_MM = 11.0


class BackTruth(NamedTuple):
    """As seen from the back with the label upright. ``pin_px``: photo pixels a pin."""

    outline_mm: tuple[float, float]
    side: Literal["left", "right", "middle"]
    edge: Literal["top", "bottom"]
    pins: int
    pitch_mm: float
    mounting: Literal["side_brackets", "ears", "adhesive"]
    pin_px: float


class BackPhoto(NamedTuple):
    data: bytes
    truth: BackTruth


class _Canvas:
    """A drawing in mm with its origin in the panel's middle."""

    def __init__(self, width_mm: float, height_mm: float, ground: NDArray[np.float32]) -> None:
        self.middle = (width_mm / 2, height_mm / 2)
        self.picture = ground

    def box(self, x: float, y: float, w: float, h: float, colour: tuple[float, ...], corner: float = 0.0) -> None:
        """A filled rectangle about a middle, its corners rounded."""
        px = DRAWN_PX_A_MM
        cx, cy = (x + self.middle[0]) * px, (y + self.middle[1]) * px
        half, r = (w * px / 2, h * px / 2), corner * px
        shift = 4
        if r <= 0:
            p = [int(round(v * 16)) for v in (cx - half[0], cy - half[1], cx + half[0] - 1, cy + half[1] - 1)]
            cv2.rectangle(self.picture, (p[0], p[1]), (p[2], p[3]), colour, -1, cv2.LINE_8, shift)
            return
        self.box(x, y, w - 2 * corner, h, colour)
        self.box(x, y, w, h - 2 * corner, colour)
        for sx in (-1, 1):
            for sy in (-1, 1):
                at = (int(round((cx + sx * (half[0] - r)) * 16)), int(round((cy + sy * (half[1] - r)) * 16)))
                cv2.circle(self.picture, at, int(round(r * 16)), colour, -1, cv2.LINE_AA, shift)


def _desk(width: int, height: int, rng: np.random.Generator) -> NDArray[np.float32]:
    colour = np.array([[60, 90, 130], [70, 70, 75], [150, 120, 90], [40, 45, 60]][int(rng.integers(4))], np.float32)
    grain = cv2.resize(rng.normal(0, 9, (height // 6, 12)).astype(np.float32), (width, height))
    return np.asarray(colour[None, None, :] + grain[:, :, None], np.float32)


def _plug(canvas: _Canvas, x: float, y: float, pins: int, pitch: float, rng: np.random.Generator) -> None:
    body = (235.0, 238, 240) if rng.random() < 0.6 else (45.0, 45, 48)
    contact = (90.0, 150, 175) if body[0] > 100 else (190.0, 205, 210)
    length = (pins - 1) * pitch
    canvas.box(x, y, length + 4.0, 4.6, body)
    px = DRAWN_PX_A_MM
    top, bottom = (int((y + 0.6 + half + canvas.middle[1]) * px) for half in (-1.1, 1.1))
    column = np.arange(canvas.picture.shape[1], dtype=np.float32)
    cover = np.zeros_like(column)
    for n in range(pins):  # how much of each column a contact covers: whole pixels would merge neighbours
        left = (x - length / 2 + (n - 0.23) * pitch + canvas.middle[0]) * px
        cover += np.clip(np.minimum(column + 1, left + 0.46 * pitch * px) - np.maximum(column, left), 0, 1)
    part, share = canvas.picture[top:bottom], cover[None, :, None]
    part[:] = part * (1 - share) + np.array(contact, np.float32) * share


def back_photo(
    rng: np.random.Generator,
    outline_mm: tuple[float, float] | None = None,
    mounting: Literal["side_brackets", "ears", "adhesive"] | None = None,
    upside_down: bool = False,
    card: bool = True,
    closeup: bool = False,
) -> BackPhoto:
    """A photo from above by hand. ``closeup``: of the plug alone."""
    w, h = outline_mm or (float(rng.uniform(220, 365)), float(rng.uniform(140, 225)))
    mounting = mounting or ("side_brackets", "ears", "adhesive")[int(rng.integers(3))]
    side = ("left", "right", "middle")[int(rng.integers(3))]
    edge: Literal["top", "bottom"] = "bottom" if rng.random() < 0.85 else "top"
    pins, pitch = (30, 0.5) if rng.random() < 0.5 else (40, float(rng.choice([0.4, 0.5])))
    down = 1 if edge == "bottom" else -1
    px, metal = DRAWN_PX_A_MM, float(rng.uniform(165, 205))
    wide, high = w + 2 * MARGIN_MM, h + 2 * MARGIN_MM
    ground = _desk(int(wide * px), int(high * px), rng)
    canvas = _Canvas(wide, high, ground)
    if mounting == "side_brackets":
        for sign in (-1, 1):
            canvas.box(sign * (w / 2 + 2), 0, 6.5, 0.86 * h, (metal - 30,) * 3)
            for at in (-0.36, 0.0, 0.36):
                canvas.box(sign * (w / 2 + 2.4), at * h, 2.4, 2.4, (40, 40, 40), 1.2)
    elif mounting == "ears":
        for sx in (-1, 1):
            for sy in (-1, 1):
                canvas.box(sx * (w / 2 - 16), sy * (h / 2 + 3), 13, 9, (metal - 25,) * 3)
                canvas.box(sx * (w / 2 - 16), sy * (h / 2 + 4.5), 2.6, 2.6, (40, 40, 40), 1.3)
    canvas.box(0, 0, w, h, (metal + 3, metal, metal - 3))
    board = ((40, 95, 40), (95, 60, 25), (40, 40, 40))[int(rng.integers(3))]
    y_board = down * (h / 2 - BOARD_MM / 2 - 0.5)
    canvas.box(0, y_board, w * 0.94, BOARD_MM, board)
    where = {"left": -1.0, "right": 1.0, "middle": 0.0}[side] * w * float(rng.uniform(0.26, 0.36))
    _plug(canvas, where, y_board + down * 2.2, pins, pitch, rng)
    for _ in range(5):
        at = float(rng.uniform(-0.44, 0.44)) * w
        if abs(at - where) > (pins * pitch) / 2 + 8:
            canvas.box(at, y_board, float(rng.uniform(4, 8)), float(rng.uniform(4, 7)), (25, 25, 28))
    label = (float(rng.uniform(-0.25, 0.25)) * w, -down * 0.3 * h)
    canvas.box(*label, 72, 24, (240, 242, 242))
    _print(canvas, label)
    layer = None
    if card:
        spin = float(rng.uniform(-12, 12))
        place = (float(rng.uniform(-0.12, 0.12)) * w, float(rng.uniform(0.02, 0.1)) * h * down)
        layer = _lay_card(canvas, place, spin, rng)
    focus = (where, y_board + down * 2.2) if closeup else (0.0, 0.0)
    return _shot(
        canvas,
        layer,
        focus,
        (w, h),
        closeup,
        upside_down,
        rng,
        BackTruth((w, h), side, edge, pins, pitch, mounting, pitch),
    )


def _print(canvas: _Canvas, label: tuple[float, float]) -> None:
    """Three lines of text on the label."""
    px = DRAWN_PX_A_MM
    ink = np.zeros(canvas.picture.shape[:2], np.uint8)
    at = (int((label[0] - 34 + canvas.middle[0]) * px), int((label[1] - 5 + canvas.middle[1]) * px))
    for row, text in enumerate(("KARSEE GLASS  REV A2", "KS156F24X1  DATE 2441", "SN 004417732190")):
        cv2.putText(
            ink, text, (at[0], at[1] + row * 7 * px), cv2.FONT_HERSHEY_SIMPLEX, 3.6 * px / 22, (255,), 6, cv2.LINE_AA
        )
    canvas.picture *= 1 - 0.92 * (ink[:, :, None] / np.float32(255))


def _lay_card(
    canvas: _Canvas, place: tuple[float, float], spin: float, rng: np.random.Generator
) -> NDArray[np.float32]:
    """The card as a layer of its own: colour and cover."""
    colour = tuple(float(v) for v in rng.uniform([60, 30, 20], [230, 140, 110]))
    size = int(110 * DRAWN_PX_A_MM)
    sheet = _Canvas(110, 110, np.zeros((size, size, 3), np.float32))
    sheet.box(0, 0, *CARD_MM, colour, CARD_CORNER_MM)
    sheet.box(-26, -4, 12, 9.5, (120, 190, 215), 1.5)
    sheet.box(0, 14, 60, 3.2, (200, 200, 200))
    mask = _Canvas(110, 110, np.zeros((size, size, 3), np.float32))
    mask.box(0, 0, *CARD_MM, (1.0, 1.0, 1.0), CARD_CORNER_MM)
    turn = cv2.getRotationMatrix2D((size / 2 - 0.5, size / 2 - 0.5), spin, 1.0)
    sheet_px = cv2.warpAffine(sheet.picture, turn, (size, size))
    mask_px = cv2.warpAffine(mask.picture, turn, (size, size))
    x = int((place[0] + canvas.middle[0]) * DRAWN_PX_A_MM - size / 2)
    y = int((place[1] + canvas.middle[1]) * DRAWN_PX_A_MM - size / 2)
    top, left = max(0, -y), max(0, -x)
    layer = np.zeros((*canvas.picture.shape[:2], 4), np.float32)
    part = layer[y + top : y + size, x + left : x + size]
    cover = mask_px[top : top + part.shape[0], left : left + part.shape[1]]
    part[..., :3] = sheet_px[top : top + part.shape[0], left : left + part.shape[1]] * cover
    part[..., 3] = cover[..., 0]
    return layer


def _seen(
    picture: NDArray[np.float32],
    to_photo: NDArray[np.float64],
    at: tuple[NDArray[np.float32], NDArray[np.float32]],
    blur: float,
    border: int,
) -> NDArray[np.float32]:
    """A drawing as the photo's pixels see it."""
    there = np.linalg.inv(to_photo).astype(np.float32)
    a, b = at
    z = there[2, 0] * a + there[2, 1] * b + there[2, 2]
    mx, my = (
        (there[0, 0] * a + there[0, 1] * b + there[0, 2]) / z,
        (there[1, 0] * a + there[1, 1] * b + there[1, 2]) / z,
    )
    source = cv2.GaussianBlur(picture, (0, 0), blur)
    return np.asarray(
        cv2.remap(source, mx.astype(np.float32), my.astype(np.float32), cv2.INTER_LINEAR, borderMode=border), np.float32
    )


def _shot(
    canvas: _Canvas,
    card: NDArray[np.float32] | None,
    focus: tuple[float, float],
    outline: tuple[float, float],
    closeup: bool,
    upside_down: bool,
    rng: np.random.Generator,
    truth: BackTruth,
) -> BackPhoto:
    """The drawing through a hand-held phone: a pinhole with a little barrel, blur, shading, noise, JPEG."""
    focal = PHOTO[0] * float(rng.uniform(0.7, 0.85))
    across = 40.0 if closeup else max(outline[0], outline[1] * 4 / 3) + 42
    distance = focal * across / PHOTO[0]
    tilt = np.radians(rng.normal(0, 5 if closeup else 6, 2))
    spin = np.radians(float(rng.normal(0, 4)) + (180 if upside_down else 0))
    rx = (
        cv2.Rodrigues(np.array([tilt[0], 0, 0]))[0]
        @ cv2.Rodrigues(np.array([0, tilt[1], 0]))[0]
        @ cv2.Rodrigues(np.array([0, 0, spin]))[0]
    )
    lens_k = np.array([[focal, 0, PHOTO[0] / 2], [0, focal, PHOTO[1] / 2], [0, 0, 1.0]])
    px = DRAWN_PX_A_MM
    to_mm = np.array([[1 / px, 0, -canvas.middle[0] - focus[0]], [0, 1 / px, -canvas.middle[1] - focus[1]], [0, 0, 1]])
    plane = np.column_stack([rx[:, 0], rx[:, 1], np.array([0, 0, distance])])
    to_photo = lens_k @ plane @ to_mm
    if not closeup:
        half = np.array([[sx * (outline[0] / 2 + 9), sy * (outline[1] / 2 + 9), 1] for sx in (-1, 1) for sy in (-1, 1)])
        while True:  # step back until all of it is in the frame
            seen = half @ (lens_k @ plane).T
            seen = np.abs(seen[:, :2] / seen[:, 2:] - np.array(PHOTO) / 2) / (np.array(PHOTO) / 2)
            if seen.max() < 0.96:
                break
            distance *= 1.03
            plane[2, 2] = distance
        to_photo = lens_k @ plane @ to_mm
    y, x = np.mgrid[0 : PHOTO[1], 0 : PHOTO[0]].astype(np.float32)
    u, v = (x - PHOTO[0] / 2) / focal, (y - PHOTO[1] / 2) / focal
    stretch = 1 + float(rng.normal(0, 0.006)) * (u * u + v * v)
    a, b = u * stretch * focal + PHOTO[0] / 2, v * stretch * focal + PHOTO[1] / 2
    shrink = max(0.3, 0.45 * distance * px / focal)
    light = _seen(canvas.picture, to_photo, (a, b), shrink, cv2.BORDER_REFLECT)
    if card is not None:  # its face lies above the panel's
        raised = plane.copy()
        raised[:, 2] -= CARD_THICK_MM * np.sign(rx[2, 2]) * rx[:, 2]
        over = _seen(card, lens_k @ raised @ to_mm, (a, b), shrink, cv2.BORDER_CONSTANT)
        light = light * (1 - over[..., 3:]) + over[..., :3]
    light = np.asarray(cv2.GaussianBlur(light, (0, 0), float(rng.uniform(0.6, 1.3))), np.float32)
    light *= (1 + float(rng.uniform(-0.2, 0.2)) * u + float(rng.uniform(-0.2, 0.2)) * v)[:, :, None]
    light += rng.normal(0, 3.0, light.shape).astype(np.float32)
    done, data = cv2.imencode(".jpg", np.clip(light, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 90])
    if not done:
        raise RuntimeError("the photo cannot be encoded")
    return BackPhoto(data.tobytes(), truth._replace(pin_px=truth.pitch_mm * focal / distance))
