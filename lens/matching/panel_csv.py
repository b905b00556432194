"""Panels as CSV, out and in: any usual delimiter and encoding, decimal commas, inches where a column says so; every fault is named by its line."""

import csv
import io
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from pydantic import ValidationError

from lens.errors import BadInput
from lens.matching.specification import PanelSpec, normal_number
from lens.tables import faults_of, near

NUMBER, MAKER = "part_number", "maker"
PAIR = {"outline_w_mm": 0, "outline_h_mm": 1}
PLAIN = tuple(name for name in PanelSpec.model_fields if name not in (NUMBER, "outline_mm"))
COLUMNS = (NUMBER, MAKER, *PAIR, *PLAIN)
IN_INCHES = {"outline_w_in": "outline_w_mm", "outline_h_in": "outline_h_mm", "thickness_in": "thickness_mm"}
MM_AN_INCH = 25.4
DELIMITERS = ";,\t|"
FORMULA = ("=", "+", "-", "@", "\t", "\r")  # a cell that begins so is a formula to a spreadsheet
TRUE, FALSE = ("yes", "true", "1", "y"), ("no", "false", "0", "n")
MOST_ROWS, MOST_FAULTS = 100_000, 200


class PanelRow(NamedTuple):
    line: int
    name: str
    maker: str
    spec: PanelSpec


class Fault(NamedTuple):
    """A line that cannot be used, and why."""

    line: int
    text: str


class PanelTable(NamedTuple):
    rows: list[PanelRow]
    faults: list[Fault]
    delimiter: str
    encoding: str


def read_panels(data: bytes) -> PanelTable:
    """The panels of a CSV file. Raises BadInput for what is no table with a column of part numbers."""
    text, encoding = _decoded(data)
    first = text.split("\n", 1)[0]
    delimiter = max(DELIMITERS, key=first.count)
    lines = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        header = [name.strip().lower().replace(" ", "_") for name in next(lines, [])]
        _check_header(header)
        rows: list[PanelRow] = []
        faults: list[Fault] = []
        seen: dict[str, int] = {}
        for cells in lines:
            if any(cell.strip() for cell in cells) and len(faults) < MOST_FAULTS:
                _take(lines.line_num, header, cells, rows, faults, seen)
            if len(rows) > MOST_ROWS:
                raise BadInput(f"A file has at most {MOST_ROWS} panels. Send it in parts.", "csv")
    except csv.Error as error:
        raise BadInput(f"The file cannot be read as CSV: line {lines.line_num}, {error}.", "csv") from None
    return PanelTable(rows, faults, delimiter, encoding)


class PlainTable(NamedTuple):
    """Cells by their column, lines without any left out."""

    header: list[str]
    rows: list[tuple[int, dict[str, str]]]
    faults: list[Fault]
    delimiter: str
    encoding: str


def rows_of(data: bytes) -> PlainTable:
    """The lines of any CSV file with a head line. Raises BadInput for what is no table, or has a column twice."""
    text, encoding = _decoded(data)
    delimiter = max(DELIMITERS, key=text.split("\n", 1)[0].count)
    lines = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    rows: list[tuple[int, dict[str, str]]] = []
    faults: list[Fault] = []
    try:
        header = [name.strip().lower().replace(" ", "_") for name in next(lines, [])]
        for name in header:
            if name and header.count(name) > 1:
                raise BadInput(f"Line 1: the column '{name}' is there twice.", "csv_columns")
        for cells in lines:
            told = {name: cell.strip() for name, cell in zip(header, cells, strict=False) if name and cell.strip()}
            if len(cells) > len(header) and any(cell.strip() for cell in cells[len(header) :]):
                faults.append(
                    Fault(
                        lines.line_num,
                        f"{len(cells)} cells for {len(header)} columns. Put text with '{delimiter}' in quotes.",
                    )
                )
            elif told:
                rows.append((lines.line_num, told))
            if len(rows) > MOST_ROWS:
                raise BadInput(f"A file has at most {MOST_ROWS} lines. Send it in parts.", "csv")
    except csv.Error as error:
        raise BadInput(f"The file cannot be read as CSV: line {lines.line_num}, {error}.", "csv") from None
    return PlainTable(header, rows, faults, delimiter, encoding)


def read_numbers(data: bytes) -> list[str]:
    """The part numbers of a CSV file, whatever other columns it has. Raises BadInput without such a column."""
    table = rows_of(data)
    if NUMBER not in table.header:
        raise BadInput(f"Line 1: a column '{NUMBER}' is needed.", "csv_columns")
    return [told[NUMBER].removeprefix("'") for _, told in table.rows if NUMBER in told]


def _decoded(data: bytes) -> tuple[str, str]:
    """By its mark, else strictly as UTF-8, else as the usual encoding of Western spreadsheets."""
    if b"\x00" in data[:1000] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise BadInput("This is no CSV file. Save the table as CSV.", "csv")
    for encoding in ("utf-16",) if data.startswith((b"\xff\xfe", b"\xfe\xff")) else ("utf-8-sig", "cp1252"):
        try:
            return data.decode(encoding), encoding
        except UnicodeDecodeError:
            continue
    raise BadInput("The text of the file cannot be read. Save it as CSV in UTF-8.", "csv")


def _check_header(header: Sequence[str]) -> None:
    known = (*COLUMNS, *IN_INCHES)
    if NUMBER not in header:
        raise BadInput(f"Line 1: a column '{NUMBER}' is needed. Columns: {', '.join(COLUMNS)}.", "csv_columns")
    for name in header:
        if name and name not in known:
            raise BadInput(
                f"Line 1: the column '{name}' is unknown.{near(name, known)} Columns: {', '.join(COLUMNS)}.",
                "csv_columns",
            )
        if name and header.count(name) > 1:
            raise BadInput(f"Line 1: the column '{name}' is there twice.", "csv_columns")


def _take(
    line: int,
    header: Sequence[str],
    cells: Sequence[str],
    rows: list[PanelRow],
    faults: list[Fault],
    seen: dict[str, int],
) -> None:
    if len(cells) > len(header):
        faults.append(
            Fault(line, f"{len(cells)} cells for {len(header)} columns. Put text with '{DELIMITERS[0]}' in quotes.")
        )
        return
    told = {name: cell.strip() for name, cell in zip(header, cells, strict=False) if name and cell.strip()}
    name = told.pop(NUMBER, "").removeprefix("'")
    normal = normal_number(name)
    if not normal:
        faults.append(Fault(line, "It has no part number."))
    elif normal in seen:
        faults.append(Fault(line, f"'{name}' is in line {seen[normal]} already."))
    else:
        seen[normal] = line
        try:
            rows.append(PanelRow(line, name, told.pop(MAKER, "").removeprefix("'")[:80], _spec(name, told)))
        except ValidationError as error:
            faults.append(
                Fault(line, "; ".join(f"{place}: {words}" for place, words in faults_of(error, PanelSpec).items()))
            )
        except ValueError as error:
            faults.append(Fault(line, str(error)))


def _spec(name: str, told: dict[str, str]) -> PanelSpec:
    values: dict[str, object] = {NUMBER: name}
    outline: dict[int, float] = {}
    for column, text in told.items():
        factor = MM_AN_INCH if column in IN_INCHES else 1.0
        field = IN_INCHES.get(column, column)
        if field in PAIR:
            outline[PAIR[field]] = round(_number(column, text) * factor, 2)
        elif field == "touch":
            values[field] = _yes(text)
        elif PanelSpec.model_fields[field].annotation in (int | None, float | None):
            number = _number(column, text) * factor
            values[field] = int(number) if number == int(number) else round(number, 3)
        else:
            values[field] = text.removeprefix("'")
    if len(outline) == 1:
        raise ValueError("Give both outline_w_mm and outline_h_mm, or neither.")
    if outline:
        values["outline_mm"] = (outline[0], outline[1])
    return PanelSpec.model_validate(values)


def _number(column: str, text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"{column}: '{text}' is no number.") from None


def _yes(text: str) -> bool:
    if text.lower() in TRUE:
        return True
    if text.lower() in FALSE:
        return False
    raise ValueError(f"touch: '{text}' is neither yes nor no.")


def write_panels(panels: Iterable[tuple[str, str, PanelSpec]]) -> str:
    """Name, maker and specification of panels as CSV; cells that a spreadsheet would take for a formula are told as text."""
    out = io.StringIO(newline="")
    table = csv.writer(out)
    table.writerow(COLUMNS)
    for name, maker, spec in panels:
        outline = spec.outline_mm or (None, None)
        values = (name, maker, *outline, *(getattr(spec, field) for field in PLAIN))
        table.writerow([as_cell(value) for value in values])
    return out.getvalue()


def as_cell(value: object) -> str:
    """A value as a cell; text that a spreadsheet would take for a formula is marked as text."""
    if value is None:
        return ""
    text = (
        ("yes" if value else "no")
        if isinstance(value, bool)
        else f"{value:g}"
        if isinstance(value, float)
        else str(value)
    )
    return f"'{text}" if isinstance(value, str) and text.startswith(FORMULA) else text
