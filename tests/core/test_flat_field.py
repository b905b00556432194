"""The flat-field shot: its fall-off against the simulated lens's, what it does for the uniformity, and what is refused."""

import io
from unittest import TestCase

import numpy as np
from PIL import Image

from lens.errors import BadInput
from lens.inspecting import PhotoFile, inspect_files
from lens.photo import read_flat
from lens.simulate import FaultyPanel, photograph_flat, shoot
from tests.core.sets import CAMERA, PANEL


def saved(pixels: np.ndarray) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(pixels.astype(np.uint8)).save(buffer, "JPEG", quality=95)
    return buffer.getvalue()


class FlatFieldShot(TestCase):
    def test_the_fall_off_is_the_lenses_own_under_leaning_light(self) -> None:
        for vignetting, lean in ((0.1, 0.0), (0.25, 0.2), (0.4, -0.2)):
            camera = CAMERA.model_copy(update={"vignetting": vignetting})
            told = read_flat(photograph_flat(camera, np.random.default_rng(5), lean))
            self.assertAlmostEqual(told.fall_off, vignetting, delta=max(0.02, 2 * told.sd))

    def test_a_cosine_fourth_lens_written_by_hand(self) -> None:
        # illumination falls with the fourth power of the cosine of the field angle (Jenkins, White, Fundamentals of Optics, from memory):
        # at 30 degrees in the corner cos^4 = 0.5625, near 1 - 0.4375 r^2
        y, x = np.mgrid[-1:1:600j, -1:1:800j]
        r2 = ((0.8 * x) ** 2 + (0.6 * y) ** 2) * np.tan(np.radians(30)) ** 2
        light = 0.6 / (1 + r2) ** 2
        code = 255 * np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
        self.assertAlmostEqual(read_flat(saved(np.repeat(code[..., None], 3, axis=2))).fall_off, 0.4375, delta=0.05)

    def test_one_photo_and_a_flat_field_tell_uniformity(self) -> None:
        rng = np.random.default_rng(9)
        white = PhotoFile("white.jpg", shoot(FaultyPanel(panel=PANEL), "white", CAMERA, rng).data)
        alone = inspect_files(PANEL, [white]).uniformity
        result = inspect_files(PANEL, [white, PhotoFile("flat.jpg", photograph_flat(CAMERA, rng), "flat")])
        assert alone is not None and result.uniformity is not None
        self.assertGreater(alone.uncertainty, 3 * result.uniformity.uncertainty)
        self.assertLess(abs(result.uniformity.ratio - 1), result.uniformity.uncertainty)
        self.assertEqual([(p.pattern, p.used) for p in result.photos], [("white", True), ("flat", True)])

    def test_what_is_no_even_white_is_refused_with_what_to_do(self) -> None:
        y, x = np.mgrid[:600, :800]
        checks = 255 * ((x // 40 + y // 40) % 2)
        for pixels, code in (
            (np.full((600, 800, 3), 255), "flat_clipped"),
            (np.full((600, 800, 3), 8), "flat_dark"),
            (np.repeat(np.clip(checks, 60, 200)[..., None], 3, axis=2), "flat_uneven"),
        ):
            with self.assertRaises(BadInput) as refused:
                read_flat(saved(pixels))
            self.assertEqual(refused.exception.code, code)
            self.assertRegex(refused.exception.message, "white (surface|paper)")
