"""Lines of a touch session as arrays, a piece of the file at a time."""

import itertools
from collections import defaultdict
from collections.abc import Iterator, Sequence
from operator import attrgetter
from typing import Any, BinaryIO

import msgspec
import numpy as np
from numpy.typing import NDArray

from lens.errors import BadInput
from lens.touch.plain_lines import EVENTS, plain_fields

MOST_BYTES, MOST_EVENTS = 200 * 1024 * 1024, 3_000_000
NO_EVENT = (msgspec.DecodeError, RecursionError)  # the latter of what is nested a thousand times
PIECE_BYTES = 4 * 1024 * 1024


class EventLine(msgspec.Struct, gc=False):
    """An event as a line tells it; what is not told is None."""

    t: float | None = None
    id: int | str | None = None
    ev: str | None = None
    x: float | None = None
    y: float | None = None
    p: float | None = None
    w: float | None = None
    h: float | None = None


def pieces(file: BinaryIO) -> Iterator[tuple[bytes, bool]]:
    """The rest of a file in pieces of whole lines, and whether it is the last one."""
    total = 0
    while True:
        piece = file.read(PIECE_BYTES)
        if not piece.endswith(b"\n"):
            piece += file.readline(MOST_BYTES)
        total += len(piece)
        if total > MOST_BYTES:
            raise BadInput(
                f"The session has more than {MOST_BYTES // 2**20} MB, which is not read. Record a shorter one.",
                "touch_session",
            )
        last = not piece.endswith(b"\n")
        yield piece, last
        if last:
            return


def _lines(piece: bytes) -> int:
    # a hundred times as fast as bytes.count, which stops at every line
    return int(np.count_nonzero(np.frombuffer(piece, np.uint8) == ord("\n")))


def _numbers(lines: Sequence[EventLine], name: str) -> NDArray[np.float64]:
    """One field of all lines, NaN where it is not told."""
    try:
        return np.fromiter(map(attrgetter(name), lines), float, len(lines))
    except TypeError:
        return np.array([*map(attrgetter(name), lines)], float)


class RawEvents:
    """Events as they were sent, one array a field and piece, so that no object stays alive for each: ``fields`` are time, x, y, the place
    in EVENTS or -1, and the place in ``fingers``, which has the names."""

    def __init__(self) -> None:
        self.fields: list[list[Any]] = [[], [], [], [], []]
        self.fingers: dict[int | str | None, int] = defaultdict(itertools.count().__next__)
        self.kinds: dict[str | None, int] = defaultdict(lambda: -1, {name: n for n, name in enumerate(EVENTS)})
        self.count, self.number, self.cut = 0, 1, False
        self.decoder = msgspec.json.Decoder(EventLine)

    def take(self, piece: bytes, last: bool) -> None:
        """Decode whole lines and keep them."""
        plain = plain_fields(piece)
        if plain is None:
            self.add(self.decoded(piece, last))
            return
        self.number += _lines(piece)
        fingers, whose = np.unique(plain.finger, return_inverse=True)
        numbers = np.array([self.fingers[int(finger)] for finger in fingers.tolist()])
        self._keep(plain.t, plain.x, plain.y, plain.kind, numbers[whose])

    def decoded(self, piece: bytes, last: bool) -> Sequence[EventLine]:
        """A line that is no event is said with its number; the last one of the file may be cut."""
        try:
            lines: Sequence[EventLine] = self.decoder.decode_lines(piece)
        except NO_EVENT:
            lines = self._one_by_one(piece, last)
        self.number += _lines(piece)
        return lines

    def add(self, lines: Sequence[EventLine]) -> None:
        """Keep decoded lines."""
        # maps over attrgetter stay out of the interpreter's loop: half the time of comprehensions
        t, x, y = (_numbers(lines, name) for name in ("t", "x", "y"))
        kind = np.fromiter(map(self.kinds.__getitem__, map(attrgetter("ev"), lines)), np.int8, len(lines))
        finger = np.fromiter(map(self.fingers.__getitem__, map(attrgetter("id"), lines)), np.int64, len(lines))
        self._keep(t, x, y, kind, finger)

    def _keep(self, *values: NDArray[Any]) -> None:
        self.count += len(values[0])
        if self.count > MOST_EVENTS:
            raise BadInput(
                f"The session holds more than {MOST_EVENTS} events, which are not read. Record a shorter one.",
                "touch_session",
            )
        for field, piece in zip(self.fields, values, strict=True):
            field.append(piece)

    def _one_by_one(self, piece: bytes, last: bool) -> Sequence[EventLine]:
        out, rows = [], piece.split(b"\n")
        while rows and not rows[-1].strip():
            rows.pop()
        for n, row in enumerate(rows):
            if not row.strip():
                continue
            try:
                out.append(self.decoder.decode(row))
            except NO_EVENT:
                if last and n == len(rows) - 1:
                    self.cut = True
                    return out
                told = row[:60].decode("utf-8", "replace")
                raise BadInput(
                    f"Line {self.number + n + 1} of the session is no event: {told}", "touch_session"
                ) from None
        return out
