"""Medians and quantiles against numpy's."""

from unittest import TestCase

import numpy as np

from lens.medians import median, medians, quantile


class Medians(TestCase):
    def test_they_are_numpys(self) -> None:
        rng = np.random.default_rng(1)
        for kind in (np.float32, np.float64):
            for count in (1, 2, 3, 10, 1001):
                values = rng.normal(size=count).astype(kind)
                self.assertAlmostEqual(median(values), float(np.median(values)), places=6)
                for share in (0.0, 0.05, 0.37, 0.95, 1.0):
                    self.assertAlmostEqual(quantile(values, share), float(np.quantile(values, share)), places=6)

    def test_of_an_image_each_channel_has_its_own_and_nothing_is_moved(self) -> None:
        image = np.random.default_rng(2).normal(size=(30, 41, 3))
        before = image.copy()
        np.testing.assert_allclose(medians(image), np.median(image, axis=(0, 1)))
        np.testing.assert_array_equal(image, before)
