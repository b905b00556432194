"""Grains of dust tell the height of the glass that they lie on: a further dot is judged by the two heights that it may have (Bayes' rule)."""

import math
from unittest import TestCase, mock

from lens.faults.grains import DOUBT, NEAR_ODDS, joined_grains, without_grains
from lens.faults.height import UNTOLD, Height
from lens.panel import make_panel
from lens.records import Finding


def dot(kind: str, x: float, y: float, above: float | None = None, sd: float | None = 1.0, **more: object) -> Finding:
    told = {"kind": kind, "x": x, "y": y, "w": 1, "h": 1, "contrast": -1.0, "confidence": 0.99, "above_px": above}
    return Finding.model_validate(told | {"above_sd_px": sd if above is not None else None} | more)


GRAINS = [dot("dust", 100.0 * n, 50.0, 3.0) for n in range(1, 6)]


class Grains(TestCase):
    def test_a_dot_as_high_as_the_grains_is_one_and_one_in_the_pixels_stays(self) -> None:
        for above, beside, kind in (
            (2.9, True, "dust"),
            (2.4, False, "dust"),
            (0.1, False, "dead_pixel"),
            (-0.8, True, "dead_pixel"),
        ):
            told = without_grains([*GRAINS, dot("dead_pixel", 205 if beside else 777, 52, above)])[-1]
            # by hand: log of the likelihoods of lying at 3 and at 0, and what a grain nearby adds
            odds = (above**2 - (above - 3) ** 2) / 2 + (NEAR_ODDS if beside else 0)
            dust = 1 / (1 + math.exp(-odds))
            self.assertEqual(told.kind, kind, above)
            if kind == "dust":
                self.assertAlmostEqual(told.confidence, min(0.99, dust), places=3)
            elif dust >= DOUBT:
                self.assertAlmostEqual(told.alternatives[0].p, dust, places=2)

    def test_a_doubt_is_told_with_what_would_settle_it(self) -> None:
        told = without_grains([*GRAINS, dot("dead_pixel", 777, 500, 1.3)])[-1]
        self.assertEqual((told.kind, told.alternatives[0].kind), ("dead_pixel", "dust"))
        self.assertLess(told.confidence, 0.8)
        self.assertIn("Wipe", told.ask or "")

    def test_a_clean_glass_or_an_unknown_height_changes_nothing(self) -> None:
        lone = [*GRAINS[:2], dot("dead_pixel", 5, 5, 2.9)]
        self.assertEqual(without_grains(lone), lone)
        unknown = [*GRAINS, dot("dead_pixel", 5, 5), dot("bright_pixel", 7, 90, 3.0)]
        self.assertEqual(without_grains(unknown), unknown)

    def test_what_is_left_of_a_grain_is_no_subpixel(self) -> None:
        rest, own = dot("dark_subpixel", 101, 51, channel="green"), dot("dark_subpixel", 104, 52, channel="green")
        self.assertEqual(without_grains([*GRAINS, rest, own])[5:], [own])
        self.assertEqual(without_grains([*GRAINS, dot("dust", 103, 53, 2.8), own])[5:], [dot("dust", 103, 53, 2.8)])

    def test_dots_that_touch_are_one_grain_where_they_lie_above_the_pixels_together(self) -> None:
        touching = [dot("dead_pixel", 40 + n, 30 + n % 2, 0.5) for n in range(4)]
        alone = [dot("dead_pixel", 300, 30, 0.1), dot("dust", 500, 30, 3.0), dot("dust", 501, 31, 3.0)]
        evidence = mock.Mock(panel=make_panel(640, 400))
        for height, kinds in (
            (Height(3.2, 1.0, 160.0), ["dust"]),
            (Height(0.4, 1.0, 1.0), ["dead_pixel"] * 4),
            (UNTOLD, ["dead_pixel"] * 4),
        ):
            with mock.patch("lens.faults.grains.height_above", return_value=height) as asked:
                told = joined_grains(evidence, [*touching, *alone])
            self.assertEqual([one.kind for one in told if one.x < 100], kinds)
            self.assertEqual([one for one in told if one.x > 100], alone)
            self.assertEqual(asked.call_args.args[1], (40, 30, 43, 31))
        spot = joined_grains_of(touching)
        self.assertEqual((spot.x, spot.y, spot.w, spot.h, spot.above_px), (41.5, 30.5, 4, 2, 3.2))


def joined_grains_of(touching: list[Finding]) -> Finding:
    evidence = mock.Mock(panel=make_panel(640, 400))
    with mock.patch("lens.faults.grains.height_above", return_value=Height(3.2, 1.0, 160.0)):
        return joined_grains(evidence, touching)[0]
