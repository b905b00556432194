"""The camera's curve from two exposures of one pattern: against curves that are known, and what it does for the uniformity."""

from unittest import TestCase

import numpy as np

from lens.faults.tone import pair_tone
from lens.inspecting import PhotoFile, inspect_files
from lens.photo import PhotoRead, read_photo
from lens.simulate import Camera, DeviceFault, FaultyPanel, photograph_flat, shoot, standing_pose
from tests.core.sets import CAMERA, PANEL

# a panel that loses 30 % about its top left point of the nine; the spot's middle lies on that point
SHADE = DeviceFault(kind="shade", x=79.5, y=49.5, size_px=220, depth=0.3)


def darker(camera: Camera, share: float) -> Camera:
    return camera.model_copy(
        update={"white_level": camera.white_level * share, "exposure_s": camera.exposure_s * share}
    )


def pair(contrast: float, share: float = 0.3, seed: int = 5) -> tuple[list[PhotoFile], Camera]:
    camera, rng = CAMERA.model_copy(update={"contrast": contrast}), np.random.default_rng(seed)
    device = FaultyPanel(panel=PANEL, faults=(SHADE,))
    return [
        PhotoFile(f"white-{n}.jpg", shoot(device, "white", own, rng).data)
        for n, own in enumerate((camera, darker(camera, share)))
    ], camera


def reads(files: list[PhotoFile]) -> list[PhotoRead]:
    return [read_photo(file.data, PANEL) for file in files]


class Pair(TestCase):
    def test_an_srgb_camera_has_a_slope_of_one(self) -> None:
        tone = pair_tone(reads(pair(0.0)[0]))
        assert tone is not None
        self.assertAlmostEqual(tone.slope, 1.0, delta=2 * tone.misfit)

    def test_a_bent_curve_is_undone_between_the_two_levels(self) -> None:
        files, _ = pair(0.25)
        told = reads(files)
        tone = pair_tone(told)
        assert tone is not None
        bright, dark = (float(np.median(photo.view.level[..., 1])) for photo in told)
        self.assertGreater(
            abs(np.log(bright / dark) - np.log(1 / 0.3)), 0.03
        )  # what the file's exposures do not explain
        ratio = tone.light(np.array([bright]))[0] / tone.light(np.array([dark]))[0]
        self.assertAlmostEqual(float(np.log(ratio)), np.log(1 / 0.3), delta=0.02)

    def test_the_uniformity_is_surer_with_it_and_right(self) -> None:
        for seed, contrast in ((5, 0.25), (6, 0.0), (7, -0.08)):
            files, camera = pair(contrast, seed=seed)
            flat = PhotoFile("flat.jpg", photograph_flat(camera, np.random.default_rng(seed)), "flat")
            alone, both = (inspect_files(PANEL, [*some, flat]).uniformity for some in (files[:1], files))
            assert alone is not None and both is not None
            self.assertLess(both.uncertainty, alone.uncertainty)
            self.assertLess(abs(both.ratio - 0.7), both.uncertainty)

    def test_what_is_no_pair_tells_nothing(self) -> None:
        files, camera = pair(0.0)
        self.assertIsNone(pair_tone(reads(files[:1])))
        rng = np.random.default_rng(8)
        device = FaultyPanel(panel=PANEL, view_loss=0.4)
        red, side = (
            shoot(device, "red", darker(camera, 0.3), rng),
            shoot(
                device, "white", darker(camera, 0.3), rng, pose=standing_pose(PANEL, camera, rng, tilt_deg=(22.0, 24.0))
            ),
        )
        for other in (red, side):
            self.assertIsNone(pair_tone([*reads(files[:1]), read_photo(other.data, PANEL)]))
