"""Photo files: what is read, what is refused, and what is stripped. Orientation is held to Pillow."""

import io
import struct
import zlib
from unittest import TestCase

import numpy as np
from PIL import ExifTags, Image, ImageOps

from lens.errors import BadInput
from lens.photo_file import MAX_BYTES, decode, strip_metadata

RNG = np.random.default_rng(4)
PICTURE = np.kron(RNG.integers(0, 255, (30, 40, 3), np.uint8), np.ones((10, 10, 1), np.uint8))


def saved(kind: str, picture: np.ndarray = PICTURE, **options: object) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, kind, **options)
    return buffer.getvalue()


def with_exif(orientation: int, kind: str = "JPEG") -> bytes:
    exif = Image.Exif()
    exif[ExifTags.Base.Orientation] = orientation
    exif[ExifTags.Base.Artist] = "somebody"
    block = exif.get_ifd(ExifTags.IFD.Exif)
    block[ExifTags.Base.ExposureTime], block[ExifTags.Base.ISOSpeedRatings], block[ExifTags.Base.FNumber] = (
        0.02,
        200,
        2.0,
    )
    block[ExifTags.Base.FocalLengthIn35mmFilm] = 24
    exif.get_ifd(ExifTags.IFD.GPSInfo)[2] = (47.0, 1.0, 2.0)
    return saved(kind, exif=exif, quality=95)


def giant_png() -> bytes:
    """A few hundred bytes that claim 60000 x 60000 pixels."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(bytes(1000))) + chunk(b"IEND", b"")
    )


class Formats(TestCase):
    def test_accepted_formats_give_the_same_picture(self) -> None:
        for kind, options in (
            ("PNG", {}),
            ("TIFF", {}),
            ("WEBP", {"lossless": True}),
            ("HEIF", {"quality": 95}),
            ("JPEG", {"quality": 97}),
        ):
            pixels = decode(saved(kind, **options)).pixels
            self.assertEqual(pixels.shape, (300, 400, 3), kind)
            self.assertLess(np.abs(pixels[..., ::-1].astype(int) - PICTURE).mean(), 8, kind)

    def test_all_eight_orientations_equal_pillows(self) -> None:
        for orientation in range(1, 9):
            for kind in ("JPEG", "TIFF"):
                data = with_exif(orientation, kind)
                wanted = np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(data))).convert("RGB"))
                np.testing.assert_allclose(decode(data).pixels[..., ::-1].astype(int), wanted, atol=6)

    def test_bad_files_get_a_clear_sentence(self) -> None:
        whole = saved("JPEG", quality=95)
        frames = [Image.fromarray(PICTURE), Image.fromarray(255 - PICTURE)]
        animated = io.BytesIO()
        frames[0].save(animated, "WEBP", save_all=True, append_images=frames[1:], lossless=True)
        cmyk = io.BytesIO()
        Image.fromarray(PICTURE).convert("CMYK").save(cmyk, "JPEG")
        cases = (
            (b"", "empty_file", "empty"),
            (b"hello, this is text" * 20, "not_an_image", "not a photo"),
            (whole[: len(whole) // 2], "truncated", "cut short"),
            (saved("PNG")[:2000], "truncated", "cut short|damaged"),
            (saved("GIF"), "not_an_image", "not read"),
            (animated.getvalue(), "animated", "several"),
            (saved("PNG", PICTURE[:1, :1]), "too_small", "too few"),
            (giant_png(), "too_many_pixels", "110 million"),
            (cmyk.getvalue(), "colour_space", "print"),
            (bytes(MAX_BYTES + 1), "file_too_large", "60 MB"),
        )
        for data, code, words in cases:
            with self.assertRaisesRegex(BadInput, words) as caught:
                decode(data)
            self.assertEqual(caught.exception.code, code)

    def test_grey_photos_are_read_with_a_word(self) -> None:
        self.assertEqual([p.code for p in decode(saved("PNG", PICTURE[..., 0])).problems], ["no_colour"])


class Privacy(TestCase):
    def test_location_and_names_are_gone_and_pixels_stay(self) -> None:
        for kind in ("JPEG", "TIFF", "WEBP", "PNG"):
            data = with_exif(6, kind)
            stripped = strip_metadata(data)
            exif = Image.open(io.BytesIO(stripped)).getexif()
            self.assertEqual(dict(exif.get_ifd(ExifTags.IFD.GPSInfo)), {}, kind)
            self.assertNotIn(b"somebody", stripped, kind)
            np.testing.assert_allclose(
                decode(stripped).pixels.astype(int), decode(data).pixels, atol=1 if kind == "JPEG" else 0
            )

    def test_exposure_and_orientation_survive_in_jpeg(self) -> None:
        decoded = decode(strip_metadata(with_exif(6)))
        self.assertAlmostEqual(decoded.exposure_s or 0, 0.02 * 200 / 100 / 2.0**2)
        self.assertEqual(decoded.focal_35mm, 24)
        self.assertEqual(decoded.pixels.shape, (400, 300, 3))
