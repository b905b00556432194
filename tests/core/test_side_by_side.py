"""Dead pixels side by side against soft spots: by exhaustive search, and by the simulator's truth."""

import itertools
from unittest import TestCase

import numpy as np
from numpy.typing import NDArray

from lens.faults.side_by_side import dead_pixels
from lens.faults.softness import DotImage, dot_shape
from lens.inspecting import PhotoFile, inspect_files
from lens.simulate import Blemish, DeviceFault, FaultyPanel, shoot_set
from tests.core.sets import CAMERA, PANEL, SOLIDS

SHAPES = {
    "beside": ((0, 0), (1, 0)), "below": ((0, 0), (0, 1)), "diagonal": ((0, 0), (1, 1)), "with a gap": ((0, 0), (2, 0)),
    "corner": ((0, 0), (1, 0), (0, 1)), "three": ((0, 0), (1, 0), (2, 0)), "square": ((0, 0), (1, 0), (0, 1), (1, 1))}
AT = tuple((90 + 95 * n, 110 + 40 * n) for n in range(len(SHAPES)))
POWER, SIGMA = 400.0, 0.85


def image_of(seen: NDArray[np.float64] | None = None) -> DotImage:
    at = np.arange(-6, 7)
    return DotImage(np.zeros((13, 13)) if seen is None else seen, np.ones((13, 13), bool), POWER, SIGMA, SIGMA, at, at)


def spot(radius: float, x: float, y: float) -> NDArray[np.float64]:
    """A dark disc behind the same blur, by fine sampling: its share of each pixel, spread as a pixel's light is spread."""
    fine = (np.arange(-60, 60) + 0.5) / 10
    inside = np.argwhere((fine[:, None] - y) ** 2 + (fine[None, :] - x) ** 2 <= radius**2)
    at = np.arange(-6, 7)
    tall, wide = (np.exp(-((at[None, :] - fine[inside[:, n]][:, None]) ** 2) / (2 * SIGMA**2)) for n in (0, 1))
    return np.asarray(POWER * 0.01 * tall.T @ wide, float)


class Places(TestCase):
    def test_the_greedy_choice_is_the_best_of_all_pairs(self) -> None:
        # against exhaustive search over every pair of pixels of the neighbourhood
        rng = np.random.default_rng(5)
        grid = list(itertools.product(range(-2, 3), repeat=2))
        for shape in ("beside", "diagonal", "with a gap"):
            pure = sum(image_of().of_pixel(*place) for place in SHAPES[shape])
            image = image_of(pure + rng.normal(0, np.sqrt(POWER), (13, 13)))
            best = min(itertools.combinations(grid, 2), key=lambda pair: float(
                ((image.seen - image.of_pixel(*pair[0]) - image.of_pixel(*pair[1])) ** 2).sum()))
            self.assertEqual(sorted(dead_pixels(image).places), sorted(best), shape)

    def test_at_the_rim_no_pixel_lies_outside(self) -> None:
        at, rim = np.arange(-6, 7), np.arange(0, 7)
        seen = image_of().of_pixel(0, 0)[6:] + image_of().of_pixel(1, 0)[6:]
        told = dead_pixels(DotImage(seen, np.ones((7, 13), bool), POWER, SIGMA, SIGMA, rim, at))
        self.assertEqual(sorted(told.places), [(0, 0), (1, 0)])

    def test_every_shape_is_told_and_no_disc_is_one(self) -> None:
        rng = np.random.default_rng(6)
        for name, places in SHAPES.items():
            image = image_of(sum(image_of().of_pixel(*place) for place in places) + rng.normal(0, np.sqrt(POWER), (13, 13)))
            told = dead_pixels(image)
            self.assertEqual(sorted(told.places), sorted(places), name)
            self.assertTrue(told.better_than(dot_shape(image).left), name)
        for radius, x, y in ((0.9, 0.1, 0.2), (1.2, 0.3, -0.3), (1.6, 0.5, 0.1), (2.0, 0.0, 0.4)):
            image = image_of(0.9 * spot(radius, x, y) + rng.normal(0, np.sqrt(POWER), (13, 13)))
            self.assertFalse(dead_pixels(image).better_than(dot_shape(image).left), f"{radius} {x} {y}")


class Photos(TestCase):
    def test_each_pixel_is_found_and_specks_stay_dust(self) -> None:
        # ISO 9241-307 counts pixels and groups of them within 5 x 5, so each has to be told
        faults = [
            DeviceFault(kind="dead_pixel", x=left + dx, y=top + dy) for (left, top), places in zip(AT, SHAPES.values(), strict=True)
            for dx, dy in places]
        specks = tuple(Blemish(kind="speck", x=x, y=y, size_px=size, depth=0.9) for x, y, size in ((300.3, 80.2, 1.1), (620.4, 120.3, 1.6)))
        device = FaultyPanel(panel=PANEL, faults=tuple(faults), blemishes=specks, glass_above_px=3.0)
        shots = shoot_set(device, SOLIDS, CAMERA, np.random.default_rng(8))
        told = inspect_files(PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()]).findings
        self.assertEqual(sorted((f.x, f.y) for f in told if f.kind == "dead_pixel"), sorted((f.x, f.y) for f in faults))
        self.assertEqual(sum(f.kind == "dust" for f in told), len(specks))
        self.assertEqual(sum(f.kind == "cluster" for f in told), len(SHAPES))
