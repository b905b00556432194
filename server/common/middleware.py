"""Headers on every answer: a strict content policy with a nonce, and no caching of what belongs to a person."""

import secrets
from collections.abc import Awaitable, Callable

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseBase

from server.common.errors import problem

Get = Callable[[HttpRequest], HttpResponseBase]


class SecurityHeaders:
    """Works in sync and async chains, so that streams are not buffered."""

    sync_capable = async_capable = True

    def __init__(self, get_response: Get) -> None:
        self.get_response = get_response
        self.is_async = iscoroutinefunction(get_response)
        if self.is_async:
            markcoroutinefunction(self)

    def __call__(self, request: HttpRequest) -> HttpResponseBase | Awaitable[HttpResponseBase]:
        if self.is_async:
            return self._async(request)
        return self._too_large(request) or self._finish(request, self.get_response(self._prepare(request)))

    async def _async(self, request: HttpRequest) -> HttpResponseBase:
        too_large = self._too_large(request)
        if too_large:
            return too_large
        return self._finish(request, await self.get_response(self._prepare(request)))  # type: ignore[misc]

    @staticmethod
    def _too_large(request: HttpRequest) -> HttpResponse | None:
        length = request.META.get("CONTENT_LENGTH") or "0"
        if length.isdigit() and int(length) > settings.MAX_BODY_BYTES:
            return problem(413, "file-too-large", "The file has more than 60 MB. Save it as JPEG or at a lower resolution.")
        return None

    @staticmethod
    def _prepare(request: HttpRequest) -> HttpRequest:
        request.csp_nonce = secrets.token_urlsafe(16)  # type: ignore[attr-defined]
        return request

    @staticmethod
    def _finish(request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        nonce = request.csp_nonce  # type: ignore[attr-defined]
        response["Content-Security-Policy"] = (
            f"default-src 'none'; script-src 'self' 'nonce-{nonce}'; style-src 'self' 'nonce-{nonce}'; style-src-attr 'unsafe-inline'; "
            "img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; media-src 'self' blob:; manifest-src 'self'; "
            "base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
        response["Permissions-Policy"] = "geolocation=(), microphone=()"
        if not request.path.startswith("/static/") and "Cache-Control" not in response:
            response["Cache-Control"] = "no-store"
        return response
