"""Close-ups of a part of the panel, and what to photograph next; the truth is the simulated device's."""

from unittest import TestCase

import numpy as np

from lens.inspecting import PhotoFile, inspect_files, inspect_reads
from lens.panel import make_panel
from lens.patterns import get_pattern, render
from lens.photo import read_photo
from lens.records import Inspection
from lens.simulate import Camera, FaultyPanel, closeup_pose, emit, photograph, random_faults
from tests.core.sets import CAMERA, PANEL, SOLIDS, files

LARGE = make_panel(960, 600)
SMALL_CAMERA = Camera(width=1100, height=825, blur_px=0.7)
COARSE_CAMERA = Camera(width=1300, height=975, blur_px=0.7)
QUARTERS = ((0, 0, 0.55, 0.6), (0.45, 0, 1, 0.6), (0, 0.4, 0.55, 1), (0.45, 0.4, 1, 1))


def looked_at(patterns: tuple[str, ...], camera: Camera = CAMERA, seed: int = 3) -> Inspection:
    return inspect_files(PANEL, files(faults=(), patterns=patterns, camera=camera, seed=seed))


class CloseUps(TestCase):
    def test_quarters_prove_together_what_one_coarse_photo_could_not(self) -> None:
        rng = np.random.default_rng(8)
        device = FaultyPanel(panel=LARGE, faults=random_faults(LARGE, 12, rng, keep_clear=60))
        taken = []
        for name in SOLIDS:
            light = emit(device, render(LARGE, get_pattern(name)))
            taken += [
                PhotoFile(
                    f"{name}-{n}.jpg",
                    photograph(light, SMALL_CAMERA, closeup_pose(LARGE, SMALL_CAMERA, part, rng), rng).data,
                )
                for n, part in enumerate(QUARTERS)
            ]
        result = inspect_files(LARGE, taken)
        self.assertTrue(all("closeup" in [p.code for p in photo.problems] for photo in result.photos))
        self.assertGreater(result.verdict.proven_fraction, 0.98)
        told = {(f.kind, f.channel, f.x, f.y) for f in result.findings if f.kind != "cluster"}
        self.assertEqual(told, {(f.kind, f.channel, f.x, f.y) for f in device.faults})
        self.assertIsNone(result.uniformity)  # parts cannot tell how even the whole is


class NextShots(TestCase):
    def test_missing_patterns_come_first(self) -> None:
        for shot, first, words in (
            (("white", "grey50"), "black-dim", "black-dim, pale-red, pale-green and pale-blue"),
            (("white", "grey50", "red"), "black", "black, green and blue"),  # the set that was begun goes on
        ):
            shots_next = looked_at(shot).next_shots
            count = len(words.replace(" and ", ", ").split(", "))
            self.assertEqual((len(shots_next), shots_next[0].pattern, shots_next[0].count), (1, first, count))
            self.assertIn(words, shots_next[0].text)

    def test_a_blurred_pattern_is_asked_for_again(self) -> None:
        reads = []
        for file in files(faults=(), seed=3):
            read = read_photo(file.data, PANEL)
            # a quarter of the information on all, and a blue photo out of focus
            blur_px = 1.6 if read.pattern.id == "blue" else read.blur_px
            reads.append(
                (
                    file.name,
                    read._replace(blur_px=blur_px, view=read.view._replace(information=read.view.information / 4)),
                )
            )
        told = {shot.pattern: shot for shot in inspect_reads(PANEL, reads).next_shots}
        self.assertEqual((told["blue"].count, told["blue"].frame), (1, None))
        self.assertIn("focused", told["blue"].text)
        self.assertFalse(any("focused" in shot.text for name, shot in told.items() if name != "blue"))

    def test_nothing_is_asked_for_when_enough_is_proven(self) -> None:
        result = looked_at(SOLIDS)
        self.assertGreater(result.verdict.proven_fraction, 0.98)
        self.assertEqual(result.next_shots, ())

    def test_a_part_that_is_missing_is_asked_for_as_a_close_up_of_that_part(self) -> None:
        rng = np.random.default_rng(5)
        light = emit(FaultyPanel(panel=PANEL), render(PANEL, get_pattern("blue")))
        left = photograph(light, COARSE_CAMERA, closeup_pose(PANEL, COARSE_CAMERA, (0, 0, 0.62, 1), rng), rng)
        whole = [file for file in files(faults=(), camera=COARSE_CAMERA, seed=3) if file.name != "blue.jpg"]
        result = inspect_files(PANEL, [*whole, PhotoFile("blue.jpg", left.data)])
        shot = next(one for one in result.next_shots if one.pattern == "blue")
        assert shot.frame is not None
        x, _, w, _ = shot.frame
        self.assertGreater(x - w / 2, 0.5 * PANEL.width)
        self.assertIn("right", shot.text)
