"""A picture that is not the one that was sent: swapped, missing and inverted colours, by white balances of ordinary phones; displaced ones."""

from unittest import TestCase

import numpy as np

from lens.inspecting import PhotoFile, inspect_files
from lens.records import Inspection
from lens.simulate import FaultyPanel, shoot_set
from tests.core.sets import CAMERA, PANEL, SOLIDS


def looked_at(patterns: tuple[str, ...] = SOLIDS, seed: int = 6, **device: object) -> Inspection:
    panel = FaultyPanel.model_validate({"panel": PANEL, **device})
    shots = shoot_set(panel, patterns, CAMERA, np.random.default_rng(seed))
    return inspect_files(PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()])


def told(result: Inspection) -> str:
    return " ".join(f.reasons[0] for f in result.findings if f.kind == "artifact")


class WrongPicture(TestCase):
    def test_exchanged_colours_are_named(self) -> None:
        for wiring, words in (
            ((2, 1, 0), ("Red was sent and blue is seen", "Blue was sent and red is seen")),
            ((1, 0, 2), ("Red was sent and green is seen", "Green was sent and red is seen")),
        ):
            result = looked_at(wiring=wiring)
            for word in words:
                self.assertIn(word, told(result))
            self.assertEqual(result.verdict.result, "fail")

    def test_a_missing_colour_is_named(self) -> None:
        for channel, name in enumerate(("red", "green", "blue")):
            wiring = [None if c == channel else c for c in range(3)]
            result = looked_at(("white", "grey50"), wiring=wiring)
            self.assertIn(f"No {name} in white and grey50", told(result))

    def test_an_inverted_picture_is_no_dead_panel(self) -> None:
        result = looked_at(("white", "black"), inverted=True)
        self.assertIn("the picture is inverted", told(result))
        self.assertEqual({f.kind for f in result.findings}, {"artifact"})

    def test_a_right_picture_raises_nothing(self) -> None:
        self.assertEqual(told(looked_at()), "")


class PartsMissing(TestCase):
    def test_half_a_picture_is_one_finding(self) -> None:
        for patterns in (("white", "grey50"), SOLIDS):
            result = looked_at(patterns, 71, picture="half")
            self.assertEqual([f.kind for f in result.findings], ["artifact"])
            self.assertIn("the right half is dark", told(result))
            self.assertAlmostEqual(result.findings[0].w, PANEL.width / 2, delta=4)
            self.assertLess(result.proven.pixels, 0.5)  # what is dark proves nothing

    def test_a_picture_that_is_moved_leaves_a_dark_strip_at_the_rim(self) -> None:
        for seed, offset in ((71, 40), (72, 88), (73, -56)):
            result = looked_at(("white", "grey50"), seed, picture="cut", offset_px=offset)
            self.assertEqual([f.kind for f in result.findings], ["band"], f"{offset} px")
            band = result.findings[0]
            self.assertAlmostEqual(band.w, abs(offset), delta=4)
            # the markers say where the picture is, so what was cut off lies where the picture would go on
            self.assertEqual(band.x > PANEL.width / 2, offset > 0)
            self.assertIn("the picture is moved by about", " ".join(band.reasons))

    def test_dead_columns_inside_stay_bands_with_places(self) -> None:
        block = {"kind": "block", "x": 399.5, "y": 249.5, "w": 160, "h": 500, "depth": 1.0}
        result = looked_at(("white", "grey50"), 75, faults=[block])
        self.assertEqual([(f.kind, f.orientation) for f in result.findings], [("band", "column")])
        self.assertAlmostEqual(result.findings[0].x, 399.5, delta=3)
        self.assertAlmostEqual(result.findings[0].w, 160, delta=5)


class Displaced(TestCase):
    def test_a_faint_copy_is_a_ghost(self) -> None:
        for offset in (30, 80):
            result = looked_at(("white", "grey50"), 71, picture="ghost", offset_px=offset)
            self.assertEqual([f.kind for f in result.findings], ["artifact"])
            self.assertIn(f"a fainter copy of it stands {offset} px across", told(result))

    def test_shifted_torn_and_repeated_pictures_are_named(self) -> None:
        for number, (picture, word) in enumerate(
            (("shifted", "shifted"), ("torn", "170 px across and 0 px down"), ("repeated", "400 px across"))
        ):
            result = looked_at(("white", "grey50"), 70 + number, picture=picture, offset_px=170)
            self.assertEqual([f.kind for f in result.findings], ["artifact"], picture)
            self.assertIn(word, result.findings[0].reasons[0])
            self.assertEqual(result.verdict.result, "fail")
