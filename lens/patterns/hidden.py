"""What of the panel a pattern itself hides."""

import numpy as np
from numpy.typing import NDArray

from lens.panel import Panel
from lens.patterns.catalogue import Pattern
from lens.patterns.ladder import ladder_patches
from lens.patterns.lattice import dot_px, lattice_points
from lens.patterns.markers import marker_layout, probe_layout


def marker_mask(panel: Panel, pattern: Pattern, grow_px: int = 0) -> NDArray[np.bool_]:
    """(H, W) bool, true where a marker, a probe, a dot or a patch of the ladder (grown by ``grow_px``) hides the panel."""
    mask = np.zeros((panel.height, panel.width), bool)

    def hide(left: int, top: int, right: int, bottom: int) -> None:
        mask[max(0, top - grow_px):bottom + grow_px, max(0, left - grow_px):right + grow_px] = True

    for marker in marker_layout(panel, pattern):
        hide(marker.x, marker.y, marker.x + marker.side_px, marker.y + marker.side_px)
    for probe in probe_layout(panel, pattern):
        hide(probe.x, probe.y, probe.x + 1, probe.y + 1)
    if pattern.figure == "dots":
        side = dot_px(panel)
        for x, y in lattice_points(panel):
            hide(x, y, x + side, y + side)
    if pattern.figure == "ladder":
        for patch in ladder_patches(panel):
            hide(*patch.box)
    return mask
