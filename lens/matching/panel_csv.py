"""Panels as CSV, out and in: any usual delimiter and encoding, decimal commas, inches where a column says so; every fault is named by its line."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from pydantic import ValidationError

from lens.errors import BadInput
from lens.matching.specification import PanelSpec, normal_number
from lens.tables import faults_of, near

NUMBER, MAKER = "part_number", "maker"
OTHERS, APART = "other_numbers", "/"  # further numbers share a cell
# a pair has a column for each side
PAIR = {
    f"{side}_{way}_mm": (f"{side}_mm", place) for side in ("outline", "visible") for place, way in enumerate(("w", "h"))
}
PLAIN = tuple(
    name for name in PanelSpec.model_fields if name != NUMBER and name not in {field for field, _ in PAIR.values()}
)
COLUMNS = (NUMBER, MAKER, *PAIR, *PLAIN)
NUMBERS = tuple(
    name for name, field in PanelSpec.model_fields.items() if field.annotation in (int | None, float | None)
)
YES_OR_NO = tuple(name for name, field in PanelSpec.model_fields.items() if field.annotation == bool | None)
IN_INCHES = {f"{name.removesuffix('_mm')}_in": name for name in (*PAIR, "thickness_mm")}
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


class PanelTable:
    """A file of panels, read as its rows are asked for: a hundred thousand at once would fill a process. ``faults`` grow on the way; ``lines`` is how
    many the file has at most."""

    def __init__(self, data: bytes) -> None:
        """Raises BadInput for what is no table with a column of part numbers."""
        read = lines_of(data)
        _check_header(read.header)
        self.delimiter, self.encoding, self.lines = read.delimiter, read.encoding, data.count(b"\n") + 1
        self.faults: list[Fault] = []
        self._rows = self._read(read.rows)

    def __iter__(self) -> Iterator[PanelRow]:
        return self._rows

    def _read(self, lines: Iterable["Line | Fault"]) -> Iterator[PanelRow]:
        seen: dict[str, int] = {}
        for line in lines:
            if len(self.faults) >= MOST_FAULTS:
                continue
            told = line if isinstance(line, Fault) else _row(line, seen)
            if isinstance(told, Fault):
                self.faults.append(told)
            else:
                yield told


class Line(NamedTuple):
    """The cells of a line that hold something, by their column."""

    number: int
    told: dict[str, str]


class Lines(NamedTuple):
    """A file with a head line; ``rows`` are read as they are asked for."""

    header: list[str]
    rows: Iterator[Line | Fault]
    delimiter: str
    encoding: str


def lines_of(data: bytes) -> Lines:
    """The lines of any CSV file with a head line, empty ones left out. Raises BadInput for what is no table, has a column twice or too many lines."""
    text, encoding = _decoded(data)
    delimiter = max(DELIMITERS, key=text.split("\n", 1)[0].count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    try:
        header = [name.strip().lower().replace(" ", "_") for name in next(reader, [])]
    except csv.Error as error:
        raise _unreadable(reader.line_num, error) from None
    for name in header:
        if name and header.count(name) > 1:
            raise BadInput(f"Line 1: the column '{name}' is there twice.", "csv_columns")

    def rows() -> Iterator[Line | Fault]:
        count = 0
        try:
            for cells in reader:
                if not any(cell.strip() for cell in cells):
                    continue
                count += 1
                if count > MOST_ROWS:
                    raise BadInput(f"A file has at most {MOST_ROWS} lines. Send it in parts.", "csv")
                if len(cells) > len(header):
                    words = f"{len(cells)} cells for {len(header)} columns. Put text with '{delimiter}' in quotes."
                    yield Fault(reader.line_num, words)
                    continue
                told = {name: cell.strip() for name, cell in zip(header, cells, strict=False) if name and cell.strip()}
                yield Line(reader.line_num, told)
        except csv.Error as error:
            raise _unreadable(reader.line_num, error) from None

    return Lines(header, rows(), delimiter, encoding)


def _unreadable(line: int, error: csv.Error) -> BadInput:
    return BadInput(f"The file cannot be read as CSV: line {line}, {error}.", "csv")


def read_numbers(data: bytes) -> list[str]:
    """The part numbers of a CSV file, whatever other columns it has. Raises BadInput without such a column."""
    lines = lines_of(data)
    if NUMBER not in lines.header:
        raise BadInput(f"Line 1: a column '{NUMBER}' is needed.", "csv_columns")
    told = [line.told[NUMBER] for line in lines.rows if isinstance(line, Line) and NUMBER in line.told]
    return [number.removeprefix("'") for number in told]


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


def _row(row: Line, seen: dict[str, int]) -> PanelRow | Fault:
    line, told = row
    name = told.pop(NUMBER, "").removeprefix("'")
    normal = normal_number(name)
    if not normal:
        return Fault(line, "It has no part number.")
    if normal in seen:
        return Fault(line, f"'{name}' is in line {seen[normal]} already.")
    seen[normal] = line
    try:
        return PanelRow(line, name, told.pop(MAKER, "").removeprefix("'")[:80], _spec(name, told))
    except ValidationError as error:
        return Fault(line, "; ".join(f"{place}: {words}" for place, words in faults_of(error, PanelSpec).items()))
    except ValueError as error:
        return Fault(line, str(error))


def _spec(name: str, told: dict[str, str]) -> PanelSpec:
    values: dict[str, object] = {NUMBER: name}
    pairs: dict[str, dict[int, float]] = {}
    for column, text in told.items():
        factor = MM_AN_INCH if column in IN_INCHES else 1.0
        field = IN_INCHES.get(column, column)
        if field in PAIR:
            pair, place = PAIR[field]
            pairs.setdefault(pair, {})[place] = round(_number(column, text) * factor, 2)
        elif field == OTHERS:
            values[field] = tuple(number.strip() for number in text.removeprefix("'").split(APART) if number.strip())
        elif field in YES_OR_NO:
            values[field] = _yes(field, text)
        elif field in NUMBERS:
            number = _number(column, text) * factor
            values[field] = int(number) if number == int(number) else round(number, 3)
        else:
            values[field] = text.removeprefix("'")
    for pair, sides in pairs.items():
        if len(sides) == 1:
            one, other = (column for column, (field, _) in PAIR.items() if field == pair)
            raise ValueError(f"Give both {one} and {other}, or neither.")
        values[pair] = (sides[0], sides[1])
    return PanelSpec.model_validate(values)


def _number(column: str, text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f"{column}: '{text}' is no number.") from None


def _yes(column: str, text: str) -> bool:
    if text.lower() in TRUE:
        return True
    if text.lower() in FALSE:
        return False
    raise ValueError(f"{column}: '{text}' is neither yes nor no.")


def write_panels(panels: Iterable[tuple[str, str, PanelSpec]]) -> str:
    """Name, maker and specification of panels as CSV; cells that a spreadsheet would take for a formula are told as text."""
    out = io.StringIO(newline="")
    table = csv.writer(out)
    table.writerow(COLUMNS)
    for name, maker, spec in panels:
        pairs = [(getattr(spec, field) or (None, None))[place] for field, place in PAIR.values()]
        values = (name, maker, *pairs, *(getattr(spec, field) for field in PLAIN))
        table.writerow([as_cell(value) for value in values])
    return out.getvalue()


def as_cell(value: object) -> str:
    """A value as a cell; text that a spreadsheet would take for a formula is marked as text."""
    if value is None:
        return ""
    if isinstance(value, tuple):
        value = f" {APART} ".join(str(part) for part in value)
    text = (
        ("yes" if value else "no")
        if isinstance(value, bool)
        else f"{value:g}"
        if isinstance(value, float)
        else str(value)
    )
    return f"'{text}" if isinstance(value, str) and text.startswith(FORMULA) else text
