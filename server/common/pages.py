"""The built front end's pages, with the nonce of this answer put in."""

from functools import cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe


@cache
def _html(name: str) -> str:
    file = settings.DIST / name
    if not file.exists():
        return (
            "<!doctype html><title>Clear Lens</title><p>The front end is not built yet: start with ./clear-lens demo."
        )
    return str(file.read_text(encoding="utf-8"))


def page(request: HttpRequest, name: str) -> HttpResponse:
    """One of the built pages."""
    html = _html(name).replace("__CSP_NONCE__", request.csp_nonce)  # type: ignore[attr-defined]
    return HttpResponse(html, headers={"Cache-Control": "no-cache"})


@require_safe
@ensure_csrf_cookie
def bench_page(request: HttpRequest) -> HttpResponse:
    """The bench; its router reads the address."""
    return page(request, "index.html")
