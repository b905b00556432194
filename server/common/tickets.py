"""What lets a page listen to the live link: asked for once when a stream opens, valid until it expires or is taken back."""

import hashlib
import json
from typing import Any, NamedTuple

from django.db import connection
from django.http import HttpResponse, JsonResponse

from server.common.notify import CHANNEL

HEADER = "X-Clear-Lens-Stream"  # between the views and the event loop of one process; never leaves it


class Ticket(NamedTuple):
    """Hear a job, or one run of it only, until ``until`` (seconds since 1970). A code has its ``access`` and the ``user`` who made
    it, a person a ``user`` and the digest of a ``session``."""

    job: int
    run: int | None
    until: float
    user: int
    access: int | None = None
    session: str | None = None

    def ended_by(self, taken_back: dict[str, list[Any]]) -> bool:
        """Does taking back one of these end it? Keys are those of ``end``."""
        return any(
            getattr(self, name) in values for name, values in taken_back.items() if getattr(self, name) is not None
        )


def session_digest(session_key: str) -> str:
    """A session's name where others may read it."""
    return hashlib.sha256(session_key.encode()).hexdigest()[:32]


def answer(ticket: Ticket) -> HttpResponse:
    """The view's answer that opens a stream."""
    return JsonResponse({"listening": True}, headers={HEADER: json.dumps(ticket._asdict())})


def read(header: str) -> Ticket:
    return Ticket(**json.loads(header))


def end(**taken_back: list[Any]) -> None:
    """End the streams of these ``access``, ``user`` or ``session``, in every process, when the transaction commits."""
    message = json.dumps({"job": None, "run": None, "what": "end", "taken_back": taken_back})
    with connection.cursor() as cursor:
        cursor.execute("select pg_notify(%s, %s)", (CHANNEL, message))
