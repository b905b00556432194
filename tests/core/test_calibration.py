"""What the benchmarks say of stated confidence."""

from unittest import TestCase

from benchmarks.calibration import Stated, calibration_error, share_interval


class Calibration(TestCase):
    def test_the_error_is_the_mean_distance_weighted_by_findings(self) -> None:
        honest = [Stated(0.6, n < 6) for n in range(10)]
        self.assertAlmostEqual(calibration_error(honest), 0.0)
        # worked by hand: ten at 0.6 of which six are right, thirty at 0.97 of which 24 are: (10 * 0 + 30 * 0.17) / 40
        mixed = honest + [Stated(0.97, n < 24) for n in range(30)]
        self.assertAlmostEqual(calibration_error(mixed), 0.1275)

    def test_an_interval_of_a_share_is_wilsons(self) -> None:
        """Statsmodels' and R's prop.test without correction for 81 of 263: 0.255 to 0.366 (Newcombe 1998, table I, from memory)."""
        low, high = share_interval(81, 263)
        self.assertAlmostEqual(low, 0.2553, delta=0.0005)
        self.assertAlmostEqual(high, 0.3662, delta=0.0005)
        self.assertEqual(share_interval(0, 0), (0.0, 1.0))
