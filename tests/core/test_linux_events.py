"""Recordings of the Linux input layer: the worked sequences of the kernel's multi-touch document (from memory), and evemu's own reader."""

import io
import json
import random
import shutil
import subprocess
import tempfile
from collections.abc import Iterable
from pathlib import Path
from unittest import TestCase

from lens.errors import BadInput
from lens.panel import make_panel
from lens.simulate.touch import touch_fault, touch_session
from lens.touch import Row, analyse, read_recording, read_session, standard_plan
from lens.touch.linux_events import kind_of, linux_rows

PANEL = make_panel(1080, 2400, 6.5)
SYN, MT = (0, 0, 0), (0, 2, 0)
X, Y, SLOT, ID, PRESSURE, MAJOR = 0x35, 0x36, 0x2F, 0x39, 0x3A, 0x30
MULTI = {
    0: (0, 1079),
    1: (0, 2399),
    SLOT: (0, 9),
    X: (0, 1079),
    Y: (0, 2399),
    ID: (0, 65535),
    PRESSURE: (0, 255),
    MAJOR: (0, 1079),
}
LIBINPUT_HEAD = """# libinput record
version: 1
ndevices: 2
libinput:
  version: "1.22.1"
devices:
"""
KEYBOARD = """- node: /dev/input/event3
  evdev:
    name: "A keyboard"
    codes:
      1: [30, 31] # EV_KEY
  events:
  - evdev:
    - [  0,   1000,   1,  30,       1] # EV_KEY / KEY_A 1
"""
SCREEN = """- node: /dev/input/event5
  evdev:
    name: "A touch screen"
    codes:
      3: [0, 1, 47, 53, 54] # EV_ABS
    absinfo:"""
Frames = Iterable[tuple[float, list[tuple[int, int, int]]]]


def evemu(axes: dict[int, tuple[int, int]], frames: Frames) -> bytes:
    """A recording in evemu's text: type, code and axis in hex, values decimal."""
    bits = sum(1 << code for code in axes).to_bytes(8, "little").hex(" ")
    head = ["# EVEMU 1.3", "N: A touch screen", "I: 0003 1234 5678 0110", "P: 02 00 00 00 00 00 00 00"]
    head += ["B: 00 0b 00 00 00 00 00 00 00", f"B: 03 {bits}"]
    codes = [f"A: {code:02x} {low} {high} 0 0 0" for code, (low, high) in axes.items()]
    lines = [f"E: {t:.6f} {kind:04x} {code:04x} {value:04d}" for t, events in frames for kind, code, value in events]
    return "\n".join([*head, *codes, *lines]).encode() + b"\n"


def libinput(axes: dict[int, tuple[int, int]], frames: Frames, before: str = KEYBOARD) -> bytes:
    """The same as libinput's YAML, behind a keyboard that was recorded along."""
    text = (LIBINPUT_HEAD + before + SCREEN).splitlines()
    text += [f"      {code}: [{low}, {high}, 0, 0, 12]" for code, (low, high) in axes.items()]
    text += [
        "    properties: [1]",
        "  udev:",
        "    properties:",
        "    - ID_INPUT=1",
        "  quirks:",
        "  events:",
        "  # Current time is 10:00:00",
    ]
    for t, events in frames:
        text.append("  - evdev:")
        text += [
            f"    - [{int(t):3d}, {round(t % 1 * 1e6):6d}, {kind:3d}, {code:3d}, {value:7d}] # told"
            for kind, code, value in events
        ]
    return "\n".join(text).encode() + b"\n"


def rows(data: bytes) -> list[Row]:
    kind = kind_of(data)
    assert kind is not None
    return list(linux_rows(io.BytesIO(data), PANEL, kind))


def brief(told: list[Row]) -> list[tuple[object, ...]]:
    return [(t, n, ev, x, y) for t, n, ev, x, y, *_ in told]


class Protocols(TestCase):
    def test_protocol_b_by_the_documents_example(self) -> None:
        # multi-touch-protocol.rst, "Protocol Example B": two contacts, the first moves, then each lifts
        frames = [
            (
                0.0,
                [
                    (3, SLOT, 0),
                    (3, ID, 45),
                    (3, X, 100),
                    (3, Y, 200),
                    (3, SLOT, 1),
                    (3, ID, 46),
                    (3, X, 300),
                    (3, Y, 400),
                    SYN,
                ],
            ),
            (0.01, [(3, SLOT, 0), (3, X, 110), SYN]),
            (0.02, [(3, ID, -1), SYN]),
            (0.03, [(3, SLOT, 1), (3, ID, -1), SYN]),
        ]
        wanted = [
            (0, 45, "down", 100, 200),
            (0, 46, "down", 300, 400),
            (10, 45, "move", 110, 200),
            (20, 45, "up", 110, 200),
            (30, 46, "up", 300, 400),
        ]
        for write in (evemu, libinput):
            self.assertEqual(brief(rows(write(MULTI, frames))), wanted)

    def test_protocol_a_by_the_documents_example(self) -> None:
        # "Protocol Example A": two contacts; the first lifts, then the second; without ids the nearest place goes on
        axes = {X: (0, 1079), Y: (0, 2399)}
        frames = [
            (0.0, [(3, X, 100), (3, Y, 200), MT, (3, X, 300), (3, Y, 400), MT, SYN]),
            (0.01, [(3, X, 302), (3, Y, 404), MT, SYN]),
            (0.02, [MT, SYN]),
        ]
        self.assertEqual(
            brief(rows(evemu(axes, frames))),
            [
                (0, 1, "down", 100, 200),
                (0, 2, "down", 300, 400),
                (10, 1, "up", 100, 200),
                (10, 2, "move", 302, 404),
                (20, 2, "up", 302, 404),
            ],
        )

    def test_single_touch_other_ranges_pressure_and_size(self) -> None:
        axes = {0: (200, 3900), 1: (100, 3800)}
        frames = [
            (0.0, [(1, 0x14A, 1), (3, 0, 200), (3, 1, 100), SYN]),
            (0.01, [(3, 0, 3900), (3, 1, 3800), SYN]),
            (0.02, [(1, 0x14A, 0), SYN]),
        ]
        self.assertEqual(
            brief(rows(libinput(axes, frames))),
            [(0, 1, "down", 0, 0), (10, 1, "move", 1079, 2399), (20, 1, "up", 1079, 2399)],
        )
        told = rows(evemu(MULTI, [(0.0, [(3, ID, 1), (3, X, 5), (3, Y, 5), (3, PRESSURE, 51), (3, MAJOR, 60), SYN])]))
        self.assertEqual(told[0][5:], (0.2, 60.0, 60.0))

    def test_dropped_events_are_not_believed_and_clocks_are_taken_off(self) -> None:
        lost = [(0, 3, 0), (3, X, 999), SYN]
        frames = [
            (1.7e9, [(3, ID, 1), (3, X, 10), (3, Y, 10), SYN]),
            (1.7e9 + 0.01, lost),
            (1.7e9 + 0.02, [(3, X, 12), SYN]),
        ]
        self.assertEqual(brief(rows(evemu(MULTI, frames))), [(0, 1, "down", 10, 10), (20, 1, "move", 12, 10)])

    def test_what_is_no_touch_screen_is_refused(self) -> None:
        for data in (
            evemu({}, [(0.0, [(1, 30, 1), SYN])]),
            b"# libinput record\nversion: 1\ndevices:\n- node: /dev/input/event3\n  events:\n",
        ):
            with self.assertRaisesRegex(BadInput, "no recording of a touch screen"):
                rows(data)


class Whole(TestCase):
    def test_a_session_reads_alike_in_all_three_formats(self) -> None:
        plan = standard_plan(PANEL, 2000)
        told = plan.model_dump(mode="json")
        session = touch_session((1080, 2400), 6.5, told, *touch_fault("half", (1080, 2400)))
        frames: list[tuple[float, list[tuple[int, int, int]]]] = []
        for number, event in enumerate(json.loads(line) for line in session.splitlines()[1:]):
            place = [(3, X, round(event["x"])), (3, Y, round(event["y"]))]
            told_of = {"down": [(3, ID, number), *place], "move": place, "up": [(3, ID, -1)]}[event["ev"]]
            frames.append((event["t"] / 1000, [*told_of, SYN]))
        wanted = analyse(read_session(session, PANEL))
        for write in (evemu, libinput):
            data = write(MULTI, frames)
            found = analyse(read_session(data, PANEL, json.dumps(told).encode()))
            self.assertEqual((found.verdict, [z.kind for z in found.dead_zones]), (wanted.verdict, ["half"]))
            self.assertAlmostEqual(found.coverage, wanted.coverage, delta=0.01)
            self.assertEqual(
                len(list(read_recording(io.BytesIO(data), PANEL, json.dumps(told).encode()).rows)), len(frames)
            )
            self.assertIsNone(read_recording(io.BytesIO(data), PANEL).plan)
            bare = analyse(read_session(data, PANEL))  # its silent half may be one that nobody drew
            self.assertEqual((bare.verdict, bare.dead_zones), ("not_proven", ()))
            self.assertAlmostEqual(bare.coverage, 0.5, delta=0.1)


class Reference(TestCase):
    def test_evemus_own_library_reads_the_same_axes_and_events(self) -> None:
        self.assertIsNotNone(
            shutil.which("evemu-play"), "install evemu-tools and python3-evemu, as ./clear-lens test does"
        )
        frames = [(0.000001, [(3, SLOT, 0), (3, ID, 7), (3, X, 41), (3, Y, 2000), SYN]), (0.25, [(3, ID, -1), SYN])]
        script = (
            "import evemu, sys\n"
            "d = evemu.Device(sys.argv[1], create=False)\n"
            f"print([(c, d.get_abs_minimum(c), d.get_abs_maximum(c)) for c in {sorted(MULTI)}])\n"
            "print([(e.type, e.code, e.value) for e in d.events(open(sys.argv[1]))])"
        )
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "touch.evemu"
            file.write_bytes(evemu(MULTI, frames))
            done = subprocess.run(
                ["/usr/bin/python3", "-c", script, str(file)], capture_output=True, text=True, check=True
            )
        axes, events = (json.loads(line.replace("(", "[").replace(")", "]")) for line in done.stdout.splitlines())
        self.assertEqual(axes, [[code, *MULTI[code]] for code in sorted(MULTI)])
        self.assertEqual(events, [list(event) for _, own in frames for event in own])

    def test_libinputs_own_tool_sees_the_same_fingers_down(self) -> None:
        tool = Path("/usr/libexec/libinput/libinput-analyze-touch-down-state")
        self.assertTrue(tool.exists(), "install libinput-tools, as ./clear-lens test does")
        rng = random.Random(3)
        frames: list[tuple[float, list[tuple[int, int, int]]]] = []
        down: dict[int, int] = {}
        for n in range(60):
            slot = rng.randrange(5)
            ids = [(3, ID, -1)] if slot in down else [(3, ID, 100 + n), (3, X, 200 * slot), (3, Y, n)]
            down = (
                {other: name for other, name in down.items() if other != slot}
                if slot in down
                else {**down, slot: 100 + n}
            )
            frames.append((n / 64, [(3, SLOT, slot), *ids, SYN]))
        data = libinput(MULTI, frames, before="").replace(b"ndevices: 2", b"ndevices: 1")
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "touch.yml"
            file.write_bytes(data)
            done = subprocess.run(
                ["/usr/bin/python3", str(tool), str(file)], capture_output=True, text=True, check=True
            )
        counts = [line.split("|", 2)[2].count("+") for line in done.stdout.splitlines()[2:]]
        mine, fingers = [], set()
        for _, name, ev, *_ in rows(data):
            fingers = fingers - {name} if ev == "up" else fingers | {name}
            mine.append(len(fingers))
        self.assertEqual(mine, counts)
