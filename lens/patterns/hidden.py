"""What of the panel a pattern itself hides."""

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.catalogue import Pattern
from lens.patterns.ladder import ladder_patches
from lens.patterns.lattice import dot_px, lattice_points
from lens.patterns.markers import marker_layout, probe_layout

Box = tuple[int, int, int, int]


def hidden_boxes(panel: Panel, pattern: Pattern) -> list[Box]:
    """Left, top, right and bottom (both past the end) of every marker, probe, dot and patch of the ladder."""
    return _large_boxes(panel, pattern) + [
        (probe.x, probe.y, probe.x + 1, probe.y + 1) for probe in probe_layout(panel, pattern)
    ]


def _large_boxes(panel: Panel, pattern: Pattern) -> list[Box]:
    """All of them but the probes."""
    boxes = [(m.x, m.y, m.x + m.side_px, m.y + m.side_px) for m in marker_layout(panel, pattern)]
    if pattern.figure == "dots":
        side = dot_px(panel)
        boxes += [(x, y, x + side, y + side) for x, y in lattice_points(panel)]
    if pattern.figure == "ladder":
        boxes += [patch.box for patch in ladder_patches(panel)]
    return boxes


def marker_mask(panel: Panel, pattern: Pattern, grow_px: int = 0) -> NDArray[np.bool_]:
    """(H, W) bool, true where a marker, a probe, a dot or a patch of the ladder (grown by ``grow_px``) hides the panel."""
    mask = np.zeros((panel.height, panel.width), bool)
    for left, top, right, bottom in hidden_boxes(panel, pattern):
        mask[max(0, top - grow_px) : bottom + grow_px, max(0, left - grow_px) : right + grow_px] = True
    return mask


def marker_rings(panel: Panel, pattern: Pattern, inner_px: int, count: int) -> NDArray[np.uint8]:
    """(H, W) uint8: 1 to ``count`` for the rings of one pixel around markers, dots and patches, from the outermost in, that begin
    ``inner_px`` away from them, ``count`` more for those around probes; inside it is the innermost ring's number, 0 outside all."""
    rings = np.zeros((panel.height, panel.width), np.uint8)
    large, all_boxes = _large_boxes(panel, pattern), hidden_boxes(panel, pattern)
    for number in range(1, count + 1):
        grow = inner_px + count + 1 - number
        for boxes, told in ((all_boxes[len(large) :], count + number), (large, number)):
            for left, top, right, bottom in boxes:
                rings[max(0, top - grow) : bottom + grow, max(0, left - grow) : right + grow] = told
    return rings
