"""From photos to findings and verdict, on simulated sets and on photos by a camera that shares no code with the simulator."""

from unittest import TestCase

import cv2
import numpy as np

from lens.acceptance import get_profile
from lens.errors import BadInput
from lens.inspecting import PhotoFile, compare, inspect_files, judge_again
from lens.photo import read_photo
from lens.records import Proven
from lens.simulate import Camera, DeviceFault
from tests.core.independent_camera import independent_photo
from tests.core.sets import CAMERA, FAULTS, PANEL, SOLIDS, files, shots

NOT_FAULTS = ("cluster", "dust", "camera")


class FaultsOfASet(TestCase):
    def test_every_fault_is_found_with_kind_channel_and_place(self) -> None:
        result = inspect_files(PANEL, files())
        told = {(f.kind, f.x, f.y, f.channel) for f in result.findings if f.kind not in NOT_FAULTS}
        self.assertEqual(told, {(f.kind, f.x, f.y, f.channel) for f in FAULTS})

    def test_the_cluster_lists_its_two_dead_pixels(self) -> None:
        result = inspect_files(PANEL, files())
        clusters = [f for f in result.findings if f.kind == "cluster"]
        self.assertEqual(
            [[result.findings[i].kind for i in c.members] for c in clusters], [["dead_pixel", "dead_pixel"]]
        )

    def test_reasons_follow_the_definitions_of_the_fault_types(self) -> None:
        # ISO 9241-307, types (from memory): a dark pixel shows on every lit pattern and not on black; a subpixel stuck on shows on
        # black and on the two other colours, not on white and its own colour
        result = inspect_files(PANEL, files())
        by_place = {(f.x, f.y): f for f in result.findings if f.kind not in NOT_FAULTS}
        self.assertEqual(set(by_place[120, 90].patterns), {"white", "red", "green", "blue", "grey50"})
        stuck_red = by_place[700, 420]
        self.assertTrue({"black", "green", "blue"} <= set(stuck_red.patterns))
        self.assertFalse({"white", "red"} & set(stuck_red.patterns))

    def test_a_clean_panel_passes(self) -> None:
        result = inspect_files(PANEL, files(faults=()))
        self.assertEqual(result.findings, ())
        self.assertEqual(result.verdict.result, "pass")
        self.assertGreaterEqual(result.verdict.proven_fraction, 0.98)

    def test_white_alone_never_passes(self) -> None:
        result = inspect_files(PANEL, files(faults=())[:1])
        self.assertEqual(result.verdict.result, "not_proven")
        self.assertIn("Not photographed: black", result.smallest_proven)

    def test_dust_and_camera_defects_are_no_faults(self) -> None:
        camera = CAMERA.model_copy(update={"hot_pixels": ((900, 700), (901, 700), (400, 500))})
        dust = (DeviceFault(kind="dust", x=200.4, y=300.6, size_px=1.8, depth=0.7),)
        result = inspect_files(PANEL, files(faults=dust, camera=camera, seed=11))
        self.assertEqual({f.kind for f in result.findings} - {"dust", "camera"}, set())
        self.assertEqual(result.verdict.result, "pass")

    def test_a_line_fails_every_class(self) -> None:
        column = (DeviceFault(kind="dark_column", x=333, y=0),)
        for profile in ("class-0", "class-IV"):
            result = inspect_files(PANEL, files(faults=column, seed=12), get_profile(profile))
            self.assertEqual(result.verdict.result, "fail")
        line = next(f for f in result.findings if f.kind == "line")
        self.assertEqual((line.x, line.orientation), (333, "column"))

    def test_other_orientations_and_upside_down(self) -> None:
        for orientation in (3, 6, 8):
            camera = Camera(width=1800, height=1350, orientation=orientation)
            shot = shots(faults=FAULTS[:1], patterns=("white",), camera=camera, seed=5)["white"]
            read = read_photo(shot.data, PANEL)
            self.assertLess(np.abs(np.array(read.corners) - np.array(shot.corners)).max(), 1.0)
        turned = cv2.imdecode(np.frombuffer(shots()["white"].data, np.uint8), cv2.IMREAD_COLOR)
        _, data = cv2.imencode(".jpg", np.ascontiguousarray(np.asarray(turned)[::-1, ::-1]))
        corners = np.array(read_photo(data.tobytes(), PANEL).corners)
        self.assertGreater(corners[0, 0], corners[1, 0], "the panel's top left is at the right of an upside-down photo")

    def test_registration_is_good_to_a_fraction_of_a_pixel(self) -> None:
        errors = []
        for shot in shots().values():
            read = read_photo(shot.data, PANEL)
            errors.append(np.abs(np.array(read.corners) - np.array(shot.corners)).max() / read.px_per_px)
        self.assertLess(np.median(errors), 0.3)


class IndependentCamera(TestCase):
    def test_faults_are_found_in_photos_by_another_camera(self) -> None:
        photos = [
            PhotoFile(f"{name}.jpg", independent_photo(PANEL, name, FAULTS, seed)) for seed, name in enumerate(SOLIDS)
        ]
        result = inspect_files(PANEL, photos)
        told = {(f.kind, f.x, f.y, f.channel) for f in result.findings if f.kind not in NOT_FAULTS}
        self.assertEqual(told, {(f.kind, f.x, f.y, f.channel) for f in FAULTS})


class Refusals(TestCase):
    def assert_refused(self, data: bytes, code: str, **options: object) -> None:
        with self.assertRaises(BadInput) as caught:
            read_photo(data, PANEL, **options)  # type: ignore[arg-type]
        self.assertEqual(caught.exception.code, code, caught.exception.message)

    def test_mirrored_dark_foreign_and_wrong_photos(self) -> None:
        white = shots()["white"].data
        pixels = np.asarray(cv2.imdecode(np.frombuffer(white, np.uint8), cv2.IMREAD_COLOR))
        mirrored = cv2.imencode(".jpg", np.ascontiguousarray(pixels[:, ::-1]))[1].tobytes()
        dark = cv2.imencode(".jpg", np.zeros((900, 1200, 3), np.uint8))[1].tobytes()
        noise = cv2.imencode(".jpg", np.random.default_rng(1).integers(0, 255, (900, 1200, 3), np.uint8))[1].tobytes()
        self.assert_refused(mirrored, "mirrored")
        self.assert_refused(dark, "too_dark")
        self.assert_refused(noise, "no_markers")
        self.assert_refused(white, "wrong_pattern", pattern_id="red")
        self.assert_refused(white, "wrong_run", expected_run=77)

    def test_corners_by_hand_find_the_dead_pixel_too(self) -> None:
        shot = shots()["white"]
        pixels = np.asarray(cv2.imdecode(np.frombuffer(shot.data, np.uint8), cv2.IMREAD_COLOR)).copy()
        hidden = cv2.imencode(".jpg", cv2.GaussianBlur(pixels, (0, 0), 0.6), [cv2.IMWRITE_JPEG_QUALITY, 95])[
            1
        ].tobytes()
        read = read_photo(hidden, PANEL, "white", shot.corners)
        self.assertLess(np.abs(np.array(read.corners) - np.array(shot.corners)).max(), 1.0)
        blank = cv2.imencode(".jpg", np.full((900, 1200, 3), 200, np.uint8))[1].tobytes()
        read = read_photo(blank, PANEL, "white", ((100, 100), (1100, 110), (1090, 800), (90, 790)))
        self.assertIn("corners_by_hand", [p.code for p in read.problems])
        self.assert_refused(
            blank, "corners", pattern_id="white", corners=((100, 100), (90, 790), (1090, 800), (1100, 110))
        )

    def test_unfit_photos_never_pass(self) -> None:
        coarse = Camera(width=900, height=675)
        blurred = Camera(width=1800, height=1350, blur_px=4.0)
        for camera, code in ((coarse, "coarse"), (blurred, "blurred")):
            result = inspect_files(PANEL, files(faults=(), patterns=("white", "black", "green"), camera=camera, seed=9))
            self.assertNotEqual(result.verdict.result, "pass")
            self.assertLess(result.verdict.proven_fraction, 0.98)
            self.assertTrue(
                any(p.code == code for photo in result.photos for p in photo.problems)
                or not any(photo.used for photo in result.photos)
            )

    def test_a_cut_photo_proves_less(self) -> None:
        pixels = np.asarray(cv2.imdecode(np.frombuffer(shots(faults=())["white"].data, np.uint8), cv2.IMREAD_COLOR))
        corners = np.array(shots(faults=())["white"].corners)
        for beyond_px, code, at_most in ((60, "cut", 0.97), (400, "closeup", 0.8)):
            cut = pixels[:, int(corners[:, 0].min()) + beyond_px :]
            result = inspect_files(
                PANEL, [PhotoFile("cut.png", cv2.imencode(".png", np.ascontiguousarray(cut))[1].tobytes())]
            )
            self.assertIn(code, [p.code for p in result.photos[0].problems])
            self.assertLess(result.photos[0].proven_fraction, at_most)


class Closing(TestCase):
    def test_what_closing_added_is_new_and_the_rest_is_the_same(self) -> None:
        before = inspect_files(PANEL, files(faults=FAULTS[:1], seed=20))
        after = inspect_files(PANEL, files(faults=FAULTS[:2], seed=21))
        told = compare(before, after)
        self.assertEqual([(f.x, f.y) for f in told.new], [(400, 300)])
        self.assertEqual((len(told.same), len(told.gone), told.result), (1, 0, "changed"))
        self.assertEqual(compare(before, before).result, "unchanged")

    def test_a_soft_spot_that_closing_made_is_a_pressure_mark(self) -> None:
        pressed = DeviceFault(kind="shade", x=420, y=260, size_px=46, depth=0.07)
        before, after = (inspect_files(PANEL, files(faults=faults, seed=22)) for faults in ((), (pressed,)))
        told = compare(before, after)
        self.assertEqual([f.kind for f in told.new], ["pressure_mark"])
        self.assertIn("presses from behind", told.new[0].reasons[-1])
        # it is called so in the inspection itself, counts there, and is what its photos call it where the dry fit showed it too
        profile = get_profile("class-II")
        closed = judge_again(PANEL, after, profile, before=before)
        self.assertEqual([f.kind for f in closed.findings], ["pressure_mark"])
        self.assertEqual(next(c for c in closed.verdict.criteria if c.id == "areas").value, 1)
        self.assertEqual(compare(before, closed).new, closed.findings)
        self.assertEqual(judge_again(PANEL, closed, profile, before=after).findings, after.findings)

    def test_what_a_film_or_a_bezel_hides_is_neither_new_nor_gone(self) -> None:
        # common practice: bubbles and dust of a film are no faults, and a bezel's opening is smaller than the panel
        before, after = (inspect_files(PANEL, files(faults=faults, seed=20)) for faults in (FAULTS[:1], FAULTS[1:2]))
        told = compare(before, after, ("film",))
        self.assertEqual((told.result, told.new, told.gone, len(told.unclear)), ("not_proven", (), (), 2))
        self.assertEqual(compare(before, after, ("bezel",)).result, "changed")  # none of them lies at the rim
        rim = after.model_copy(update={"findings": (after.findings[0].model_copy(update={"x": 2.0}),)})
        self.assertEqual(len(compare(before, rim, ("bezel",)).unclear), 1)

    def test_a_short_dry_fit_is_not_held_against_what_it_cannot_show(self) -> None:
        before = inspect_files(PANEL, files(faults=(), seed=20)[:1])
        after = inspect_files(PANEL, files(faults=FAULTS[1:2], seed=21))
        blind = tuple(
            one.model_copy(update={"map": one.map.model_copy(update={"values": tuple(3.0 for _ in one.map.values)})})
            if one.map and one.kind.endswith("subpixel")
            else one
            for one in before.smallest
        )
        short = before.model_copy(update={"proven": Proven(pixels=0.97, subpixels=0.5), "smallest": blind})
        told = compare(short, after)
        self.assertEqual((told.result, told.new, [f.kind for f in told.unclear]), ("unchanged", (), ["dark_subpixel"]))
        self.assertIn("every single subpixel", told.text)
        whole = compare(short, inspect_files(PANEL, files(faults=FAULTS[:1], seed=21)))
        self.assertEqual([f.kind for f in whole.new], ["dead_pixel"])

    def test_a_fault_that_was_told_by_another_colour_or_taken_for_dust_is_not_new(self) -> None:
        before = inspect_files(PANEL, files(faults=FAULTS[1:2], seed=20))
        fault = before.findings[0]
        twice = before.model_copy(update={"findings": (fault, fault.model_copy(update={"channel": "red"}))})
        self.assertEqual((compare(before, twice).new, len(compare(before, twice).same)), ((), 2))
        dust = before.model_copy(update={"findings": (fault.model_copy(update={"kind": "dust", "channel": None}),)})
        told = compare(dust, before)
        self.assertEqual((told.new, [f.kind for f in told.unclear]), ((), [fault.kind]))

    def test_too_little_seen_is_not_proven(self) -> None:
        before = inspect_files(PANEL, files(faults=(), seed=20)[:1])
        self.assertEqual(compare(before, before).result, "not_proven")
