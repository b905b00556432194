"""Files that survive a power cut: written under a temporary name, flushed to the disk, then given their name."""

import contextlib
import errno
import os
import secrets
from pathlib import Path
from typing import Any

from django.core.files.base import File
from django.core.files.storage import FileSystemStorage

PIECE_BYTES = 1024 * 1024
TEMPORARY = ".part-"
DISK_FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


class DiskFull(OSError):
    """There is no room for it; nothing of it was kept."""


class StoreAway(OSError):
    """The photo store does not answer; nothing is wrong with the photo."""


def is_full(error: OSError) -> bool:
    return isinstance(error, DiskFull) or error.errno in DISK_FULL


def existing(path: Path) -> Path:
    """The nearest folder above that exists, for questions about its disk."""
    while not path.exists():
        path = path.parent
    return path


def flush_folder(folder: Path) -> None:
    """Have the names in a folder on the disk (fsync(2): a new file's name is safe only then)."""
    opened = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)


def write_whole(path: Path, content: "File[bytes]") -> None:
    """The whole file under its name, or nothing. Raises DiskFull."""
    there = path.parent.exists()
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not there:
        flush_folder(path.parent.parent)
    temporary = path.with_name(f"{TEMPORARY}{secrets.token_hex(8)}")
    opened = os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        with os.fdopen(opened, "wb") as out:
            for piece in content.chunks(PIECE_BYTES):
                out.write(piece)
            out.flush()
            os.fsync(out.fileno())
        os.replace(temporary, path)
        flush_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            temporary.unlink()
        if is_full(error):
            raise DiskFull(error.errno, "The disk is full.") from error
        raise


class SafeStorage(FileSystemStorage):
    """The file system, with whole files only. A name that exists is written anew: names are hashes of contents."""

    def get_available_name(self, name: str, max_length: int | None = None) -> str:
        return name

    def _save(self, name: str, content: Any) -> str:
        write_whole(Path(self.path(name)), content)
        return name
