"""Several dead pixels side by side, or one soft spot: which of both explains the light around a dark dot better."""

from typing import NamedTuple

import numpy as np

from lens.faults.softness import DotImage

REACH_PX, MOST_PIXELS = 3, 6
LEAST_SHARE, MOST_SHARE, TRIED_SHARES = 0.85, 1.1, (0.8, 1.15)  # of a pixel's light that each dead one takes; one probe tells of others inexactly
LEAST_GAIN = 0.02  # of all energy that one pixel more must explain
# Of all energy: what dead pixels may leave beside the noise, and that as a share of what a soft spot leaves. On simulated sets kept for
# tuning, two to four dead pixels left under 0.017 and 1.5 times a spot's rest, specks of dust more than that of one of both.
MOST_LEFT, MOST_OF_SPOT = 0.018, 1.6
Places = tuple[tuple[int, int], ...]


class Pixels(NamedTuple):
    """Places of dead pixels (x, y) relative to the middle, the share of a pixel's light that each takes, and the share of the energy that
    they leave unexplained, and that noise alone would leave."""

    places: Places
    amplitude: float
    left: float
    noise: float

    def better_than(self, spot_left: float) -> bool:
        """Whether these are several dead pixels and not one soft spot."""
        right = LEAST_SHARE <= self.amplitude <= MOST_SHARE and self.left - self.noise <= MOST_LEFT
        return len(self.places) > 1 and right and self.left <= MOST_OF_SPOT * spot_left


def dead_pixels(image: DotImage) -> Pixels:
    """The dead pixels that explain an image best: one after the other, each moved to where it explains most."""
    total = max(float((image.seen**2).sum()), 1e-9)
    # at the rim the image ends with the panel, and so do the pixels
    columns, rows = ([int(step) for step in at if abs(step) <= REACH_PX] for at in (image.x, image.y))
    grid = [(dx, dy) for dx in columns for dy in rows]
    shapes = np.array([image.of_pixel(*place).ravel() for place in grid])
    common, seen = shapes @ shapes.T, shapes @ image.seen.ravel()
    noise = float(image.trusted.sum()) * image.power / total

    def with_one_more(kept: Places) -> Pixels:
        """The best further pixel, all of them tried at once: what a sum of images leaves follows from their products with each other."""
        own = [grid.index(place) for place in kept]
        fits = seen[own].sum() + seen
        energy = common[np.ix_(own, own)].sum() + 2 * common[own].sum(axis=0) + common.diagonal()
        amplitude = np.clip(fits / np.maximum(energy, 1e-9), *TRIED_SHARES)
        left = 1 + (amplitude**2 * energy - 2 * amplitude * fits) / total
        left[own] = np.inf
        n = int(np.argmin(left))
        return Pixels((*kept, grid[n]), float(amplitude[n]), float(left[n]), noise)

    best = with_one_more(())
    while len(best.places) < MOST_PIXELS:
        added = with_one_more(best.places)
        moved = True
        while moved:
            again = min((with_one_more(tuple(p for p in added.places if p != place)) for place in added.places), key=lambda pixels: pixels.left)
            moved = again.left < added.left - 1e-9
            added = again if moved else added
        if best.left - added.left < LEAST_GAIN:
            break
        best = added
    return best
