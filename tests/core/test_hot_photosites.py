"""A hot photosite of one photo beside a dead pixel: a phone's long exposure of black has a hundred of them, so it happens (common practice)."""

from unittest import TestCase

import numpy as np

from lens.inspecting import PhotoFile, inspect_files
from lens.simulate import FaultyPanel, place_in_photo, random_pose, shoot
from tests.core.sets import CAMERA, FAULTS, PANEL, SOLIDS


class BesideFaults(TestCase):
    def test_the_faults_are_told_all_the_same(self) -> None:
        rng, device = np.random.default_rng(11), FaultyPanel(panel=PANEL, faults=FAULTS)
        # two pixels beside each of two dead ones, on the same side of a group that reaches over both
        near = np.array([(509.0, 210.0), (123.0, 88.0)])
        files = []
        for name in SOLIDS:
            pose, camera = random_pose(PANEL, CAMERA, rng), CAMERA
            if name == "black":
                hot = [(round(x) + dx, round(y)) for x, y in place_in_photo(PANEL, camera, pose, near) for dx in (0, 1)]
                camera = camera.model_copy(update={"hot_pixels": tuple(hot)})
            files.append(PhotoFile(name, shoot(device, name, camera, rng, pose=pose).data))
        told = {(f.kind, f.x, f.y, f.channel) for f in inspect_files(PANEL, files).findings}
        self.assertLessEqual({(f.kind, f.x, f.y, f.channel) for f in FAULTS}, told)
        self.assertFalse([one for one in told if one[0].startswith("bright") and (one[1], one[2]) not in _LIT])


_LIT = {(f.x, f.y) for f in FAULTS if f.kind.startswith("bright")}
