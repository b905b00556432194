"""What commands read and write."""

import json
from pathlib import Path
from typing import BinaryIO

from lens.errors import BadInput


def read(path: str) -> bytes:
    """A whole file."""
    try:
        return Path(path).read_bytes()
    except OSError as error:
        raise BadInput(f"Cannot read '{path}': {error.strerror}.", "no_file") from None


def opened(path: str) -> BinaryIO:
    """A file that is read piece by piece."""
    try:
        return open(path, "rb")
    except OSError as error:
        raise BadInput(f"Cannot read '{path}': {error.strerror}.", "no_file") from None


def write(text: str, out: str | None) -> None:
    """To a file, or to standard output."""
    if out is None:
        print(text)
        return
    try:
        Path(out).write_text(text + "\n", encoding="utf-8")
    except OSError as error:
        raise BadInput(f"Cannot write '{out}': {error.strerror}.", "no_file") from None


def read_json(path: str) -> object:
    """What a JSON file holds."""
    try:
        return json.loads(read(path))
    except (ValueError, RecursionError):
        raise BadInput(f"'{path}' is no JSON file.", "not_json") from None
