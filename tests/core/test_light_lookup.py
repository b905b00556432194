"""Looking up light between pixels, and the small least-squares helpers, against scipy and numpy."""

from unittest import TestCase

import numpy as np
from scipy import ndimage

from lens.faults.regions import regions
from lens.faults.zones import covers
from lens.photo.blur import _left_over
from lens.photo.light import LINEAR_OF_CODE, bilinear_light, inside
from lens.records import Finding


class Lookup(TestCase):
    def setUp(self) -> None:
        self.pixels = np.random.default_rng(2).integers(0, 256, (40, 60, 3), np.uint8)

    def test_between_pixels_it_equals_scipy(self) -> None:
        rng = np.random.default_rng(3)
        x, y = rng.uniform(1, 57, 200), rng.uniform(1, 37, 200)
        for channel in range(3):
            linear = LINEAR_OF_CODE[self.pixels[..., channel]] / 65535
            wanted = ndimage.map_coordinates(linear, [y, x], order=1)
            np.testing.assert_allclose(bilinear_light(self.pixels, channel, x, y), wanted, atol=1e-9)

    def test_groups_that_reach_out_of_the_photo_are_told(self) -> None:
        groups = np.array(
            [
                [[5.0, 5.0], [58.5, 5.0]],
                [[5.0, 7.0], [57.0, 37.0]],
                [[5.0, -1.0], [5.0, 5.0]],
                [[2.0, 2.0], [9.0, 37.5]],
            ]
        )
        self.assertEqual(inside(self.pixels, groups).tolist(), [1])
        light = bilinear_light(self.pixels, 1, np.array([5.0]), np.array([7.0]))
        self.assertAlmostEqual(float(light[0]), float(LINEAR_OF_CODE[self.pixels[7, 5, 1]]) / 65535)


class LeftOver(TestCase):
    def test_it_equals_numpys_least_squares(self) -> None:
        rng = np.random.default_rng(4)
        shapes, ground, seen = rng.normal(size=(5, 30)), rng.uniform(0.5, 2, 30), rng.normal(size=30)
        for shape, told in zip(shapes, _left_over(shapes, ground, seen), strict=True):
            wanted = np.linalg.lstsq(np.stack([shape, ground], axis=1), seen, rcond=None)[1][0]
            self.assertAlmostEqual(float(told), float(wanted), places=9)


class Boxes(TestCase):
    def test_a_zone_covers_its_box_and_what_is_asked_beyond(self) -> None:
        zone = Finding(kind="dark_zone", x=100, y=50, w=40, h=20, contrast=-0.2, confidence=0.9)
        self.assertTrue(covers(zone, 119, 59))
        self.assertFalse(covers(zone, 121, 50))
        self.assertTrue(covers(zone, 121, 50, 5))
        self.assertFalse(covers(zone, 119, 50, -5))

    def test_a_place_of_a_few_blocks_is_no_region(self) -> None:
        field = np.zeros((20, 20))
        field[3:5, 3:5] = 1
        self.assertEqual(regions(field, 0.5), [])
        field[3:6, 3:6] = 1
        self.assertEqual(len(regions(field, 0.5)), 1)
