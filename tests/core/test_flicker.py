"""Bars of a dimmed backlight, through a rolling shutter."""

from unittest import TestCase

import numpy as np

from lens.inspecting import PhotoFile, inspect_files
from lens.records import Inspection
from lens.simulate import Camera, DeviceFault, Dimming, FaultyPanel, shoot_set
from tests.core.sets import CAMERA, PANEL

ROW_US = 11.0


def inspected(
    dimming: Dimming | None, patterns: tuple[str, ...], camera: Camera, seed: int, faults: tuple[DeviceFault, ...] = ()
) -> Inspection:
    shots = shoot_set(
        FaultyPanel(panel=PANEL, faults=faults, dimming=dimming), patterns, camera, np.random.default_rng(seed)
    )
    return inspect_files(
        PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()], row_time_us=ROW_US
    )


class Bars(TestCase):
    def test_the_frequency_is_told_within_five_percent(self) -> None:
        # 1 / (period in rows x time of a row): common practice for rolling shutters
        for seed, (hz, exposure_s, orientation) in enumerate(
            ((240.0, 1 / 250, 1), (610.0, 1 / 400, 6), (980.0, 1 / 120, 1))
        ):
            camera = CAMERA.model_copy(
                update={"exposure_s": exposure_s, "row_time_us": ROW_US, "orientation": orientation}
            )
            patterns = ("white", "green", "grey50") if seed else ("white",)
            result = inspected(Dimming(hz=hz, duty=0.55), patterns, camera, seed)
            self.assertEqual([f.kind for f in result.findings], ["flicker"], f"{hz} Hz, {patterns}")
            told = result.findings[0].frequency_hz
            assert told is not None
            self.assertLess(abs(told / hz - 1), 0.05)

    def test_the_contrast_is_that_of_the_light(self) -> None:
        # Michelson's contrast: the dark of deep bars is no darker than nothing
        for hz, exposure_s, seed in ((226.0, 1 / 400, 6), (657.0, 1 / 250, 7)):
            dimming = Dimming(hz=hz, duty=0.4)
            camera = CAMERA.model_copy(update={"exposure_s": exposure_s, "row_time_us": ROW_US})
            (told,) = inspected(dimming, ("white", "green", "grey50"), camera, seed).findings
            self.assertAlmostEqual(
                -told.contrast, dimming.contrast(exposure_s), delta=0.15 * dimming.contrast(exposure_s)
            )

    def test_the_bars_do_not_spoil_the_uniformity(self) -> None:
        camera = CAMERA.model_copy(update={"exposure_s": 1 / 250, "row_time_us": ROW_US})
        told = inspected(Dimming(hz=300.0), ("white", "red", "green", "blue", "grey50"), camera, 4).uniformity
        assert told is not None
        self.assertLess(1 - told.ratio, told.uncertainty)  # the simulated panel is even

    def test_bands_and_zones_of_the_panel_are_no_bars(self) -> None:
        stripes = tuple(DeviceFault(kind="block", x=399.5, y=30 + 100 * n, w=800, h=20, depth=0.08) for n in range(5))
        zone = DeviceFault(kind="shade", x=300, y=499, size_px=90, h=70, depth=0.4)
        for faults in (stripes, (zone,), ()):
            result = inspected(None, ("white", "green", "grey50"), CAMERA, 5, faults)
            self.assertNotIn("flicker", [f.kind for f in result.findings])
