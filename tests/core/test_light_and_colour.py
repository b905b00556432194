"""Transfer function and colour differences against colour-science and published pairs."""

from unittest import TestCase

import colour
import numpy as np

from lens.faults import delta_e00
from lens.faults.uniformity import nine_points
from lens.panel import make_panel
from lens.photo.light import LINEAR_OF_CODE
from lens.srgb import srgb_to_linear

# Sharma, Wu, Dalal 2005, table 1 (from memory, the pairs that exercise hue and rotation): L a b, L a b, dE00
SHARMA = (
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, 3.1571, -77.2803), (50.0, 0.0, -82.7485), 2.8615),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
    ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0009), 7.1792),
    ((50.0, 2.5, 0.0), (50.0, 0.0, -2.5), 4.3065),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
)


class Light(TestCase):
    def test_srgb_equals_the_reference(self) -> None:
        # IEC 61966-2-1 as implemented by colour-science
        codes = np.arange(256) / 255
        np.testing.assert_allclose(srgb_to_linear(codes), colour.eotf(codes, "sRGB"), atol=1e-6)
        np.testing.assert_allclose(LINEAR_OF_CODE / 65535, colour.eotf(codes, "sRGB"), atol=1e-5)


class ColourDifference(TestCase):
    def test_published_pairs(self) -> None:
        for first, second, wanted in SHARMA:
            self.assertAlmostEqual(delta_e00(np.array(first), np.array(second)), wanted, delta=1e-4)

    def test_random_pairs_equal_the_reference(self) -> None:
        rng = np.random.default_rng(3)
        for first, second in rng.uniform((0, -80, -80), (100, 80, 80), (200, 2, 3)):
            self.assertAlmostEqual(
                delta_e00(first, second), float(colour.delta_E(first, second, method="CIE 2000")), delta=1e-4
            )

    def test_nine_points(self) -> None:
        points = nine_points(make_panel(1000, 500))
        # VESA FPDM 2.0: 10, 50, 90 % of width and height (from memory)
        np.testing.assert_allclose(points[[0, 4, 8]], [(99.5, 49.5), (499.5, 249.5), (899.5, 449.5)])
