"""Lines of long touch sessions, held to Python's own JSON reader."""

import json
import re
from unittest import TestCase

import numpy as np

from lens.errors import BadInput
from lens.touch import read_session
from lens.touch.plain_lines import EVENTS, LEAST_BYTES, plain_fields

HEAD = b'{"type":"session","panel":{"width":1080,"height":2400},"plan":{"grid":{"columns":4,"rows":4},"steps":[]}}\n'


def made_up(count: int, seed: int = 1) -> list[dict[str, object]]:
    rng = np.random.default_rng(seed)
    fingers, kinds = rng.integers(10, size=count).tolist(), rng.choice(4, size=count, p=(0.1, 0.75, 0.1, 0.05)).tolist()
    xs, ys = rng.uniform(0, 1080, count).tolist(), rng.integers(2400, size=count).tolist()
    return [
        {
            "t": n / 3,
            "id": finger * 2**50,
            "ev": EVENTS[kind],
            "x": x,
            "y": y,
            "p": None,
            "w": 12.5,
            "note": {"odd": [1, "}"]},
        }
        for n, (finger, kind, x, y) in enumerate(zip(fingers, kinds, xs, ys, strict=True))
    ]


def lines_of(events: list[dict[str, object]]) -> bytes:
    return b"".join(json.dumps(event).encode() + b"\n" for event in events)


class LongSessions(TestCase):
    def test_many_lines_at_once_are_what_json_reads(self) -> None:
        events = made_up(12_000)
        told = plain_fields(lines_of(events))
        assert told is not None
        for values, name in ((told.t, "t"), (told.finger, "id"), (told.x, "x"), (told.y, "y")):
            np.testing.assert_array_equal(values, [event[name] for event in events])
        np.testing.assert_array_equal(told.kind, [EVENTS.index(str(event["ev"])) for event in events])

    def test_what_is_no_plain_event_is_left_to_the_reader_of_lines(self) -> None:
        body = lines_of(made_up(12_000))
        self.assertGreater(len(body), LEAST_BYTES)
        for odd in (
            b'{"t":1,"id":"a","ev":"up","x":1,"y":2}',
            b'{"t":1,"id":1.5,"ev":"up","x":1,"y":2}',
            b'{"t":1,"id":1,"ev":"hover","x":1,"y":2}',
            b'{"t":1,"id":1,"ev":"up"}',
            b'{"t":null,"id":1,"ev":"up","x":1,"y":2}',
            b'{"t":1,"id":1,"ev":"up","x":NaN,"y":2}',
            b"[1]",
            b"\xff",
            b'{"t":1,"id":1,"ev":"up","x":1,"y":2} 5',
        ):
            self.assertIsNone(plain_fields(body + odd + b"\n"), odd)
        self.assertIsNone(plain_fields(b""))

    def test_a_long_session_with_odd_lines_is_read_as_a_short_one(self) -> None:
        events = made_up(90_000)
        # names, lifts without a place, unknown kinds, and places far out, some way into the file
        for n, event in enumerate(events[50_000:50_400]):
            event.update(({"id": "pen"}, {"ev": "up", "x": None}, {"ev": "hover"}, {"x": 1e9, "ev": "move"})[n % 4])
        session = read_session(HEAD + lines_of(events))
        good = [e for e in events if e["ev"] in EVENTS and (e["ev"] in ("up", "cancel") or float(e["x"]) < 1e6)]  # type: ignore[arg-type]
        self.assertEqual(len(session.t), len(good))
        np.testing.assert_array_equal(session.t, [event["t"] for event in good])
        np.testing.assert_array_equal(session.kind, [EVENTS.index(str(event["ev"])) for event in good])
        self.assertIn(f"{len(events) - len(good)} of 90000 events", session.problems[0])
        # each coming down begins a contact, and so does the first event of a finger
        expected, going, count = [], {}, 0
        for event in good:
            if event["ev"] == "down" or event["id"] not in going:
                going[event["id"]], count = count, count + 1
            expected.append(going[event["id"]])
        pairs = set(zip(expected, session.contact.tolist(), strict=True))
        self.assertEqual((len(pairs), len({ours for _, ours in pairs})), (count, count))

    def test_a_broken_line_is_told_by_its_number(self) -> None:
        lines = lines_of(made_up(90_000)).splitlines(keepends=True)
        lines[70_000] = b'{"t": 3, "id"\n'
        with self.assertRaisesRegex(BadInput, re.escape('Line 70002 of the session is no event: {"t": 3, "id"')):
            read_session(HEAD + b"".join(lines))
        nested = b'{"t":1,"id":1,"ev":"up","x":1,"y":2,"z":' + b"[" * 5000 + b"]" * 5000 + b"}\n"
        with self.assertRaisesRegex(BadInput, "Line 4 of the session is no event"):
            read_session(HEAD + b"".join([*lines[:2], nested]))
        cut = read_session(HEAD + b"".join([*lines[:70_000], b'{"t": 3, "id"']))
        self.assertEqual((len(cut.t), "cut short" in cut.problems[-1]), (70_000, True))
