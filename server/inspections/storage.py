"""Photos in Django's storage, named by their SHA-256; location data is gone before anything is written."""

import contextlib
import hashlib
import shutil
import threading
from collections.abc import Iterator
from functools import lru_cache

import cv2
import numpy as np
from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from numpy.typing import NDArray

from lens.photo_file import decode, for_the_eye, upright_size
from server.common.files import DiskFull, StoreAway, existing
from server.inspections.stripping import JPEG, strip


def _name(sha256: str) -> str:
    return f"photos/{sha256[:2]}/{sha256}"


def keep(data: bytes) -> tuple[str, int]:
    """Strip, store and return SHA-256 and size of what was stored; raises BadInput for what is no photo, DiskFull where there is no room.

    A file that is there already is trusted by its size and hash only: one that a crash or a full disk left broken is written anew.
    """
    stripped = strip(data)
    sha256 = hashlib.sha256(stripped).hexdigest()
    keep_as_is(sha256, stripped)
    return sha256, len(stripped)


def keep_as_is(sha256: str, data: bytes) -> None:
    """Store what has this hash, unless it is there and whole. Raises DiskFull."""
    if not _is_whole(sha256, len(data)):
        if not settings.S3_BUCKET:
            leave_room(len(data))
        with _reached():
            default_storage.save(_name(sha256), ContentFile(data))


def _is_whole(sha256: str, size: int) -> bool:
    name = _name(sha256)
    try:
        with _reached():
            there = default_storage.size(name)
        return there == size and hashlib.sha256(load(sha256)).hexdigest() == sha256
    except FileNotFoundError:
        return False


def leave_room(size: int) -> None:
    """Raises DiskFull when a photo would take the room that the database needs to go on."""
    place = existing(settings.MEDIA_ROOT)
    if shutil.disk_usage(place).free - size < settings.LEAST_FREE_BYTES:
        raise DiskFull("The disk is almost full.")


def there(sha256: str) -> bool:
    """Whether the store has it."""
    with _reached():
        return bool(default_storage.exists(_name(sha256)))


def load(sha256: str) -> bytes:
    """The stored photo."""
    with _reached(), default_storage.open(_name(sha256), "rb") as file:
        return bytes(file.read())


@contextlib.contextmanager
def _reached() -> Iterator[None]:
    """What a store on the network raises when it is away, as an error of the machine: it passes."""
    try:
        yield
    except OSError:
        raise
    except Exception as error:
        if type(error).__module__.startswith(("botocore", "boto3", "urllib3")):
            raise StoreAway(f"The photo store does not answer: {error}") from error
        raise


# a decoded photo takes three bytes a pixel: one at a time, and the last one kept
_decoding = threading.Lock()


@lru_cache(maxsize=1)
def _decoded(sha256: str) -> NDArray[np.uint8]:
    return for_the_eye(decode(load(sha256)))


def pixels(sha256: str) -> NDArray[np.uint8]:
    """The photo decoded, (h, w, 3) B, G, R; the last one stays in memory, since a magnifier asks for many places of it."""
    with _decoding:
        return _decoded(sha256)


REDUCTIONS = ((8, cv2.IMREAD_REDUCED_COLOR_8), (4, cv2.IMREAD_REDUCED_COLOR_4), (2, cv2.IMREAD_REDUCED_COLOR_2))


def reduced(sha256: str, long_side_px: int) -> tuple[bytes, tuple[int, int]]:
    """The photo upright as a smaller JPEG, and the (width, height) of the original. A JPEG is decoded no larger than it is shown."""
    data = load(sha256)
    with _decoding:
        width, height = upright_size(data)
        wanted = next((how for by, how in REDUCTIONS if max(width, height) >= by * long_side_px), None)
        picture = (
            cv2.imdecode(np.frombuffer(data, np.uint8), wanted)
            if wanted is not None and data.startswith(JPEG)
            else None
        )
        picture = for_the_eye(decode(data)) if picture is None else picture
        factor = min(1.0, long_side_px / max(width, height))
        small = cv2.resize(
            picture, (max(1, round(factor * width)), max(1, round(factor * height))), interpolation=cv2.INTER_AREA
        )
    _, out = cv2.imencode(".jpg", np.asarray(small, np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 85])
    return out.tobytes(), (width, height)
