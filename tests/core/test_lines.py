"""Lines: found from five percent of contrast on, exact in place, width and ends; the truth is the simulated device's."""

from unittest import TestCase

import numpy as np

from lens.faults.line_findings import period_of
from lens.faults.lines import Line, find_lines, line_threshold
from lens.simulate import DeviceFault
from tests.core.sets import evidence_of, files, found
from tests.core.test_pixels import evidence


def block(x: float, y: float, w: int, h: int, depth: float, **more: object) -> DeviceFault:
    return DeviceFault.model_validate({"kind": "block", "x": x, "y": y, "w": w, "h": h, "depth": depth, **more})


LINES = (
    block(200, 249.5, 1, 500, 0.05),
    block(420, 120, 1, 160, 0.10),
    block(560.5, 380, 2, 120, 0.08),
    block(399.5, 330, 800, 1, 0.05),
    block(650, 249.5, 3, 500, 1.0),
    block(720, 200, 1, 100, 1.0, channel="green"),
    block(280, 249.5, 1, 500, -0.3),
    block(100, 100, 60, 1, 0.2, channel="red"),
)


class RealLines(TestCase):
    def test_faint_and_strong_whole_and_part_dark_lit_and_coloured(self) -> None:
        told = {(f.orientation, f.x, f.y, f.w, f.h): f for f in found(LINES, seed=31) if f.kind == "line"}
        self.assertEqual(len(told), len(LINES), sorted(told))
        for fault in LINES:
            near = [
                f
                for f in told.values()
                if max(abs(f.x - fault.x), abs(f.y - fault.y)) <= 2 and max(abs(f.w - fault.w), abs(f.h - fault.h)) <= 4
            ]
            self.assertEqual(len(near), 1, fault)
            line = near[0]
            across, true_across = (line.y, fault.y) if line.orientation == "row" else (line.x, fault.x)
            self.assertEqual((across, min(line.w, line.h)), (true_across, min(fault.w, fault.h)), fault)
            self.assertEqual(line.channel, fault.channel)
            self.assertEqual(line.contrast < 0, fault.depth > 0)

    def test_contrast_is_the_share_of_whites_luminance(self) -> None:
        # by definition (L - expected L) / white L; a green subpixel line loses 0.7152 of white (sRGB luminance, IEC 61966-2-1)
        told = {(f.x, f.y): f.contrast for f in found(LINES, seed=31) if f.kind == "line"}
        self.assertAlmostEqual(told[200, 249.5], -0.05, delta=0.01)
        self.assertAlmostEqual(next(c for (x, _), c in told.items() if x == 720), -0.7152, delta=0.1)

    def test_a_driver_repeating_lines_tells_their_distance(self) -> None:
        every = tuple(block(90 + 150 * n, 249.5, 1, 500, 0.3) for n in range(4))
        self.assertTrue(
            all("repeat every 150 px" in " ".join(f.reasons) for f in found(every, seed=32) if f.kind == "line")
        )

    def test_lines_beside_each_other_are_no_band(self) -> None:
        lines = (
            *(block(x, 249.5, 1, 500, 0.6) for x in (300, 312)),
            *(block(399.5, y, 800, 1, 0.1) for y in (200, 206)),
        )
        told = found(lines, seed=60)
        self.assertEqual(sorted((f.kind, f.x, f.y) for f in told), sorted(("line", f.x, f.y) for f in lines))

    def test_dots_in_a_column_are_no_line(self) -> None:
        dots = tuple(DeviceFault(kind="dead_pixel", x=300, y=40 + 60 * n) for n in range(7))
        kinds = [f.kind for f in found(dots, seed=33)]
        self.assertEqual((kinds.count("line"), kinds.count("dead_pixel")), (0, 7))

    def test_strong_lines_at_the_rim_are_found_from_half_of_the_light_on(self) -> None:
        at_rim = (
            block(1, 249.5, 1, 500, 1.0),
            block(399.5, 494, 800, 1, 0.5),
            block(794, 99.5, 1, 60, 0.7),
            block(11, 299.5, 1, 200, 0.6, channel="blue"),
        )
        told = [f for f in found(at_rim, seed=34) if f.kind == "line"]
        self.assertEqual(sorted((f.x, f.y) for f in told), sorted((f.x, f.y) for f in at_rim), told)

    def test_bands_are_told_to_the_pixel_whoever_finds_them(self) -> None:
        thin = (
            block(399.5, 130.5, 800, 6, 0.15),
            block(203.5, 249.5, 8, 500, 0.3),
            block(300.5, 219.5, 6, 200, 0.15),
            block(620, 249.5, 7, 500, -0.15),
            block(119.5, 400.5, 200, 6, 0.6),
        )
        for number, band in enumerate(thin):
            told = found((band,), seed=50 + number)
            self.assertEqual([(f.kind, f.x, f.y, f.w, f.h) for f in told], [("band", band.x, band.y, band.w, band.h)])
            self.assertAlmostEqual(told[0].contrast, -band.depth, delta=0.15 * abs(band.depth))
        for number, band in enumerate((block(399.5, 300.5, 800, 12, 0.3), block(411, 249.5, 33, 500, 0.1))):
            told = found((band,), seed=56 + number)
            self.assertEqual([(f.kind, f.x, f.y, f.w, f.h) for f in told], [("band", band.x, band.y, band.w, band.h)])
            self.assertAlmostEqual(told[0].contrast, -band.depth, delta=0.15 * abs(band.depth))

    def test_a_clean_panel_has_none(self) -> None:
        self.assertEqual(find_lines(evidence_of(files(faults=()))), [])


class Threshold(TestCase):
    def test_white_noise_raises_no_line_in_many_sets(self) -> None:
        # the budget is 0.01 a set before the texture margin, so eight sets of pure noise must stay silent
        for seed in range(8):
            self.assertEqual(find_lines(evidence({}, seed)), [])

    def test_it_grows_with_the_panel(self) -> None:
        self.assertGreater(line_threshold(evidence({}, 0)), 5.5)

    def test_period_needs_three_even_gaps(self) -> None:
        def line(across: float) -> Line:
            return Line("column", across, 1, 0, 99, 0, 1.0, 20.0, ())

        self.assertEqual(period_of([line(x) for x in (10, 110, 310)], "column"), 100)
        self.assertIsNone(period_of([line(10), line(110)], "column"))
        self.assertIsNone(period_of([line(x) for x in (1, 11, 794)], "column"), "so small a gap fits into any other")
        self.assertIsNone(period_of([line(x) for x in (10, 110, 257)], "column"))
        self.assertIsNone(period_of([line(x) for x in (10, 110, 310)], "row"))
        self.assertEqual(np.sign(line(3).contrast), -1)
