"""Errors of the server and the one shape in which they reach a client (application/problem+json, RFC 9457)."""

import logging
import sys
from typing import Any

from django.core.exceptions import PermissionDenied, RequestDataTooBig, SuspiciousOperation
from django.db import DatabaseError, InterfaceError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, UnreadablePostError
from django.http.multipartparser import MultiPartParserError
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError

from lens.errors import BadInput
from server.common.files import StoreAway, is_full

log = logging.getLogger("clear_lens")
BODY_TOO_LARGE = "The file has more than 60 MB. Save it as JPEG or at a lower resolution."


class Busy(Exception):
    """Too much came at once; the same again in a moment will do."""


def busy() -> HttpResponse:
    answer = problem(503, "busy", "The bench is busy with other files. Send it again in a moment.")
    answer["Retry-After"] = "5"
    return answer


class Conflict(Exception):
    """Somebody else changed the same thing first; the message says what to do."""


def problem(status: int, code: str, detail: str, errors: list[dict[str, Any]] | None = None) -> JsonResponse:
    """A failure: ``code`` is stable, ``detail`` may be shown as it is."""
    body = {"type": f"/problems/{code}", "status": status, "detail": detail, "errors": errors or []}
    return JsonResponse(body, status=status, content_type="application/problem+json")


def _validation(request: HttpRequest, error: Any) -> HttpResponse:
    errors = [{"loc": [str(part) for part in e["loc"]], "msg": e["msg"]} for e in error.errors]
    first = errors[0] if errors else {"loc": ["?"], "msg": "invalid"}
    field = str(first["loc"][-1]).replace("_", " ")
    return problem(422, "invalid", f"{field}: {first['msg']}. Correct it and send again.", errors)


def _bad_input(request: HttpRequest, error: Any) -> HttpResponse:
    return problem(422, error.code.replace("_", "-"), error.message)


def _http(request: HttpRequest, error: Any) -> HttpResponse:
    return problem(error.status_code, "http", str(error))


def install_handlers(api: NinjaAPI) -> None:
    """Let every failure pass one door."""
    api.add_exception_handler(BadInput, _bad_input)
    bad_form = "The form that was sent is cut short or damaged. Send it again."
    api.add_exception_handler(MultiPartParserError, lambda r, e: problem(400, "bad-form", bad_form))
    api.add_exception_handler(
        RequestDataTooBig, lambda r, e: problem(413, "too-large", "What was sent is too large. Send less at once.")
    )
    api.add_exception_handler(
        SuspiciousOperation, lambda r, e: problem(400, "bad-request", "This request cannot be read. Send it again.")
    )
    api.add_exception_handler(
        UnreadablePostError,
        lambda r, e: problem(400, "cut-short", "The rest of what was sent did not come. Send it again."),
    )
    api.add_exception_handler(OSError, unexpected)
    api.add_exception_handler(DatabaseError, unexpected)
    api.add_exception_handler(InterfaceError, unexpected)
    api.add_exception_handler(Busy, lambda r, e: busy())
    api.add_exception_handler(Conflict, lambda r, e: problem(409, "conflict", str(e)))
    api.add_exception_handler(
        PermissionDenied, lambda r, e: problem(403, "forbidden", str(e) or "Your role may not do this. Ask the lead.")
    )
    api.add_exception_handler(
        Http404, lambda r, e: problem(404, "not-found", "This is not here (any more). Go back to the list of jobs.")
    )
    api.add_exception_handler(
        AuthenticationError,
        lambda r, e: problem(401, "signed-out", "You are signed out. Sign in again; nothing is lost."),
    )
    api.add_exception_handler(ValidationError, _validation)
    api.add_exception_handler(HttpError, _http)
    api.add_exception_handler(Exception, unexpected)


DISK_FULL_WORDS = "The bench's disk is full, so nothing was stored. Make room on it, then send again; a phone keeps its photos until then."


def _database(error: BaseException) -> HttpResponse | None:
    """What a failing database means for who asked, None when it is an error of the program."""
    state = getattr(error.__cause__, "sqlstate", None) or ""
    if state in (
        "53100",
        "25006",
    ):  # disk_full; read_only_sql_transaction: the launcher has it started read-only where its disk is full
        return problem(507, "disk-full", DISK_FULL_WORDS)
    if state == "55P03":  # lock_not_available
        answer = problem(503, "busy", "Somebody else is changing the same thing just now. Try again in a moment.")
    elif state in ("57014", "53300") or isinstance(
        error, OperationalError | InterfaceError
    ):  # query_canceled, too_many_connections
        answer = problem(
            503,
            "database-away",
            "The bench's database does not answer just now. What was stored is safe; try again in a moment.",
        )
    else:
        return None
    answer["Retry-After"] = "2"
    return answer


def unexpected(request: HttpRequest, error: Any) -> HttpResponse:
    """The last door: what nobody foresaw gets a sentence, and the log the rest."""
    if isinstance(error, OSError) and is_full(error):
        log.error("the disk is full at %s", request.path)
        return problem(507, "disk-full", DISK_FULL_WORDS)
    if isinstance(error, StoreAway):
        log.error("the photo store does not answer at %s: %s", request.path, error)
        answer = problem(
            503,
            "store-away",
            "The photo store does not answer just now. Send it again in a moment; a phone keeps its photos.",
        )
        answer["Retry-After"] = "5"
        return answer
    known = _database(error) if isinstance(error, DatabaseError | InterfaceError) else None
    if known is not None:
        log.error("the database failed at %s: %s", request.path, error)
        return known
    log.exception("unexpected failure at %s", request.path, exc_info=error)
    return problem(500, "unexpected", "Something went wrong on the server. What was stored before is safe; try again.")


def _door(status: int, code: str, detail: str) -> Any:
    def view(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        return problem(status, code, detail)

    return view


def server_error(request: HttpRequest) -> HttpResponse:
    """What failed outside the API's own handlers: in a middleware, or on a page that opens by code."""
    error = sys.exc_info()[1]
    return unexpected(request, error if error is not None else RuntimeError("unknown"))


bad_request = _door(400, "bad-request", "This request cannot be read. Reload the page and try again.")
forbidden = _door(
    403, "forbidden", "This page may not do that: it was opened too long ago or elsewhere. Reload it and try again."
)
not_found = _door(404, "not-found", "This is not here (any more). Go back to the list of jobs.")
