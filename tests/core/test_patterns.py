"""Patterns: pixel-exact, small markers, readable, exportable."""

import io
import json
import zipfile
from unittest import TestCase

import cv2
import numpy as np

from lens.errors import BadInput
from lens.panel import make_panel
from lens.patterns import (
    MAX_RUN_CODE,
    PATTERNS,
    built_in_sets,
    encode_png,
    get_pattern,
    get_set,
    marker_layout,
    marker_mask,
    probe_layout,
    read_set,
    read_symbols,
    render,
    zip_bytes,
)

SIZES = ((320, 240), (1366, 768), (1920, 1080), (1080, 2400), (7680, 4320))


class Rendering(TestCase):
    def test_every_pixel_outside_the_markers_is_the_drive_level(self) -> None:
        for width, height in SIZES:
            panel = make_panel(width, height)
            for name in ("white", "black", "blue", "grey50-b"):
                pattern = get_pattern(name)
                image = render(panel, pattern, 12345)
                self.assertEqual(image.shape, (height, width, 3))
                self.assertTrue((image[~marker_mask(panel, pattern)] == np.array(pattern.drive)).all())

    def test_markers_cover_at_most_one_percent_and_stay_inside(self) -> None:
        for width, height in SIZES:
            panel = make_panel(width, height)
            for pattern in PATTERNS.values():
                if pattern.solid:
                    self.assertLessEqual(marker_mask(panel, pattern).mean(), 0.01, f"{pattern.id} at {width}x{height}")
                for marker in marker_layout(panel, pattern):
                    self.assertTrue(
                        0 <= marker.x <= width - marker.side_px and 0 <= marker.y <= height - marker.side_px
                    )

    def test_two_variants_show_every_pixel(self) -> None:
        for width, height in SIZES:
            panel = make_panel(width, height)
            both = marker_mask(panel, get_pattern("white"), 6) & marker_mask(panel, get_pattern("white-b"), 6)
            self.assertFalse(both.any(), f"{width}x{height}")

    def test_probes_stand_clear_of_every_marker(self) -> None:
        for size, gap in zip(SIZES, (6, 14, 14, 14, 14), strict=True):
            panel = make_panel(*size)
            for pattern in (get_pattern("white"), get_pattern("white-b")):
                markers = marker_layout(panel, pattern)
                for probe in probe_layout(panel, pattern):
                    off = [
                        max(m.x - probe.x, probe.x - m.x - m.side_px + 1, m.y - probe.y, probe.y - m.y - m.side_px + 1)
                        for m in markers
                    ]
                    self.assertGreaterEqual(min(off), gap, (size, pattern.id))

    def test_the_png_is_lossless(self) -> None:
        image = render(make_panel(640, 400), get_pattern("red"), 7)
        back = cv2.imdecode(np.frombuffer(encode_png(image), np.uint8), cv2.IMREAD_COLOR)
        np.testing.assert_array_equal(np.asarray(back)[..., ::-1], image)


class Symbols(TestCase):
    def test_pattern_and_run_are_read_back(self) -> None:
        panel = make_panel(1920, 1080)
        for run in (0, 1, 82, 83, 4711, MAX_RUN_CODE):
            for pattern in PATTERNS.values():
                ids = [marker.id for marker in marker_layout(panel, pattern, run)]
                reading = read_symbols(panel, ids)
                self.assertEqual((reading.pattern, reading.run), (pattern.id, run))

    def test_half_of_the_markers_are_enough_for_the_pattern(self) -> None:
        panel = make_panel(1920, 1080)
        ids = [marker.id for marker in marker_layout(panel, get_pattern("green"), 99)]
        self.assertEqual(read_symbols(panel, ids[:6]).pattern, "green")
        self.assertIsNone(read_symbols(panel, ids[:1]).run)

    def test_one_digit_is_enough_to_tell_another_run(self) -> None:
        panel = make_panel(1920, 1080)
        markers = marker_layout(panel, get_pattern("white"), 99)
        one, none = [m.id for m in markers if m.place in {0, 1, 2}], [m.id for m in markers if m.place in {0, 2}]
        self.assertEqual([read_symbols(panel, one).may_be_of(run) for run in (99, 100, 99 + 83)], [True, False, True])
        self.assertTrue(read_symbols(panel, none).may_be_of(100))

    def test_a_run_code_out_of_range_is_refused(self) -> None:
        with self.assertRaisesRegex(BadInput, "run must be"):
            marker_layout(make_panel(640, 400), get_pattern("white"), MAX_RUN_CODE + 1)

    def test_a_wrong_name_gets_the_nearest(self) -> None:
        with self.assertRaisesRegex(BadInput, "Did you mean 'grey50'"):
            get_pattern("gray50")


class Export(TestCase):
    def test_the_zip_holds_the_manifest_and_its_files(self) -> None:
        archive = zipfile.ZipFile(io.BytesIO(zip_bytes(make_panel(640, 400), run=5)))
        manifest = json.loads(archive.read("manifest.json"))
        self.assertEqual(manifest["panel"], {"width": 640, "height": 400})
        self.assertEqual([p["id"] for p in manifest["patterns"]], list(get_set("standard").patterns))
        self.assertTrue(len(manifest["patterns"]) <= 7 and manifest["patterns"][0]["id"] == "white")
        for pattern in manifest["patterns"]:
            image = cv2.imdecode(np.frombuffer(archive.read(pattern["file"]), np.uint8), cv2.IMREAD_COLOR)
            self.assertEqual(np.asarray(image).shape, (400, 640, 3))
        # galleries and picture frames show files in the order of their names
        shown = [name for name in sorted(archive.namelist()) if name.endswith(".png")]
        self.assertEqual(shown, [p["file"] for p in manifest["patterns"]])
        self.assertEqual(sorted(archive.namelist())[0], "00-how-to.txt")
        page = archive.read("00-how-to.txt").decode()
        self.assertIn("640 x 400", page)
        self.assertTrue(all(name in page for name in shown))


class Sets(TestCase):
    def test_an_own_set_is_read_from_yaml(self) -> None:
        own = read_set("title: Night shift\npatterns: [black, white]\n")
        self.assertEqual((own.title, own.patterns), ("Night shift", ("black", "white")))

    def test_bad_sets_are_refused_in_words(self) -> None:
        for text, word in (
            ("title: A\npatterns: [whit]", "Did you mean 'white'"),
            ("title: A\npatterns: [white, white]", "listed twice"),
            ("- a", "needs"),
            ("", "needs"),
            ("title: [", "no YAML"),
            ("title: A\npatterns: []", "patterns"),
            ("x" * 20_000, "at most"),
            ("title: A\npatterns: [white]\nspeed: 3", "speed"),
        ):
            with self.assertRaises(BadInput) as told:
                read_set(text)
            self.assertIn(word, told.exception.message)

    def test_every_set_that_ships_names_known_patterns_and_starts_with_white(self) -> None:
        for name, one in built_in_sets().items():
            self.assertEqual(get_pattern(one.patterns[0]).drive, (255, 255, 255), name)
            self.assertLessEqual(set(one.patterns), set(PATTERNS))
