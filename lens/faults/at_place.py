"""How much of a fault the photos show at a place that is known already: without a search, fainter faults can be told."""

import math
from typing import NamedTuple

from lens.faults.light_model import CHANNELS
from lens.faults.pixels import HYPOTHESES, Evidence

REACH_PX = 1  # two registrations of one panel agree to a pixel


class AtPlace(NamedTuple):
    """``share`` of a full fault, 1 is fully dark or lit, and its standard deviation ``sigma``; infinite where no photo tells."""

    share: float
    sigma: float


def share_at(evidence: Evidence, x: float, y: float, kind: str, channel: str | None) -> AtPlace:
    """The strongest response to a kind of pixel fault within a pixel of a place, by least squares over all photos.

    kind : bright_pixel, dead_pixel, bright_subpixel, dark_subpixel; of the last two ``channel`` says which
    """
    lit = kind.startswith("bright")
    channels = (CHANNELS.index(channel),) if channel else (0, 1, 2)
    hypothesis = next(i for i, h in enumerate(HYPOTHESES) if h.channels == channels and h.lit == lit)
    best = AtPlace(-math.inf, math.inf)
    for down in range(-REACH_PX, REACH_PX + 1):
        for across in range(-REACH_PX, REACH_PX + 1):
            column, row = int(x) + across, int(y) + down
            if not (0 <= column < evidence.panel.width and 0 <= row < evidence.panel.height):
                continue
            told, known = evidence.at(column, row)
            information = float(known[:, hypothesis].sum())
            if information <= 0:
                continue
            share = float(told[:, hypothesis].sum()) / information
            if share > best.share:
                best = AtPlace(share, 1 / math.sqrt(information))
    return best if math.isfinite(best.sigma) else AtPlace(0.0, math.inf)
