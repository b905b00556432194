"""The simulated phone does what phones do: held to the meter's equation, to photon statistics and to what benches see."""

import io
from unittest import TestCase

import colour
import numpy as np
from PIL import ExifTags, Image

from lens.panel import make_panel
from lens.patterns import get_pattern, render
from lens.simulate import FaultyPanel, developing, emit, random_pose
from lens.simulate.exposing import Exposure, Phone, metered
from lens.simulate.phone import natural_light, photograph_by_phone, random_phone
from lens.simulate.scene import Camera

PANEL = make_panel(640, 400)
CAMERA = Camera(width=1200, height=900, vignetting=0.0)


def plain(**fields: float) -> Phone:
    """A phone without the randomness of one."""
    quiet = {
        "matrix_error": 0.0,
        "local_tone": 0.0,
        "denoise": 0.0,
        "sharpening": 0.0,
        "s_curve": 0.0,
        "shake_px": 0.0,
        "room_cd_m2": 0.0,
    }
    return Phone(**{"camera": CAMERA, **quiet, **fields})


def shoot(pattern: str, phone: Phone, seed: int = 1) -> tuple[np.ndarray, Exposure, bytes]:
    rng = np.random.default_rng(seed)
    light = emit(FaultyPanel(panel=PANEL), render(PANEL, get_pattern(pattern)))
    shot, exposure = photograph_by_phone(light, phone, random_pose(PANEL, phone.camera, rng, fill=0.85), rng)
    return np.asarray(Image.open(io.BytesIO(shot.data))), exposure, shot.data


class Exposing(TestCase):
    def test_an_even_field_gets_what_the_meters_equation_says(self) -> None:
        """ISO 2720, reflected light: L = K N^2 / (t S), K = 12.5 cd/m2 (from memory)."""
        for level in (40.0, 120.0, 400.0):
            seen = np.full((90, 120, 3), level, np.float32)
            told = metered(seen, plain())
            self.assertAlmostEqual(
                level, 12.5 * CAMERA.f_number**2 / (told.time_s * told.gain * 50), delta=0.01 * level
            )

    def test_a_bright_part_is_guarded_and_a_small_one_is_not(self) -> None:
        seen = np.full((900, 1200, 3), 20.0, np.float32)
        alone = metered(seen, plain())
        seen[300:302, 300:302] = 3000.0  # a marker's size
        self.assertAlmostEqual(metered(seen, plain()).time_s / alone.time_s, 1.0, delta=0.05)
        seen[100:300, 100:400] = 3000.0
        guarded = metered(seen, plain())
        self.assertLess(guarded.time_s * guarded.gain * 3000 / (12.5 * CAMERA.f_number**2 / 50) * 0.18, 1.05)

    def test_black_gets_25_to_80_times_whites_exposure(self) -> None:
        """As benches find it with phones (common practice)."""
        ratios = []
        for seed in range(6):
            phone = random_phone(np.random.default_rng(seed), 1200, 900)
            (_, white, _), (_, black, _) = shoot("white", phone), shoot("black", phone)
            ratios.append(black.time_s * black.gain / (white.time_s * white.gain))
        self.assertTrue(all(20 < ratio < 100 for ratio in ratios), ratios)

    def test_the_file_says_what_was_chosen(self) -> None:
        """EXIF 2.3."""
        _, exposure, data = shoot("grey50", plain())
        block = Image.open(io.BytesIO(data)).getexif().get_ifd(ExifTags.IFD.Exif)
        self.assertAlmostEqual(float(block[ExifTags.Base.ExposureTime]), exposure.time_s, delta=1e-4)
        self.assertEqual((block[ExifTags.Base.ISOSpeedRatings], block[ExifTags.Base.WhiteBalance]), (exposure.iso, 0))


class Developing(TestCase):
    def test_pure_colours_are_driven_out_of_the_cameras_gamut(self) -> None:
        """The issue of real photos: a pure red's or blue's own channel is clipped, the others are not."""
        for pattern, channel in (("red", 0), ("blue", 2)):
            picture, _, _ = shoot(pattern, plain())
            middle = picture[350:550, 450:750].reshape(-1, 3).mean(axis=0)
            self.assertGreater(middle[channel], 245, pattern)
            self.assertLess(np.delete(middle, channel).max(), 150, pattern)

    def test_colours_are_right_where_nothing_is_clipped(self) -> None:
        """sRGB decoded by colour-science: a grey panel's levels, neutral."""
        picture, exposure, _ = shoot("grey50", plain())
        linear = colour.models.eotf_sRGB(picture[350:550, 450:750].reshape(-1, 3).mean(axis=0) / 255)
        wanted = (
            0.18
            * 300
            * colour.models.eotf_sRGB(128 / 255)
            * exposure.time_s
            * exposure.gain
            * 50
            / (12.5 * CAMERA.f_number**2)
        )
        self.assertLess(np.abs(linear / wanted - 1).max(), 0.08)
        self.assertLess(np.ptp(linear) / linear.mean(), 0.02)

    def test_noise_is_that_of_photons_and_the_reader(self) -> None:
        """Photon transfer (EMVA 1288): variance grows by one electron's worth with the mean, over the reader's own."""
        rng = np.random.default_rng(3)
        for gain in (1.0, 8.0):
            exposure = Exposure(1 / 100, gain)
            means, variances = [], []
            for level in (5.0, 15.0, 40.0):
                seen = np.full((400, 400, 3), level / gain, np.float32)
                phone = plain().model_copy(update={"camera": CAMERA.model_copy(update={"width": 400, "height": 400})})
                green = developing.exposed(seen, phone, exposure, rng)[0::2, 1::2]
                means.append(float(np.median(green)))
                variances.append(
                    float((1.4826 * np.median(np.abs(green - np.median(green)))) ** 2)
                    - (developing.RESPONSE_SPREAD * means[-1]) ** 2
                )
            slope = np.polyfit(means, variances, 1)[0]
            self.assertAlmostEqual(slope * developing.FULL_WELL_E / gain, 1.0, delta=0.1)

    def test_sound_panels_fall_off_by_5_to_15_per_cent(self) -> None:
        falls = []
        for seed in range(20):
            light = natural_light(PANEL, np.random.default_rng(seed)).mean(axis=2)
            falls.append(1 - light[[0, 0, -1, -1], [0, -1, 0, -1]].mean() / light[200, 320])
        self.assertTrue(min(falls) > 0.03 and max(falls) < 0.18, (min(falls), max(falls)))

    def test_a_seed_is_a_photo(self) -> None:
        phone = random_phone(np.random.default_rng(9), 1200, 900)
        self.assertEqual(shoot("white", phone)[2], shoot("white", phone)[2])
        self.assertNotEqual(shoot("white", phone, 1)[2], shoot("white", phone, 2)[2])
