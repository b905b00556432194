"""Headers on every answer: a strict content policy with a nonce, and no caching of what belongs to a person."""

import secrets
from collections.abc import Callable
from urllib.parse import unquote

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseBase

from server.common.errors import BODY_TOO_LARGE, problem

Get = Callable[[HttpRequest], HttpResponseBase]


class SecurityHeaders:
    """The outermost middleware."""

    def __init__(self, get_response: Get) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        refused = self._too_large(request) or self._bad_address(request)
        return self._finish(request, refused or self.get_response(self._prepare(request)))

    @staticmethod
    def _bad_address(request: HttpRequest) -> HttpResponse | None:
        """No address of ours holds control characters, in whatever writing."""
        shown = request.path + unquote(request.META.get("QUERY_STRING", ""))
        if any(ord(c) < 32 or ord(c) == 127 for c in shown):
            return problem(400, "bad-address", "This address cannot be read. Go back to the list of jobs.")
        return None

    @staticmethod
    def _too_large(request: HttpRequest) -> HttpResponse | None:
        length = request.META.get("CONTENT_LENGTH") or "0"
        if length.isdigit() and int(length) > settings.MAX_BODY_BYTES:
            return problem(413, "file-too-large", BODY_TOO_LARGE)
        return None

    @staticmethod
    def _prepare(request: HttpRequest) -> HttpRequest:
        request.csp_nonce = secrets.token_urlsafe(16)  # type: ignore[attr-defined]
        return request

    @staticmethod
    def _finish(request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        if response.status_code == 405:
            allowed = response.headers.get("Allow", "")
            response = problem(405, "wrong-method", "This address does not take that. Reload the page and try again.")
            response["Allow"] = allowed
        nonce = getattr(request, "csp_nonce", "")
        response.headers.setdefault(
            "Content-Security-Policy",
            f"default-src 'none'; script-src 'self' 'nonce-{nonce}'; style-src 'self' 'nonce-{nonce}'; style-src-attr 'unsafe-inline'; "
            "img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; media-src 'self' blob:; manifest-src 'self'; "
            "base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
        )
        response.headers.setdefault("Permissions-Policy", "geolocation=(), microphone=()")
        if not request.path.startswith("/static/") and "Cache-Control" not in response:
            response["Cache-Control"] = "no-store"
        return response
