"""Photos as they come: blur measured, markers hidden, glare, variants, repeated shots, very large files."""

import io
from unittest import TestCase

import cv2
import numpy as np
from PIL import Image

from lens.errors import BadInput
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import get_pattern, marker_layout, render
from lens.photo import read_photo
from lens.photo.markers_seen import grow_markers
from lens.photo.registration import fit
from lens.photo_file import decode
from lens.simulate import Camera, FaultyPanel, emit, photograph, random_pose
from tests.core.sets import CAMERA, FAULTS, PANEL, SOLIDS, files, shots

VARIANTS = tuple(f"{name}-b" for name in SOLIDS)


def pixels_of(name: str) -> np.ndarray:
    return np.asarray(cv2.imdecode(np.frombuffer(shots()[name].data, np.uint8), cv2.IMREAD_COLOR)).copy()


def as_jpeg(pixels: np.ndarray) -> bytes:
    return bytes(cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 93])[1].tobytes())


class Blur(TestCase):
    def test_it_grows_with_the_lens_and_comes_near_the_truth(self) -> None:
        told = []
        for blur_px in (0.8, 1.2, 1.6):
            camera = CAMERA.model_copy(update={"blur_px": blur_px, "sharpening": 0.0})
            told.append(
                read_photo(shots(faults=(), patterns=("grey50",), camera=camera, seed=31)["grey50"].data, PANEL).blur_px
            )
        self.assertEqual(told, sorted(told))
        # photosite and demosaicing add to the lens; sharpening is off
        for measured, truth in zip(told, (0.8, 1.2, 1.6), strict=True):
            self.assertLess(abs(measured - np.hypot(truth, 0.4)), 0.35)

    def test_blur_lowers_what_is_proven(self) -> None:
        sharp, soft = (
            inspect_files(
                PANEL, files(faults=(), patterns=("white", "black", "green"), camera=camera, seed=32)
            ).proven.pixels
            for camera in (CAMERA, CAMERA.model_copy(update={"blur_px": 2.4}))
        )
        self.assertLess(soft, sharp)


class Markers(TestCase):
    def cover(self, name: str, places: tuple[int, ...]) -> bytes:
        """The photo with these markers under a finger."""
        pixels, reading = pixels_of(name), read_photo(shots()[name].data, PANEL)
        layout = {m.place: m for m in marker_layout(PANEL, get_pattern(name))}
        for place in places:
            marker = layout[place]
            x, y = reading.registration.to_photo(
                np.array([[marker.x + marker.side_px / 2, marker.y + marker.side_px / 2]])
            )[0]
            cv2.circle(pixels, (int(x), int(y)), 45, (60, 80, 110), -1)
        return as_jpeg(pixels)

    def test_hidden_markers_cost_nothing_but_their_place(self) -> None:
        truth = np.array(shots()["white"].corners)
        for places in ((0,), (3, 11), (1, 4, 7, 10)):
            read = read_photo(self.cover("white", places), PANEL)
            self.assertEqual(read.pattern.id, "white")
            self.assertLess(np.abs(np.array(read.corners) - truth).max(), 1.5, places)

    def test_another_run_is_refused_though_a_digit_of_it_is_hidden(self) -> None:
        lowest_hidden = self.cover("white", (1, 6))
        with self.assertRaisesRegex(BadInput, "another job's"):
            read_photo(lowest_hidden, PANEL, expected_run=83)
        self.assertIsNone(read_photo(lowest_hidden, PANEL, expected_run=5).run)

    def test_small_markers_that_only_the_registration_shows_join_in(self) -> None:
        panel, camera = make_panel(640, 400), Camera(width=1500, height=1125)
        for digit in (13, 38):
            rng = np.random.default_rng(3)
            light = emit(FaultyPanel(panel=panel), render(panel, get_pattern("white"), digit * (1 + 83 + 83 * 83)))
            shot = photograph(light, camera, random_pose(panel, camera, rng), rng)
            self.assertEqual(len(read_photo(shot.data, panel).registration.residuals), 12)

    def test_a_finger_on_the_glass_is_no_pixel_fault(self) -> None:
        photos = [PhotoFile(name, self.cover(name, (5,))) for name in SOLIDS]
        told = {(f.kind, f.x, f.y) for f in inspect_files(PANEL, photos).findings if f.kind.endswith("pixel")}
        self.assertTrue(told <= {(f.kind, f.x, f.y) for f in FAULTS})

    def test_the_second_variants_show_what_the_markers_hid(self) -> None:
        first = inspect_files(PANEL, files(faults=(), seed=33))
        both = inspect_files(PANEL, [*files(faults=(), seed=33), *files(faults=(), patterns=VARIANTS, seed=34)])
        self.assertGreater(both.verdict.proven_fraction, first.verdict.proven_fraction)
        self.assertGreater(both.verdict.proven_fraction, 0.998)
        self.assertEqual(both.findings, ())

    def test_all_markers_are_reached_from_three_that_lie_together(self) -> None:
        # three corners' errors of half a pixel, carried over the whole panel, miss the far markers by many modules
        rng = np.random.default_rng(5)
        for name, inverted in (("white", False), ("black", True)):
            pixels, pattern = pixels_of(name), get_pattern(name)
            whole = read_photo(shots()[name].data, PANEL).registration
            three = [m for m in marker_layout(PANEL, pattern) if m.place in (0, 1, 4)]
            kept = {m.id: whole.to_photo(np.array(m.corners)) + rng.normal(0, 0.5, (4, 2)) for m in three}
            source, target = np.concatenate([m.corners for m in three]), np.concatenate(list(kept.values()))
            rough = fit(source, target, (whole.width, whole.height), 2.0)
            corners = np.array(PANEL.corners)
            self.assertGreater(np.abs(rough.to_photo(corners) - whole.to_photo(corners)).max(), 3)
            ids, grown = grow_markers(PANEL, pattern, pixels, kept, rough, inverted, 1)
            self.assertEqual(sorted(ids), sorted(m.id for m in marker_layout(PANEL, pattern)))
            self.assertLess(np.abs(grown.to_photo(corners) - whole.to_photo(corners)).max(), 2.5)

    def test_a_few_markers_close_together_are_refused(self) -> None:
        with self.assertRaises(BadInput) as caught:
            read_photo(self.cover("black", (2, 3, 5, 6, 7, 8, 9, 10, 11)), PANEL)
        self.assertIn(caught.exception.code, ("few_markers", "no_markers"))
        self.assertIn("markers", caught.exception.message)

    def test_the_residual_is_small_and_told(self) -> None:
        for name in SOLIDS:
            registration = read_photo(shots()[name].data, PANEL).registration
            self.assertTrue(0 < registration.residual_px < 0.3, name)
            self.assertEqual(len(registration.residuals), 12)
            self.assertLess(np.abs(np.array(registration.residuals)[:, 2:]).max(), 0.3)


class Glare(TestCase):
    def test_a_clipped_area_proves_nothing_and_is_said(self) -> None:
        pixels = pixels_of("white")
        height, width = pixels.shape[:2]
        cv2.circle(pixels, (width // 2, height // 2), 160, (255, 255, 255), -1)
        report = inspect_files(PANEL, [PhotoFile("glare.jpg", as_jpeg(pixels))]).photos[0]
        self.assertIn("clipped", [p.code for p in report.problems])
        self.assertLess(report.proven_fraction, 0.96)

    def test_an_over_exposed_photo_is_not_judged(self) -> None:
        bright = Camera(width=1800, height=1350, white_level=1.6)
        result = inspect_files(PANEL, files(faults=(), patterns=("white", "red"), camera=bright, seed=35))
        # red's own channel is at its end, the other two are not and go on telling
        self.assertEqual(
            [(photo.used, photo.problems[0].code) for photo in result.photos], [(False, "clipped"), (True, "clipped")]
        )
        self.assertIn("in one colour", result.photos[1].problems[0].message)
        self.assertEqual((result.findings, result.verdict.result, result.proven.subpixels), ((), "not_proven", 0.0))


class Sets(TestCase):
    def test_two_photos_of_one_pattern_are_both_used(self) -> None:
        once = inspect_files(PANEL, files(patterns=("white",), seed=36))
        twice = inspect_files(PANEL, [*files(patterns=("white",), seed=36), *files(patterns=("white",), seed=37)])
        self.assertEqual([p.pattern for p in twice.photos], ["white", "white"])
        dead = {(f.x, f.y) for f in twice.findings if f.kind == "dead_pixel"}
        self.assertTrue({(120, 90), (505, 211)} <= dead)
        self.assertGreaterEqual(len(twice.findings), len(once.findings) - 1)

    def test_a_refused_photo_does_not_spoil_its_set(self) -> None:
        result = inspect_files(
            PANEL, [*files(faults=()), PhotoFile("cat.jpg", as_jpeg(np.full((600, 800, 3), 90, np.uint8)))]
        )
        self.assertEqual(result.verdict.result, "pass")
        self.assertEqual(result.photos[-1].problems[0].code, "no_markers")

    def test_black_alone_finds_the_lit_ones_and_proves_no_dark_one(self) -> None:
        result = inspect_files(PANEL, files(patterns=("black",), seed=38))
        places = {(f.x, f.y) for f in result.findings if f.kind.startswith("bright")}
        self.assertTrue({(222, 222), (300, 400), (700, 420)} <= places)
        self.assertEqual(result.verdict.proven_fraction, 0.0)


class LargeFiles(TestCase):
    def test_sixty_megapixels_are_sampled_down_with_a_word(self) -> None:
        buffer = io.BytesIO()
        Image.new("RGB", (9000, 6700), (120, 120, 120)).save(buffer, "JPEG", quality=60)
        decoded = decode(buffer.getvalue())
        self.assertEqual(decoded.pixels.shape, (3350, 4500, 3))
        self.assertEqual([p.code for p in decoded.problems], ["sampled_down"])
