"""How far above the pixels something lies: what is on the glass shifts against them when the camera moves (parallax).

Photos taken from different places are shifted against each other until what they show agrees best; the shift for each unit of the
view's slope is the height, refraction counted in. A pixel's height is 0.
"""

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.faults.pixels import Evidence
from lens.panel import Panel
from lens.photo import BLOCK_PX

HEIGHTS_PX = np.arange(-6.0, 20.01, 0.5)
REACH_PX, MAX_SHIFT_PX, AROUND_PX = 8, 6.0, 7
LEAST_OPEN = 0.5  # share of the place that photos must show
HIDDEN_AROUND = np.ones((2 * int(MAX_SHIFT_PX) + 1,) * 2, np.uint8)
LEAST_SEEN = 4.0  # a photo that shows it less well has no say
PLACE_SD_PX = 0.12  # how well one photo tells a place, its registration included
SURE_SIGMAS, LEAST_HEIGHT_PX = 3.0, 0.5
SURE_GAIN = 6.0  # of the logarithm of likelihood over lying in the pixels
CLEAR_GAIN, CLEAR_SIGMAS = (
    20.0,
    1.5,
)  # a gain that leaves no doubt, and what then suffices: the height itself may be little known
GLASS_INDEX = 1.5  # refractive index of panel glass (common practice)


class Height(NamedTuple):
    """``px`` above the pixels, its standard deviation (infinite where the photos were taken from too like places to tell), and the
    gain in the logarithm of likelihood over lying in the pixels."""

    px: float
    sd_px: float
    gain: float

    @property
    def above(self) -> bool:
        """Surely on the glass and not in the pixels."""
        sigmas = CLEAR_SIGMAS if self.gain > CLEAR_GAIN else SURE_SIGMAS
        return self.gain > SURE_GAIN and self.px > max(sigmas * self.sd_px, LEAST_HEIGHT_PX)

    @property
    def told(self) -> dict[str, float | None]:
        """The fields of a finding that carry it."""
        known = np.isfinite(self.sd_px)
        return {
            "above_px": round(self.px, 1) if known else None,
            "above_sd_px": round(self.sd_px, 1) if known else None,
        }

    def words(self, panel: Panel) -> str:
        """What it means, in a sentence."""
        glass = f", about {self.px * GLASS_INDEX * panel.pitch_mm:.1f} mm of glass" if panel.pitch_mm else ""
        return f"It shifts against the pixels when the camera moves, so it lies {self.px:.1f} px above them{glass}."


UNTOLD = Height(0.0, float("inf"), 0.0)


def view_slopes(evidence: Evidence, x: float, y: float) -> NDArray[np.float64]:
    """(photos, 2) how far across and down the line of sight runs for each px that it rises from a place of the panel."""
    eyes = np.array([photo.eye for photo in evidence.photos])
    return np.asarray((eyes[:, :2] - (x, y)) / np.maximum(eyes[:, 2:], 1.0), float)


def height_above(evidence: Evidence, box: tuple[int, int, int, int], hypothesis: int) -> Height:
    """The height of what looks like ``hypothesis`` in a box (left, top, right, bottom; panel px)."""
    left, top = max(0, box[0] - REACH_PX), max(0, box[1] - REACH_PX)
    right, bottom = min(evidence.panel.width, box[2] + REACH_PX + 1), min(evidence.panel.height, box[3] + REACH_PX + 1)
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    slopes, seen = view_slopes(evidence, x, y), []
    for k, photo in enumerate(evidence.photos):
        told = photo.view.response[top:bottom, left:right] @ evidence.signature[k][hypothesis]
        known = float(evidence.blocks[k][int(y) // BLOCK_PX, int(x) // BLOCK_PX, hypothesis])
        seen.append((told / max(known, 1e-9) ** 0.5).astype(np.float32))
    trusted = [photo.view.trust[top:bottom, left:right] > 0 for photo in evidence.photos]
    own = [
        k
        for k, told in enumerate(seen)
        if told[trusted[k]].max(initial=0) > LEAST_SEEN and trusted[k].mean() >= LEAST_OPEN
    ]
    if len(own) < 2:
        return UNTOLD
    # what one of them hides, under a marker for one, none may show, wherever it is shifted to
    hidden = cv2.dilate((~np.all([trusted[k] for k in own], axis=0)).astype(np.uint8), HIDDEN_AROUND) > 0
    if hidden.mean() > 1 - LEAST_OPEN:
        return UNTOLD
    for k in own:
        seen[k][hidden] = 0
    together = np.sum([seen[k] for k in own], axis=0) / len(own) ** 0.5
    clear = cv2.dilate(
        (np.abs(together) > LEAST_SEEN).astype(np.uint8), np.ones((AROUND_PX, AROUND_PX), np.uint8)
    ).astype(np.float32)
    for k in own:
        seen[k] *= clear  # noise has no place to agree about
    slopes = slopes[own] - slopes[own].mean(axis=0)
    lever = _lever(together * clear, slopes)
    reach = np.abs(slopes).max()
    heights = HEIGHTS_PX[np.abs(HEIGHTS_PX) * reach <= MAX_SHIFT_PX]
    if len(heights) < 3:
        return UNTOLD  # seen from so flat that no registration is good enough
    # pixels over which the noise of filtered light runs
    runs_px = 2 * math.pi * float(np.mean([evidence.spread[k][0] * evidence.spread[k][1] for k in own]))
    energy = sum(float((seen[k].astype(float) ** 2).sum()) for k in own)
    agreed = energy * np.array([_agreement([seen[k] for k in own], slopes, float(height)) for height in heights])
    best = int(np.clip(np.argmax(agreed), 1, len(heights) - 2))
    before, at, after = agreed[best - 1 : best + 2] / (2 * len(own) * runs_px)
    bend = max(float(2 * at - before - after), 1e-9)
    step = float(heights[1] - heights[0])
    offset = float(np.clip((after - before) / (2 * bend), -1, 1)) * step
    sd = np.sqrt(step**2 / bend + PLACE_SD_PX**2 / max(lever, 1e-9))
    gain = float(agreed.max() - agreed[np.argmin(np.abs(heights))]) / (2 * len(own) * runs_px)
    return Height(float(heights[best]) + offset, float(sd), gain)


def _lever(shown: NDArray[np.float32], slopes: NDArray[np.float64]) -> float:
    """Sum of the squared slopes, as far as the thing shows them: a line tells nothing along itself (structure tensor)."""
    down, across = np.gradient(shown)
    tensor = np.array(
        [[(across * across).sum(), (across * down).sum()], [(across * down).sum(), (down * down).sum()]], float
    )
    tensor /= max(float(np.linalg.eigvalsh(tensor)[1]), 1e-9)
    return float(np.einsum("ki,ij,kj->", slopes, tensor, slopes))


def _agreement(seen: list[NDArray[np.float32]], slopes: NDArray[np.float64], height: float) -> float:
    """Share of the energy that is common to all; a shift between the pixels blurs a little, which must not count against it."""
    total, energy = np.zeros_like(seen[0]), 0.0
    for told, (across, down) in zip(seen, slopes, strict=True):
        move = np.array([[1, 0, height * across], [0, 1, height * down]])
        moved = cv2.warpAffine(told, move, (told.shape[1], told.shape[0]), flags=cv2.INTER_LANCZOS4)[2:-2, 2:-2]
        total[2:-2, 2:-2] += moved
        energy += float((moved.astype(float) ** 2).sum())
    return float((total.astype(float) ** 2).sum()) / max(energy, 1e-9)
