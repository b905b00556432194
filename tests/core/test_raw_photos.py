"""Raw photos. Files are written by tifffile (apart from the program) and by the simulated phone, directories are held to Pillow's reading."""

import io
import struct
from unittest import TestCase

import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import ExifTags, Image

from lens.errors import BadInput
from lens.faults.tone import LINEAR, learn_tone
from lens.inspecting import PhotoFile, inspect_files
from lens.panel import parse_panel
from lens.patterns import get_pattern, render
from lens.photo import read_photo
from lens.photo_file import decode, for_the_eye, strip_metadata, upright_size
from lens.simulate import DeviceFault, FaultyPanel, emit, standing_pose
from lens.simulate.phone import natural_light, photograph_by_phone, random_phone
from lens.srgb import linear_to_srgb
from lens.tiff import GPS, Tiff, is_dng, without_tags

BLACK, WHITE = 256, 4095
# light of red, green, blue in four quarters of the picture, a share of full scale
QUARTERS = np.array([[[0.05, 0.2, 0.6], [0.4, 0.4, 0.4]], [[0.9, 0.1, 0.3], [0.02, 0.7, 0.01]]])


def mosaic(height: int = 300, width: int = 400) -> NDArray[np.uint16]:
    light = np.kron(QUARTERS, np.ones((height // 2, width // 2, 1)))
    sites = np.zeros((height, width))
    for (y, x), c in {(0, 0): 0, (0, 1): 1, (1, 0): 1, (1, 1): 2}.items():
        sites[y::2, x::2] = light[y::2, x::2, c]
    return np.round(sites * (WHITE - BLACK) + BLACK).astype(np.uint16)


def dng(orientation: int = 1, more: tuple[tuple[int, int, int, object, bool], ...] = ()) -> bytes:
    """Numbers of DNG's tags are those of its specification 1.4 (from memory); LibRaw agreed by reading them."""
    ones = tuple(value for row in np.eye(3) for one in row for value in (int(one), 1))
    tags = (
        (274, 3, 1, orientation, True),
        (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, bytes([0, 1, 1, 2]), True),
        (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50707, 1, 4, bytes([1, 3, 0, 0]), True),
        (50708, 2, 0, "No camera", True),
        (50714, 3, 1, BLACK, True),
        (50717, 4, 1, WHITE, True),
        (50721, 10, 9, ones, True),
        (50728, 5, 3, (1, 2, 1, 1, 4, 5), True),
        (50778, 3, 1, 21, True),
        *more,
    )
    buffer = io.BytesIO()
    tifffile.imwrite(buffer, mosaic(), photometric=32803, extratags=tags, metadata=None, software=None)
    return buffer.getvalue()


def dng_behind_a_preview() -> bytes:
    """As phones write it: a small picture first, the mosaic in a directory below."""
    ones = tuple(value for row in np.eye(3) for one in row for value in (int(one), 1))
    head = (
        (315, 2, 0, "Somebody", True),
        (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50708, 2, 0, "No camera", True),
        (50721, 10, 9, ones, True),
        (50728, 5, 3, (1, 2, 1, 1, 4, 5), True),
        (50778, 3, 1, 21, True),
    )
    sensor = (
        (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, bytes([0, 1, 1, 2]), True),
        (50714, 3, 1, BLACK, True),
        (50717, 4, 1, WHITE, True),
    )
    buffer = io.BytesIO()
    plain = {"metadata": None, "software": None}
    with tifffile.TiffWriter(buffer) as file:
        preview = np.zeros((60, 80, 3), np.uint8)
        file.write(preview, photometric="rgb", subifds=1, subfiletype=1, extratags=head, **plain)
        file.write(mosaic(), photometric=32803, subfiletype=0, extratags=sensor, **plain)
    return buffer.getvalue()


def gain_map(site: tuple[int, int], gains: NDArray[np.float64]) -> bytes:
    rows, columns = gains.shape
    head = struct.pack(">10I", *site, 300, 400, 0, 1, 2, 2, rows, columns)
    grid = struct.pack(">4dI", 1 / (rows - 1), 1 / (columns - 1), 0.0, 0.0, 1)
    data = head + grid + gains.astype(">f4").tobytes()
    return struct.pack(">4I", 9, 0x01030000, 0, len(data)) + data


class RawFiles(TestCase):
    def test_light_is_the_sensors_own(self) -> None:
        decoded = decode(dng())
        self.assertTrue(decoded.linear and decoded.balance_locked and not decoded.composed)
        self.assertEqual(decoded.pixels.shape, (300, 400, 3))
        for row, y in enumerate((75, 225)):
            for column, x in enumerate((100, 300)):
                wanted = linear_to_srgb(QUARTERS[row, column])[::-1].astype(int)
                np.testing.assert_allclose(decoded.pixels[y, x].astype(int), wanted, atol=1)
        # what is neutral to the sensor, (1/2, 1, 4/5), looks white: red twice, blue by 5/4
        np.testing.assert_allclose(decoded.balance, (1.25, 1, 2), rtol=1e-3)
        shown = for_the_eye(decoded)[75, 300][::-1].astype(int)
        np.testing.assert_allclose(shown, linear_to_srgb([0.8, 0.4, 0.5]).astype(int), atol=2)

    def test_the_sensor_is_found_behind_a_preview(self) -> None:
        data = dng_behind_a_preview()
        np.testing.assert_array_equal(decode(data).pixels, decode(dng()).pixels)
        kept = strip_metadata(data)
        self.assertNotIn(b"Somebody", kept)
        np.testing.assert_array_equal(decode(kept).pixels, decode(data).pixels)

    def test_turned_as_the_file_says(self) -> None:
        plain = decode(dng()).pixels
        for orientation, turns in {3: 2, 6: 3, 8: 1}.items():  # EXIF 2.3: half, quarter to the right, to the left
            turned = decode(dng(orientation)).pixels
            np.testing.assert_array_equal(turned, np.rot90(plain, turns))
            self.assertEqual(upright_size(dng(orientation)), turned.shape[1::-1])

    def test_what_the_lens_loses_is_given_back(self) -> None:
        even, corners = np.ones((3, 3)), np.array([[2.0, 1.5, 2.0], [1.5, 1.0, 1.5], [2.0, 1.5, 2.0]])
        maps = [gain_map((0, 0), even), *(gain_map(site, corners) for site in ((0, 1), (1, 0))), gain_map((1, 1), even)]
        block = struct.pack(">I", 4) + b"".join(maps)
        plain, given = decode(dng()).pixels, decode(dng(more=((51009, 7, len(block), block, True),))).pixels
        np.testing.assert_array_equal(given[..., ::2], plain[..., ::2])  # blue and red as they were
        self.assertEqual(given[2, 2, 1], linear_to_srgb(0.2 * 1.985))
        self.assertEqual(given[148, 10, 1], linear_to_srgb(0.2 * 1.48))
        cut = struct.pack(">I", 1) + maps[0][:60]
        np.testing.assert_array_equal(decode(dng(more=((51009, 7, len(cut), cut, True),))).pixels, plain)

    def test_a_developed_dng_proves_no_evenness(self) -> None:
        buffer = io.BytesIO()
        tags = ((50706, 1, 4, bytes([1, 4, 0, 0]), True), (50708, 2, 0, "No camera", True))
        picture = np.full((300, 400, 3), 30000, np.uint16)
        tifffile.imwrite(buffer, picture, photometric=34892, planarconfig=1, extratags=tags, metadata=None)
        decoded = decode(buffer.getvalue())
        self.assertTrue(decoded.composed)
        self.assertEqual([problem.code for problem in decoded.problems], ["composed"])

    def test_bad_files_are_said(self) -> None:
        whole = dng()
        for data in (whole[: len(whole) // 2], whole[:400], whole[:8] + bytes(200)):
            with self.assertRaises(BadInput) as caught:
                decode(data)
            self.assertIn(caught.exception.code, ("raw_unread", "truncated", "not_an_image"))
            self.assertIn("Send", caught.exception.message)
        rng = np.random.default_rng(5)
        for _ in range(60):  # damage anywhere is a picture or a sentence
            broken = bytearray(whole)
            for at in rng.integers(0, 700, 6):
                broken[at] = rng.integers(256)
            for use in (decode, strip_metadata):
                try:
                    use(bytes(broken))
                except BadInput as told:
                    self.assertTrue(told.message)

    def test_personal_data_goes_and_light_stays(self) -> None:
        more = ((315, 2, 0, "Somebody", True), (50735, 2, 0, "SERIAL-4711", True), (700, 1, 5, b"<xmp>", True))
        data = dng(more=more)
        kept = strip_metadata(data)
        for word in (b"Somebody", b"SERIAL-4711", b"<xmp>"):
            self.assertIn(word, data)
            self.assertNotIn(word, kept)
        np.testing.assert_array_equal(decode(kept).pixels, decode(data).pixels)
        tags = {entry.tag for _, entries in Tiff(kept).directories() for entry in entries}
        self.assertFalse(tags & {315, 50735, 700})
        self.assertTrue(is_dng(kept))

    def test_directories_as_pillow_reads_them(self) -> None:
        exif = Image.Exif()
        exif[ExifTags.Base.Artist], exif[ExifTags.Base.Make] = "somebody of some length", "no maker at all"
        exif.get_ifd(ExifTags.IFD.GPSInfo)[2] = (47.0, 1.0, 2.0)
        exif.get_ifd(ExifTags.IFD.GPSInfo)[0] = b"\x02\x03\x00\x00"
        exif.get_ifd(ExifTags.IFD.Exif)[ExifTags.Base.ExposureTime] = 0.02
        kept = Image.Exif()
        kept.load(b"Exif\0\0" + without_tags(exif.tobytes().removeprefix(b"Exif\0\0"), frozenset((315, GPS))))
        self.assertEqual(kept[ExifTags.Base.Make], "no maker at all")
        self.assertNotIn(ExifTags.Base.Artist, kept)
        self.assertFalse(kept.get_ifd(ExifTags.IFD.GPSInfo))
        self.assertAlmostEqual(float(kept.get_ifd(ExifTags.IFD.Exif)[ExifTags.Base.ExposureTime]), 0.02)


class RawSets(TestCase):
    def test_a_phones_raw_set_finds_faults_and_clips_no_colour(self) -> None:
        panel, rng = parse_panel("800x480"), np.random.default_rng(78001)
        faults = (
            DeviceFault(kind="dead_pixel", x=200, y=150),
            DeviceFault(kind="dark_subpixel", x=500, y=300, channel="red"),
            DeviceFault(kind="bright_subpixel", x=620, y=120, channel="blue"),
        )
        device = FaultyPanel(panel=panel, faults=faults)
        phone, light = random_phone(rng, 2400, 1800), natural_light(panel, rng)
        files = []
        for name in ("white", "black-b", "red", "green", "blue"):
            pose = standing_pose(panel, phone.camera, rng, fill=0.85)
            sent = emit(device, render(panel, get_pattern(name))) * light
            files.append(PhotoFile(name, photograph_by_phone(sent, phone, pose, rng, raw=True)[0].data))
        red = read_photo(files[2].data, panel, "red")
        self.assertTrue(red.linear)
        self.assertLess(red.view.closed_fraction, 0.01)
        self.assertIsNotNone(red.exposure_s)
        found = inspect_files(panel, files)
        at = {
            (round(f.x), round(f.y)): f.kind
            for f in found.findings
            if f.kind in ("dead_pixel", "dark_subpixel", "bright_subpixel")
        }
        for fault in faults:
            self.assertEqual(at.get((round(fault.x), round(fault.y))), fault.kind)
        assert found.uniformity is not None
        light = np.geomspace(1e-4, 1, 9)
        self.assertIs(learn_tone(red), LINEAR)
        np.testing.assert_allclose(LINEAR.light(light), light)  # no curve is taken off
