"""Meter readings: CGATS.17 and CSV as meters write them, and what damaged ones say."""

from unittest import TestCase

import colour

from lens.errors import BadInput
from lens.meter import Reading, against_nominal, read_readings, typed_reading

CGATS = b"""CGATS.17
ORIGINATOR "bench meter"
# white and black in the middle
NUMBER_OF_FIELDS 5
BEGIN_DATA_FORMAT
SAMPLE_ID SAMPLE_NAME XYZ_X XYZ_Y XYZ_Z
END_DATA_FORMAT
NUMBER_OF_SETS 2
BEGIN_DATA
1 "white" 237.6 250.0 272.2
2 "black point" 0.19 0.20 0.22
END_DATA
"""


class Files(TestCase):
    def test_a_cgats_file(self) -> None:
        white, black = read_readings(CGATS)
        # chromaticity by colour-science: D65 within the file's rounding
        self.assertEqual((white.name, white.luminance_cd_m2, black.luminance_cd_m2), ("1", 250.0, 0.2))
        x, y = colour.XYZ_to_xy([237.6, 250.0, 272.2])
        assert white.xy is not None
        self.assertAlmostEqual(white.xy[0], x, delta=1e-4)
        self.assertAlmostEqual(white.xy[1], y, delta=1e-4)

    def test_csv_with_points_and_with_decimal_commas(self) -> None:
        for data in (
            b"point,x,y,Y\nmiddle,0.3127,0.3290,212.5\n",
            b"Point;x;y;cd/m2\r\nmiddle;0,3127;0,3290;212,5\r\n",
            "\ufeffname\tluminance\nmiddle\t212.5\n".encode(),
        ):
            (only,) = read_readings(data)
            self.assertEqual((only.name, only.luminance_cd_m2), ("middle", 212.5))
            self.assertIn(only.xy, ((0.3127, 0.329), None))

    def test_what_is_damaged_is_said_with_its_line(self) -> None:
        for data, words in (
            (b"", "no readings"),
            (CGATS.replace(b"END_DATA\n", b""), "no END_DATA"),
            (CGATS.replace(b"SETS 2", b"SETS 3"), "3 sets and holds 2"),
            (CGATS.replace(b"250.0", b"bright"), "Line 10: 'bright' is no number"),
            (CGATS.replace(b"XYZ_Y", b"LAB_L"), "No column holds the luminance"),
            (b"name,Y\nwhite,-5\n", "Line 2: -5"),
            (b"name,Y\nwhite,nan\n", "Line 2"),
            (b"name,Y\n", "no readings"),
            (b"name,Y\nwhite\n", "'nothing'"),
            (b"\x00\x01binary", "no readings"),
            (b"x" * 600_000, "at most 524288"),
            (b"BEGIN_DATA\n1 2\nEND_DATA\n", "no BEGIN_DATA_FORMAT"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_readings(data)


class Judged(TestCase):
    def test_against_the_nominal_figure(self) -> None:
        self.assertEqual(
            [against_nominal(value, 250) for value in (260, 170, 160, 63, 60)],
            ["nominal", "nominal", "low", "low", "very_low"],
        )

    def test_typed_figures(self) -> None:
        self.assertEqual(typed_reading(212.5), Reading(name="white", luminance_cd_m2=212.5))
        for wrong in (-1.0, float("nan"), 1e6):
            with self.assertRaisesRegex(BadInput, "0 to 20000"):
                typed_reading(wrong)
