"""Frames of a capture device: compared pixel by pixel, whatever the converter does to levels, size and coding."""

from unittest import TestCase

import colour
import cv2
import numpy as np

from lens.inspecting import FRAME, PhotoFile, bear_witness, inspect_files
from lens.patterns import get_pattern, render
from lens.records import Inspection
from lens.simulate import DeviceFault, FaultyPanel, emit
from lens.srgb import linear_to_srgb
from tests.core.sets import PANEL, files

COLUMN = (DeviceFault(kind="dark_column", x=333, y=0),)


def frame(
    pattern: str, scale: float = 1.0, jpeg: int = 0, limited: bool = False, run: int = 0, **device: object
) -> bytes:
    """What a capture device gives: scaled, coded, levels squeezed to 16..235."""
    told = FaultyPanel.model_validate({"panel": PANEL, "black_leak": 0.0, **device})
    image = linear_to_srgb(emit(told, render(PANEL, get_pattern(pattern), run)))[..., ::-1]
    if limited:
        image = np.round(16 + image.astype(float) * 219 / 255).astype(np.uint8)
    if scale != 1:
        image = np.asarray(cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)
    coded = cv2.imencode(".jpg", image, [cv2.IMWRITE_JPEG_QUALITY, jpeg]) if jpeg else cv2.imencode(".png", image)
    return coded[1].tobytes()


def looked_at(patterns: tuple[str, ...] = ("white", "red", "grey50"), **how: object) -> Inspection:
    return inspect_files(PANEL, [PhotoFile(f"{name}.png", frame(name, **how), FRAME) for name in patterns])  # type: ignore[arg-type]


class Frames(TestCase):
    def test_a_sound_signal_raises_nothing_through_any_converter(self) -> None:
        for how in ({}, {"jpeg": 80}, {"scale": 1.4, "jpeg": 85}, {"scale": 0.75, "jpeg": 85, "limited": True}):
            result = looked_at(**how)
            self.assertEqual((result.findings, result.proven.pixels), ((), 1.0), how)
            self.assertTrue(all(photo.used for photo in result.photos))

    def test_a_line_in_the_signal_is_one_finding_in_its_place(self) -> None:
        for how in ({}, {"jpeg": 85}, {"scale": 0.8, "jpeg": 85}):
            told = looked_at(faults=COLUMN, **how).findings
            self.assertEqual([(f.kind, f.orientation) for f in told], [("line", "column")], how)
            self.assertAlmostEqual(told[0].x, 333, delta=1)

    def test_wrong_and_displaced_pictures(self) -> None:
        for device, words in (
            ({"wiring": (2, 1, 0)}, "colours are wrong"),
            ({"picture": "torn", "offset_px": 90}, "displaced or broken"),
            ({"picture": "shifted", "offset_px": 60}, "displaced or broken"),
            ({"picture": "half"}, "displaced or broken"),
        ):
            told = looked_at(**device).findings
            self.assertEqual([f.kind for f in told], ["artifact"], device)
            self.assertIn(words, told[0].reasons[0])

    def test_what_is_no_frame_of_this_run_is_refused(self) -> None:
        blank = cv2.imencode(".png", np.full((500, 800, 3), 200, np.uint8))[1].tobytes()
        tall = cv2.imencode(".png", np.full((800, 500, 3), 200, np.uint8))[1].tobytes()
        cases = (
            (blank, None, "no_markers"),
            (tall, None, "frame_shape"),
            (frame("white", run=7), 8, "wrong_run"),
            (b"x", None, "not_an_image"),
        )
        for data, run, code in cases:
            result = inspect_files(PANEL, [PhotoFile("f.png", data, FRAME)], expected_run=run)
            self.assertEqual(result.photos[0].problems[0].code, code)
            self.assertFalse(result.photos[0].used)

    def test_frames_bear_witness_for_photos(self) -> None:
        panel = inspect_files(PANEL, files(faults=COLUMN, patterns=("white", "grey50")))
        self.assertEqual(bear_witness(panel, looked_at()).outcome, "clean")
        self.assertEqual(bear_witness(panel, looked_at(faults=COLUMN)).outcome, "same_fault")

    def test_codes_of_linear_light_against_colour_science(self) -> None:
        light = np.linspace(0, 1, 500)
        np.testing.assert_array_equal(
            linear_to_srgb(light), np.round(255 * colour.cctf_encoding(light, function="sRGB")).astype(np.uint8)
        )
