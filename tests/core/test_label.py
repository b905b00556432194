"""What labels and backs of panels say, read from simulated photos whose truth is known."""

import io
from unittest import TestCase

import cv2
import numpy as np
import segno
import zxingcpp
from numpy.typing import NDArray
from PIL import Image

from lens.errors import BadInput
from lens.label import Register, read_back_photo, read_label_photo
from lens.label.codes import read_codes
from lens.label.comb import find_comb
from lens.label.neural import lines_of
from lens.label.numbers import by_shape, distance, rank
from lens.simulate.backs import CARD_MM, back_photo
from lens.simulate.labels import label_photo, made_up_register

NUMBERS = ("FG-141A", "KS156F24X1", "AB123CDE-F45", "AB123CDE-F46")


def rng(seed: int) -> np.random.Generator:
    return np.random.default_rng(seed)


def flipped(data: bytes) -> bytes:
    picture = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    assert picture is not None
    return bytes(cv2.imencode(".jpg", picture[:, ::-1])[1].tobytes())


class Numbers(TestCase):
    register = Register(NUMBERS)

    def test_characters_that_look_alike_cost_little(self) -> None:
        """Against the plain Levenshtein distance, which counts each as a whole change."""
        from rapidfuzz.distance import Levenshtein

        for read, number, cost in (
            ("KSI56F24X1", "KS156F24X1", 0.25),
            ("K5156F24XI", "KS156F24X1", 0.5),
            ("KS56F24X1", "KS156F24X1", 1),
        ):
            self.assertEqual(distance(read, number), cost)
            self.assertLessEqual(cost, Levenshtein.distance(read, number))

    def test_a_misread_number_is_found_and_a_torn_one(self) -> None:
        for line in ("MODEL KSI56F24X1", "P/N: K5 156F24X1", "TYPE KS156F24XI"):
            self.assertEqual(rank([line], [], self.register).accepted, "KS156F24X1", line)

    def test_what_cannot_be_decided_is_left_to_a_person(self) -> None:
        told = rank(["P/N AB123CDE-F4?"], [], self.register)
        self.assertIsNone(told.accepted)
        self.assertEqual({c.part_number for c in told.candidates}, {"AB123CDE-F45", "AB123CDE-F46"})
        self.assertLess(told.candidates[0].p, 0.6)

    def test_a_code_that_holds_a_known_number_decides(self) -> None:
        told = rank(["FG-141A"], ["AB123CDE-F46-004417"], self.register)
        self.assertEqual(told.accepted, "AB123CDE-F46")

    def test_dates_and_serials_are_no_part_numbers(self) -> None:
        told = by_shape(["REV A2 DATE 2441", "SN 004417732190", "MODEL QX155-W2", "WARNING: FRAGILE"], [])
        self.assertEqual(told.candidates[0].part_number, "QX155-W2")
        self.assertIsNone(told.accepted)
        told = by_shape(["QX155-W2"], ["QX155-W2-0044"])
        self.assertEqual((told.accepted, len(told.candidates)), ("QX155-W2", 1))


class Photos(TestCase):
    def test_printed_numbers_are_read_any_way_up(self) -> None:
        numbers = made_up_register(5000, rng(1))
        register, right = Register(numbers), 0
        for n, turn in enumerate((0, 180, 90)):
            told = read_label_photo(label_photo(numbers[100 + n], rng(10 + n), turns=(turn,)).data, register)
            self.assertIn(told.accepted, (numbers[100 + n], None))
            right += bool(told.candidates) and told.candidates[0].part_number == numbers[100 + n]
        self.assertGreaterEqual(right, 3)

    def test_a_mirrored_photo_is_noticed(self) -> None:
        numbers = made_up_register(50, rng(1))
        told = read_label_photo(flipped(label_photo(numbers[3], rng(10), turns=(0,)).data), Register(numbers))
        self.assertIsNone(told.accepted)
        self.assertIn("mirrored", [problem.code for problem in told.problems])

    def test_two_labels_in_one_photo_are_left_to_a_person(self) -> None:
        numbers = made_up_register(5000, rng(1))
        register, photos = Register(numbers), []
        for n, seed in ((100, 10), (300, 31)):
            picture = cv2.imdecode(
                np.frombuffer(label_photo(numbers[n], rng(seed), turns=(0,)).data, np.uint8), cv2.IMREAD_COLOR
            )
            assert picture is not None
            photos.append(picture)
        both = cv2.imencode(".jpg", np.hstack(photos))[1].tobytes()
        told = read_label_photo(bytes(both), register)
        self.assertIsNone(told.accepted)
        self.assertIn("two_labels", [problem.code for problem in told.problems])

    def test_codes_of_another_writer_and_another_reader(self) -> None:
        """QR by segno, read here and by OpenCV's own reader."""
        out = io.BytesIO()
        segno.make("AB123CDE-F46-0044", micro=False).save(out, kind="png", scale=8)
        picture = np.asarray(Image.open(out).convert("L"), np.uint8)
        self.assertEqual(cv2.QRCodeDetector().detectAndDecode(picture)[0], "AB123CDE-F46-0044")
        told = read_label_photo(out.getvalue(), Register(NUMBERS))
        self.assertEqual((told.accepted, told.codes[0].format), ("AB123CDE-F46", "QRCode"))

    def test_a_low_bar_code_is_read_at_any_angle(self) -> None:
        """Common practice: bar codes on panels are long and low, and a label is photographed as it lies. A line of pixels crosses such a code
        within five degrees of level only."""
        bars = zxingcpp.create_barcode("KS156F24X1 4711", zxingcpp.BarcodeFormat.Code128)
        code = np.repeat(np.repeat(np.asarray(bars.to_image(scale=1, add_quiet_zones=True))[:1], 4, 1), 60, 0)
        label = np.full((1200, 1600), 215, np.uint8)
        label[560 : 560 + code.shape[0], 300 : 300 + code.shape[1]] = np.minimum(code, 215)
        for degrees in (0, 17, 45, 73, 118, 171):
            turned = cv2.warpAffine(
                label, cv2.getRotationMatrix2D((800, 600), degrees, 1), (1600, 1200), borderValue=215
            )
            read = read_codes(np.asarray(cv2.GaussianBlur(turned, (0, 0), 1.2), np.uint8))
            with self.subTest(degrees=degrees):
                self.assertEqual([c.text for c in read], ["KS156F24X1 4711"])
                self.assertLess(np.abs(np.mean(read[0].corners, axis=0) - [800, 600]).max(), 120)

    def test_a_photo_of_something_else_says_so(self) -> None:
        plain: NDArray[np.uint8] = np.full((600, 800, 3), 120, np.uint8)
        told = read_label_photo(bytes(cv2.imencode(".jpg", plain)[1].tobytes()), Register(NUMBERS))
        self.assertIsNone(told.accepted)
        self.assertIn("nothing_read", [problem.code for problem in told.problems])
        with self.assertRaises(BadInput):
            read_label_photo(b"no photo")


class Backs(TestCase):
    def test_size_side_pins_and_mounting(self) -> None:
        """The card is 85.60 x 53.98 mm (ISO/IEC 7810, ID-1); wanted within 0.5 % or 1 mm."""
        self.assertEqual(CARD_MM, (85.60, 53.98))
        for seed, mounting in ((21, "side_brackets"), (22, "ears")):
            photo = back_photo(rng(seed), mounting=mounting, upside_down=seed == 22)  # type: ignore[arg-type]
            told, truth = read_back_photo(photo.data), photo.truth
            assert told.outline_mm is not None
            for measured, true in zip(told.outline_mm, truth.outline_mm, strict=True):
                self.assertLess(abs(measured - true), max(1.0, 0.005 * true))
            self.assertEqual((told.connector.pins, told.mounting), (truth.pins, mounting))
            self.assertEqual((told.connector.side, told.connector.edge), (truth.side, truth.edge))

    def test_without_a_card_the_size_is_unknown_or_wide(self) -> None:
        photo = back_photo(rng(23), outline_mm=(359.0, 208.0), mounting="adhesive", card=False)
        told = read_back_photo(photo.data)
        self.assertIsNone(told.outline_mm)
        self.assertIn("no_reference", [problem.code for problem in told.problems])
        wide = read_back_photo(photo.data, active_mm=(344.2, 193.6))
        assert wide.outline_mm is not None and wide.uncertainty_mm is not None
        self.assertGreater(wide.uncertainty_mm, 3)
        self.assertLess(abs(wide.outline_mm[0] - 359), wide.uncertainty_mm)

    def test_a_card_that_is_cut_off_is_no_reference(self) -> None:
        photo = back_photo(rng(23), outline_mm=(359.0, 208.0), mounting="adhesive")
        picture = cv2.imdecode(np.frombuffer(photo.data, np.uint8), cv2.IMREAD_COLOR)
        assert picture is not None
        half = picture[
            : picture.shape[0] // 2
        ]  # the card lies near the middle: it loses its lower part, and the panel too
        told = read_back_photo(bytes(cv2.imencode(".jpg", half)[1].tobytes()))
        if told.outline_mm is not None:
            assert told.uncertainty_mm is not None
            self.assertLess(abs(told.outline_mm[1] - 208.0), told.uncertainty_mm)
        self.assertTrue(told.problems)

    def test_a_close_up_counts_pins_and_nothing_else(self) -> None:
        photo = back_photo(rng(24), closeup=True)
        told = read_back_photo(photo.data)
        self.assertEqual((told.connector.pins, told.outline_mm, told.connector.side), (photo.truth.pins, None, None))

    def test_no_pins_in_noise_or_print(self) -> None:
        noise = rng(1).normal(128, 20, (300, 900)).clip(0, 255).astype(np.uint8)
        self.assertIsNone(find_comb(noise, 12))
        told = read_back_photo(label_photo("KS156F24X1", rng(3)).data)
        self.assertIsNone(told.connector.pins)


class BetterReader(TestCase):
    """What the network of the extra tells, as its package hands it over (texts, scores, corners)."""

    def test_lines_are_told_from_top_to_bottom_and_doubtful_ones_left_out(self) -> None:
        box = np.array([[0, 0], [90, 0], [90, 20], [0, 20]], np.float32)
        told = lines_of(("SN  42", "smudge", "AB-12", " "), (0.9, 0.1, 0.98, 0.9), (box + 40, box, box, box))
        self.assertEqual([(line.text, line.score) for line in told], [("AB-12", 0.98), ("SN 42", 0.9)])
        self.assertEqual(lines_of((), (), ()), ())
