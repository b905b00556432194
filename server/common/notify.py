"""The live link's sending side: PostgreSQL's notify, delivered when the transaction commits."""

import json
from typing import Any

from django.db import connection
from django.db.models import Expression, Func, Model, QuerySet, TextField, Value
from django.db.models.functions import Cast, JSONObject

CHANNEL = "clear_lens"
MEASURED = ("pictures", "touch", "comparisons", "isolate", "fit", "match", "buying")
# which facets of a job an event is about; a page reads those anew, and the job's head. None is any of them.
FACETS_OF: dict[str, tuple[str, ...] | None] = {
    "job": None,
    "pattern": (),
    "touch_command": (),
    "glass": ("pictures",),
    "photo": ("pictures",),
    "run": MEASURED,
    "touch": ("touch",),
    "touch_now": ("touch",),
    "touch_result": MEASURED,
}


def notify(
    job_id: int, what: str, run_id: int | None = None, facets: tuple[str, ...] | None = None, **data: Any
) -> None:
    """Tell all open pages of a job. ``facets`` are those that changed, where the sender knows better than the table. ``data`` is small
    (PostgreSQL takes 8000 bytes); pages fetch the rest."""
    changed = FACETS_OF.get(what) if facets is None else facets
    message = json.dumps({"job": job_id, "run": run_id, "what": what, "facets": changed, **data})
    with connection.cursor() as cursor:
        cursor.execute("select pg_notify(%s, %s)", (CHANNEL, message))


def notify_of(rows: QuerySet[Model], **fields: Expression | str) -> int:
    """Tell the pages what the rows now hold, in the one query that reads them; the number of rows. A page far away waits for
    every round trip to the database. ``fields`` are those of ``notify``, as expressions."""
    message = Cast(JSONObject(**fields), TextField())
    return len(rows.values_list(Func(Value(CHANNEL), message, function="pg_notify", output_field=TextField())))
