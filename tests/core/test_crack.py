"""A broken cell: found with its live share, and not seen where there are only lines or hairs; the truth is the simulator's mask."""

from unittest import TestCase

from lens.records import Finding
from lens.simulate import DeviceFault, crack_mask
from tests.core.sets import PANEL, found

CRACK = DeviceFault(kind="crack", x=300, y=200, size_px=55, w=6, h=220, depth=0.4)
STAR = DeviceFault(kind="crack", x=520, y=280, size_px=6, w=7, h=240, depth=0.7)
LINES = tuple(DeviceFault(kind="block", x=x, y=249.5, w=2, h=500, depth=1) for x in (100, 250, 400, 550, 700)) + (
    DeviceFault(kind="block", x=399.5, y=120, w=800, h=2, depth=1),
    DeviceFault(kind="block", x=399.5, y=380, w=800, h=3, depth=0.9),
)


def cracks(findings: tuple[Finding, ...]) -> list[Finding]:
    return [f for f in findings if f.kind == "crack"]


class Cracks(TestCase):
    def test_ink_rays_and_live_share(self) -> None:
        told = found((CRACK,), 31)
        (crack,) = cracks(told)
        self.assertAlmostEqual(-crack.contrast, float((crack_mask(PANEL, CRACK) > 0.5).mean()), delta=0.02)
        self.assertLess(abs(crack.x - CRACK.x), 150)
        self.assertIn("still lives", " ".join(crack.reasons))
        # its ink is not told a second time as a zone, nor its rays as bands or dust
        self.assertLessEqual({f.kind for f in told}, {"crack", "line"})

    def test_a_star_without_a_lake_of_ink(self) -> None:
        (crack,) = cracks(found((STAR,), 32))
        self.assertIn("rays from", crack.reasons[0])

    def test_crossing_lines_are_no_crack(self) -> None:
        self.assertEqual(cracks(found(LINES, 33)), [])

    def test_a_clean_panel_is_whole(self) -> None:
        self.assertEqual(cracks(found((), 34)), [])
