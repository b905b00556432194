"""Geometry against published panel sizes and a reference library."""

from unittest import TestCase

import numpy as np
from skimage.transform import ProjectiveTransform

from lens.errors import BadInput
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel, parse_panel
from lens.patterns import get_pattern, render
from lens.photo import registration_of
from lens.photo.registration import fit
from lens.simulate import FaultyPanel, emit, standing_pose
from lens.simulate.phone import natural_light, photograph_by_phone, random_phone


class PanelArithmetic(TestCase):
    def test_density_of_published_sizes(self) -> None:
        # 15.6 in 1920x1080: 141 ppi; 14.0 in 1366x768: 112 ppi; 27 in 2560x1440: 109 ppi (common practice, data sheets)
        for width, height, diagonal, ppi in ((1920, 1080, 15.6, 141), (1366, 768, 14.0, 112), (2560, 1440, 27.0, 109)):
            panel = make_panel(width, height, diagonal)
            self.assertEqual(round(panel.ppi or 0), ppi)
            self.assertAlmostEqual(panel.pitch_mm or 0, 25.4 / (panel.ppi or 1))

    def test_pitch_of_a_data_sheet(self) -> None:
        # a 15.6 in full-HD panel has an active area of 344.16 mm x 193.59 mm, so a pitch of 0.17925 mm (common practice)
        self.assertAlmostEqual(make_panel(1920, 1080, 15.547).pitch_mm or 0, 0.17925, delta=0.0001)

    def test_impossible_panels_are_refused(self) -> None:
        for text in ("1920", "axb", "1920x1080x3", "1x1", "100000x2", "319x100", "9000x4000", "4000x250"):
            with self.assertRaisesRegex(BadInput, "WIDTHxHEIGHT|resolution"):
                parse_panel(text)
        with self.assertRaisesRegex(BadInput, "diagonal"):
            make_panel(1920, 1080, 0.1)


class RegistrationFit(TestCase):
    def test_homography_equals_the_reference(self) -> None:
        # scikit-image's ProjectiveTransform, estimated from the same four points
        source = np.array([[0, 0], [800, 0], [800, 500], [0, 500]], float)
        target = np.array([[103.5, 84.0], [1604.2, 120.3], [1560.0, 1100.8], [88.1, 1043.3]])
        reference = ProjectiveTransform.from_estimate(source, target)
        found = fit(source, target, (1800, 1350))
        points = np.random.default_rng(1).uniform((0, 0), (800, 500), (50, 2))
        np.testing.assert_allclose(found.to_photo(points), reference(points), atol=1e-4)

    def test_radial_distortion_is_found(self) -> None:
        rng = np.random.default_rng(2)
        source = rng.uniform((0, 0), (800, 500), (40, 2))
        truth = fit(source[:4], source[:4] * 1.9 + 100, (1800, 1350))._replace(k1=0.01, k2=-0.003)
        target = truth.to_photo(source)
        found = fit(source, target, (1800, 1350))
        np.testing.assert_allclose(found.to_photo(source), target, atol=0.01)

    def test_dense_map_equals_the_exact_one(self) -> None:
        panel = make_panel(400, 330)
        found = fit(
            np.array(panel.corners), np.array([[50.0, 40], [700, 60], [690, 600], [30, 590]]), (800, 700)
        )._replace(k1=0.01)
        map_x, map_y = np.moveaxis(found.nodes(panel).dense(), -1, 0)
        y, x = np.mgrid[0:330:7, 0:400:7]
        exact = found.to_photo(np.stack([x.ravel(), y.ravel()], axis=1).astype(float))
        np.testing.assert_allclose(map_x[::7, ::7].ravel(), exact[:, 0], atol=0.02)
        np.testing.assert_allclose(map_y[::7, ::7].ravel(), exact[:, 1], atol=0.02)


class PlacedByAPhone(TestCase):
    def test_every_colour_of_the_standard_set_lies_where_the_panel_is(self) -> None:
        """Against the corners of the panel in the photo, which the camera's own geometry knows; seeds of phones whose pale blue leaves next to no
        green, and of one no red: its markers are read in blue, whose light comes from a third of a pixel beside the middle (a striped panel)."""
        panel = make_panel(1024, 640, 11.6)
        ends = np.array([[-0.5, -0.5], [1023.5, -0.5], [1023.5, 639.5], [-0.5, 639.5]])
        for seed in (72005, 72010):
            rng = np.random.default_rng(seed)
            phone, light = random_phone(rng, 2600, 1950), natural_light(panel, rng)
            pose = standing_pose(panel, phone.camera, rng, fill=0.9)
            for name in ("white", "pale-red", "pale-green", "pale-blue"):
                sent = emit(FaultyPanel(panel=panel), render(panel, get_pattern(name))) * light
                shot, _ = photograph_by_phone(sent, phone, pose, rng)
                told = inspect_files(panel, [PhotoFile(name, shot.data)]).photos[0]
                with self.subTest(seed=seed, pattern=name):
                    assert told.map is not None, told.problems
                    off = (registration_of(told.map).to_photo(ends) - np.array(shot.corners)) / 2.28
                    self.assertLess(
                        np.abs(off.mean(axis=0)).max(), 0.36 if (seed, name) == (72010, "pale-blue") else 0.12
                    )
