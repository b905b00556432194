"""Offers as CSV, in: any usual delimiter and encoding, decimal commas; every fault is named by its line."""

from decimal import Decimal, InvalidOperation
from typing import NamedTuple

from lens.errors import BadInput
from lens.matching import normal_number
from lens.matching.panel_csv import Fault, lines_of
from lens.purchasing.terms import GRADES
from lens.tables import near

NEEDED = ("part_number", "supplier", "price")
COLUMNS = (*NEEDED, *("freight", "currency", "grade", "delivery_days", "warranty_months", "doa_days", "duty_percent"))
WHOLE = ("delivery_days", "warranty_months", "doa_days")
LARGEST = Decimal(1_000_000)


class OfferRow(NamedTuple):
    """``values`` are those that the file gives, by the columns' names."""

    line: int
    part_number: str
    values: dict[str, Decimal | int | str]


class OfferTable(NamedTuple):
    rows: list[OfferRow]
    faults: list[Fault]
    delimiter: str
    encoding: str


def read_offers(data: bytes) -> OfferTable:
    """The offers of a CSV file. Raises BadInput for what is no table with the columns that an offer needs."""
    table = lines_of(data)
    for name in NEEDED:
        if name not in table.header:
            raise BadInput(f"Line 1: a column '{name}' is needed. Columns: {', '.join(COLUMNS)}.", "csv_columns")
    for name in table.header:
        if name and name not in COLUMNS:
            raise BadInput(
                f"Line 1: the column '{name}' is unknown.{near(name, COLUMNS)} Columns: {', '.join(COLUMNS)}.",
                "csv_columns",
            )
    rows: list[OfferRow] = []
    faults: list[Fault] = []
    seen: dict[tuple[str, str, str], int] = {}
    for each in table.rows:
        if isinstance(each, Fault):
            faults.append(each)
            continue
        line, told = each
        try:
            row = OfferRow(
                line,
                told.pop("part_number", "").removeprefix("'"),
                {name: _value(name, text) for name, text in told.items()},
            )
            _check(row)
            key = (
                normal_number(row.part_number),
                str(row.values["supplier"]).lower(),
                str(row.values.get("grade", "")),
            )
            if key in seen:
                raise ValueError(f"This supplier's offer of '{row.part_number}' is in line {seen[key]} already.")
            seen[key] = line
            rows.append(row)
        except ValueError as error:
            faults.append(Fault(line, str(error)))
    return OfferTable(rows, faults, table.delimiter, table.encoding)


def _check(row: OfferRow) -> None:
    if not normal_number(row.part_number):
        raise ValueError("It has no part number.")
    if not row.values.get("supplier"):
        raise ValueError("It has no supplier.")
    if not row.values.get("price"):
        raise ValueError("It has no price. An offer without one cannot be compared.")


def _value(name: str, text: str) -> Decimal | int | str:
    if name == "grade":
        plain = text.strip().lower().replace(" ", "_")
        if plain not in GRADES:
            raise ValueError(f"grade: '{text}' is none of {', '.join(GRADES)}.")
        return plain
    if name == "currency":
        if len(text) != 3 or not text.isalpha():
            raise ValueError(f"currency: '{text}' is no code of three letters, such as EUR.")
        return text.upper()
    if name == "supplier":
        return text.removeprefix("'")[:80]
    try:
        number = Decimal(text.replace(",", "."))
    except InvalidOperation:
        raise ValueError(f"{name}: '{text}' is no number.") from None
    if not number.is_finite() or not 0 <= number < LARGEST:
        raise ValueError(f"{name}: '{text}' lies outside of what is possible.")
    if name in WHOLE:
        if number != int(number) or number > 365:
            raise ValueError(f"{name}: '{text}' is no whole number up to 365.")
        return int(number)
    return number.quantize(Decimal("0.01"))
