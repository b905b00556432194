"""What lies on a simulated panel's glass: specks of dust, bubbles under a film, scratches."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.records.base import Record

FINE = 4  # cells a panel pixel is cut into each way while drawing


class Blemish(Record):
    """One thing on the glass, ``x, y`` being its centre.

    speck : a disc of radius ``size_px`` that lets ``1 - depth`` through
    bubble : air under a film, radius ``size_px``: its rim bends light away (``depth``) and its inside loses a fifth of that
    scratch : a fine crooked line of ``length_px`` at ``angle_deg``, ``size_px`` wide
    """

    kind: Literal["speck", "bubble", "scratch"]
    x: float
    y: float
    size_px: float
    depth: float
    length_px: float = 0.0
    angle_deg: float = 0.0


def _speck(x: NDArray[np.float32], y: NDArray[np.float32], thing: Blemish) -> NDArray[np.float32]:
    return 1 - np.float32(thing.depth) * (np.hypot(x, y) <= thing.size_px).astype(np.float32)


def _bubble(x: NDArray[np.float32], y: NDArray[np.float32], thing: Blemish) -> NDArray[np.float32]:
    radius = np.hypot(x, 1.1 * y)
    rim = np.exp(-((radius - thing.size_px) ** 2) / (2 * (0.12 * thing.size_px) ** 2))
    inside = 1 / (1 + np.exp((radius - thing.size_px) / (0.06 * thing.size_px)))
    return (1 - thing.depth * rim - 0.2 * thing.depth * inside).astype(np.float32)


def _scratch(x: NDArray[np.float32], y: NDArray[np.float32], thing: Blemish) -> NDArray[np.float32]:
    angle = np.radians(thing.angle_deg)
    along, across = x * np.cos(angle) + y * np.sin(angle), y * np.cos(angle) - x * np.sin(angle)
    bend = 0.02 * thing.length_px * np.sin(2 * np.pi * along / thing.length_px)
    hit = (np.abs(across - bend) <= thing.size_px / 2) & (np.abs(along) <= thing.length_px / 2)
    return 1 - np.float32(thing.depth) * hit.astype(np.float32)


def glass_map(panel: Panel, things: tuple[Blemish, ...]) -> NDArray[np.float32]:
    """(H, W) float32 share of light that gets through what lies on the glass."""
    through = np.ones((panel.height, panel.width), np.float32)
    draw = {"speck": _speck, "bubble": _bubble, "scratch": _scratch}
    for thing in things:
        reach = int(max(1.6 * thing.size_px, thing.length_px / 2) + 4)
        left, top = max(0, int(thing.x) - reach), max(0, int(thing.y) - reach)
        right, bottom = min(panel.width, int(thing.x) + reach + 1), min(panel.height, int(thing.y) + reach + 1)
        fine_y, fine_x = np.mgrid[: (bottom - top) * FINE, : (right - left) * FINE].astype(np.float32)
        x = (fine_x + 0.5) / FINE - 0.5 + left - np.float32(thing.x)
        y = (fine_y + 0.5) / FINE - 0.5 + top - np.float32(thing.y)
        drawn = draw[thing.kind](x, y, thing)
        through[top:bottom, left:right] *= np.asarray(
            cv2.resize(drawn, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
        )
    return through
