"""Errors of the server and the one shape in which they reach a client (application/problem+json, RFC 9457)."""

import logging
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError

from lens.errors import BadInput

log = logging.getLogger("clear_lens")


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
    api.add_exception_handler(Conflict, lambda r, e: problem(409, "conflict", str(e)))
    api.add_exception_handler(PermissionDenied, lambda r, e: problem(403, "forbidden", str(e) or "Your role may not do this. Ask the lead."))
    api.add_exception_handler(Http404, lambda r, e: problem(404, "not-found", "This is not here (any more). Go back to the list of jobs."))
    api.add_exception_handler(AuthenticationError, lambda r, e: problem(401, "signed-out", "You are signed out. Sign in again; nothing is lost."))
    api.add_exception_handler(ValidationError, _validation)
    api.add_exception_handler(HttpError, _http)
    api.add_exception_handler(Exception, _unexpected)


def _unexpected(request: HttpRequest, error: Any) -> HttpResponse:
    log.exception("unexpected failure at %s", request.path, exc_info=error)
    return problem(500, "unexpected", "Something went wrong on the server. What was stored before is safe; try again.")
