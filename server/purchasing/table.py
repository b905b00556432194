"""Orders as CSV."""

import csv
import io
from collections.abc import Iterable

from lens.matching.panel_csv import as_cell
from server.purchasing.models import OrderLine

COLUMNS = (
    *("order", "supplier", "state", "ordered_on", "shipped_on", "due_on", "arrived_on", "late_days"),
    *("part_number", "quantity", "unit_price", "currency", "job", "outcome", "note"),
)


def orders_csv(lines: Iterable[OrderLine]) -> str:
    """A row for each line of an order; cells that a spreadsheet would take for a formula are told as text."""
    out = io.StringIO(newline="")
    table = csv.writer(out)
    table.writerow(COLUMNS)
    for line in lines:
        order = line.order
        values = (
            order.pk, order.supplier.name, order.state, order.ordered_on, order.shipped_on, order.due_on, order.arrived_on, order.late_days,
            line.offer.panel.name, line.quantity, line.unit_price, line.offer.currency, line.job_id, line.outcome, line.note,
        )  # fmt: skip
        table.writerow([as_cell(value) for value in values])
    return out.getvalue()
