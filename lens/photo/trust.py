"""How far a photo's places are believed: less at the rim and among the ripples beside markers and probes."""

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.medians import quantile
from lens.panel import Panel
from lens.patterns import Pattern, marker_rings

BORDER_PX, OWN_PX = 4, 7
MOST_SQUARE = 400.0  # of a score at the rim: steps of the light beside a marker reach 30 where moire is taken off
# Lens, sharpening and coder (blocks of 8 photo px, of 16 for colour) leave ripples so far beside a marker; further ones are below the noise.
MAX_RIPPLE_PX, MOST_USUAL = 10, 3.6
RIPPLE_QUANTILES = (
    0.997,
    0.98,
)  # around markers, around probes: so few pixels lie there that one fault must not speak for all
SOME = (slice(3, None, 17), slice(5, None, 13))  # a thin sample of the panel


def distrust_border(scores: NDArray[np.float32], trust: NDArray[np.float32]) -> None:
    """Lower the trust of outermost rows and columns by how much the noise of (n, H, W) scores exceeds 1 there."""
    for lines, shares in ((scores, trust), (scores.transpose(0, 2, 1), trust.T)):
        reach, rim = min(129, lines.shape[2] | 1), np.r_[:BORDER_PX, -BORDER_PX:0]
        square = np.minimum(lines[:, rim] ** 2, MOST_SQUARE).reshape(-1, lines.shape[2])
        wide, near = (cv2.blur(square, (size, 1), borderType=cv2.BORDER_REFLECT) for size in (reach, OWN_PX))
        # one fault is no noise: a pixel's own surroundings do not speak against it
        variance = (wide * reach - near * OWN_PX) / (reach - OWN_PX)
        shares[rim] = np.minimum(
            shares[rim], 1 / np.maximum(variance.reshape(len(lines), len(rim), -1).max(axis=0), 1.0)
        )


@lru_cache(maxsize=4)
def _rings(panel: Panel, pattern: Pattern, reach: int) -> tuple[NDArray[np.intp], NDArray[np.uint8], NDArray[np.bool_]]:
    """Where the rings around markers are in the flat panel, which ring each place is in, and what of a thin sample is in none."""
    rings = marker_rings(panel, pattern, reach, MAX_RIPPLE_PX)
    places = np.flatnonzero(rings)
    return places, rings.ravel()[places], rings[SOME] == 0


def distrust_ripples(
    panel: Panel, pattern: Pattern, scores: NDArray[np.float32], trust: NDArray[np.float32], reach: int
) -> None:
    """Lower the trust beside markers by how much more the scores there scatter than elsewhere; never more trust nearer to one.

    What is told among ripples so counts less, and less is proven there.
    """
    places, own, elsewhere = _rings(panel, pattern, reach)
    seen = trust.ravel()[places] > 0
    places, own = places[seen], own[seen]
    far = np.max([np.abs(plane[SOME]) for plane in scores], axis=0)[elsewhere & (trust[SOME] > 0)]
    if len(places) and far.size:
        strongest = np.max([np.abs(plane.ravel()[places]) for plane in scores], axis=0)
        scatter = np.zeros((2, MAX_RIPPLE_PX))
        for n in range(scatter.size):
            ring = strongest[own == n + 1]
            scatter.flat[n] = quantile(ring, RIPPLE_QUANTILES[n // MAX_RIPPLE_PX]) if ring.size else 0.0
        usual = np.minimum(
            [[quantile(far, share)] for share in RIPPLE_QUANTILES], MOST_USUAL
        )  # a cracked panel scatters everywhere
        share = np.minimum(1, (usual / np.maximum(np.maximum.accumulate(scatter, axis=1), 1e-6)) ** 2)
        trust.ravel()[places] *= share.ravel()[own - 1].astype(np.float32)
