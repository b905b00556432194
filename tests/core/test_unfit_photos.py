"""Photos that are sharp and readable and still prove less: scaled pictures, screenshots, uneven blur, what the camera composed or enlarged."""

import io
from unittest import TestCase

import cv2
import numpy as np
from PIL import ExifTags, Image

from lens.errors import BadInput
from lens.inspecting import REFERENCE, PhotoFile, inspect_files
from lens.panel import make_panel
from lens.patterns import encode_png, get_pattern, render
from lens.photo import read_flat, read_photo
from lens.photo_file import decode, strip_metadata
from lens.simulate import Camera, FaultyPanel, emit, photograph, photograph_flat, random_pose, shoot
from tests.core.sets import CAMERA, PANEL, files, shots


def scaled_photo(
    size: tuple[int, int], shown_on: tuple[int, int], blur_px: float, how: int = cv2.INTER_LINEAR
) -> bytes:
    """White of one size, filling a panel of another."""
    rng, real = np.random.default_rng(5), make_panel(*shown_on)
    image = render(make_panel(*size), get_pattern("white"), 3)
    shown = np.asarray(cv2.resize(image, shown_on, interpolation=how), np.uint8)
    camera = Camera(width=2400, height=1800, blur_px=blur_px, barrel=0.004)
    return photograph(emit(FaultyPanel(panel=real), shown), camera, random_pose(real, camera, rng), rng).data


def with_exif(data: bytes, tag: ExifTags.Base, value: float) -> bytes:
    image = Image.open(io.BytesIO(data))
    exif = image.getexif()
    exif.get_ifd(ExifTags.IFD.Exif)[tag] = value
    buffer = io.BytesIO()
    image.save(buffer, "JPEG", quality=95, exif=exif)
    return buffer.getvalue()


def codes(data: bytes) -> list[str]:
    return [problem.code for problem in read_photo(data, PANEL).problems]


class TrueSize(TestCase):
    def test_a_scaled_picture_is_refused_with_the_scale(self) -> None:
        for size, shown_on, how, words in (
            ((800, 500), (1000, 625), cv2.INTER_LINEAR, "1.25 x 1.25"),
            ((800, 500), (1200, 750), cv2.INTER_NEAREST, "1.50 x 1.50"),
            ((1250, 750), (1000, 600), cv2.INTER_AREA, "0.80 x 0.80"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_photo(scaled_photo(size, shown_on, 0.7, how), make_panel(*size))

    def test_a_scaled_white_speaks_for_its_set_until_a_right_one_is_in(self) -> None:
        panel = make_panel(800, 500)
        scaled = PhotoFile("white", scaled_photo((800, 500), (1000, 625), 0.7))
        others = files(faults=(), patterns=("green", "blue"), seed=44)
        self.assertEqual([photo.used for photo in inspect_files(panel, [scaled, *others]).photos], [False] * 3)
        right = inspect_files(panel, [scaled, *others, *files(faults=(), patterns=("white",), seed=44)])
        self.assertEqual([photo.used for photo in right.photos], [False, True, True, True])

    def test_one_of_true_size_is_not_however_blurred(self) -> None:
        for blur_px in (0.6, 1.0, 1.4, 2.0):
            read_photo(scaled_photo((1000, 625), (1000, 625), blur_px), make_panel(1000, 625))


class Copies(TestCase):
    def test_a_screenshot_is_no_photo(self) -> None:
        for scale in (1, 2):
            image = np.repeat(np.repeat(render(PANEL, get_pattern("white"), 3), scale, axis=0), scale, axis=1)
            with self.assertRaisesRegex(BadInput, "screenshot"):
                read_photo(encode_png(image), PANEL)


class UnevenBlur(TestCase):
    def test_a_photo_with_a_blurred_part_is_refused(self) -> None:
        for name in ("white", "blue", "grey50"):
            pixels = decode(shots(faults=())[name].data).pixels
            soft = cv2.GaussianBlur(pixels, (0, 0), 4.0)
            pixels[:, pixels.shape[1] // 2 :] = soft[:, pixels.shape[1] // 2 :]
            with self.assertRaisesRegex(BadInput, "part of the photo is blurred"):
                read_photo(bytes(cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 95])[1].tobytes()), PANEL)


class Composed(TestCase):
    def test_what_the_camera_says_it_did_is_told(self) -> None:
        white = shots(faults=())["white"].data
        tags = ExifTags.Base
        for tag, value, code in (
            (tags.CustomRendered, 3, ["composed"]),
            (tags.CustomRendered, 1, []),
            (tags.SceneCaptureType, 3, ["composed"]),
            (tags.SceneCaptureType, 0, []),
            (tags.DigitalZoomRatio, 2.0, ["zoomed"]),
            (tags.DigitalZoomRatio, 0.0, []),
        ):
            marked = with_exif(white, tag, value)
            self.assertEqual(codes(marked), code, tag)
            self.assertEqual(codes(strip_metadata(marked)), code, "told after the upload took the personal data off")

    def test_a_gain_map_is_known_and_survives_the_upload_as_a_word(self) -> None:
        white = shots(faults=())["white"].data
        name = b"urn:iso:std:iso:ts:21496:-1\x00"
        mapped = white[:2] + b"\xff\xe2" + (len(name) + 2).to_bytes(2, "big") + name + white[2:]
        self.assertEqual(codes(mapped), ["composed"])
        self.assertNotIn(b"21496", strip_metadata(mapped))
        self.assertEqual(codes(strip_metadata(mapped)), ["composed"])

    def test_composed_photos_prove_no_evenness_but_still_show_faults(self) -> None:
        photos = [PhotoFile(file.name, with_exif(file.data, ExifTags.Base.CustomRendered, 2)) for file in files()]
        result = inspect_files(PANEL, photos)
        self.assertIsNone(result.uniformity)
        self.assertIn("dark and bright areas", result.next_shots[0].text)
        self.assertIn("dead_pixel", {finding.kind for finding in result.findings})

    def test_composed_photos_of_a_clean_panel_do_not_pass(self) -> None:
        photos = [
            PhotoFile(file.name, with_exif(file.data, ExifTags.Base.CustomRendered, 2))
            for file in files(faults=(), seed=50)
        ]
        self.assertEqual(inspect_files(PANEL, photos).verdict.result, "not_proven")

    def test_a_composed_photo_tells_neither_greys_nor_how_bright_white_is(self) -> None:
        for name in ("ladder", "white"):
            plain = shoot(FaultyPanel(panel=PANEL), name, CAMERA, np.random.default_rng(3)).data
            told, untold = (
                inspect_files(PANEL, [PhotoFile(name, data)])
                for data in (plain, with_exif(plain, ExifTags.Base.CustomRendered, 2))
            )
            self.assertEqual((told.greys is None, told.white_light is None), (name == "white", name == "ladder"))
            self.assertIsNone(untold.greys)
            self.assertIsNone(untold.white_light)

    def test_a_composed_photo_is_compared_with_no_reference_and_is_none(self) -> None:
        plain = shots(faults=())["white"].data
        composed = with_exif(plain, ExifTags.Base.CustomRendered, 2)
        for own, other in ((plain, composed), (composed, plain)):
            told = inspect_files(PANEL, [PhotoFile("white", own), PhotoFile("good", other, REFERENCE)])
            self.assertIsNone(told.reference)
            self.assertIn("HDR", " ".join(problem.message for photo in told.photos for problem in photo.problems))

    def test_a_composed_flat_field_is_refused(self) -> None:
        flat = photograph_flat(CAMERA, np.random.default_rng(1))
        read_flat(flat)
        with self.assertRaisesRegex(BadInput, "HDR"):
            read_flat(with_exif(flat, ExifTags.Base.CustomRendered, 2))


class Enlarged(TestCase):
    def test_digital_zoom_proves_no_more_than_the_photo_it_came_from(self) -> None:
        small = Camera(width=1000, height=750, blur_px=0.8)
        plain = files(faults=(), camera=small, seed=41)
        enlarged = []
        for file in plain:
            pixels = cv2.resize(decode(file.data).pixels, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
            enlarged.append(
                PhotoFile(file.name, bytes(cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, 95])[1].tobytes()))
            )
        before, after = inspect_files(PANEL, plain), inspect_files(PANEL, enlarged)
        self.assertLessEqual(after.proven.subpixels, before.proven.subpixels + 0.02)
        self.assertFalse(after.findings)
        self.assertNotEqual(after.verdict.result, "pass")
