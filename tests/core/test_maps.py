"""Maps of what was seen and how small a fault would have been; rings around markers; extents of bright faults."""

from unittest import TestCase

import numpy as np

from lens.faults.groups import group
from lens.faults.uniformity import disc_means, nine_points, thirteen_points
from lens.inspecting import inspect_files
from lens.panel import make_panel
from lens.patterns import get_pattern, marker_mask, marker_rings
from lens.simulate import DeviceFault
from tests.core.sets import PANEL, files

TINT = DeviceFault(kind="tint", x=560, y=160, size_px=70, rgb=(0.0, 0.01, 0.16))
SHADE = DeviceFault(kind="shade", x=200, y=350, size_px=40, depth=0.06)


class Maps(TestCase):
    def test_they_peak_where_the_fault_is(self) -> None:
        result = inspect_files(PANEL, files(faults=(TINT, SHADE), seed=91))
        for told, fault, sign in ((result.tint_map, TINT, 1), (result.mura_map, SHADE, -1)):
            assert told is not None
            row, column = divmod(int(np.argmax(sign * np.array(told.values))), told.columns)
            self.assertLess(abs((column + 0.5) / told.columns * PANEL.width - fault.x), 30)
            self.assertLess(abs((row + 0.5) / told.rows * PANEL.height - fault.y), 30)

    def test_the_smallest_fault_seen_agrees_with_what_is_proven(self) -> None:
        result = inspect_files(PANEL, files(faults=(), seed=92))
        told = {(one.kind, one.channel, one.orientation): one for one in result.smallest}
        for channel in ("red", "green", "blue"):
            self.assertLess(told["dark_subpixel", channel, None].median, 1)
            # a lit subpixel on black shines a hundred times above a dark one on a colour, but a faint glow is no fault
            self.assertEqual(told["bright_subpixel", channel, None].worst, 0.4)
            self.assertLess(told["bright_subpixel", channel, None].median, told["dark_subpixel", channel, None].median)
        self.assertLessEqual(told["dead_pixel", None, None].median, told["dark_subpixel", "green", None].median)
        weakest = min(one.proven for one in result.smallest if one.kind == "dark_subpixel")
        self.assertAlmostEqual(weakest, result.proven.subpixels, delta=0.02)
        self.assertLess(told["line", None, "column"].median, 0.05)

    def test_one_photo_proves_less_than_six(self) -> None:
        one = inspect_files(PANEL, files(faults=(), seed=92)[:1]).smallest
        self.assertGreater(next(s.median for s in one if s.channel == "blue"), 1)
        self.assertIsNone(inspect_files(PANEL, files(faults=(), seed=92)[:1]).tint_map)


class Points(TestCase):
    def test_thirteen_are_the_nine_and_four_half_way_to_the_corners(self) -> None:
        panel = make_panel(1000, 500)
        points = thirteen_points(panel)
        np.testing.assert_array_equal(points[:9], nine_points(panel))
        np.testing.assert_allclose(points[9:], [(299.5, 149.5), (699.5, 149.5), (299.5, 349.5), (699.5, 349.5)])

    def test_five_nine_and_thirteen_of_a_lean(self) -> None:
        result = inspect_files(
            PANEL, files(faults=(DeviceFault(kind="shade", x=799, y=250, size_px=400, h=4000, depth=0.3),), seed=42)
        ).uniformity
        assert result is not None
        # corners and middle hold both ends of a lean from side to side, and the four between lie within
        for count in (5, 13):
            self.assertAlmostEqual(result.of(count), result.ratio, delta=0.015)

    def test_a_disc_is_a_twentieth_of_the_height(self) -> None:
        field = np.zeros((63, 100))
        field[30:33, 49:51] = 1.0
        self.assertGreater(float(disc_means(PANEL, field, np.array([(399.5, 249.5)]))[0]), 0.5)


class Rings(TestCase):
    def test_they_lie_one_pixel_apart_around_what_is_hidden(self) -> None:
        pattern = get_pattern("white")
        rings = marker_rings(PANEL, pattern, 3, 4)
        self.assertEqual(set(np.unique(rings)), set(range(9)))
        # those around probes count on from those around markers
        rings = np.where(rings > 4, rings - 4, rings)
        for number in range(1, 5):
            grown = marker_mask(PANEL, pattern, 3 + 5 - number)
            np.testing.assert_array_equal(rings >= number, grown)


class Extents(TestCase):
    def test_the_halo_of_a_bright_fault_makes_it_no_area(self) -> None:
        snr = np.zeros((60, 60), np.float32)
        y, x = np.mgrid[:60, :60]
        far = np.hypot(x - 30, y - 30)
        snr[far < 7] = 9
        snr[far < 2.5] = 170
        self.assertEqual(group(snr)[0].shape, "compact")
        snr[far < 7] = 60
        self.assertEqual(group(snr)[0].shape, "area")
