"""Dark subpixels at few camera pixels a panel pixel, where a phone stores colour for two by two pixels and each shows faintly.

An ideal observer that knows the photo without the fault finds nearly all of them here (benchmark photo, its last table).
"""

from unittest import TestCase

import numpy as np

from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.simulate import DeviceFault, FaultyPanel, random_camera, random_pose, shoot
from tests.core.sets import SOLIDS

PANEL = make_panel(960, 600)
FILL, SCALE = 0.9, 1.25


def shot(faults: tuple[DeviceFault, ...], seed: int) -> list[PhotoFile]:
    rng = np.random.default_rng(seed)
    width = round(SCALE * PANEL.width / FILL / 8) * 8
    camera = random_camera(rng, width, width * 3 // 4).model_copy(update={"blur_px": 0.8})
    return [
        PhotoFile(
            name,
            shoot(
                FaultyPanel(panel=PANEL, faults=faults),
                name,
                camera,
                rng,
                pose=random_pose(PANEL, camera, rng, fill=FILL),
            ).data,
        )
        for name in SOLIDS
    ]


class Coarse(TestCase):
    def test_single_dark_red_and_blue_subpixels_are_found_at_their_place(self) -> None:
        rng = np.random.default_rng(1)
        places = [
            (150 + 80 * (n % 9) + int(rng.integers(0, 20)), 110 + 90 * (n // 9) + int(rng.integers(0, 20)))
            for n in range(36)
        ]
        faults = tuple(
            DeviceFault(kind="dark_subpixel", x=x, y=y, channel=("red", "blue")[n % 2])
            for n, (x, y) in enumerate(places)
        )
        told = [f for f in inspect_files(PANEL, shot(faults, 5)).findings if f.kind != "cluster"]
        found = {"red": 0, "blue": 0}
        for fault in faults:
            near = [f for f in told if abs(f.x - fault.x) <= 1 and abs(f.y - fault.y) <= 1]
            if [(f.kind, f.channel) for f in near] == [("dark_subpixel", fault.channel)]:
                found[fault.channel or ""] += 1
            told = [f for f in told if f not in near]
        self.assertGreaterEqual(found["red"], 16)
        self.assertGreaterEqual(found["blue"], 13)
        self.assertEqual(told, [])
