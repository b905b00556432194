"""The live link's sending side: PostgreSQL's notify, delivered when the transaction commits."""

import json
from typing import Any

from django.db import connection

CHANNEL = "clear_lens"


def notify(job_id: int, what: str, run_id: int | None = None, **data: Any) -> None:
    """Tell all open pages of a job. ``data`` is small (PostgreSQL takes 8000 bytes); pages fetch the rest."""
    message = json.dumps({"job": job_id, "run": run_id, "what": what, **data})
    with connection.cursor() as cursor:
        cursor.execute("select pg_notify(%s, %s)", (CHANNEL, message))
