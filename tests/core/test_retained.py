"""A picture that stayed, told from mura, zones and lines."""

from unittest import TestCase

import numpy as np

from lens.faults.zones import covers
from lens.inspecting import PhotoFile, inspect_files
from lens.simulate import DeviceFault, FaultyPanel, shoot
from tests.core.sets import CAMERA, PANEL, found

LIT = ("white", "red", "green", "blue", "grey50")


def ghost(depth: float, seed: float) -> DeviceFault:
    return DeviceFault(kind="ghost", x=400, y=250, w=640, h=380, depth=depth, size_px=seed)


class RetainedImage(TestCase):
    def test_a_ghost_from_three_percent_is_told_as_one_and_hides_no_fault(self) -> None:
        dead = DeviceFault(kind="dead_pixel", x=333, y=222)
        for number, depth in enumerate((0.03, -0.035)):
            told = found((ghost(depth, number + 1.0), dead), 20 + number, LIT)
            self.assertEqual([f.kind for f in told], ["retained_image", "dead_pixel"], f"depth {depth}")
            self.assertAlmostEqual(told[0].contrast, -depth, delta=0.015)
            self.assertTrue(covers(told[0], 400, 250))

    def test_mura_zones_and_blocks_are_no_pictures(self) -> None:
        mura = tuple(
            DeviceFault(kind="shade", x=x, y=y, size_px=40, depth=0.05) for x, y in ((150, 120), (400, 380), (650, 130))
        )
        blocks = tuple(DeviceFault(kind="block", x=x, y=249.5, w=80, h=500, depth=0.2) for x in (220, 620))
        for faults in (mura, blocks):
            self.assertNotIn("retained_image", [f.kind for f in found(faults, 30, LIT)])


class Fading(TestCase):
    def test_a_later_photo_tells_retention_from_wear(self) -> None:
        for later, gone, word in ((0.02, 0.6, "fades"), (0.05, 0.0, "wear")):
            rng = np.random.default_rng(44)
            now, then = (FaultyPanel(panel=PANEL, faults=(ghost(depth, 2.0),)) for depth in (0.05, later))
            photos = [PhotoFile(name, shoot(now, name, CAMERA, rng).data) for name in ("white", "grey50", "red")]
            alone = inspect_files(PANEL, photos)
            self.assertEqual([shot.later for shot in alone.next_shots][-1:], [True])
            result = inspect_files(PANEL, [*photos, PhotoFile("later", shoot(then, "grey50", CAMERA, rng).data)])
            (told,) = (f for f in result.findings if f.kind == "retained_image")
            self.assertAlmostEqual(told.faded or 0, gone, delta=0.08)
            self.assertIn(word, told.reasons[-1])
            self.assertFalse(any(shot.later for shot in result.next_shots))
