"""The light field and its zones: fall-off told from the panel, zones by box, contrast and kind; colours by colour-science."""

from unittest import TestCase

import colour
import numpy as np

from lens.faults.light_field import block_centres, detrended, measure_light_field
from lens.faults.light_model import build_light_model
from lens.faults.regions import regions
from lens.faults.zones import semu
from lens.inspecting import inspect_files
from lens.photo import read_photo
from lens.records import Finding
from lens.simulate import Camera, DeviceFault
from tests.core.sets import CAMERA, PANEL, files, found

HALF_DEPTH_SIGMAS = 2 * np.sqrt(2 * np.log(2))  # full width of a Gaussian at half of its depth


def soft(kind: str, x: float, y: float, size_px: float, depth: float = 0.0, **more: object) -> DeviceFault:
    return DeviceFault.model_validate({"kind": kind, "x": x, "y": y, "size_px": size_px, "depth": depth, **more})


def overlap(finding: Finding, box: tuple[float, float, float, float]) -> float:
    """Intersection over union of two boxes (centre, size)."""
    x, y, w, h = box
    across = min(finding.x + finding.w / 2, x + w / 2) - max(finding.x - finding.w / 2, x - w / 2)
    down = min(finding.y + finding.h / 2, y + h / 2) - max(finding.y - finding.h / 2, y - h / 2)
    both = max(across, 0) * max(down, 0)
    return both / (finding.w * finding.h + w * h - both)


class FallOff(TestCase):
    def field(self, vignetting: float, faults: tuple[DeviceFault, ...] = ()) -> tuple[float, float]:
        camera = CAMERA.model_copy(update={"vignetting": vignetting})
        reads = [read_photo(f.data, PANEL) for f in files(faults=faults, camera=camera, seed=41)]
        field = measure_light_field(PANEL, reads, build_light_model(reads))
        assert field is not None
        return field.fall_off, field.fall_off_sd

    def test_poses_tell_the_lens_from_the_panel(self) -> None:
        for vignetting in (0.1, 0.4):
            told, sd = self.field(vignetting)
            self.assertAlmostEqual(told, vignetting, delta=max(0.02, 3 * sd))

    def test_uniformity_is_the_panels_own(self) -> None:
        # a panel that loses 30 % towards its right edge, under a lens that loses 40 % in the corners
        lean = (soft("shade", 799, 250, 400, 0.30, h=4000),)
        camera = CAMERA.model_copy(update={"vignetting": 0.4})
        told = inspect_files(PANEL, files(faults=lean, camera=camera, seed=42)).uniformity
        assert told is not None
        x = np.array([0.1, 0.5, 0.9]) * PANEL.width - 0.5
        true = 1 - 0.30 * np.exp(-((x - 799) ** 2) / (2 * 400**2))
        self.assertAlmostEqual(told.ratio, float(true.min() / true.max()), delta=0.02)
        self.assertLess(told.uncertainty, 0.05)

    def test_one_photo_cannot_and_says_so(self) -> None:
        white = files(faults=(), seed=41)[:1]
        one = inspect_files(PANEL, white).uniformity
        six = inspect_files(PANEL, files(faults=(), seed=41)).uniformity
        assert one is not None and six is not None
        self.assertGreater(one.uncertainty, 2 * six.uncertainty)
        self.assertLessEqual(abs(one.ratio - 1), one.uncertainty, "the stated interval must cover the truth")

    def test_black_or_the_registration_pattern_alone_have_no_field(self) -> None:
        for shot in (files(faults=())[1], files(faults=(), patterns=("registration",))[0]):
            reads = [read_photo(shot.data, PANEL)]
            self.assertIsNone(measure_light_field(PANEL, reads, build_light_model(reads)))
            told = inspect_files(PANEL, [shot])
            self.assertIsNone(told.uniformity)
            self.assertEqual(told.verdict.result, "not_proven", told.findings)


class Zones(TestCase):
    def the(self, kind: str, faults: tuple[DeviceFault, ...], seed: int) -> Finding:
        told = [f for f in found(faults, seed=seed) if f.kind not in ("cluster",)]
        self.assertEqual([f.kind for f in told], [kind], told)
        return told[0]

    def test_a_dark_corner_is_a_zone_with_its_box(self) -> None:
        zone = self.the("dark_zone", (soft("shade", 400, 470, 90, 0.4, h=50),), 51)
        top = 470 - 50 * HALF_DEPTH_SIGMAS / 2
        self.assertGreater(overlap(zone, (400, (top + 499) / 2, 90 * HALF_DEPTH_SIGMAS, 499 - top)), 0.7)
        self.assertAlmostEqual(zone.contrast, -0.4, delta=0.06)
        self.assertIn("failed lamp", " ".join(zone.reasons))

    def test_a_hot_spot(self) -> None:
        zone = self.the("bright_zone", (soft("shade", 520, 160, 45, -0.15),), 52)
        self.assertGreater(overlap(zone, (520, 160, 45 * HALF_DEPTH_SIGMAS, 45 * HALF_DEPTH_SIGMAS)), 0.5)

    def test_bleed_on_black_against_white(self) -> None:
        zone = self.the("bleed", (soft("leak", 770, 30, 40, 0.02),), 53)
        self.assertAlmostEqual(zone.contrast, 0.02, delta=0.006)
        self.assertEqual(zone.patterns, ("black",))

    def test_a_wide_band_and_a_drivers_block(self) -> None:
        def rectangle(x: float, y: float, w: float, h: float, depth: float) -> DeviceFault:
            return DeviceFault(kind="block", x=x, y=y, w=w, h=h, depth=depth)

        band = self.the("band", (rectangle(400, 249.5, 56, 500, 0.06),), 54)
        self.assertEqual(band.orientation, "column")
        self.assertAlmostEqual(band.x, 400, delta=4)
        block = self.the("dark_zone", (rectangle(600, 380, 150, 240, 0.5),), 55)
        self.assertGreater(overlap(block, (600, 380, 150, 240)), 0.8)
        self.assertIn("driver's share", " ".join(block.reasons))

    def test_a_faint_spot_is_mura_and_a_fainter_one_is_nothing(self) -> None:
        spot = self.the("mura", (soft("shade", 300, 200, 40, 0.035),), 56)
        self.assertGreater(overlap(spot, (300, 200, 40 * HALF_DEPTH_SIGMAS, 40 * HALF_DEPTH_SIGMAS)), 0.5)
        self.assertEqual(found((soft("shade", 300, 200, 40, 0.008),), seed=57), ())

    def test_a_yellowed_zone_is_told_by_its_colour(self) -> None:
        loss = (0.0, 0.02, 0.12)
        zone = self.the("discoloration", (soft("tint", 250, 300, 80, rgb=loss),), 58)
        self.assertIn("Yellowish", zone.reasons[0])
        # the distance in u'v' that colour-science gives for the middle of the tint, sRGB primaries
        xyz = [colour.RGB_to_XYZ(np.array(rgb), "sRGB") for rgb in (np.ones(3), 1 - np.array(loss))]
        uv = [colour.xy_to_Luv_uv(colour.XYZ_to_xy(one)) for one in xyz]
        told = float(zone.reasons[0].split(", ")[1].split(" ")[0])
        self.assertAlmostEqual(told, float(np.hypot(*(uv[1] - uv[0]))), delta=0.003)

    def test_a_clean_panel_under_another_lens_has_no_zone(self) -> None:
        camera = Camera(width=1800, height=1350, vignetting=0.4, barrel=-0.006, blur_px=0.6)
        self.assertEqual(found((), seed=59, camera=camera), ())


class Formulas(TestCase):
    def test_semu_worked_numbers(self) -> None:
        # SEMI D31 (from memory): Cjnd = 1.97 / S^0.33 + 0.72 in percent; 1 mm2 gives 2.69, 100 mm2 gives 1.151
        self.assertAlmostEqual(semu(0.0269, 1.0), 1.0, delta=1e-3)
        self.assertAlmostEqual(semu(-0.01151, 100.0), 1.0, delta=2e-3)

    def test_a_quadratic_surface_leaves_nothing_and_a_dent_stays(self) -> None:
        y, x = np.meshgrid(np.linspace(-1, 1, 60), np.linspace(-1, 1, 90), indexing="ij")
        surface = 0.1 - 0.2 * x + 0.05 * y - 0.3 * x * x + 0.1 * x * y - 0.2 * y * y
        np.testing.assert_allclose(detrended(surface), 0, atol=1e-9)
        dented = surface.copy()
        dented[10:20, 10:25] -= 0.2
        np.testing.assert_allclose(detrended(dented)[12:18, 12:22], -0.2, atol=0.01)

    def test_regions_are_told_at_half_depth_strongest_first(self) -> None:
        field = np.zeros((40, 60))
        field[5:15, 10:30] = 1.0
        field[30:36, 40:50] = 0.5
        told = regions(field, 0.2)
        self.assertEqual([(r.x0, r.y0, r.width, r.height) for r in told], [(10, 5, 20, 10), (40, 30, 10, 6)])
        self.assertEqual(regions(field, 2.0), [])

    def test_block_centres_stay_on_the_panel(self) -> None:
        centres = block_centres(PANEL, (63, 100))
        self.assertEqual(tuple(centres[0, 0]), (3.5, 3.5))
        self.assertLessEqual(centres[-1, -1].max(), 799)
