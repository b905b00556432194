"""What lies on the glass told from the pixels by parallax, and where the camera stood: by the simulator's truth and by geometry."""

from unittest import TestCase

import cv2
import numpy as np

from lens.faults.groups import group
from lens.faults.height import UNTOLD, height_above
from lens.faults.light_model import build_light_model
from lens.faults.on_glass import ALL_DARK, is_scratch, pieces_of_scratches
from lens.faults.pixels import Evidence
from lens.inspecting import PhotoFile, inspect_files
from lens.photo import read_photo
from lens.photo.registration import Registration
from lens.photo.standpoint import FILM_DIAGONAL_MM, standpoint
from lens.records import Finding, Inspection
from lens.simulate import Blemish, DeviceFault, FaultyPanel, shoot, shoot_set, standing_pose
from tests.core.sets import CAMERA, PANEL, SOLIDS

ABOVE_PX = 4.0
DEAD = ((250, 120), (560, 380))
SPECKS = ((120.2, 300.1), (420.0, 250.2))
THINGS = (
    *(Blemish(kind="speck", x=x, y=y, size_px=0.6, depth=0.9) for x, y in SPECKS),
    Blemish(kind="scratch", x=640, y=130, size_px=0.8, depth=0.45, length_px=110, angle_deg=35),
    Blemish(kind="bubble", x=230, y=400, size_px=20, depth=0.15),
)
MURA = DeviceFault(kind="shade", x=650, y=400, size_px=34, depth=0.06)


def device(things: tuple[Blemish, ...] = THINGS) -> FaultyPanel:
    faults = tuple(DeviceFault(kind="dead_pixel", x=x, y=y) for x, y in DEAD)
    return FaultyPanel(panel=PANEL, faults=(*faults, MURA), blemishes=things, glass_above_px=ABOVE_PX)


def photos(seed: int, side: bool) -> list[PhotoFile]:
    """Six solids from about above, and white once more from the side."""
    rng = np.random.default_rng(seed)
    files = [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shoot_set(device(), SOLIDS, CAMERA, rng).items()]
    if side:
        pose = standing_pose(PANEL, CAMERA, rng, tilt_deg=(22, 26))
        files.append(PhotoFile("side.jpg", shoot(device(), "white", CAMERA, rng, pose=pose).data))
    return files


def at(result: Inspection, x: float, y: float, reach: float = 4) -> list[Finding]:
    return [f for f in result.findings if abs(f.x - x) <= reach + f.w / 2 and abs(f.y - y) <= reach + f.h / 2]


class Standpoint(TestCase):
    def test_it_is_the_camera_centre_of_a_pinhole(self) -> None:
        # the truth is made with OpenCV's own projection (Zhang's model), not with the simulator
        width, height, focal_35 = 1600, 1200, 35.0
        focal = focal_35 / FILM_DIAGONAL_MM * np.hypot(width, height)
        matrix = np.array([[focal, 0, (width - 1) / 2], [0, focal, (height - 1) / 2], [0, 0, 1]])
        corners = np.array([(x, y, 0.0) for x, y in PANEL.corners])
        for turn in ((0.0, 0.0, 0.0), (0.3, -0.1, 0.2), (-0.25, 0.35, 3.0)):
            rotation, _ = cv2.Rodrigues(np.array(turn))
            eye = np.array([420.0, 230.0, 0.0]) - rotation.T @ np.array([0, 0, 1300.0])
            seen, _ = cv2.projectPoints(corners, np.array(turn), -rotation @ eye, matrix, None)
            homography, _ = cv2.findHomography(corners[:, :2], seen.reshape(-1, 2))
            told = standpoint(Registration(np.asarray(homography, float), 0, 0, width, height, 0, 4), focal_35)
            np.testing.assert_allclose(told, [eye[0], eye[1], -eye[2]], rtol=1e-5, atol=1e-2)


class Heights(TestCase):
    def test_pixels_lie_at_zero_and_specks_as_high_as_the_glass(self) -> None:
        reads = [read_photo(file.data, PANEL) for file in photos(21, side=True)]
        evidence = Evidence(PANEL, reads, build_light_model(reads))
        for x, y in DEAD:
            told = height_above(evidence, (x, y, x, y), ALL_DARK)
            self.assertLess(abs(told.px), 3 * told.sd_px)
            self.assertFalse(told.above)
        for x, y in SPECKS:
            eye = np.mean([read.eye for read in reads], axis=0)
            px, py = (round(v - ABOVE_PX * (e - v) / eye[2]) for v, e in ((x, eye[0]), (y, eye[1])))
            told = height_above(evidence, (px, py, px, py), ALL_DARK)
            self.assertLess(abs(told.px - ABOVE_PX), 3 * told.sd_px)
            self.assertTrue(told.above)
            self.assertIn("mm of glass", told.words(PANEL))

    def test_a_view_along_the_panel_tells_none(self) -> None:
        reads = [read_photo(file.data, PANEL) for file in photos(21, side=False)]
        flat = [read._replace(eye=np.array([1e5 * (-1) ** n, 0.0, 1.0])) for n, read in enumerate(reads)]
        evidence = Evidence(PANEL, flat, build_light_model(flat))
        self.assertEqual(height_above(evidence, (*DEAD[0], *DEAD[0]), ALL_DARK), UNTOLD)

    def test_one_photo_tells_no_height(self) -> None:
        reads = [read_photo(file.data, PANEL) for file in photos(21, side=False)[:1]]
        evidence = Evidence(PANEL, reads, build_light_model(reads))
        self.assertEqual(height_above(evidence, (*DEAD[0], *DEAD[0]), ALL_DARK), UNTOLD)


class OnGlass(TestCase):
    def test_each_is_told_as_what_it_is(self) -> None:
        result = inspect_files(PANEL, photos(22, side=True))
        for x, y in SPECKS:
            self.assertEqual({f.kind for f in at(result, x, y, 5)}, {"dust"})
        self.assertIn("scratch", {f.kind for f in at(result, 640, 130)})
        self.assertIn("film", {f.kind for f in at(result, 230, 400)})
        self.assertEqual({f.kind for f in at(result, 650, 400)}, {"mura"})
        for x, y in DEAD:
            self.assertEqual({f.kind for f in at(result, x, y, 1)}, {"dead_pixel"})

    def test_without_a_view_from_the_side_a_fault_of_the_panel_stays_one(self) -> None:
        result = inspect_files(PANEL, photos(23, side=False))
        for x, y in DEAD:
            self.assertEqual({f.kind for f in at(result, x, y, 1)}, {"dead_pixel"})
        self.assertEqual({f.kind for f in at(result, 650, 400)}, {"mura"})

    def test_a_speck_on_the_lens_is_the_cameras_and_told_once(self) -> None:
        camera = CAMERA.model_copy(update={"specks": ((0.45 * CAMERA.width, 0.55 * CAMERA.height, 1.2, 0.7),)})
        shots = shoot_set(
            FaultyPanel(panel=PANEL), ("white", "red", "green", "blue", "grey50"), camera, np.random.default_rng(25)
        )
        told = inspect_files(PANEL, [PhotoFile(name, shot.data) for name, shot in shots.items()]).findings
        self.assertEqual([f.kind for f in told], ["camera"])

    def test_a_scratch_that_crosses_rows_slowly_is_told_once(self) -> None:
        flat = Blemish(kind="scratch", x=400, y=200, size_px=0.65, depth=0.4, length_px=70, angle_deg=8)
        device = FaultyPanel(panel=PANEL, glass_above_px=3.0, blemishes=(flat,))
        shots = shoot_set(device, ("white", "red", "green", "blue", "grey50"), CAMERA, np.random.default_rng(24))
        told = inspect_files(PANEL, [PhotoFile(name, shot.data) for name, shot in shots.items()]).findings
        self.assertEqual([f.kind for f in told], ["scratch"])

    def test_a_line_within_an_oblique_one_is_a_piece_of_it(self) -> None:
        snr = np.zeros((200, 200), np.float32)
        for step in np.arange(-50, 50, 0.5):
            snr[round(100 + 0.14 * step), round(100 + step)] = 9
        piece, beside, longer = (
            Finding(kind="line", x=x, y=y, w=w, h=1, orientation="row", contrast=-0.1, confidence=0.9)
            for x, y, w in ((80, 97, 22), (80, 120, 22), (100, 100, 180))
        )
        self.assertEqual(pieces_of_scratches(snr, [piece, beside, longer]), [True, False, False])

    def test_a_line_along_rows_columns_or_none(self) -> None:
        for angle, wanted in ((30, True), (75, True), (0, False), (90, False)):
            snr = np.zeros((200, 200), np.float32)
            across, down = np.cos(np.radians(angle)), np.sin(np.radians(angle))
            for step in np.arange(-50, 50, 0.5):
                snr[round(100 + step * down), round(100 + step * across)] = 9
            self.assertEqual(is_scratch(snr, group(snr)[0]), wanted, angle)
