"""Rendering: every pixel of a pattern, exactly."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.bits import draw_bits
from lens.patterns.catalogue import Pattern
from lens.patterns.ladder import draw_ladder
from lens.patterns.lattice import dot_px, lattice_points
from lens.patterns.markers import marker_layout, marker_modules, probe_layout


def render(panel: Panel, pattern: Pattern, run: int = 0) -> NDArray[np.uint8]:
    """(H, W, 3) uint8 in R, G, B order, with the markers of ``run`` (0 for exported files)."""
    image = np.empty((panel.height, panel.width, 3), np.uint8)
    image[:] = pattern.drive
    if pattern.figure == "ladder":
        draw_ladder(image, panel)
    if pattern.figure == "bits":
        draw_bits(image, panel)
    if pattern.figure == "dots":
        side = dot_px(panel)
        for x, y in lattice_points(panel):
            image[y : y + side, x : x + side] = pattern.ink
    for marker in marker_layout(panel, pattern, run):
        modules = np.kron(marker_modules(marker.id), np.ones((marker.module_px, marker.module_px), bool))
        block = image[marker.y : marker.y + marker.side_px, marker.x : marker.x + marker.side_px]
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
