"""Secrets that an installation makes for itself at first start and keeps beside its database."""

import contextlib
import os
import secrets
from collections.abc import Callable
from pathlib import Path


def kept(folder: Path, name: str, make: Callable[[], str]) -> str:
    """The secret in a file of that name, made where there is none; of two processes that make one, the first wins."""
    file = folder / name
    if not file.exists():
        folder.mkdir(exist_ok=True, mode=0o700)
        own = folder / f".{name}-{secrets.token_hex(4)}"
        with os.fdopen(os.open(own, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
            out.write(make())
        with contextlib.suppress(FileExistsError):  # another process was first
            os.link(own, file)
        own.unlink()
    return file.read_text().strip()
