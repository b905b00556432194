"""Dark subpixels that are too faint for the survey's threshold, but that several photos agree on.

The survey demands more than Gaussian noise would make, as moire and the coder's blocks stand above it. Those stand in one photo, or in
one much more than its share; a dark subpixel stands in every photo that can show it as strongly as the probes say, but for what the
coder blots out of a weak one. What agrees so is held against the threshold of Gaussian noise alone.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import HYPOTHESES, Evidence, Explained, detection_threshold
from lens.photo import BLOCK_PX

FAINT = [i for i, h in enumerate(HYPOTHESES) if len(h.channels) == 1 and not h.lit]
SURELY_SHOWN_SIGMA = 5.0  # faint colour below this may vanish in the coder's rounding
AGREED_SHARE, TOTAL_SHARE = 0.4, 0.6  # of what is expected: of each photo that must show it, of all together
APART_PX, RIM_PX, ALIKE_PX = 6, 10, 2  # from what passed the survey, and from the rim, where lens and coder make colours; one fault's image


def faint_threshold(evidence: Evidence) -> float:
    """SNR above which what all photos agree on counts."""
    return detection_threshold(evidence.panel, 1.0)


def _agreeing(evidence: Evidence, y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.float32]:
    """(N,) SNR of the strongest dark subpixel that all photos agree on at N places that all trust, 0 where there is none."""
    total = np.zeros((len(y), len(FAINT)), np.float32)
    known = np.zeros_like(total)
    agreed, pure = np.ones(total.shape, bool), np.zeros(total.shape, bool)
    for k, photo in enumerate(evidence.photos):
        told = evidence.response[k][y, x] @ evidence.signature[k][FAINT].T.astype(np.float32)
        expected = evidence.blocks[k][y // BLOCK_PX, x // BLOCK_PX][:, FAINT]
        must = expected > SURELY_SHOWN_SIGMA**2
        agreed &= ~must | (told > AGREED_SHARE * expected)
        if min(photo.pattern.drive) == 0:
            pure |= must
        total += told
        known += expected
    snr = total / np.sqrt(np.maximum(known, 1e-6))
    return np.where(agreed & pure & (total > TOTAL_SHARE * known) & (snr > faint_threshold(evidence)), snr, 0).max(axis=1)


def faint_places(
    evidence: Evidence, energy: NDArray[np.float32], partly: NDArray[np.bool_], snr: NDArray[np.float32],
) -> tuple[tuple[int, int], ...]:
    """(x, y) where all photos agree on a dark subpixel that did not pass the survey, strongest first.

    energy : (H, W) as in ``PanelView``, of all photos together
    partly : (H, W) what some photo does not trust in full
    snr : (H, W) what passed the survey
    """
    if len(evidence.photos) < 2 or evidence.shared:
        return ()
    near = cv2.dilate((snr > 0).view(np.uint8), np.ones((2 * APART_PX + 1,) * 2, np.uint8)).view(bool)
    asked = (energy > faint_threshold(evidence) ** 2) & ~partly & ~near
    for lines in (asked, asked.T):
        lines[:RIM_PX] = lines[-RIM_PX:] = False
    y, x = np.divmod(np.flatnonzero(asked.ravel()), evidence.panel.width)
    told = _agreeing(evidence, y, x)
    kept: list[tuple[int, int]] = []
    for n in np.argsort(-told)[:np.count_nonzero(told)].tolist():
        place = int(x[n]), int(y[n])
        if all(max(abs(place[0] - a), abs(place[1] - b)) > ALIKE_PX for a, b in kept):
            kept.append(place)
    return tuple(kept)


def all_agree(evidence: Evidence, told: Explained) -> bool:
    """Whether the explanation is one dark subpixel that all photos agree on, far enough from rim and markers."""
    if told.hypothesis not in FAINT or len(evidence.photos) < 2 or evidence.shared:
        return False
    from_rim = min(told.x, told.y, evidence.panel.width - 1 - told.x, evidence.panel.height - 1 - told.y)
    must = told.expected > SURELY_SHOWN_SIGMA
    pure = np.array([min(photo.pattern.drive) == 0 for photo in evidence.photos])
    return (
        from_rim >= RIM_PX and all(photo.view.trust[told.y, told.x] == 1 for photo in evidence.photos)
        and bool((told.per_photo[must] > AGREED_SHARE * told.expected[must]).all()) and bool((must & pure).any())
        and told.peak > TOTAL_SHARE and not told.contradiction)
