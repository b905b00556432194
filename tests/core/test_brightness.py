"""The brightness control by photos of its steps, and the camera's row time by a lamp."""

import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
from scipy.signal import find_peaks

from lens.diagnosis import evidence_from_inspection
from lens.errors import BadInput
from lens.faults import learn_row_time
from lens.inspecting import PhotoFile, inspect_files
from lens.patterns import get_set
from lens.photo_file import decode
from lens.records import BrightnessCurve, Inspection
from lens.simulate import Camera, Dimming, FaultyPanel, control_share, photograph_flat, shoot
from tests.core.sets import CAMERA, PANEL

STEPS = get_set("brightness").patterns
ROW_US = 11.0
# about 300 cd/m2 at full by ISO 12232's K, as the camera that exposes for 1/60 s at ISO 50
SHORT = CAMERA.model_copy(update={"exposure_s": 1 / 400, "iso": 330, "row_time_us": ROW_US})
PAPER = Camera(width=2000, height=1500, exposure_s=1 / 300)


def inspected(device: FaultyPanel, steps: tuple[str, ...] = STEPS, seed: int = 3) -> Inspection:
    rng = np.random.default_rng(seed)
    return inspect_files(
        PANEL, [PhotoFile(f"{name}.jpg", shoot(device, name, SHORT, rng).data) for name in steps], row_time_us=ROW_US
    )


def curve_of(device: FaultyPanel, steps: tuple[str, ...] = STEPS) -> BrightnessCurve:
    curve = inspected(device, steps).brightness
    assert curve is not None
    return curve


class Control(TestCase):
    def test_the_curve_is_the_controls_own_and_pulses_show_below_full(self) -> None:
        result = inspected(FaultyPanel(panel=PANEL, dimmed_hz=300.0))
        curve = result.brightness
        assert curve is not None
        for step in curve.steps:
            assert step.light is not None
            self.assertLess(abs(step.light / control_share(step.percent) - 1), curve.uncertainty, f"{step.percent} %")
        self.assertEqual((curve.control, curve.pulses, curve.steps[-1].bars), ("works", "dimmed", False))
        for step in curve.steps:
            if step.pulses_hz:
                self.assertLess(abs(step.pulses_hz / 300 - 1), 0.05)
        told = {(item.check, item.outcome) for item in evidence_from_inspection(result, 300)}
        self.assertLessEqual({("brightness_keys", "works"), ("flicker_at_full", "dimmed"), ("light", "yes")}, told)
        # dimmed on purpose: no finding, and nothing else of the panel is proven
        self.assertEqual((result.findings, result.verdict.result), ((), "not_proven"))

    def test_a_stuck_control_and_one_that_stays_dark(self) -> None:
        self.assertEqual(curve_of(FaultyPanel(panel=PANEL, control="stuck")).control, "stuck")
        dark = inspected(FaultyPanel(panel=PANEL, brightness=0.08))
        assert dark.brightness is not None
        self.assertEqual(dark.brightness.control, "dark")
        told = {(item.check, item.outcome) for item in evidence_from_inspection(dark, 300)}
        self.assertLessEqual({("brightness_keys", "dark"), ("luminance", "very_low")}, told)

    def test_too_few_steps_say_nothing(self) -> None:
        curve = curve_of(FaultyPanel(panel=PANEL), ("brightness-0", "brightness-100"))
        self.assertEqual(curve.control, "unclear")
        self.assertIn("2 of 2 steps", curve.reasons[0])


class RowTimes(TestCase):
    def test_bars_of_a_lamp_tell_it_within_their_uncertainty(self) -> None:
        # mains lamps pulse twice in a period of 50 or 60 Hz (common practice)
        for seed, (hz, row_us, orientation) in enumerate(
            ((100.0, 19.0, 1), (120.0, 9.0, 6), (300.0, 7.0, 3), (1000.0, 14.0, 8))
        ):
            camera = PAPER.model_copy(update={"row_time_us": row_us, "orientation": orientation})
            told = learn_row_time(
                photograph_flat(camera, np.random.default_rng(seed), 0.3, Dimming(hz=hz, depth=0.4)), hz
            )
            self.assertLessEqual(abs(told.row_time_us - row_us), told.uncertainty_us, f"{hz} Hz")
            self.assertLess(told.uncertainty_us, 0.08 * row_us)

    def test_the_period_is_the_distance_of_scipys_peaks(self) -> None:
        data = photograph_flat(
            PAPER.model_copy(update={"row_time_us": 10.0}), np.random.default_rng(1), 0.0, Dimming(hz=500.0, depth=0.4)
        )
        rows = decode(data).pixels[..., 1].mean(axis=1)
        peaks, _ = find_peaks(np.convolve(rows, np.ones(41) / 41, "valid"), prominence=2)
        self.assertAlmostEqual(learn_row_time(data, 500.0).period_px, float(np.ptp(peaks)) / (len(peaks) - 1), delta=4)

    def test_what_has_no_bars_is_refused_with_what_to_shoot(self) -> None:
        rng = np.random.default_rng(2)
        with self.assertRaisesRegex(BadInput, "no bars"):
            learn_row_time(photograph_flat(PAPER, rng), 100)
        with self.assertRaisesRegex(BadInput, "fewer than 2 bars"):
            learn_row_time(
                photograph_flat(PAPER.model_copy(update={"row_time_us": 10.5}), rng, 0.0, Dimming(hz=100.0, depth=0.4)),
                100,
            )
        with self.assertRaisesRegex(BadInput, "over-exposed"):
            learn_row_time(photograph_flat(PAPER.model_copy(update={"white_level": 2.0}), rng), 100)
        with self.assertRaisesRegex(BadInput, "too dark"):
            learn_row_time(photograph_flat(PAPER.model_copy(update={"white_level": 0.01}), rng), 100)
        with self.assertRaisesRegex(BadInput, "50 Hz mains it is 100"):
            learn_row_time(b"", float("nan"))

    def test_the_command_line_learns_it(self) -> None:
        rng = np.random.default_rng(4)
        with tempfile.TemporaryDirectory() as folder:
            lamp, photo = Path(folder) / "lamp.jpg", Path(folder) / "photo.jpg"
            camera = PAPER.model_copy(update={"height": 3000, "row_time_us": ROW_US})
            lamp.write_bytes(photograph_flat(camera, rng, 0.1, Dimming(hz=100.0, depth=0.4)))
            photo.write_bytes(shoot(FaultyPanel(panel=PANEL, dimmed_hz=300.0), "brightness-50", SHORT, rng).data)
            command = [sys.executable, "-m", "cli", "inspect", "--panel", "800x500", "--photo", str(photo), "--lamp"]
            done = subprocess.run([*command, f"100={lamp}"], capture_output=True, text=True)
            self.assertEqual(done.returncode, 3, done.stderr)
            hz = Inspection.model_validate_json(done.stdout).brightness.steps[0].pulses_hz  # type: ignore[union-attr]
            self.assertLess(abs((hz or 0) / 300 - 1), 0.05)
            refused = subprocess.run([*command, str(lamp)], capture_output=True, text=True)
            self.assertEqual(refused.returncode, 2)
            self.assertIn("as in 100=lamp.jpg", refused.stderr)
