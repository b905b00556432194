"""A picture that stayed, told from mura, zones and lines."""

from unittest import TestCase

from lens.faults.zones import covers
from lens.simulate import DeviceFault
from tests.core.sets import found

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
        mura = tuple(DeviceFault(kind="shade", x=x, y=y, size_px=40, depth=0.05) for x, y in ((150, 120), (400, 380), (650, 130)))
        blocks = tuple(DeviceFault(kind="block", x=x, y=249.5, w=80, h=500, depth=0.2) for x in (220, 620))
        for faults in (mura, blocks):
            self.assertNotIn("retained_image", [f.kind for f in found(faults, 30, LIT)])
