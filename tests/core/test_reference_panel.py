"""White point and brightness against a reference panel: u'v' by colour-science, whatever the camera's balance."""

import io
from unittest import TestCase

import colour
import numpy as np
from PIL import Image

from lens.inspecting import REFERENCE, PhotoFile, inspect_files
from lens.records import AgainstReference, Inspection
from lens.simulate import DeviceFault, FaultyPanel, shoot
from tests.core.sets import CAMERA, PANEL

GOOD = FaultyPanel(panel=PANEL)


def tinted(loss: tuple[float, float, float]) -> FaultyPanel:
    """A panel whose colours lose these shares everywhere."""
    return FaultyPanel(panel=PANEL, faults=(DeviceFault(kind="tint", x=400, y=250, size_px=50000, rgb=loss),))


def photo(device: FaultyPanel, pattern: str, seed: int) -> bytes:
    return shoot(device, pattern, CAMERA, np.random.default_rng(seed)).data


def inspected(device: FaultyPanel, own: tuple[str, ...], other: bytes) -> Inspection:
    files = [PhotoFile(f"{name}.jpg", photo(device, name, 20 + n)) for n, name in enumerate(own)]
    return inspect_files(PANEL, [*files, PhotoFile("good.jpg", other, REFERENCE)])


def compared(
    device: FaultyPanel, own: tuple[str, ...] = ("white", "red", "green", "blue"), pattern: str = "white"
) -> AgainstReference:
    told = inspected(device, own, photo(GOOD, pattern, 9)).reference
    assert told is not None
    return told


def true_shift(loss: tuple[float, float, float]) -> np.ndarray:
    """u'v' of CIE 1976 from linear sRGB (reference: colour-science)."""
    matrix = colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ
    own, white = (colour.xy_to_Luv_uv(colour.XYZ_to_xy(matrix @ rgb)) for rgb in (1 - np.array(loss), np.ones(3)))
    return np.asarray(own - white, float)


class WhitePoint(TestCase):
    def test_a_yellow_or_pink_white_is_told_within_its_limit(self) -> None:
        for loss, word in (((0.0, 0.02, 0.15), "yellower"), ((0.0, 0.1, 0.06), "pinker"), ((0.12, 0.05, 0.0), "bluer")):
            told = compared(tinted(loss))
            shift = true_shift(loss)
            self.assertLess(abs(told.delta_uv - float(np.hypot(*shift))), told.uncertainty)
            self.assertLess(np.abs(np.array([told.delta_u, told.delta_v]) - shift).max(), told.uncertainty)
            self.assertIn(word, told.text)
            self.assertTrue(told.settings_locked)

    def test_two_like_panels_are_alike(self) -> None:
        for patterns, pattern in (
            (("white", "red", "green", "blue"), "white"),
            (("white", "grey50"), "grey50"),
            (("grey50-b",), "grey50"),
        ):
            told = compared(GOOD, patterns, pattern)
            self.assertLess(told.delta_uv, told.uncertainty)
            self.assertAlmostEqual(told.light_ratio, 1.0, delta=told.light_uncertainty)
            self.assertIn("the same within", told.text)

    def test_a_dim_panel_is_told_through_the_exposures(self) -> None:
        told = compared(GOOD.model_copy(update={"brightness": 0.6}))
        self.assertAlmostEqual(told.light_ratio, 0.6, delta=0.6 * told.light_uncertainty)
        self.assertIn("darker than the reference panel", told.text)

    def test_an_automatic_balance_widens_the_limit_and_says_so(self) -> None:
        buffer = io.BytesIO()
        image = Image.open(io.BytesIO(photo(GOOD, "white", 9)))
        exif = image.getexif()
        exif.get_ifd(0x8769)[0xA403] = 0
        image.save(buffer, "JPEG", quality=95, exif=exif)
        told = inspected(GOOD, ("white",), buffer.getvalue()).reference
        assert told is not None
        self.assertFalse(told.settings_locked)
        self.assertGreater(told.uncertainty, 0.01)
        self.assertIn("lock it", told.text)

    def test_the_reference_adds_no_fault_and_no_proof(self) -> None:
        spoiled = FaultyPanel(panel=PANEL, faults=(DeviceFault(kind="dead_pixel", x=300, y=200),))
        result = inspected(GOOD, ("white",), photo(spoiled, "white", 9))
        self.assertEqual(result.findings, inspected(GOOD, ("white",), photo(GOOD, "white", 9)).findings)
        self.assertEqual([(p.pattern, p.used) for p in result.photos], [("white", True), ("reference", True)])

    def test_a_colour_is_no_reference(self) -> None:
        result = inspected(GOOD, ("white",), photo(GOOD, "red", 9))
        self.assertIsNone(result.reference)
        self.assertIn("compared on white or grey", result.photos[1].problems[0].message)
