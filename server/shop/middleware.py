"""Times are told in the shop's zone."""

from collections.abc import Callable

from django.db import DatabaseError
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from server.shop.actions import zone


class ShopZone:
    """Makes the shop's time zone that of the request: days begin and end at its midnight."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        if not request.path.startswith("/api/") or request.path == "/api/health":
            return self.get_response(request)
        try:
            told = zone()
        except DatabaseError:
            return self.get_response(request)  # which will say so itself
        with timezone.override(told):
            return self.get_response(request)
