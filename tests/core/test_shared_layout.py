"""Panels whose pixels share red and blue subpixels, as many self-lit ones do (common practice)."""

from unittest import TestCase

import numpy as np

from lens.faults.light_model import shares_subpixels
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.photo import read_photo
from lens.records import Finding
from lens.simulate import Camera, DeviceFault, FaultyPanel, random_faults, shared_light, shoot_set
from tests.core.sets import SOLIDS

PANEL = make_panel(480, 800, 4.5)
CAMERA = Camera(width=1125, height=1500, blur_px=0.8)
FAULTS = (
    DeviceFault(kind="dead_pixel", x=120, y=90),
    DeviceFault(kind="dead_pixel", x=121, y=300),
    DeviceFault(kind="bright_pixel", x=300, y=500),
    DeviceFault(kind="dark_subpixel", x=200, y=400, channel="red"),
    DeviceFault(kind="bright_subpixel", x=331, y=600, channel="blue"),
    DeviceFault(kind="dark_subpixel", x=77, y=700, channel="green"),
)


def shot(
    layout: str, faults: tuple[DeviceFault, ...] = FAULTS, seed: int = 3, patterns: tuple[str, ...] = SOLIDS
) -> list[PhotoFile]:
    device = FaultyPanel.model_validate({"panel": PANEL, "faults": faults, "black_leak": 0.0, "layout": layout})
    return [
        PhotoFile(name, one.data)
        for name, one in shoot_set(device, patterns, CAMERA, np.random.default_rng(seed)).items()
    ]


def pixels(findings: tuple[Finding, ...]) -> set[tuple[str, str | None, float, float]]:
    return {(f.kind, f.channel, f.x, f.y) for f in findings}


class SharedLayout(TestCase):
    def test_each_fault_is_one_finding_of_its_kind(self) -> None:
        for layout in ("shared", "striped"):
            result = inspect_files(PANEL, shot(layout))
            self.assertEqual(pixels(result.findings), {(f.kind, f.channel, f.x, f.y) for f in FAULTS}, layout)
            self.assertGreater(result.proven.subpixels, 0.95)

    def test_the_layout_is_told_by_the_probes_that_do_not_answer(self) -> None:
        for layout in ("shared", "striped"):
            reads = [read_photo(file.data, PANEL) for file in shot(layout, (), patterns=("white", "black", "red"))]
            self.assertEqual(shares_subpixels(reads), layout == "shared")

    def test_a_clean_one_has_no_pixel_fault(self) -> None:
        self.assertEqual(pixels(inspect_files(PANEL, shot("shared", (), 4)).findings), set())

    def test_every_pixel_has_green_and_one_more_of_twice_the_light(self) -> None:
        light = shared_light(np.full((4, 6, 3), 0.25, np.float32))
        self.assertTrue((light[..., 1] == 0.25).all())
        self.assertTrue((np.sort(light[..., ::2], axis=2) == [0.0, 0.5]).all())
        np.testing.assert_allclose(light.mean(axis=(0, 1)), 0.25)  # no colour is lost over two pixels

    def test_made_faults_are_of_subpixels_that_exist(self) -> None:
        for fault in random_faults(PANEL, 60, np.random.default_rng(1), shared=True):
            self.assertFalse(fault.channel == "red" and (fault.x + fault.y) % 2 == 1)
            self.assertFalse(fault.channel == "blue" and (fault.x + fault.y) % 2 == 0)
