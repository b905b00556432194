"""Panel against external screen: what shows on both comes from before the panel (common practice)."""

from unittest import TestCase

import numpy as np

from lens.inspecting import PhotoFile, bear_witness, inspect_files
from lens.panel import Panel, make_panel
from lens.records import Inspection
from lens.simulate import DeviceFault, FaultyPanel, random_camera, shoot_set
from tests.core.sets import PANEL

OUTSIDE = make_panel(960, 600)
COLUMN = DeviceFault(kind="dark_column", x=240, y=0)
DEAD = DeviceFault(kind="dead_pixel", x=500, y=333)


TRIAGE = ("white", "black", "grey50")


def seen(
    panel: Panel, faults: tuple[DeviceFault, ...], seed: int, patterns: tuple[str, ...] = TRIAGE, **more: object
) -> Inspection:
    device = FaultyPanel.model_validate({"panel": panel, "faults": faults, **more})
    rng = np.random.default_rng(seed)
    shots = shoot_set(device, patterns, random_camera(rng, 2000, 1500), rng)
    return inspect_files(panel, [PhotoFile(name, shot.data) for name, shot in shots.items()])


class Outside(TestCase):
    def test_a_fault_of_the_panel_alone_leaves_the_external_screen_clean(self) -> None:
        told = bear_witness(seen(PANEL, (COLUMN, DEAD), 1), seen(OUTSIDE, (), 2))
        self.assertEqual((told.outcome, len(told.panel_only), len(told.same)), ("clean", 2, 0))
        self.assertIn("panel, cable or plug", told.text)

    def test_a_line_at_the_same_share_of_the_picture_comes_from_before_the_panel(self) -> None:
        scaled = DeviceFault(kind="block", x=240.5 * 960 / 800 - 0.5, y=299.5, w=1, h=600, depth=1.0)
        told = bear_witness(seen(PANEL, (COLUMN,), 3), seen(OUTSIDE, (scaled,), 4))
        self.assertEqual((told.outcome, len(told.same)), ("same_fault", 1))
        both = bear_witness(seen(PANEL, (COLUMN, DEAD), 5), seen(OUTSIDE, (scaled,), 6))
        self.assertEqual((both.outcome, len(both.same), len(both.panel_only)), ("partly", 1, 1))

    def test_a_line_elsewhere_is_another_one(self) -> None:
        other = DeviceFault(kind="dark_column", x=700, y=0)
        told = bear_witness(seen(PANEL, (COLUMN,), 7), seen(OUTSIDE, (other,), 8))
        self.assertEqual((told.outcome, len(told.panel_only), len(told.external_only)), ("clean", 1, 1))

    def test_wrong_pictures_are_compared_by_what_is_wrong(self) -> None:
        solids = ("white", "red", "green", "blue")
        same = bear_witness(
            seen(PANEL, (), 9, solids, wiring=(2, 1, 0)), seen(OUTSIDE, (), 10, solids, wiring=(2, 1, 0))
        )
        self.assertEqual(same.outcome, "same_fault")
        torn = bear_witness(seen(PANEL, (), 11, picture="torn", offset_px=120), seen(OUTSIDE, (), 12))
        self.assertEqual(torn.outcome, "clean")

    def test_light_is_the_panels_own_and_too_little_seen_proves_nothing(self) -> None:
        shade = DeviceFault(kind="shade", x=400, y=499, size_px=120, h=70, depth=0.4)
        scaled = shade.model_copy(update={"x": 480.0, "y": 599.0, "size_px": 144.0, "h": 84.0})
        self.assertEqual(bear_witness(seen(PANEL, (shade,), 13), seen(OUTSIDE, (scaled,), 14)).outcome, "clean")
        blind = seen(OUTSIDE, (), 15).model_copy(
            update={"proven": seen(OUTSIDE, (), 15).proven.model_copy(update={"pixels": 0.2})}
        )
        self.assertEqual(bear_witness(seen(PANEL, (COLUMN,), 16), blind).outcome, "not_proven")

    def test_what_both_show_counts_however_little_else_is_proven(self) -> None:
        line = DeviceFault(kind="block", x=240.5 * 960 / 800 - 0.5, y=299.5, w=1, h=600, depth=1.0)
        poor = seen(OUTSIDE, (line,), 4)
        poor = poor.model_copy(update={"proven": poor.proven.model_copy(update={"pixels": 0.2})})
        told = bear_witness(seen(PANEL, (COLUMN, DEAD), 3), poor)
        self.assertEqual((told.outcome, len(told.same)), ("same_fault", 1))
        self.assertIn("the other 1 too is not proven", told.text)
