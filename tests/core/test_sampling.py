"""The panel's grid: filtered light against scipy, block means against scikit-image, and the same from one thread and from two."""

import io
from unittest import TestCase

import cv2
import numpy as np
from PIL import Image
from scipy import ndimage
from skimage.measure import block_reduce

from lens.panel import make_panel
from lens.photo import read_photo
from lens.photo.blocks import BLOCK_PX, block_means, unblocked
from lens.photo.filtered import filtered
from lens.photo.light import LINEAR_OF_CODE
from lens.photo.registration import fit
from lens.photo_file import decode, early_luma
from tests.core.sets import PANEL, shots

FILTER_PX = 1.1


class Blocks(TestCase):
    def test_means_equal_scikit_images_where_blocks_are_whole(self) -> None:
        image = np.random.default_rng(1).normal(size=(77, 130)).astype(np.float32)
        means = block_means(image)
        self.assertEqual(means.shape, (10, 17))
        np.testing.assert_allclose(means[:9, :16], block_reduce(image, BLOCK_PX, np.mean)[:9, :16], atol=1e-5)

    def test_spread_in_parts_they_are_as_in_one_piece(self) -> None:
        blocks = np.random.default_rng(2).normal(size=(10, 17)).astype(np.float32)
        whole = unblocked(blocks, slice(0, 77), 130)
        np.testing.assert_allclose(whole, cv2.resize(blocks, (17 * BLOCK_PX, 10 * BLOCK_PX))[:77, :130], atol=1e-5)
        for rows in (slice(0, 16), slice(16, 40), slice(40, 77)):
            room = np.empty(60 * 17 * BLOCK_PX, np.float32)
            np.testing.assert_allclose(unblocked(blocks, rows, 130, room), whole[rows], atol=1e-5)


class Filtered(TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(3)
        self.pixels = cv2.GaussianBlur(rng.integers(0, 250, (700, 1000, 3), np.uint8), (0, 0), 1.5)
        self.panel = make_panel(610, 330)  # of several tiles, the last ones of other sizes
        corners = np.array([[120.0, 60], [930, 110], [900, 590], [90, 540]])
        self.registration = fit(np.array(self.panel.corners), corners, (1000, 700))

    def at(self) -> np.ndarray:
        y, x = np.mgrid[: self.panel.height, : self.panel.width]
        return self.registration.to_photo(np.stack([x.ravel(), y.ravel()], axis=1).astype(float))

    def test_it_equals_scipys_filter_looked_up_between_pixels(self) -> None:
        planes, inside, clipped = filtered(self.panel, self.pixels, self.registration, FILTER_PX, 2)
        self.assertTrue(inside.all())
        self.assertFalse(clipped.any())
        x, y = self.at().T
        for channel, plane in enumerate(planes):
            # both cut the filter off at the same reach
            smooth = ndimage.gaussian_filter(LINEAR_OF_CODE[self.pixels[..., channel]] / 65535, FILTER_PX, radius=3)
            wanted = ndimage.map_coordinates(smooth, [y, x], order=1).reshape(plane.shape)
            np.testing.assert_allclose(plane, wanted, atol=2e-4)

    def test_what_is_outside_the_photo_or_clipped_is_told(self) -> None:
        self.pixels[300:303, 500:503] = 255
        cut = np.ascontiguousarray(self.pixels[:, :800])
        planes, inside, clipped = filtered(self.panel, cut, self.registration._replace(width=800), FILTER_PX, 1)
        x, y = self.registration._replace(width=800).to_photo(np.argwhere(clipped)[:, ::-1].astype(float)).mean(axis=0)
        self.assertLess(np.hypot(x - 501, y - 301), 1.0)
        at = self.registration._replace(width=800).to_photo(np.array([[0.0, 165], [609, 165]]))
        self.assertTrue(inside[165, 0] and at[0, 0] < 800)
        self.assertFalse(inside[165, 609] or at[1, 0] < 800)
        self.assertTrue(np.isfinite(planes).all())


class Lattice(TestCase):
    def test_blocks_lie_where_the_whole_map_puts_their_middles(self) -> None:
        panel = make_panel(610, 330)
        corners = np.array([[120.0, 60], [930, 110], [900, 590], [90, 540]])
        registration = fit(np.array(panel.corners), corners, (1000, 700))
        told = registration.nodes(panel).of_blocks(BLOCK_PX)
        y, x = np.mgrid[: told.shape[1], : told.shape[2]] * BLOCK_PX + (BLOCK_PX - 1) / 2
        wanted = registration.to_photo(np.stack([x.ravel(), y.ravel()], axis=1))
        np.testing.assert_allclose(told.reshape(2, -1).T, wanted, atol=0.02)


class Threads(TestCase):
    def test_two_threads_see_what_one_sees(self) -> None:
        data = shots()["white"].data
        one, two = (read_photo(data, PANEL, threads=count) for count in (1, 2))
        np.testing.assert_allclose(two.registration.homography, one.registration.homography, rtol=1e-3, atol=1e-4)
        np.testing.assert_allclose(two.view.trust, one.view.trust, atol=0.05)
        difference = np.abs(two.view.response - one.view.response)
        self.assertLess(float(np.quantile(difference, 0.99)), 0.05 * float(one.view.response.std()))

    def test_the_luma_of_a_jpeg_is_what_pillow_reads_and_lies_as_the_photo_does(self) -> None:
        picture = Image.fromarray(
            cv2.GaussianBlur(np.random.default_rng(5).integers(0, 256, (240, 320, 3), np.uint8), (0, 0), 3)
        )
        exif = Image.Exif()
        exif[0x0112] = 6  # EXIF 2.3, Orientation: turned by a quarter
        buffer = io.BytesIO()
        picture.save(buffer, "JPEG", quality=92, exif=exif)
        light = early_luma(buffer.getvalue())
        assert light is not None
        self.assertEqual(light.shape, decode(buffer.getvalue()).pixels.shape[:2])
        wanted = np.asarray(Image.open(buffer).convert("L").transpose(Image.Transpose.ROTATE_270), float)
        self.assertLess(float(np.abs(light - wanted).max()), 3.0)

    def test_what_is_no_whole_jpeg_photo_has_none(self) -> None:
        buffer = io.BytesIO()
        Image.new("RGB", (320, 240)).save(buffer, "PNG")
        for data in (buffer.getvalue(), b"", b"\xff\xd8\xff\xe0 no photo"):
            self.assertIsNone(early_luma(data))
