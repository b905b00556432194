"""Tone mapping by place: what a local operator of the literature does to a panel is undone, and a panel's own light is left alone."""

from unittest import TestCase

import numpy as np
from scipy import ndimage

from lens.faults.light_field import detrended
from lens.faults.tone_by_place import tone_by_place

SHAPE = (75, 120)
Y, X = np.meshgrid(*(np.linspace(-1, 1, n) for n in SHAPE), indexing="ij")
SMOOTH = np.stack([np.ones_like(X), X, Y, X * X, X * Y, Y * Y])


def mapped(light: np.ndarray, power: float, width: float) -> np.ndarray:
    """Each place over a power of the light around it, dark beyond the panel: the simplest local operator (Chiu et al. 1993, from memory)."""
    return np.asarray(light / (ndimage.gaussian_filter(light, width, mode="constant") + 0.03) ** power)


class ByPlace(TestCase):
    def setUp(self) -> None:
        self.rng = np.random.default_rng(3)
        self.sound = 1 - 0.05 * (X**2 + Y**2) + 0.02 * X

    def seen(self, light: np.ndarray) -> np.ndarray:
        log = np.log(light) + self.rng.normal(0, 0.001, SHAPE)
        return np.asarray(log - np.median(log))

    def test_the_power_is_told_and_the_rims_come_back(self) -> None:
        for power in (0.08, 0.15, 0.25):
            for width in (4.0, 7.0, 11.0):
                log = self.seen(mapped(self.sound, power, width))
                told = tone_by_place(log, SMOOTH)
                assert told is not None
                self.assertAlmostEqual(told.power, power, delta=0.25 * power)
                inner = np.s_[1:-1, 1:-1]
                before, after = (detrended(one)[inner] for one in (log, log - told.lift))
                self.assertLess(after.std(), 0.35 * before.std())

    def test_a_bright_zone_loses_its_dark_halo_and_keeps_its_light(self) -> None:
        zone = 1 + 0.25 * np.exp(-((X - 0.4) ** 2 / 0.04 + (Y - 0.3) ** 2 / 0.06))
        log = self.seen(mapped(self.sound * zone, 0.2, 6.0))
        told = tone_by_place(log, SMOOTH)
        assert told is not None
        rest = detrended(log - told.lift) - detrended(np.log(self.sound * zone))
        self.assertLess(np.abs(rest[2:-2, 2:-2]).max(), 0.03)
        self.assertGreater(np.abs(detrended(log) - detrended(np.log(self.sound * zone)))[2:-2, 2:-2].max(), 0.05)

    def test_a_panels_own_light_is_no_camera(self) -> None:
        darker_rim = self.sound * (1 - 0.06 * np.exp(-(1 - np.maximum(np.abs(X), np.abs(Y))) / 0.08))
        spot = self.sound * (1 - 0.1 * np.exp(-((X + 0.3) ** 2 + Y**2) / 0.02))
        for light in (self.sound, darker_rim, spot):
            told = tone_by_place(self.seen(light), SMOOTH)
            self.assertTrue(told is None or told.power < 0.03, told and told.power)
