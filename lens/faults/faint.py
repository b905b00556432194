"""Dark subpixels that are too faint for the survey's threshold, but that several photos agree on.

The survey demands more than Gaussian noise would make, as moire and the coder's blocks stand above it. Those stand in one photo, of white
or grey most of all; a photo of one colour alone is as good as Gaussian (by simulation). A dark subpixel stands in the photo of its colour
as strongly as the probes say, and in white and grey too, but for what the coder blots out. What agrees so is held against the threshold of
Gaussian noise: over all photos, or over those of its colour where white and grey show it at all.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import HYPOTHESES, Evidence, Explained, detection_threshold
from lens.photo import BLOCK_PX

FAINT = [i for i, h in enumerate(HYPOTHESES) if len(h.channels) == 1 and not h.lit]
SURELY_SHOWN_SIGMA = 5.0  # faint colour below this may vanish in the coder's rounding
AGREED_SHARE, TOTAL_SHARE = (
    0.4,
    0.6,
)  # of what is expected: of each photo that surely shows it, of those that are added up
ALSO_MIXED_SIGMA = 1.0  # what white and grey together must show
MOST_PLACES = 250  # more are no single faults
APART_PX, RIM_PX, ALIKE_PX = (
    6,
    10,
    2,
)  # from what passed the survey, and from the rim, where lens and coder make colours; one fault's image


def faint_threshold(evidence: Evidence) -> float:
    """SNR above which what the photos agree on counts."""
    return detection_threshold(evidence.panel, 1.0)


def _agreeing(evidence: Evidence, y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.float32]:
    """(N, 3) SNR of a dark red, green and blue subpixel that the photos agree on at N places that all trust, 0 where they do not."""
    told, known = (np.zeros((2, len(y), len(FAINT)), np.float32) for _ in range(2))  # of mixed light, of one colour
    agreed = np.ones(told.shape[1:], bool)
    for k, photo in enumerate(evidence.photos):
        own = evidence.response[k][y, x] @ evidence.signature[k][FAINT].T.astype(np.float32)
        expected = evidence.blocks[k][y // BLOCK_PX, x // BLOCK_PX][:, FAINT]
        agreed &= (expected < SURELY_SHOWN_SIGMA**2) | (own > AGREED_SHARE * expected)
        pure = int(min(photo.pattern.drive) == 0)
        told[pure] += own
        known[pure] += expected
    snr, snr_pure = (
        t / np.sqrt(np.maximum(i, 1e-6)) for t, i in ((told.sum(axis=0), known.sum(axis=0)), (told[1], known[1]))
    )
    mixed_too = (told[0] > ALSO_MIXED_SIGMA * np.sqrt(known[0])) & (known[0] > 0) & (known[1] > SURELY_SHOWN_SIGMA**2)
    threshold = faint_threshold(evidence)
    by_all = agreed & (told.sum(axis=0) > TOTAL_SHARE * known.sum(axis=0)) & (snr > threshold)
    by_colour = (told[1] > TOTAL_SHARE * known[1]) & (snr_pure > threshold)
    return np.asarray(mixed_too * np.maximum(by_all * snr, by_colour * snr_pure), np.float32)


def faint_places(
    evidence: Evidence, energy: NDArray[np.float32], partly: NDArray[np.bool_], snr: NDArray[np.float32]
) -> tuple[tuple[int, int], ...]:
    """(x, y) where the photos agree on a dark subpixel that did not pass the survey, strongest first.

    energy : (H, W) as in ``PanelView``, of all photos together
    partly : (H, W) what some photo does not trust in full
    snr : (H, W) what passed the survey
    """
    if evidence.shared or all(min(photo.pattern.drive) > 0 for photo in evidence.photos):
        return ()
    near = cv2.dilate((snr > 0).view(np.uint8), np.ones((2 * APART_PX + 1,) * 2, np.uint8)).view(bool)
    asked = (energy > faint_threshold(evidence) ** 2) & ~partly & ~near
    for lines in (asked, asked.T):
        lines[:RIM_PX] = lines[-RIM_PX:] = False
    y, x = np.divmod(np.flatnonzero(asked.ravel()), evidence.panel.width)
    told = _agreeing(evidence, y, x).max(axis=1)
    kept: list[tuple[int, int]] = []
    for n in np.argsort(-told)[: np.count_nonzero(told)].tolist():
        place = int(x[n]), int(y[n])
        if all(max(abs(place[0] - a), abs(place[1] - b)) > ALIKE_PX for a, b in kept):
            kept.append(place)
        if len(kept) == MOST_PLACES:
            break
    return tuple(kept)


def in_the_clear(evidence: Evidence, x: int, y: int) -> bool:
    """Whether a place is far enough from the rim and from markers, beside which lens and coder make colours."""
    from_rim = min(x, y, evidence.panel.width - 1 - x, evidence.panel.height - 1 - y)
    return from_rim >= RIM_PX and all(photo.view.trust[y, x] == 1 for photo in evidence.photos)


def agreed_snr(evidence: Evidence, told: Explained) -> float:
    """SNR of an explanation by one dark subpixel that the photos agree on, in the clear; 0 where it is none."""
    if (
        told.hypothesis not in FAINT
        or evidence.shared
        or told.contradiction
        or not in_the_clear(evidence, told.x, told.y)
    ):
        return 0.0
    return float(_agreeing(evidence, np.array([told.y]), np.array([told.x]))[0, FAINT.index(told.hypothesis)])
