"""Maps over the panel for people to look at: light, tint, mura, and the smallest fault that would have been seen."""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults import CHANNELS, Evidence, LightField, smallest_line, smallest_spot, tint, unevenness
from lens.medians import median, quantile
from lens.panel import Panel
from lens.records import LightMap, PanelMap, SmallestFault

CELL_COLUMNS, COARSE_COLUMNS = 48, 24
# Fainter ones are not surely told, whatever the noise: colour is what the coder throws away first, blue most (found by simulation at every
# share from 0.5 on; a subpixel counts as abnormal from 0.25 on, ISO 9241-307, from memory).
SURE_LIT, SURE_DARK = 0.4, {"red": 0.65, "green": 0.5, "blue": 0.8, None: 0.5}
NEVER = 9.99  # what would not have been seen even at ten times a full fault


def cell_rows(height: int, width: int, columns: int = CELL_COLUMNS) -> int:
    """Rows of cells of about the shape of a square."""
    return max(1, round(columns * height / width))


def _cells(panel: Panel, field: NDArray[np.floating], columns: int, digits: int) -> PanelMap:
    rows = cell_rows(panel.height, panel.width, columns)
    values = cv2.resize(field.astype(np.float32), (columns, rows), interpolation=cv2.INTER_AREA)
    return PanelMap(columns=columns, rows=rows, values=tuple(np.round(values.ravel().astype(float), digits).tolist()))


def light_map(panel: Panel, field: LightField | None) -> LightMap | None:
    """The light field on the pane's grid."""
    if field is None:
        return None
    told = _cells(panel, field.light, CELL_COLUMNS, 3)
    return LightMap(columns=told.columns, rows=told.rows, light=told.values)


def mura_map(panel: Panel, field: LightField | None) -> PanelMap | None:
    """By how many percent the light differs from a smooth light."""
    return None if field is None else _cells(panel, 100 * np.expm1(unevenness(field)), CELL_COLUMNS, 2)


def tint_map(panel: Panel, field: LightField | None) -> PanelMap | None:
    """Distance in u'v' from the surroundings' colour; None without two white or grey photos."""
    delta = None if field is None else tint(field)
    return None if delta is None else _cells(panel, np.hypot(delta[..., 0], delta[..., 1]), CELL_COLUMNS, 4)


def smallest_faults(panel: Panel, evidence: Evidence | None, field: LightField | None) -> tuple[SmallestFault, ...]:
    """For every kind the smallest fault that would have been found with probability 0.95, over the panel."""
    told: list[SmallestFault] = []
    if evidence is not None:
        seen = evidence.seen
        channels = [None if len(fault.channels) == 3 else CHANNELS[fault.channels[0]] for fault in seen.kinds]
        sure = np.array(
            [
                SURE_LIT if fault.lit else SURE_DARK[channel]
                for fault, channel in zip(seen.kinds, channels, strict=True)
            ],
            np.float32,
        )
        shares = np.sqrt(seen.demand[:, None, None] / np.maximum(np.moveaxis(seen.known, -1, 0), 1e-9)).clip(
            sure[:, None, None], NEVER
        )
        proven = (shares <= 1).mean(axis=(1, 2))
        for number, (fault, channel) in enumerate(zip(seen.kinds, channels, strict=True)):
            whole = channel is None
            told.append(
                SmallestFault.model_validate(
                    {
                        "kind": ("bright_" if fault.lit else "dead_" if whole else "dark_")
                        + ("pixel" if whole else "subpixel"),
                        "channel": channel,
                        "unit": "of a full fault",
                        "median": round(median(shares[number]), 2),
                        "worst": round(quantile(shares[number], 0.95), 2),
                        "proven": round(float(proven[number]), 4),
                        "map": _cells(panel, shares[number], COARSE_COLUMNS, 2),
                    }
                )
            )
        for orientation, contrast in smallest_line(evidence):
            told.append(_contrast("line", contrast, orientation))
    if field is not None:
        contrast, area_mm2 = smallest_spot(panel, field)
        told.append(_contrast("mura", contrast, None).model_copy(update={"area_mm2": area_mm2}))
    return tuple(told)


def _contrast(kind: str, contrast: float, orientation: str | None) -> SmallestFault:
    return SmallestFault.model_validate(
        {
            "kind": kind,
            "orientation": orientation,
            "unit": "contrast",
            "median": round(contrast, 3),
            "worst": round(contrast, 3),
            "proven": 1.0 if contrast < 1 else 0.0,
        }
    )


def unproven_cells(proven: NDArray[np.bool_]) -> tuple[tuple[int, int, float], ...]:
    """Cells of the pane's grid that are not fully proven, with their proven share."""
    rows = cell_rows(*proven.shape)
    share = cv2.resize(proven.astype(np.float32), (CELL_COLUMNS, rows), interpolation=cv2.INTER_AREA)
    low, across = np.nonzero(share < 0.995)
    return tuple(
        zip(across.tolist(), low.tolist(), np.round(share[low, across].astype(float), 2).tolist(), strict=True)
    )
