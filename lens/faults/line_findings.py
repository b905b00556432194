"""Lines in words."""

import numpy as np
from scipy.special import ndtr

from lens.faults.light_model import CHANNELS
from lens.faults.line_sums import Orientation
from lens.faults.lines import LINE_MAX_WIDTH_PX, Line, line_threshold
from lens.faults.pixels import HYPOTHESES, Evidence
from lens.records import Finding

MOST_CHANCE = 0.1  # that lines which lie anywhere seem to repeat


def as_finding(evidence: Evidence, line: Line, period_px: float | None) -> Finding:
    """The line in words."""
    fault = HYPOTHESES[line.hypothesis]
    length = line.stop - line.start + 1
    total = evidence.panel.width if line.orientation == "row" else evidence.panel.height
    whole = length >= 0.97 * total
    seen = tuple(dict.fromkeys(p.pattern.id for p, s in zip(evidence.photos, line.per_photo, strict=True) if s > 5))
    share = min(line.amplitude, 1.0)
    reasons = [
        f"{'Whole' if whole else 'Part of a'} {line.orientation}, {length} px long and {line.width_px} px wide; "
        f"{'lit' if fault.lit else 'dark'} by about {100 * share:.0f} % on {', '.join(seen) or 'all photos together'}."
    ]
    if not whole:
        ends = [name for name, reached in (("start", line.start <= 3), ("end", line.stop >= total - 4)) if reached]
        reach = f" and reaches the rim at its {' and '.join(ends)}." if ends else ", both ends inside the panel."
        reasons.append(f"It runs from {line.start} to {line.stop}{reach}")
    if period_px:
        reasons.append(f"Such lines repeat every {period_px:.0f} px.")
    middle = (line.start + line.stop) / 2
    x, y, w, h = (
        (middle, line.across, length, line.width_px)
        if line.orientation == "row"
        else (line.across, middle, line.width_px, length)
    )
    return Finding.model_validate(
        {
            "kind": "band" if line.width_px > LINE_MAX_WIDTH_PX else "line",
            "x": x,
            "y": y,
            "w": w,
            "h": h,
            "orientation": line.orientation,
            "channel": CHANNELS[fault.channels[0]] if len(fault.channels) == 1 else None,
            "contrast": round(line.contrast, 3),
            "confidence": round(min(0.99, float(ndtr(line.snr - 0.8 * line_threshold(evidence)))), 3),
            "patterns": seen,
            "reasons": tuple(reasons),
        }
    )


def period_of(lines: list[Line], orientation: Orientation) -> float | None:
    """The distance at which three or more lines of one direction repeat, None when they do not."""
    at = np.sort([line.across for line in lines if line.orientation == orientation])
    if len(at) < 3:
        return None
    gaps = np.diff(at)
    period = float(gaps.min())
    if period <= LINE_MAX_WIDTH_PX:
        return None
    counts = np.round(gaps / period)
    # the smallest gap is a pixel off at most, so one of many periods fits by chance
    chance = float(np.prod(np.minimum(2 * np.delete(counts, gaps.argmin()) / period, 1)))
    regular = bool((np.abs(gaps - counts * period) <= counts).all()) and chance <= MOST_CHANCE
    return float((at[-1] - at[0]) / counts.sum()) if regular else None
