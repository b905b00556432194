"""The hand camera's signs, on frames that an automatic phone sees: each thing that is wrong gets its own sign, and a good frame none."""

from functools import cache
from unittest import TestCase

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import make_panel
from lens.patterns import get_pattern, get_set, render
from lens.photo import decode_frame
from lens.photo.guidance import Guidance, guide
from lens.simulate import FaultyPanel, emit, random_pose
from lens.simulate.phone import natural_light, photograph_by_phone, random_phone
from lens.simulate.poses import standing_pose
from lens.simulate.scene import Pose, Reflection

PANEL = make_panel(1366, 768, 14.0)
RUN = 4
STILL = 3.1  # a 12 MP photo for each frame of 1280 px
SENSOR = (1600, 1200)  # of the stream, which the page reduces
Frame = NDArray[np.uint8]


@cache
def frame(
    pattern: str = "white",
    tilt_deg: tuple[float, float] = (0.0, 5.0),
    fill: float = 0.85,
    shift: tuple[float, float] = (0.0, 0.0),
    lamp: Reflection | None = None,
    seed: int = 3,
) -> Frame:
    """A frame of the live picture, held so; ``shift`` in shares of the frame."""
    rng = np.random.default_rng(seed)
    phone = random_phone(rng, *SENSOR)
    light = emit(FaultyPanel(panel=PANEL), render(PANEL, get_pattern(pattern), RUN)) * natural_light(PANEL, rng)
    pose = standing_pose(PANEL, phone.camera, rng, tilt_deg, fill)
    dx, dy = shift[0] * SENSOR[0], shift[1] * SENSOR[1]
    held = Pose(corners=tuple((x + dx, y + dy) for x, y in pose.corners), eye=pose.eye)
    shot, _ = photograph_by_phone(light, phone, held, rng, None, (lamp,) if lamp else ())
    return reduced(shot.data)


def reduced(photo: bytes) -> Frame:
    return np.asarray(cv2.resize(decode_frame(photo), (1280, 960), interpolation=cv2.INTER_AREA), np.uint8)


def told(seen: Frame, pattern: str = "white", run: int | None = RUN, still: float = STILL) -> Guidance:
    return guide(seen, PANEL, pattern, run, still)


class Signs(TestCase):
    def test_every_pattern_of_the_standard_set_is_good_when_it_is_well_held(self) -> None:
        for pattern in get_set("standard").patterns:
            seed = 4 if pattern == "pale-red" else 3  # one whose red is dim: read by its brightest channel
            got = told(frame(pattern, seed=seed), pattern)
            self.assertEqual(got.sign, "good", f"{pattern}: {got.detail}")

    def test_the_outline_is_where_the_panel_is(self) -> None:
        rng = np.random.default_rng(8)
        phone = random_phone(rng, *SENSOR)
        pose = random_pose(PANEL, phone.camera, rng, fill=0.85)
        light = emit(FaultyPanel(panel=PANEL), render(PANEL, get_pattern("white"), RUN))
        shot, _ = photograph_by_phone(light, phone, pose, rng)
        got = told(reduced(shot.data))
        self.assertLess(np.abs(np.array(got.corners) - np.array(shot.corners) / 1.25).max(), 5.0)

    def test_what_is_shown_instead_is_named(self) -> None:
        for shown, wanted in (("white", "pale-red"), ("black-dim", "white"), ("white", "black-dim")):
            got = told(frame(shown), wanted)
            self.assertEqual((got.sign, got.pattern), ("other_pattern", shown))
        self.assertEqual(told(frame(), run=RUN + 1).sign, "other_inspection")
        self.assertEqual(told(frame(), run=None).sign, "good")

    def test_too_far_and_cut_off(self) -> None:
        near = told(frame(fill=0.5))
        self.assertEqual(near.sign, "closer")
        far = told(frame(fill=0.25))
        self.assertEqual((far.sign, far.corners), ("closer", ()), "its markers cannot be read: nothing is shot")
        for shift, side in (((0.2, 0), "right"), ((-0.2, 0), "left"), ((0, 0.3), "bottom"), ((0, -0.3), "top")):
            got = told(frame(shift=shift))
            self.assertEqual(got.sign, "cut_off", shift)
            self.assertIn(side, got.detail)

    def test_a_stream_with_few_pixels_asks_for_all_of_the_picture(self) -> None:
        self.assertEqual(told(frame(fill=0.75), still=1.0).sign, "closer")
        self.assertEqual(told(frame(fill=0.75), still=STILL).sign, "good")
        self.assertEqual(told(frame(fill=0.93), still=1.0).sign, "good", "nothing more can be had from this camera")

    def test_a_slanting_look_is_told_in_degrees_and_with_the_way_back(self) -> None:
        """The pinhole's geometry: the eye stands ``tilt`` off the normal of the panel's middle."""
        got = told(frame(tilt_deg=(22.0, 22.0), fill=0.75))
        self.assertEqual(got.sign, "tilted")
        degrees = float(got.detail.split("°")[0].rsplit(" ", 1)[1])
        self.assertAlmostEqual(degrees, 22.0, delta=4.0)
        corners = np.array(got.corners)
        left, right = (np.hypot(*(corners[a] - corners[b])) for a, b in ((0, 3), (1, 2)))
        top, bottom = (np.hypot(*(corners[a] - corners[b])) for a, b in ((0, 1), (3, 2)))
        # the nearer side looks longer (perspective), the more so the farther apart the sides are; one goes back from it
        across, down = np.log(left / right) / (top + bottom), np.log(top / bottom) / (left + right)
        sides = {"right": across, "left": -across, "down": down, "up": -down}
        self.assertIn(f"go {max(sides, key=sides.__getitem__)}", got.detail)

    def test_over_and_under_exposed(self) -> None:
        white = frame()
        self.assertEqual(told(cv2.convertScaleAbs(white, alpha=2.5)).sign, "darker")
        self.assertEqual(told(cv2.convertScaleAbs(white, alpha=0.2)).sign, "brighter")
        self.assertEqual(told(np.zeros_like(white)).sign, "too_dark")

    def test_a_mirrored_lamp_is_shown_where_it_is(self) -> None:
        lamp = Reflection(x=0.5, y=0.375, size_x=0.06, size_y=0.06, level=1.5)
        got = told(frame(lamp=lamp))
        self.assertEqual(got.sign, "reflection")
        assert got.at is not None
        (x, y) = got.at
        self.assertLess(np.hypot(x - 0.5, (y - 0.5) * 0.56), 0.2)

    def test_out_of_focus(self) -> None:
        for sigma_px in (1.2, 3.0):
            self.assertEqual(told(cv2.GaussianBlur(frame(), (0, 0), sigma_px)).sign, "blurred")

    def test_a_desk_is_no_panel(self) -> None:
        rng = np.random.default_rng(1)
        desk = cv2.GaussianBlur(rng.integers(60, 180, (960, 1280, 3)).astype(np.uint8), (0, 0), 6)
        self.assertEqual(told(desk).sign, "no_panel")
