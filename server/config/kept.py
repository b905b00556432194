"""Secrets that an installation makes for itself at first start and keeps beside its database."""

import contextlib
import os
import secrets
from collections.abc import Callable
from pathlib import Path

from lens.reporting import public_of


def kept(folder: Path, name: str, make: Callable[[], str]) -> str:
    """The secret in a file of that name, made where there is none; of two processes that make one, the first wins."""
    file = folder / name
    if not file.exists():
        folder.mkdir(exist_ok=True, mode=0o700)
        own = folder / f".{name}-{secrets.token_hex(4)}"
        with os.fdopen(os.open(own, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
            out.write(make())
            out.flush()
            os.fsync(out.fileno())
        with contextlib.suppress(FileExistsError):  # another process was first
            os.link(own, file)
        own.unlink()
    return file.read_text().strip()


def published(folder: Path, name: str, text: str) -> str:
    """A text that others may have, in a file of that name; written anew where it says something else."""
    file = folder / name
    if not file.exists() or file.read_text().strip() != text:
        own = folder / f".{name}-{secrets.token_hex(4)}"
        own.write_text(text)
        os.replace(own, file)
    return text


def public_half(key: str, file: Path) -> str:
    """The public half of the shop's key; ends the start with a sentence where the key is damaged."""
    try:
        return public_of(key)
    except ValueError:
        raise SystemExit(
            f"The shop's key {file} cannot be read. Put it back from a backup (shop.key in it), or move it away: then a new one is made, and reports "
            "that were signed before are checked with their own shop.pub."
        ) from None
