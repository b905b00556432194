"""Photos whose markers are hidden, registered by the border of what is lit; the truth is where the simulated panel's corners are."""

from functools import cache
from unittest import TestCase

import cv2
import numpy as np

from lens.errors import BadInput
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import make_panel, parse_panel
from lens.patterns import get_pattern, marker_layout
from lens.photo import PhotoRead, read_photo
from lens.simulate import Camera, DeviceFault, FaultyPanel, Pose, Shot, closeup_pose, emit, shoot, standing_pose
from lens.simulate.phone import natural_light, photograph_by_phone, random_phone
from tests.core.sets import FAULTS, PANEL, SOLIDS, shots

CAMERA = Camera(width=2000, height=1500, barrel=0.01)
DEAD_EDGE = DeviceFault(kind="block", x=PANEL.width - 16, y=250, w=32, h=500, depth=1.0)
DEAD_BAND = DeviceFault(kind="block", x=300, y=250, w=20, h=500, depth=1.0)


def pose_of(seed: int, tilt_deg: tuple[float, float]) -> Pose:
    return standing_pose(PANEL, CAMERA, np.random.default_rng(seed), tilt_deg=tilt_deg, fill=0.75)


@cache
def shot(
    name: str, faults: tuple[DeviceFault, ...] = (), tilt_deg: tuple[float, float] = (0.0, 6.0), seed: int = 3
) -> Shot:
    device = FaultyPanel(panel=PANEL, faults=faults)
    return shoot(device, name, CAMERA, np.random.default_rng(seed), pose=pose_of(seed, tilt_deg))


def hidden(photo: Shot, name: str, keep: int = 0) -> np.ndarray:
    """(h, w, 3) the photo with all but some markers painted over in the light around them."""
    pixels = np.asarray(cv2.imdecode(np.frombuffer(photo.data, np.uint8), cv2.IMREAD_COLOR)).copy()
    outline = np.array(PANEL.corners, np.float32)
    to_photo = cv2.getPerspectiveTransform(outline, np.array(photo.corners, np.float32))
    light = tuple(int(v) for v in np.median(pixels[300:-300:7, 300:-300:7], axis=(0, 1)))
    for marker in marker_layout(PANEL, get_pattern(name))[keep:]:
        corners = cv2.perspectiveTransform(np.array([marker.corners], np.float32), to_photo)[0]
        grown = corners + 0.2 * (corners - corners.mean(axis=0))
        cv2.fillConvexPoly(pixels, np.round(grown).astype(np.int32), light)
    return pixels


def as_jpeg(pixels: np.ndarray) -> bytes:
    return bytes(cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 93])[1].tobytes())


def off_px(read: PhotoRead, photo: Shot) -> float:
    """Largest distance of the corners from the truth, panel px."""
    return float(np.abs(np.array(read.corners) - np.array(photo.corners)).max() / read.px_per_px)


class Outline(TestCase):
    def refusal(self, pixels: np.ndarray, pattern: str | None = "white") -> str:
        with self.assertRaises(BadInput) as caught:
            read_photo(as_jpeg(pixels), PANEL, pattern)
        return caught.exception.code

    def test_white_and_grey_to_a_tenth_of_a_pixel_however_the_lens_bends(self) -> None:
        for name, tilt in (("white", (0.0, 6.0)), ("grey50", (12.0, 20.0)), ("white", (25.0, 30.0))):
            photo = shot(name, tilt_deg=tilt)
            read = read_photo(as_jpeg(hidden(photo, name)), PANEL, name)
            self.assertEqual([p.code for p in read.problems], ["outline"])
            self.assertLess(off_px(read, photo), 0.15, (name, tilt))
            self.assertLess(abs(read.blur_px - CAMERA.blur_px), 0.25)

    def test_one_colour_to_its_stripe_in_the_pixel(self) -> None:
        # of a striped pixel only a third is lit, so the border lies up to a third aside
        photo = shot("red")
        self.assertLess(off_px(read_photo(as_jpeg(hidden(photo, "red")), PANEL, "red"), photo), 0.5)

    def test_one_marker_tells_which_way_up_the_panel_is(self) -> None:
        photo = shot("white")
        read = read_photo(as_jpeg(hidden(photo, "white", keep=1)[::-1, ::-1]), PANEL, "white")
        turned = np.array([CAMERA.width - 1, CAMERA.height - 1]) - np.array(photo.corners)
        self.assertLess(np.abs(np.array(read.corners) - turned).max() / read.px_per_px, 0.15)
        self.assertNotIn("which way up", read.problems[0].message)

    def test_an_unread_pattern_is_asked_for_where_markers_do_not_tell_it(self) -> None:
        self.assertEqual(self.refusal(hidden(shot("white"), "white"), None), "pattern_needed")
        self.assertEqual(read_photo(as_jpeg(hidden(shot("white"), "white", keep=1)), PANEL).pattern.id, "white")

    def test_markers_outvote_what_was_said(self) -> None:
        self.assertEqual(self.refusal(hidden(shot("white"), "white", keep=1), "grey50"), "wrong_pattern")

    def test_a_dead_band_parts_the_lit_area_and_a_crack_bites_into_it(self) -> None:
        crack = DeviceFault(kind="crack", x=600, y=350, size_px=90, w=8, h=300, depth=0.4)
        for fault in (DEAD_BAND, crack):
            photo = shot("white", (fault,))
            self.assertLess(off_px(read_photo(as_jpeg(hidden(photo, "white")), PANEL, "white"), photo), 0.3, fault.kind)

    def test_what_is_not_the_whole_panel_is_no_outline(self) -> None:
        self.assertEqual(self.refusal(hidden(shot("white", (DEAD_EDGE,)), "white")), "no_markers")
        part = closeup_pose(PANEL, CAMERA, (0.1, 0.1, 0.6, 0.6), np.random.default_rng(4))
        photo = shoot(FaultyPanel(panel=PANEL), "white", CAMERA, np.random.default_rng(4), pose=part)
        self.assertEqual(self.refusal(hidden(photo, "white")), "no_markers")
        other = make_panel(800, 600)
        with self.assertRaises(BadInput):
            read_photo(as_jpeg(hidden(shot("white"), "white")), other, "white")
        paper = np.full((1500, 2000, 3), 30, np.uint8)
        cv2.fillConvexPoly(
            paper, np.array([[300, 250], [1600, 260], [1590, 1180], [295, 1165]], np.int32), (225, 230, 235)
        )
        self.assertEqual(self.refusal(paper), "no_markers")

    def test_a_set_without_markers_finds_what_one_with_markers_finds(self) -> None:
        photos = [PhotoFile(name, as_jpeg(hidden(shots()[name], name)), name) for name in SOLIDS if name != "black"]
        photos.append(PhotoFile("black.jpg", shots()["black"].data))
        told = {(f.kind, f.x, f.y) for f in inspect_files(PANEL, photos).findings if f.kind.endswith("pixel")}
        self.assertEqual(told, {(f.kind, f.x, f.y) for f in FAULTS})


class PlainColours(TestCase):
    """Colours that a device has built in: no markers, and no probes that say what one pixel looks like."""

    def shot(self, faults: tuple[DeviceFault, ...], seed: int) -> list[PhotoFile]:
        panel, rng = parse_panel("1024x640"), np.random.default_rng(seed)
        device, phone, light = (
            FaultyPanel(panel=panel, faults=faults),
            random_phone(rng, 3000, 2250),
            natural_light(panel, rng),
        )
        files = []
        for name in ("white", "red", "green", "blue"):
            plain = np.broadcast_to(np.uint8(get_pattern(name).drive), (640, 1024, 3)).copy()
            pose = standing_pose(panel, phone.camera, rng, fill=0.8)
            shot, _ = photograph_by_phone(emit(device, plain) * light, phone, pose, rng)
            files.append(PhotoFile(name, shot.data, name))
        return files

    def test_faults_are_found_and_less_sure(self) -> None:
        faults = (
            DeviceFault(kind="dead_pixel", x=300, y=200),
            DeviceFault(kind="bright_subpixel", x=700, y=410, channel="blue"),
        )
        line = DeviceFault(kind="block", x=512, y=319.5, w=1, h=640, depth=1.0)
        result = inspect_files(parse_panel("1024x640"), self.shot((*faults, line), 79101))
        found = {one.kind: one for one in result.findings}
        for fault in faults:
            one = found[fault.kind]
            self.assertLess(np.hypot(one.x - fault.x, one.y - fault.y), 1.5)
            # common practice: nobody tells a grain from a dead pixel in plain colours without wiping
            self.assertLessEqual(one.confidence, 0.8)
        self.assertLess(abs(found["line"].x - 512), 1)
        self.assertGreater(result.proven.pixels, 0.9)

    def test_a_sound_panel_has_none(self) -> None:
        for seed in (79102, 79104):
            result = inspect_files(parse_panel("1024x640"), self.shot((), seed))
            self.assertEqual([one.kind for one in result.findings], [])
            self.assertTrue(all(one.used for one in result.photos))
