"""Photos laid over the panel: every panel pixel where it belongs, whatever lens and pose; what differs from what was sent has the right sign."""

from unittest import TestCase

import cv2
import numpy as np
from numpy.typing import NDArray

from lens.panel import make_panel
from lens.patterns import get_pattern, render
from lens.photo import registration_of
from lens.photo.rectified import TILE_PX, difference, rectified, rectified_size, tiles
from lens.records import PhotoMap

PANEL = make_panel(640, 400, 11.6)
# a photo of 1600 x 1200 from the side, twice as large as the panel, with a barrel lens
MAP = PhotoMap(
    homography=(2.05, 0.06, 120, -0.05, 2.1, 150, 4e-5, -3e-5, 1), k1=-0.03, k2=0.006, width=1600, height=1200
)
SPOTS = ((20.0, 15.0), (619.0, 30.0), (320.0, 200.0), (41.0, 380.0), (600.0, 377.0))


def photo_with_spots() -> NDArray[np.uint8]:
    """Round spots of light drawn at the places of panel pixels, each on its own, without any rectifying."""
    y, x = np.mgrid[0:1200, 0:1600]
    picture = np.full((1200, 1600), 40.0)
    for px, py in registration_of(MAP).to_photo(np.array(SPOTS)):
        picture += 200 * np.exp(-((x - px) ** 2 + (y - py) ** 2) / (2 * 2.5**2))
    return np.repeat(np.clip(picture, 0, 255).astype(np.uint8)[..., None], 3, 2)


class Rectified(TestCase):
    def test_every_spot_lies_at_its_panel_pixel(self) -> None:
        """The size follows the photo's own detail; a spot's centre of mass is told to a twentieth of a panel px."""
        size = rectified_size(PANEL, MAP)
        self.assertEqual((size.scale, size.width, size.height, size.levels), (2, 1280, 800, 3))
        flat = rectified(photo_with_spots(), PANEL, MAP, size.scale)[..., 0].astype(float) - 40
        for x, y in SPOTS:
            at = [round(size.scale * (value + 0.5) - 0.5) for value in (x, y)]
            rows, columns = slice(max(0, at[1] - 12), at[1] + 13), slice(max(0, at[0] - 12), at[0] + 13)
            weight, (v, u) = flat[rows, columns], np.mgrid[rows, columns]
            centre = [float((weight * part).sum() / weight.sum() + 0.5) / size.scale - 0.5 for part in (u, v)]
            self.assertLess(abs(centre[0] - x) + abs(centre[1] - y), 0.05, (x, y, centre))

    def test_large_panels_stay_within_their_memory(self) -> None:
        """A 3840 x 2160 panel in a 48 MP photo, as in the issue of smooth looking: 33 million px, never 133."""
        near = PhotoMap(homography=(2, 0, 0, 0, 2, 0, 0, 0, 1), k1=0, k2=0, width=8000, height=6000)
        size = rectified_size(make_panel(3840, 2160), near)
        self.assertEqual((size.scale, size.width * size.height), (2, 33_177_600))
        self.assertEqual(rectified_size(make_panel(7680, 4320), near).scale, 1)

    def test_tiles_put_together_are_the_picture_and_each_level_is_half(self) -> None:
        rng = np.random.default_rng(1)
        picture = cv2.GaussianBlur(rng.integers(0, 255, (700, 1100, 3)).astype(np.uint8), (0, 0), 6)
        found = {
            (t.level, t.column, t.row): cv2.imdecode(np.frombuffer(t.jpeg, np.uint8), 1) for t in tiles(picture, 3)
        }
        self.assertEqual({key for key in found if key[0] == 0}, {(0, c, r) for c in range(3) for r in range(2)})
        whole = np.vstack([np.hstack([found[0, c, r] for c in range(3)]) for r in range(2)])
        self.assertLess(np.abs(whole.astype(int) - picture).max(), 12)
        self.assertEqual([found[2, 0, 0].shape[:2], (TILE_PX, TILE_PX)], [(175, 275), (512, 512)])

    def test_darker_is_blue_and_brighter_is_orange_under_any_fall_off(self) -> None:
        fall_off = 1 - 0.3 * np.hypot(*np.meshgrid(np.linspace(-1, 1, 640), np.linspace(-1, 1, 400))) ** 2 / 2
        for name, light, share in (("white", 200.0, 0.0), ("grey50", 120.0, 1.6)):
            flat = np.repeat((light * fall_off)[..., None], 3, 2)
            sent = render(PANEL, get_pattern(name), 7)
            flat[sent[..., 0] < 10] = 0  # the markers
            flat[200:204, 320:324] = light * share
            told = difference(flat.astype(np.uint8), PANEL, get_pattern(name), 7, 1).astype(int)
            blue, _, red = told[202, 322]
            self.assertTrue(blue > red + 100 if share < 1 else red > blue + 100, (name, told[202, 322]))
            even = told[150:180, 300:400]
            self.assertLess(np.abs(even[..., 0] - even[..., 2]).max(), 60, name)
        black = np.zeros((400, 640, 3), np.uint8)
        black[render(PANEL, get_pattern("black"), 7)[..., 0] > 10] = 128
        black[100, 300] = (0, 0, 220)
        red_dot = difference(black, PANEL, get_pattern("black"), 7, 1)[100, 300].astype(int)
        self.assertGreater(red_dot[2], red_dot[0] + 100)
