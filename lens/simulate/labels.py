"""Photos of panel labels with made-up numbers: printed text, codes, tilt, blur, glare, a hidden character; with the truth beside each."""

import io
import string
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
import segno
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

FONTS = Path("/usr/share/fonts/truetype/dejavu")
FACES = ("DejaVuSans.ttf", "DejaVuSans-Bold.ttf", "DejaVuSansMono.ttf", "DejaVuSansMono-Bold.ttf")
MAKERS = ("FIRNGRAT PANELS", "KARSEE GLASS", "TALBLICK DISPLAYS", "GLETSCHERWAND", "STEILHANG OPTO")
SHAPES = ("AA999AAA-A99", "AA-999A", "A999AAA99.9", "AAA999A9A", "AA999AA9-AA9", "9999AA-9A")
PHOTO = (2000, 1500)
DRAWN_PX_A_MM = 20


class LabelTruth(NamedTuple):
    """``hidden``: the place of the covered character; ``code``: format of the code that carries the number, if any."""

    part_number: str
    hidden: int | None
    code: str | None
    letter_px: float


class LabelPhoto(NamedTuple):
    data: bytes
    truth: LabelTruth


def made_up_number(rng: np.random.Generator) -> str:
    """A part number of one of the usual shapes."""
    letters, digits = list(string.ascii_uppercase), list(string.digits)
    shape = SHAPES[int(rng.integers(len(SHAPES)))]
    return "".join(str(rng.choice(letters)) if c == "A" else str(rng.choice(digits)) if c == "9" else c for c in shape)


def made_up_register(count: int, rng: np.random.Generator) -> list[str]:
    """So many different numbers, a tenth of them with a near neighbour (one character apart)."""
    numbers: dict[str, None] = {}
    while len(numbers) < count:
        number = made_up_number(rng)
        numbers[number] = None
        if rng.random() < 0.1:
            at = int(rng.integers(len(number)))
            pool = string.digits if number[at].isdigit() else string.ascii_uppercase
            numbers[number[:at] + str(rng.choice(list(pool))) + number[at + 1 :]] = None
    return list(numbers)[:count]


def _code(text: str, kind: str, module_px: int) -> NDArray[np.uint8]:
    """A code as a picture, black on white with its quiet zone."""
    if kind == "QRCode":
        out = io.BytesIO()
        segno.make(text, micro=False, error="m").save(out, kind="png", scale=module_px, border=4)
        return np.asarray(Image.open(out).convert("L"), np.uint8)
    import zxingcpp

    name = {"Code128": zxingcpp.BarcodeFormat.Code128, "DataMatrix": zxingcpp.BarcodeFormat.DataMatrix}[kind]
    bits = np.asarray(zxingcpp.create_barcode(text, name).to_image(scale=1, add_quiet_zones=True), np.uint8)
    if kind == "Code128":
        return np.asarray(np.repeat(np.repeat(bits[:1], module_px, 1), module_px * 22, 0), np.uint8)
    return np.asarray(np.repeat(np.repeat(bits, module_px, 1), module_px, 0), np.uint8)


def draw_label(
    number: str, code: str | None, hidden: int | None, rng: np.random.Generator
) -> tuple[NDArray[np.uint8], float]:
    """The flat label, and the height of the number's capitals in its pixels."""
    px = DRAWN_PX_A_MM
    width, height = int(rng.uniform(70, 95) * px), int(rng.uniform(26, 38) * px)
    page = Image.new("L", (width, height), 245)
    pen = ImageDraw.Draw(page)
    face = str(FONTS / FACES[int(rng.integers(len(FACES)))])
    big, small = ImageFont.truetype(face, int(3.6 * px)), ImageFont.truetype(str(FONTS / FACES[0]), int(1.9 * px))
    pen.text((2 * px, 1.5 * px), MAKERS[int(rng.integers(len(MAKERS)))], fill=20, font=small)
    serial = "".join(str(rng.choice(list(string.digits))) for _ in range(12))
    prefix = str(rng.choice(["", "MODEL ", "P/N: ", "TYPE "]))
    at = (2 * px, 4.6 * px)
    pen.text(at, prefix + number, fill=15, font=big)
    if hidden is not None:
        left = at[0] + pen.textlength(prefix + number[:hidden], font=big)
        right = at[0] + pen.textlength(prefix + number[: hidden + 1], font=big)
        pen.rectangle((left, at[1], right, at[1] + 4 * px), fill=int(rng.uniform(120, 245)))
    capital = float(big.getbbox("H")[3] - big.getbbox("H")[1])
    pen.text((2 * px, 9.6 * px), f"REV A{rng.integers(1, 9)}   DATE {rng.integers(2301, 2653)}", fill=20, font=small)
    pen.text((2 * px, 12.4 * px), f"SN {serial}", fill=20, font=small)
    pen.text((width - 22 * px, 1.5 * px), "WARNING: FRAGILE", fill=40, font=small)
    kind = code or "Code128"
    module = int((0.26 if kind == "Code128" else 0.4) * px)  # usual module widths on labels (common practice)
    drawn = _code(f"{number}-{serial}" if code else serial, kind, module)
    top, left_px = (int(15.2 * px), int(2 * px)) if kind == "Code128" else (int(4.4 * px), width - drawn.shape[1] - px)
    picture = np.array(page)
    h, w = min(drawn.shape[0], height - top - 2), min(drawn.shape[1], width - left_px - 2)
    if h < drawn.shape[0] * 0.5 or w < drawn.shape[1]:
        raise ValueError("the label is too small for its code")
    picture[top : top + h, left_px : left_px + w] = drawn[:h, :w]
    return picture, capital


def label_photo(
    number: str,
    rng: np.random.Generator,
    code: str | None = None,
    hidden: int | None = None,
    letter_px: float | None = None,
    turns: Sequence[int] = (0, 0, 0, 180, 90),
) -> LabelPhoto:
    """A photo of a label on the metal back of a panel."""
    flat, capital = draw_label(number, code, hidden, rng)
    letters = float(letter_px or rng.uniform(20, 42))
    scale = letters / capital
    height, width = flat.shape
    scale = min(scale, 0.92 * PHOTO[0] / width, 0.92 * PHOTO[1] / width)
    angle = np.radians(float(rng.uniform(-20, 20)) + int(rng.choice(list(turns))))
    tilt = np.radians(rng.uniform(-20, 20, 2))
    around = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    corners = (np.array([[0, 0], [width, 0], [width, height], [0, height]], float) - [width / 2, height / 2]) * scale
    distance = 2600.0
    depth = corners[:, 0] * np.sin(tilt[0]) + corners[:, 1] * np.sin(tilt[1])
    flatly = corners * np.cos(tilt)[None, :]
    placed = (flatly @ around.T) * (distance / (distance + depth))[:, None] + np.array(PHOTO) / 2
    to_photo = cv2.getPerspectiveTransform(
        np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32), placed.astype(np.float32)
    )
    back = rng.normal(0, 5, (PHOTO[1], PHOTO[0])).astype(np.float32)
    back = cv2.blur(back, (61, 1)) * 4 + float(rng.uniform(120, 165))
    smaller = cv2.GaussianBlur(flat, (0, 0), max(0.3, 0.4 / scale))  # no aliasing where the drawing is scaled down
    label = cv2.warpPerspective(smaller, to_photo, PHOTO, flags=cv2.INTER_AREA | cv2.INTER_LINEAR)
    inside = cv2.warpPerspective(np.full(flat.shape, 255, np.uint8), to_photo, PHOTO) / 255.0
    light = back * (1 - inside) + label * inside * float(rng.uniform(0.75, 0.97))
    y, x = np.mgrid[0 : PHOTO[1], 0 : PHOTO[0]].astype(np.float32)
    light *= 1 + 0.18 * (x / PHOTO[0] - 0.5) * float(rng.uniform(-1, 1)) + 0.18 * (y / PHOTO[1] - 0.5)
    spot = placed.mean(axis=0) + rng.normal(0, 160, 2)
    light += float(rng.uniform(0, 70)) * np.exp(-(((x - spot[0]) / 260) ** 2 + ((y - spot[1]) / 140) ** 2))
    light = cv2.GaussianBlur(light.astype(np.float32), (0, 0), float(rng.uniform(0.6, 2.0)))
    light += rng.normal(0, 3.0, light.shape)
    picture = np.clip(light, 0, 255).astype(np.uint8)
    done, data = cv2.imencode(".jpg", cv2.cvtColor(picture, cv2.COLOR_GRAY2BGR), [cv2.IMWRITE_JPEG_QUALITY, 88])
    if not done:
        raise RuntimeError("the photo cannot be encoded")
    return LabelPhoto(data.tobytes(), LabelTruth(number, hidden, code, scale * capital))
