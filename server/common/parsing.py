"""Bodies and forms on their way in: what no text can hold, and numbers that are none, are refused before anything looks at them."""

import json
from typing import Any, NoReturn

from django.http import HttpRequest
from ninja.parser import Parser

from lens.errors import BadInput

MOST_DEPTH = 30  # nothing of ours nests deeper than ten


def _no_number(text: str) -> NoReturn:
    raise BadInput(f"'{text}' is no number. Send an ordinary one.", "not_a_number")


def check_text(text: str) -> None:
    """Raises BadInput for a NUL or half a surrogate pair: PostgreSQL stores neither, and nobody types them."""
    if "\0" in text or any("\ud800" <= c <= "\udfff" for c in text):
        raise BadInput("The text holds a character that cannot be stored. Type it again.", "bad_text")


def check_value(value: Any, depth: int = 0) -> None:
    """Raises BadInput for what cannot be stored anywhere in a JSON value."""
    if depth > MOST_DEPTH:
        raise BadInput("What was sent is nested far too deeply.", "too_deep")
    if isinstance(value, str):
        check_text(value)
    elif isinstance(value, dict):
        for name, one in value.items():
            check_text(name)
            check_value(one, depth + 1)
    elif isinstance(value, list):
        for one in value:
            check_value(one, depth + 1)


def read_json(body: bytes) -> Any:
    """JSON without its leniencies; raises BadInput."""
    try:
        value = json.loads(body, parse_constant=_no_number)
    except (ValueError, RecursionError) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput("What was sent is no JSON. Reload the page and try again.", "not_json") from None
    check_value(value)
    return value


class StrictParser(Parser):
    """How the API reads bodies, queries and forms."""

    def parse_body(self, request: HttpRequest) -> Any:
        return read_json(request.body)

    def parse_querydict(self, data: Any, list_fields: list[str], request: HttpRequest) -> Any:
        for name, values in data.lists():
            for text in (name, *values):
                if isinstance(text, str):
                    check_text(text)
        return super().parse_querydict(data, list_fields, request)
