"""Meter readings from CGATS.17 text (from memory) or CSV, or typed by hand."""

import csv
import io
import math
import re
from typing import Literal

from lens.errors import BadInput
from lens.records.base import Record

MOST_BYTES, MOST_READINGS = 512 * 1024, 2000
BRIGHTEST_CD_M2 = 20_000.0
LOW, VERY_LOW = 2 / 3, 1 / 4  # of the nominal figure: what the check of the diagnosis asks for
COLUMNS = {  # names of columns in any case, by what they hold
    "name": ("SAMPLE_NAME", "SAMPLE_ID", "NAME", "ID", "PATCH", "POINT"),
    "X": ("XYZ_X", "BIGX"),
    "Y": ("XYZ_Y", "XYY_CAPY", "Y_CD_M2", "CD/M2", "CD_M2", "LV", "LUMINANCE", "NITS"),
    "Z": ("XYZ_Z", "BIGZ"),
    "x": ("XYY_X", "CIE_X"),
    "y": ("XYY_Y", "CIE_Y"),
}
_HOW = "Send CGATS.17 text, or a CSV file whose first line names its columns, one of them the luminance in cd/m2."


class Reading(Record):
    """``xy`` is the CIE 1931 chromaticity, None where the meter told luminance alone."""

    name: str
    luminance_cd_m2: float
    xy: tuple[float, float] | None = None


def typed_reading(cd_m2: float) -> Reading:
    """A figure read off a meter; raises BadInput for what no panel gives."""
    if not math.isfinite(cd_m2) or not 0 <= cd_m2 <= BRIGHTEST_CD_M2:
        raise BadInput(f"A panel gives 0 to {BRIGHTEST_CD_M2:.0f} cd/m2, got {cd_m2:g}.", "luminance")
    return Reading(name="white", luminance_cd_m2=cd_m2)


def read_readings(data: bytes) -> tuple[Reading, ...]:
    """All readings of a file, in its order.

    Raises
    ------
    BadInput
        with the line that cannot be read, or what is missing.
    """
    if len(data) > MOST_BYTES:
        raise BadInput(f"The file has {len(data)} bytes; readings take at most {MOST_BYTES}. {_HOW}", "readings")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if not text.strip() or "\0" in text:
        raise BadInput(f"The file holds no readings. {_HOW}", "readings")
    header, rows = (
        _cgats(text)
        if re.search(r"(?m)^\s*BEGIN_DATA(_FORMAT)?\s*$", text) or text.lstrip().startswith("CGATS")
        else _csv(text)
    )
    place = _places(header)
    if "Y" not in place:
        raise BadInput(f"No column holds the luminance; there are: {', '.join(header)}. {_HOW}", "readings")
    if len(rows) > MOST_READINGS:
        raise BadInput(f"The file holds {len(rows)} readings; at most {MOST_READINGS} are read.", "readings")
    return tuple(_reading(n, row, place) for n, row in enumerate(rows))


def _cgats(text: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    """Field names, and the rows with their line numbers."""
    header: list[str] = []
    rows: list[tuple[int, list[str]]] = []
    part, wanted, ended = "", None, False
    for number, line in enumerate(text.splitlines(), start=1):
        words = re.findall(r'"[^"]*"|\S+', line.split("#")[0])
        if not words:
            continue
        if words[0] in ("BEGIN_DATA_FORMAT", "BEGIN_DATA"):
            part = words[0]
        elif words[0] in ("END_DATA_FORMAT", "END_DATA"):
            part, ended = "", words[0] == "END_DATA"
        elif part == "BEGIN_DATA_FORMAT":
            header += words
        elif part == "BEGIN_DATA":
            rows.append((number, [word.strip('"') for word in words]))
        elif words[0] == "NUMBER_OF_SETS" and len(words) > 1 and words[1].isdigit():
            wanted = int(words[1])
    for missing, there in (("BEGIN_DATA_FORMAT", header), ("BEGIN_DATA", rows), ("END_DATA", ended)):
        if not there:
            raise BadInput(f"The CGATS file has no {missing}, or nothing in it.", "readings")
    if wanted is not None and wanted != len(rows):
        raise BadInput(
            f"The CGATS file speaks of {wanted} sets and holds {len(rows)}: it is cut short or damaged.", "readings"
        )
    return header, rows


def _csv(text: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    separator = next((mark for mark in (";", "\t", ",") if mark in text.splitlines()[0]), ",")
    reader = csv.reader(
        io.StringIO(re.sub(r"\r\n?", "\n", text)), delimiter=separator
    )  # some instruments end lines as old computers did
    try:
        lines = [(n, [cell.strip() for cell in row]) for n, row in enumerate(reader, start=1) if any(row)]
    except csv.Error as error:
        raise BadInput(f"Line {reader.line_num} of the table cannot be read ({error}). {_HOW}", "readings") from None
    if len(lines) < 2:
        raise BadInput(f"The file holds no readings under its first line. {_HOW}", "readings")
    return lines[0][1], lines[1:]


def _places(header: list[str]) -> dict[str, int]:
    """Where each thing stands. X, Y, Z and x, y by themselves are told by their case."""
    found: dict[str, int] = {}
    for n, name in enumerate(header):
        for key, names in COLUMNS.items():
            if name == key or name.upper() in names:
                found.setdefault(key, n)
    return found


def _reading(n: int, row: tuple[int, list[str]], place: dict[str, int]) -> Reading:
    line, cells = row

    def number(key: str) -> float:
        try:
            value = float(cells[place[key]].replace(",", "."))
        except (IndexError, ValueError):
            told = cells[place[key]] if place[key] < len(cells) else "nothing"
            raise BadInput(f"Line {line}: '{told}' is no number for {key}.", "readings") from None
        if not math.isfinite(value) or value < 0 or value > BRIGHTEST_CD_M2:
            raise BadInput(f"Line {line}: {value:g} is no reading of a panel for {key}.", "readings")
        return value

    luminance = number("Y")
    xy = None
    if {"x", "y"} <= place.keys():
        xy = (number("x"), number("y"))
    elif {"X", "Z"} <= place.keys():
        total = number("X") + luminance + number("Z")
        xy = (round(number("X") / total, 4), round(luminance / total, 4)) if total > 0 else None
    name = cells[place["name"]] if "name" in place and place["name"] < len(cells) else str(n + 1)
    return Reading(name=name, luminance_cd_m2=luminance, xy=xy)


def against_nominal(luminance_cd_m2: float, nominal_cd_m2: float) -> Literal["nominal", "low", "very_low"]:
    """The answer to the check 'luminance'."""
    share = luminance_cd_m2 / nominal_cd_m2
    return "very_low" if share < VERY_LOW else "low" if share < LOW else "nominal"
