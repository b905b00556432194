"""The survey of a panel: every pixel tested against the kinds of pixel faults, and where each would have been found."""

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.faint import faint_places
from lens.faults.pixels import SINGLE, SURVEYED, WHOLE, Evidence
from lens.photo import BLOCK_PX, PanelView

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
    return np.asarray(
        cv2.resize(blocks.view(np.uint8), size, interpolation=cv2.INTER_NEAREST)[: shape[0], : shape[1]], bool
    )


def _parts(places: NDArray[np.intp]) -> list[NDArray[np.intp]]:
    return np.array_split(places, max(1, len(places) // PLACES_AT_ONCE))


def _bound(views: Sequence[PanelView], y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.float32]:
    """(N,) the square of what no hypothesis can respond more strongly than at N pixels that some photos trust in part."""
    total = np.zeros(len(y), np.float32)
    for view in views:
        trust = view.trust[y, x]
        total += view.energy[y, x] / np.where(trust > 0, trust, 1)
    return total


def survey(evidence: Evidence, threshold: float | None = None) -> Survey:
    """Test every pixel against the surveyed hypotheses; ``threshold`` replaces the one of the false-alarm budget.

    No hypothesis can respond more strongly than the root of all that differs at a pixel (Cauchy and Schwarz), so only the few
    pixels with that much are looked at one by one.
    """
    panel, demand = evidence.panel, evidence.demand
    threshold = evidence.threshold if threshold is None else threshold
    views = [photo.view for photo in evidence.photos]
    energy, partly = views[0].energy, views[0].trust != 1
    for n, view in enumerate(views[1:]):
        energy = np.add(energy, view.energy, out=energy if n else None)
        partly |= view.trust != 1
    enough = (
        np.sum([np.moveaxis(blocks, -1, 0)[SURVEYED] for blocks in evidence.blocks], axis=0) >= demand[:, None, None]
    )
    proven, proven_pixels = (_spread_out(enough[some].all(axis=0), partly.shape) for some in (SINGLE, WHOLE))
    snr = np.zeros((panel.height, panel.width), np.float32)
    strong = [np.flatnonzero((energy > ROUNDING * threshold**2) & ~partly)]
    for places in _parts(np.flatnonzero(partly)):
        y, x = np.divmod(places, panel.width)
        enough = evidence.surveyed_known(y, x) >= demand[:, None]
        proven[y, x], proven_pixels[y, x] = enough[SINGLE].all(axis=0), enough[WHOLE].all(axis=0)
        strong.append(places[_bound(views, y, x) > ROUNDING * threshold**2])
    for places in _parts(np.concatenate(strong)):
        y, x = np.divmod(places, panel.width)
        best = evidence.surveyed_snr(y, x)
        snr[y, x] = np.where(best > threshold, best, 0)
    return Survey(
        snr=snr,
        proven=proven,
        proven_pixels=proven_pixels,
        threshold=threshold,
        faint=faint_places(evidence, energy, partly, snr),
    )
