"""The survey of a panel: every pixel tested against the kinds of pixel faults, and where each would have been found."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.faint import faint_places
from lens.faults.pixels import SINGLE, SURVEYED, WHOLE, Evidence
from lens.photo import BLOCK_PX

PLACES_AT_ONCE = 100_000
ROUNDING = 0.99  # single precision must not hide what stands right at the threshold


class Survey(NamedTuple):
    """``snr`` is (H, W) float32, the strongest hypothesis's response where it passes ``threshold`` and 0 elsewhere.

    ``proven`` and ``proven_pixels`` are (H, W) bool: where the weakest single-subpixel fault, and where a whole pixel stuck
    dark or lit, would have been found with probability 0.95 or more. ``faint`` are places (x, y) below it that the photos agree on.
    """

    snr: NDArray[np.float32]
    proven: NDArray[np.bool_]
    proven_pixels: NDArray[np.bool_]
    threshold: float
    faint: tuple[tuple[int, int], ...]


def _spread_out(blocks: NDArray[np.bool_], shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """(H, W) from blocks."""
    size = (blocks.shape[1] * BLOCK_PX, blocks.shape[0] * BLOCK_PX)
    return np.asarray(cv2.resize(blocks.view(np.uint8), size, interpolation=cv2.INTER_NEAREST)[:shape[0], :shape[1]], bool)


def survey(evidence: Evidence, threshold: float | None = None) -> Survey:
    """Test every pixel against the surveyed hypotheses; ``threshold`` replaces the one of the false-alarm budget.

    No hypothesis can respond more strongly than the root of all that differs at a pixel (Cauchy and Schwarz), so only the few
    pixels with that much, and those that some photo trusts in part, are looked at one by one.
    """
    panel, demand = evidence.panel, evidence.demand
    threshold = evidence.threshold if threshold is None else threshold
    views = [photo.view for photo in evidence.photos]
    energy = views[0].energy if len(views) == 1 else views[0].energy + views[1].energy
    for view in views[2:]:
        energy += view.energy
    partly = np.any([view.trust != 1 for view in views], axis=0)
    hidden = np.all([view.trust == 0 for view in views], axis=0)
    known = np.sum([blocks[..., SURVEYED] for blocks in evidence.blocks], axis=0)
    proven, proven_pixels = (
        _spread_out((known[..., some] >= demand[some]).all(axis=2), hidden.shape) & ~hidden for some in (SINGLE, WHOLE))
    snr = np.zeros((panel.height, panel.width), np.float32)
    looked_at = np.flatnonzero((partly & ~hidden | (energy > ROUNDING * threshold**2)).ravel())
    for places in np.array_split(looked_at, max(1, len(looked_at) // PLACES_AT_ONCE)):
        y, x = np.divmod(places, panel.width)
        best, information = evidence.surveyed_at(y, x)
        snr[y, x] = np.where(best > threshold, best, 0)
        proven[y, x] = (information[:, SINGLE] >= demand[SINGLE]).all(axis=1)
        proven_pixels[y, x] = (information[:, WHOLE] >= demand[WHOLE]).all(axis=1)
    return Survey(
        snr=snr, proven=proven, proven_pixels=proven_pixels, threshold=threshold, faint=faint_places(evidence, energy, partly, snr))
