"""The grey ladder: the camera's curve from colours that add up, then gamma and grey tracking."""

from unittest import TestCase

import colour
import numpy as np

from lens.faults.tone import learn_tone, patch_light
from lens.faults.uniformity import uv_of
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import get_pattern, ladder_patches, marker_mask, render
from lens.photo import read_photo
from lens.records import Greys
from lens.simulate import Camera, FaultyPanel, shoot_set
from tests.core.independent_camera import independent_photo
from tests.core.sets import CAMERA, PANEL, files


def greys_of(data: bytes) -> Greys | None:
    return inspect_files(PANEL, [PhotoFile("ladder.jpg", data)]).greys


def ladder_photo(gamma: tuple[float, float, float] | None, camera: Camera = CAMERA, seed: int = 3) -> bytes:
    return shoot_set(FaultyPanel(panel=PANEL, gamma=gamma), ("ladder",), camera, np.random.default_rng(seed))[
        "ladder"
    ].data


class Layout(TestCase):
    def test_patches_are_drawn_exactly_and_keep_off_markers_on_any_panel(self) -> None:
        for width, height in ((320, 240), (800, 500), (1080, 2400), (7680, 4320)):
            panel = make_panel(width, height)
            image, markers = render(panel, get_pattern("ladder")), marker_mask(panel, get_pattern("white"), 4)
            patches = ladder_patches(panel)
            self.assertEqual(len({patch.drive for patch in patches}), len(patches) - 1)  # the black one stands twice
            for patch in patches:
                left, top, right, bottom = patch.cell
                self.assertFalse(markers[top:bottom, left:right].any(), f"{patch} at {width}x{height}")
                left, top, right, bottom = patch.box
                self.assertTrue((image[top:bottom, left:right] == np.array(patch.drive)).all())


class Curve(TestCase):
    def test_a_bent_curve_is_learned_from_sums_of_colours(self) -> None:
        # the panel's gammas are powers, so the true light of each grey is known without the camera
        for contrast in (-0.08, 0.12, 0.25):
            camera = CAMERA.model_copy(update={"contrast": contrast})
            ladder = read_photo(ladder_photo((2.0, 2.0, 2.0), camera), PANEL).ladder
            tone = learn_tone(read_photo(ladder_photo((2.0, 2.0, 2.0), camera), PANEL))
            assert tone is not None
            greys = [n for n, seen in enumerate(ladder) if seen.patch.channel is None and seen.patch.level >= 56]
            truth = np.array([(ladder[n].patch.level / 255) ** 2.0 for n in greys])
            learned, plain = (np.abs(np.log(patch_light(t, ladder)[greys, 1] / truth)).max() for t in (tone, None))
            self.assertLess(learned, 0.06)
            self.assertLess(learned, plain)

    def test_without_enough_colours_nothing_is_learned(self) -> None:
        read = read_photo(ladder_photo(None), PANEL)
        few = read._replace(
            ladder=tuple(seen for seen in read.ladder if seen.patch.channel is None or seen.patch.level < 110)
        )
        self.assertIsNone(learn_tone(few))


class Response(TestCase):
    def test_gamma_and_tracking_hold_their_stated_limits(self) -> None:
        for number, gammas in enumerate(((1.8, 1.8, 1.8), (2.2, 2.3, 2.1), (2.6, 2.5, 2.55))):
            camera = CAMERA.model_copy(update={"contrast": 0.1 * number})
            told = greys_of(ladder_photo(gammas, camera, seed=number))
            assert told is not None and told.camera_curve_learned
            drive = np.array([p.level for p in told.points if p.level >= 56]) / 255
            rgb = drive[:, None] ** np.array(gammas)
            # reference: colour-science (sRGB primaries, u'v' of CIE 1976)
            xyz = rgb @ colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ.T
            uv = colour.xy_to_Luv_uv(colour.XYZ_to_xy(xyz))
            white = colour.xy_to_Luv_uv(colour.XYZ_to_xy(colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ.sum(axis=1)))
            gamma = np.log(xyz[:, 1]) @ np.log(drive) / (np.log(drive) @ np.log(drive))
            self.assertLessEqual(abs(told.gamma - gamma), told.uncertainty)
            self.assertLess(told.uncertainty, 0.08)
            self.assertLessEqual(
                abs(told.max_delta_uv - np.linalg.norm(uv - white, axis=1).max()), told.delta_uv_uncertainty
            )
            np.testing.assert_allclose(told.channels, gammas, atol=0.06)

    def test_an_srgb_panel_has_a_gamma_of_about_2_2(self) -> None:
        # IEC 61966-2-1: the sRGB curve is close to a power of 2.2
        told = greys_of(ladder_photo(None))
        assert told is not None
        self.assertLess(abs(told.gamma - 2.2), 0.1)
        self.assertLess(told.max_delta_uv, 0.003)

    def test_photos_of_another_camera_with_a_curve_of_its_own(self) -> None:
        for gamma, curve in ((2.4, None), (2.0, 1.9)):
            told = greys_of(independent_photo(PANEL, "ladder", (), 5, gamma, curve))
            assert told is not None
            self.assertLessEqual(abs(told.gamma - gamma), told.uncertainty, f"curve {curve}")

    def test_an_over_exposed_ladder_says_nothing(self) -> None:
        self.assertIsNone(greys_of(ladder_photo(None, CAMERA.model_copy(update={"white_level": 1.3}))))

    def test_the_learned_curve_mends_the_uniformity(self) -> None:
        camera = CAMERA.model_copy(update={"contrast": 0.25})
        with_ladder = inspect_files(
            PANEL, files(faults=(), patterns=("white", "grey50", "ladder"), camera=camera)
        ).uniformity
        without = inspect_files(PANEL, files(faults=(), patterns=("white", "grey50"), camera=camera)).uniformity
        assert with_ladder and without
        self.assertLess(with_ladder.uncertainty, without.uncertainty)
        self.assertLess(abs(with_ladder.ratio - 1), with_ladder.uncertainty)  # the simulated panel is even

    def test_u_v_against_colour_science(self) -> None:
        xyz = np.random.default_rng(1).uniform(0.05, 1, (50, 3))
        np.testing.assert_allclose(uv_of(xyz), colour.xy_to_Luv_uv(colour.XYZ_to_xy(xyz)), atol=1e-9)
