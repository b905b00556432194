"""A number for every request: in its answer, in every line that the log writes for it, so that what a person reports is found there."""

import logging
import secrets
from collections.abc import Callable
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponseBase

HEADER = "X-Request-ID"
_current: ContextVar[str] = ContextVar("request_id", default="-")


def new_id() -> str:
    """Eight letters and digits: enough to tell a day's requests apart."""
    return secrets.token_hex(4)


class RequestId:
    """The outermost middleware: what is logged while a request is worked on carries its number."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        told = new_id()
        token = _current.set(told)
        try:
            response = self.get_response(request)
        finally:
            _current.reset(token)
        response[HEADER] = told
        return response


class WithRequestId(logging.Filter):
    """Puts the number of the request into log lines, '-' outside of one."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.request_id = _current.get()
        return True
