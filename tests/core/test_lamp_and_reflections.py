"""Light that is missing, and light that is not the panel's: against the simulator's truth and a worked exposure."""

from unittest import TestCase

import numpy as np

from lens.diagnosis import EvidenceItem, evidence_from_inspection
from lens.faults.lamp import CAMERA_FACTOR, luminance_cd_m2
from lens.inspecting import PhotoFile, inspect_files
from lens.photo import read_photo
from lens.records import Finding, Inspection
from lens.simulate import DeviceFault, FaultyPanel, Reflection, shoot, shoot_set, standing_pose
from tests.core.sets import CAMERA, PANEL, SOLIDS

LEAK = DeviceFault(kind="leak", x=5, y=320, size_px=36, depth=0.03)


def one(name: str = "white", seed: int = 3, **told: object) -> bytes:
    device = FaultyPanel.model_validate({"panel": PANEL, **told})
    return shoot(device, name, CAMERA, np.random.default_rng(seed)).data


def looked_at(
    mirrored: dict[str, tuple[Reflection, ...]],
    faults: tuple[DeviceFault, ...] = (),
    patterns: tuple[str, ...] = SOLIDS,
) -> Inspection:
    shots = shoot_set(
        FaultyPanel(panel=PANEL, faults=faults), patterns, CAMERA, np.random.default_rng(61), reflections=mirrored
    )
    return inspect_files(PANEL, [PhotoFile(f"{name}.jpg", shot.data) for name, shot in shots.items()])


def lamp(x: float = 0.55, y: float = 0.35, level: float = 0.06) -> tuple[Reflection, ...]:
    return (Reflection(x=x, y=y, size_x=0.05, size_y=0.04, level=level),)


class Lamps(TestCase):
    def test_a_picture_that_only_a_torch_shows(self) -> None:
        for outside in (0.03, 0.1):
            result = inspect_files(PANEL, [PhotoFile("torch.jpg", one(brightness=0.0, outside_light=outside))])
            self.assertEqual([f.kind for f in result.findings], ["no_light"])
            self.assertIn("light dead", result.findings[0].reasons[1])
            self.assertEqual(result.verdict.result, "fail")
            self.assertEqual(result.proven.pixels, 0)

    def test_a_bright_room_is_no_dead_lamp(self) -> None:
        result = inspect_files(PANEL, [PhotoFile("white.jpg", one(outside_light=0.05))])
        self.assertEqual([f.kind for f in result.findings], [])

    def test_a_dim_panel_is_told_by_the_exposure(self) -> None:
        result = inspect_files(PANEL, [PhotoFile("white.jpg", one(brightness=0.1))])
        self.assertEqual([f.kind for f in result.findings], ["dim"])
        self.assertIn("cd/m2", result.findings[0].reasons[0])

    def test_luminance_of_a_worked_exposure(self) -> None:
        # ISO 12232 (from memory): H_sat = 78 / S, H = 0.65 L t / N^2. At f/1.8, 1/60 s, ISO 50 a level of 0.72 of saturation means
        # L = 0.72 * (78 / 50) * 1.8^2 / (0.65 / 60) = 336 cd/m2; by standard output sensitivity, H = 10 / S at 0.18, 239; by a meter's
        # grey of 0.18 (ISO 2720, K = 12.5, from memory) 194
        by_each = 0.72 * 1.8**2 * 60 / 50 * np.array([78 / 0.65, 10 / (0.65 * 0.18), 12.5 / 0.18])
        np.testing.assert_allclose(by_each, [336, 239, 194], atol=1)
        told = luminance_cd_m2([read_photo(one(), PANEL)]) or 0
        self.assertLess(told / CAMERA_FACTOR, by_each.min())
        self.assertGreater(told * CAMERA_FACTOR, by_each.max())

    def test_a_full_luminance_is_evidence_and_a_low_one_is_left_to_a_meter(self) -> None:
        told = inspect_files(PANEL, [PhotoFile("white.jpg", one())])
        assert told.white_light is not None
        # 258 to a factor of 1.65 surely reaches two thirds of 220, and perhaps not of 300
        for nominal, outcomes in ((220.0, ["nominal"]), (300.0, []), (None, [])):
            items = evidence_from_inspection(told, nominal)
            self.assertEqual([item.outcome for item in items if item.check == "luminance"], outcomes)
        self.assertEqual(
            EvidenceItem(check="luminance", outcome="nominal", source="measured")
            in evidence_from_inspection(inspect_files(PANEL, [PhotoFile("white.jpg", one(brightness=0.1))]), 220.0),
            False,
        )


class SecondBlack(TestCase):
    """A second black photo tells what the glass mirrors only when the camera moved far enough between the two."""

    def told(self, second_seed: int, *mirrored: tuple[Reflection, ...]) -> list[Finding]:
        """``mirrored`` is what the first and the second black photo mirror; a panel that leaks without."""
        device = FaultyPanel(panel=PANEL, faults=() if mirrored else (LEAK,))
        in_each = dict(zip(("black-dim", "black-dim-b"), mirrored, strict=False))
        photos = []
        for name, seed in (("white", 4), ("black-dim", 7), ("black-dim-b", second_seed)):
            rng = np.random.default_rng(seed)
            pose = standing_pose(PANEL, CAMERA, np.random.default_rng(seed))
            photos.append(
                PhotoFile(name, shoot(device, name, CAMERA, rng, pose=pose, reflections=in_each.get(name, ())).data)
            )
        return [f for f in inspect_files(PANEL, photos).findings if f.kind in ("bleed", "reflection")]

    def test_from_another_place_it_tells(self) -> None:
        self.assertEqual([(f.kind, f.confidence) for f in self.told(8)], [("bleed", 0.95)])
        # a mirror image goes half as far over the panel as the camera does
        self.assertEqual({f.kind for f in self.told(8, lamp(), lamp(x=0.62))}, {"reflection"})

    def test_from_the_same_place_it_is_blind_and_asks(self) -> None:
        for mirrored in ((), (lamp(), lamp())):
            (told,) = self.told(7, *mirrored)
            self.assertEqual((told.kind, told.confidence), ("bleed", 0.6))
            self.assertEqual([one.kind for one in told.alternatives], ["reflection"])
            self.assertIn("from another side", told.ask or "")


class Reflections(TestCase):
    def test_what_is_mirrored_on_black_is_no_bleed(self) -> None:
        told = looked_at({"black": lamp()}).findings
        self.assertEqual([f.kind for f in told], ["reflection"])
        self.assertIn("it is mirrored in the glass", told[0].reasons[0])

    def test_bleed_stays_bleed_under_reflections_in_every_photo(self) -> None:
        everywhere = {name: lamp(0.35 + 0.06 * n, 0.3 + 0.03 * n) for n, name in enumerate(SOLIDS)}
        told = looked_at(everywhere, (LEAK,)).findings
        (bleed,) = (f for f in told if f.kind == "bleed")
        self.assertLess(abs(bleed.x - 30), 40)
        self.assertGreater(bleed.confidence, 0.9)
        self.assertIn("does not move with the camera", " ".join(bleed.reasons))

    def test_black_alone_cannot_tell_and_says_so(self) -> None:
        (bleed,) = looked_at({"black": lamp()}, patterns=("white", "black")).findings
        self.assertEqual(bleed.kind, "bleed")
        self.assertLess(bleed.confidence, 0.7)
        self.assertIn("Darken the room", " ".join(bleed.reasons))

    def test_a_bright_spot_in_one_lit_photo(self) -> None:
        told = looked_at({"white": lamp(level=0.25)}).findings
        self.assertEqual([(f.kind, f.patterns) for f in told], [("reflection", ("white",))])
