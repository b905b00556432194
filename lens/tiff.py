"""The directories of a TIFF file (TIFF 6.0, section 2; from memory): entries of tags, found without decoding anything, and taken out in place.

A raw photo in the open DNG form is such a file (DNG specification 1.4; from memory).
"""

import struct
from collections.abc import Iterator
from typing import NamedTuple

BYTES_OF_KIND = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4}
SUB_DIRECTORIES, EXIF, GPS = 330, 34665, 34853
DNG_VERSION = 50706
MOST_DIRECTORIES, MOST_ENTRIES = 64, 4096  # a file that was made to cost time has more


class Entry(NamedTuple):
    """``at`` is where the entry of 12 bytes stands, ``value_at`` where its ``size`` bytes of value do; -1 when that lies beyond the file."""

    tag: int
    kind: int
    length: int
    at: int
    value_at: int
    size: int


class Tiff:
    """The directories of ``data``; ``order`` is '<' or '>'. Raises ValueError when this is no TIFF file."""

    def __init__(self, data: bytes | bytearray) -> None:
        self.order = {b"II*\0": "<", b"MM\0*": ">"}.get(bytes(data[:4]), "")
        if not self.order or len(data) < 8:
            raise ValueError("no TIFF file")
        self.data = data

    def numbers(self, code: str, at: int) -> tuple[int, ...]:
        return struct.unpack_from(self.order + code, self.data, at)

    def first(self) -> int:
        """Where the first directory stands."""
        return self.numbers("I", 4)[0]

    def entries(self, at: int) -> list[Entry]:
        """Of the directory there; nothing where it lies beyond the file."""
        if at <= 0 or at + 2 > len(self.data):
            return []
        count = min(self.numbers("H", at)[0], MOST_ENTRIES, (len(self.data) - at - 2) // 12)
        found = []
        for where in range(at + 2, at + 2 + 12 * count, 12):
            tag, kind, many = self.numbers("HHI", where)
            size = BYTES_OF_KIND.get(kind, 1) * many
            value_at = where + 8 if size <= 4 else self.numbers("I", where + 8)[0]
            found.append(Entry(tag, kind, many, where, value_at if value_at + size <= len(self.data) else -1, size))
        return found

    def values(self, entry: Entry) -> tuple[int, ...]:
        """Whole numbers of an entry; nothing of other kinds."""
        code = {1: "B", 3: "H", 4: "I", 7: "B", 13: "I"}.get(entry.kind)
        return self.numbers(f"{entry.length}{code}", entry.value_at) if code and entry.value_at >= 0 else ()

    def directories(self) -> Iterator[tuple[int, list[Entry]]]:
        """Place and entries of every directory, those below others too; each once."""
        waiting, known = [self.first()], set[int]()
        while waiting and len(known) < MOST_DIRECTORIES:
            at = waiting.pop()
            if at in known:
                continue
            known.add(at)
            entries = self.entries(at)
            if not entries:
                continue
            yield at, entries
            end = at + 2 + 12 * len(entries)
            if end + 4 <= len(self.data):
                waiting.append(self.numbers("I", end)[0])
            for entry in entries:
                if entry.tag in (SUB_DIRECTORIES, EXIF, GPS):
                    waiting.extend(self.values(entry)[:MOST_DIRECTORIES])


def is_dng(data: bytes) -> bool:
    """Is this a raw photo in the DNG form?"""
    try:
        tiff = Tiff(data)
        return any(entry.tag == DNG_VERSION for entry in tiff.entries(tiff.first()))
    except (ValueError, struct.error):
        return False


def without_tags(data: bytes, tags: frozenset[int]) -> bytes:
    """The same file without these tags, wherever they stand: entries closed up, values overwritten, of GPS all. All else stays where it is."""
    out = bytearray(data)
    tiff = Tiff(out)
    for at, entries in list(tiff.directories()):
        gps = _is_gps(tiff, at)
        gone = [entry for entry in entries if entry.tag in tags or gps]
        for entry in gone:
            if entry.value_at >= 0:
                out[entry.value_at : entry.value_at + entry.size] = bytes(entry.size)
        kept = b"".join(bytes(out[entry.at : entry.at + 12]) for entry in entries if entry not in gone)
        end = at + 2 + 12 * len(entries)
        following = bytes(out[end : end + 4])
        room = end + len(following) - at - 2
        out[at : at + 2] = struct.pack(tiff.order + "H", len(kept) // 12)
        out[at + 2 : at + 2 + room] = (kept + following).ljust(room, b"\0")
    return bytes(out)


def _is_gps(tiff: Tiff, at: int) -> bool:
    """GPS directories hold tags below 32 only (EXIF 2.3), among them the version, 0."""
    entries = tiff.entries(at)
    return bool(entries) and entries[0].tag == 0 and all(entry.tag < 32 for entry in entries)
