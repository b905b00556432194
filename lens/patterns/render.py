"""Rendering: every pixel of a pattern, exactly."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.catalogue import Pattern
from lens.patterns.markers import marker_layout, marker_modules, probe_layout

LATTICE_COLUMNS, LATTICE_ROWS = 24, 14


def lattice_points(panel: Panel) -> list[tuple[int, int]]:
    """Top-left pixels of the registration pattern's dots, ``dot_px`` wide."""
    columns, rows = (LATTICE_COLUMNS, LATTICE_ROWS) if panel.width >= panel.height else (LATTICE_ROWS, LATTICE_COLUMNS)
    return [
        (round((c + 0.5) * panel.width / columns), round((r + 0.5) * panel.height / rows))
        for r in range(rows) for c in range(columns)
    ]


def dot_px(panel: Panel) -> int:
    """Side of a lattice dot: dots stay under 0.2 % of the panel."""
    return max(1, round(min(panel.width, panel.height) / 400))


def render(panel: Panel, pattern: Pattern, run: int = 0) -> NDArray[np.uint8]:
    """(H, W, 3) uint8 in R, G, B order, with the markers of ``run`` (0 for exported files)."""
    image = np.empty((panel.height, panel.width, 3), np.uint8)
    image[:] = pattern.drive
    if pattern.lattice:
        side = dot_px(panel)
        for x, y in lattice_points(panel):
            image[y:y + side, x:x + side] = pattern.ink
    for marker in marker_layout(panel, pattern, run):
        modules = np.kron(marker_modules(marker.id), np.ones((marker.module_px, marker.module_px), bool))
        block = image[marker.y:marker.y + marker.side_px, marker.x:marker.x + marker.side_px]
        block[:] = np.where(modules[..., None], np.uint8(pattern.ink), np.uint8(pattern.drive))
    for probe in probe_layout(panel, pattern):
        image[probe.y, probe.x, list(probe.channels)] = 255 if probe.lit else 0
    return image


def encode_png(image: NDArray[np.uint8]) -> bytes:
    """A lossless PNG of an (H, W, 3) R, G, B picture. Solids compress well, so the fastest level is enough."""
    ok, data = cv2.imencode(".png", image[..., ::-1], [cv2.IMWRITE_PNG_COMPRESSION, 3])
    if not ok:
        raise RuntimeError("the PNG encoder refused a picture")
    return bytes(data)
