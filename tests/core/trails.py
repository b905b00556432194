"""Trails of a finger on a notes screen, drawn without the reader's help: a hand that wanders, lifts and turns, no ink where the touch is dead."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel, make_panel
from lens.simulate import Camera, FaultyPanel, Shot, emit, photograph, random_pose

PHONE: Panel = make_panel(720, 1280, 5.0)
CAMERA = Camera(width=1600, height=1200)
POINTS = 240
Box = tuple[float, float, float, float]  # left, top, right, bottom as shares of the screen


def page(
    panel: Panel, rng: np.random.Generator, dead: Box | None, dark: bool = False, down: bool = False
) -> NDArray[np.uint8]:
    """(h, w, 3) a notes screen with bars above and below, drawn on line by line over all of it; ``down``: from top to bottom."""
    width, height = panel.width, panel.height
    ink, paper = ((230, 200, 90), 12) if dark else ((30, 40, 120), 246)
    screen = np.full((height, width, 3), paper, np.uint8)
    bar = height // 24
    screen[:bar] = (190, 200, 210) if not dark else (40, 40, 40)
    cv2.circle(screen, (width // 3, height - bar // 2), bar // 3, (200, 60, 60), -1)
    long, wide = (height - 3 * bar, width) if down else (width, height - 3 * bar)
    lines = max(6, round(wide / (max(width, height) / 20)))
    for number, aside in enumerate(np.linspace(0.02, 0.98, lines)):
        along = np.linspace(0.015, 0.985, POINTS)
        wander = 0.012 * np.cumsum(rng.normal(0, 0.12, POINTS))
        wander -= np.linspace(0, wander[-1], POINTS)
        x, y = along * long, (aside + wander) * wide
        if down:
            x, y = y, x
        y = y + 1.5 * bar
        lifted = int(rng.integers(20, POINTS - 40)) if number % 7 == 3 else POINTS
        last: tuple[int, int] | None = None
        for n in range(POINTS):
            at = (int(np.clip(x[n], 0, width - 1)), int(np.clip(y[n], 0, height - 1)))
            silent = dead is not None and dead[0] <= at[0] / width < dead[2] and dead[1] <= at[1] / height < dead[3]
            here = None if silent or lifted <= n < lifted + 12 else at
            if here and last:
                cv2.line(screen, last, here, ink, 7, cv2.LINE_AA)
            last = here
    return screen


def trail_shot(
    seed: int, dead: Box | None = None, dark: bool = False, down: bool = False, panel: Panel = PHONE
) -> Shot:
    """A handheld photo of such a screen."""
    rng = np.random.default_rng(seed)
    light = emit(FaultyPanel(panel=panel), page(panel, rng, dead, dark, down))
    return photograph(light, CAMERA, random_pose(panel, CAMERA, rng), rng)
