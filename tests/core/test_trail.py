"""What a photo of a drawn trail tells: lines that stop side by side mean silent touch, one that stops alone is a lifted finger (common practice)."""

from unittest import TestCase

import numpy as np

from lens.errors import BadInput
from lens.inspecting import TRAIL, PhotoFile, inspect_files, read_trail
from lens.records import Trail
from lens.simulate import FaultyPanel, Shot, emit, photograph, random_pose
from tests.core.trails import CAMERA, PHONE, Box, trail_shot

COLUMNS, ROWS = 11, 20
TOP, BOTTOM = 2, 17  # rows that lines surely crossed


def inside(box: Box, by: float = 0.0) -> set[tuple[int, int]]:
    """Cells that a dead part covers, or by a margin in cells more."""
    return {
        (c, r)
        for c in range(COLUMNS)
        for r in range(TOP, BOTTOM + 1)
        if c >= box[0] * COLUMNS - by
        and c + 1 <= box[2] * COLUMNS + by
        and r >= box[1] * ROWS - by
        and r + 1 <= box[3] * ROWS + by
    }


def told(shot: Shot) -> Trail:
    return read_trail(shot.data, PHONE).trail


class Trails(TestCase):
    def test_a_sound_surface_has_no_place_where_lines_stop_side_by_side(self) -> None:
        for seed in (501, 502, 503):
            trail = told(trail_shot(seed))
            self.assertEqual((trail.columns, trail.rows, trail.broken), (COLUMNS, ROWS, ()))
            self.assertGreater(len(trail.drawn), 0.7 * COLUMNS * ROWS)

    def test_dead_parts_are_found_to_a_cell(self) -> None:
        boxes: tuple[Box, ...] = (
            (0.5, 0.0, 1.0, 1.0),
            (0.0, 0.0, 0.42, 1.0),
            (0.3, 0.0, 0.55, 1.0),
            (0.25, 0.3, 0.75, 0.6),
        )
        for seed, box in enumerate(boxes, 511):
            broken = set(told(trail_shot(seed, box)).broken)
            sure = inside(box)
            self.assertGreaterEqual(len(broken & sure) / len(sure), 0.8, box)
            self.assertLessEqual({(c, r) for c, r in broken if TOP <= r <= BOTTOM}, inside(box, 1.0), box)

    def test_lines_from_top_to_bottom_tell_as_much(self) -> None:
        broken = {(c, r) for c, r in told(trail_shot(521, (0.0, 0.45, 1.0, 0.7), down=True)).broken}
        rows = {r for _, r in broken}
        self.assertTrue(rows and rows <= set(range(8, 15)) and {10, 11, 12} <= rows, rows)

    def test_a_dark_page_needs_its_corners_and_tells_the_same(self) -> None:
        box = (0.5, 0.0, 1.0, 1.0)
        shot = trail_shot(531, box, dark=True)
        with self.assertRaisesRegex(BadInput, "Give the corners"):
            told(shot)
        broken = set(read_trail(shot.data, PHONE, shot.corners).trail.broken)
        self.assertGreaterEqual(len(broken & inside(box)) / len(inside(box)), 0.8)

    def test_a_page_that_nobody_drew_on_is_refused_and_a_trail_is_no_photo_of_the_panel(self) -> None:
        rng = np.random.default_rng(541)
        blank = emit(FaultyPanel(panel=PHONE), np.full((1280, 720, 3), 250, np.uint8))
        with self.assertRaisesRegex(BadInput, "No line"):
            told(photograph(blank, CAMERA, random_pose(PHONE, CAMERA, rng), rng))
        shot = trail_shot(511)
        (a, b, c, d) = shot.corners
        for wrong, words in (((a, c, b, d), "make no screen"), ((a, a, a, a), "make no screen")):
            with self.assertRaisesRegex(BadInput, words):
                read_trail(shot.data, PHONE, wrong)
        crowded = emit(
            FaultyPanel(panel=PHONE), rng.integers(0, 255, (1280, 720, 3)).astype(np.uint8).repeat(9, 0)[:1280]
        )
        with self.assertRaisesRegex(BadInput, "not blank|four sides|No line"):
            told(photograph(crowded, CAMERA, random_pose(PHONE, CAMERA, rng), rng))
        result = inspect_files(PHONE, [PhotoFile("trail.jpg", trail_shot(511, (0.5, 0.0, 1.0, 1.0)).data, TRAIL)])
        report = result.photos[0]
        self.assertTrue(report.used and report.trail and report.trail.broken)
        self.assertEqual((result.findings, result.proven.pixels, result.verdict.result), ((), 0, "not_proven"))
