"""Touches from recordings of the Linux input layer: evemu's text and libinput's YAML.

The events follow the kernel's multi-touch protocol (Documentation/input/multi-touch-protocol.rst): in protocol B a slot holds a contact
until its tracking id becomes -1; in protocol A every packet names all contacts anew, SYN_MT_REPORT parting them, and who is who is told
by a tracking id or by the nearest place. Older screens report one touch by ABS_X, ABS_Y and BTN_TOUCH. Positions are scaled from the
axes' ranges to the panel, its first pixel at the least value and its last at the greatest.
"""

import re
from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import BinaryIO, Literal, NamedTuple

from lens.errors import BadInput
from lens.panel import Panel

EV_SYN, EV_KEY, EV_ABS = 0, 1, 3
SYN_REPORT, SYN_MT_REPORT, SYN_DROPPED = 0, 2, 3
BTN_TOUCH = 0x14A
ABS_X, ABS_Y, ABS_PRESSURE = 0x00, 0x01, 0x18
MT_SLOT, MT_MAJOR, MT_MINOR, MT_X, MT_Y, MT_ID, MT_PRESSURE = 0x2F, 0x30, 0x31, 0x35, 0x36, 0x39, 0x3A
ABSOLUTE_S = 100_000.0  # first times beyond this are a clock's, not a recording's
SAME_SHARE = 0.12  # of the longer side: how far a finger goes between two packets of protocol A at most
NO_TOUCH = "It is no recording of a touch screen: it names neither ABS_MT_POSITION_X nor BTN_TOUCH. Record the touch screen's own device."
_EVEMU_EVENT = re.compile(rb"E:\s*(\d+)\.(\d+)\s+([0-9a-fA-F]+)\s+([0-9a-fA-F]+)\s+(-?\d+)")
_EVEMU_AXIS = re.compile(rb"A:\s*([0-9a-fA-F]+)\s+(-?\d+)\s+(-?\d+)")
_LIBINPUT_EVENT = re.compile(rb"\s*-\s*\[\s*(\d+),\s*(\d+),\s*(\d+),\s*(\d+),\s*(-?\d+)\s*\]")
_LIBINPUT_AXIS = re.compile(rb"\s+(\d+):\s*\[\s*(-?\d+),\s*(-?\d+),")
Ev = Literal["down", "move", "up", "cancel"]
Row = tuple[float, int | str, Ev, float | None, float | None, float | None, float | None, float | None]


class Raw(NamedTuple):
    """One event of the input layer, ``t`` in seconds."""

    t: float
    type: int
    code: int
    value: int


def kind_of(start: bytes) -> Literal["evemu", "libinput"] | None:
    """What a file is by its first lines; None for anything else."""
    for line in start.splitlines():
        if line.startswith((b"# EVEMU", b"N:")):
            return "evemu"
        if line.startswith((b"# libinput record", b"libinput:", b"ndevices:")):
            return "libinput"
        if line.strip() and not line.startswith((b"#", b"version:", b"---")):
            return None
    return None


def linux_rows(file: BinaryIO, panel: Panel, kind: Literal["evemu", "libinput"]) -> Iterator[Row]:
    """The touches of a recording, as they come.

    Raises
    ------
    BadInput
        when it records no touch screen.
    """
    tracker: _Tracker | None = None
    axes: dict[int, tuple[int, int]] = {}
    axis, event, base = (_EVEMU_AXIS, _EVEMU_EVENT, 16) if kind == "evemu" else (_LIBINPUT_AXIS, _LIBINPUT_EVENT, 10)
    in_axes, first_s, taken = kind == "evemu", None, False
    for line in file:
        if kind == "libinput":
            stripped = line.strip()
            if stripped.startswith(b"- node:"):
                if taken:
                    return  # the touches of one screen are one session; further devices are left alone
                axes, tracker = {}, None
            if stripped.endswith(b":") or stripped.startswith(b"- node:"):
                in_axes = stripped == b"absinfo:"
        told = event.match(line)
        if told:
            seconds, micros, *rest = told.groups()
            raw = Raw(int(seconds) + int(micros) / 1e6, int(rest[0], base), int(rest[1], base), int(rest[2]))
            first_s = raw.t if first_s is None else first_s
            tracker = tracker or _tracker_for(axes, panel)
            if tracker is not None:
                taken = True
                yield from tracker.take(raw._replace(t=raw.t - first_s if first_s > ABSOLUTE_S else raw.t))
        elif in_axes:
            named = axis.match(line)
            if named:
                axes[int(named[1], base)] = (int(named[2]), int(named[3]))
    if not taken:
        raise BadInput(NO_TOUCH, "no_touch_device")


def _tracker_for(axes: dict[int, tuple[int, int]], panel: Panel) -> "_Tracker | None":
    if MT_X in axes and MT_Y in axes:
        scale = _Scale(panel, axes, MT_X, MT_Y, MT_PRESSURE)
        return _Slots(scale) if MT_SLOT in axes else _Packets(scale)
    return _Single(_Scale(panel, axes, ABS_X, ABS_Y, ABS_PRESSURE)) if ABS_X in axes and ABS_Y in axes else None


class _Scale:
    def __init__(self, panel: Panel, axes: dict[int, tuple[int, int]], x: int, y: int, pressure: int) -> None:
        self.spans = [
            (axes[code][0], max(axes[code][1] - axes[code][0], 1), size - 1)
            for code, size in ((x, panel.width), (y, panel.height))
        ]
        self.most_pressure = axes.get(pressure, (0, 0))[1]
        self.near_px = SAME_SHARE * max(panel.width, panel.height)

    def place(self, value: int, along: int) -> float:
        least, span, last = self.spans[along]
        return round((value - least) / span * last, 2)

    def length(self, value: int | None) -> float | None:
        return None if value is None else round(value / self.spans[0][1] * self.spans[0][2], 1)

    def pressure(self, value: int | None) -> float | None:
        return round(value / self.most_pressure, 3) if value is not None and self.most_pressure > 0 else None


@dataclass
class _Contact:
    id: int
    values: dict[int, int] = field(default_factory=dict)
    begun: bool = False
    ended: bool = False
    changed: bool = True


class _Tracker(ABC):
    """Turns events into touches; a report is complete at SYN_REPORT."""

    x, y = MT_X, MT_Y

    def __init__(self, scale: _Scale) -> None:
        self.scale = scale
        self.dropped = False

    def take(self, raw: Raw) -> Iterator[Row]:
        if raw.type == EV_SYN and raw.code == SYN_DROPPED:
            self.dropped = True  # the kernel lost events; what follows up to the next report cannot be trusted
        elif raw.type == EV_SYN and raw.code == SYN_REPORT:
            if not self.dropped:
                yield from self.report(raw.t)
            self.dropped = False
        elif not self.dropped:
            self.event(raw)

    @abstractmethod
    def event(self, raw: Raw) -> None:
        """Take an event in."""

    @abstractmethod
    def report(self, t: float) -> Iterator[Row]:
        """What changed since the last report."""

    def row(self, t: float, contact: _Contact, ev: Ev) -> Row:
        told = contact.values
        x, y = (self.scale.place(told[code], n) if code in told else None for n, code in enumerate((self.x, self.y)))
        major, minor = told.get(MT_MAJOR), told.get(MT_MINOR, told.get(MT_MAJOR))
        pressure = self.scale.pressure(told.get(MT_PRESSURE, told.get(ABS_PRESSURE)))
        return (round(t * 1000, 3), contact.id, ev, x, y, pressure, self.scale.length(major), self.scale.length(minor))

    def told(self, t: float, contact: _Contact) -> Iterator[Row]:
        """Down, move or up, whatever a report changed; a contact without a place is not yet there."""
        if contact.ended:
            if contact.begun:
                yield self.row(t, contact, "up")
        elif contact.changed and self.x in contact.values and self.y in contact.values:
            yield self.row(t, contact, "move" if contact.begun else "down")
            contact.begun, contact.changed = True, False


class _Slots(_Tracker):
    """Protocol B."""

    def __init__(self, scale: _Scale) -> None:
        super().__init__(scale)
        self.slot = 0
        self.contacts: dict[int, _Contact] = {}
        self.ended: list[_Contact] = []

    def event(self, raw: Raw) -> None:
        if raw.type != EV_ABS:
            return
        if raw.code == MT_SLOT:
            self.slot = raw.value
        elif raw.code == MT_ID:
            before = self.contacts.pop(self.slot, None)
            if before is not None:
                before.ended = True
                self.ended.append(before)
            if raw.value >= 0:
                self.contacts[self.slot] = _Contact(raw.value)
        elif self.slot in self.contacts:
            contact = self.contacts[self.slot]
            contact.changed = contact.changed or raw.code in (MT_X, MT_Y)
            contact.values[raw.code] = raw.value

    def report(self, t: float) -> Iterator[Row]:
        for contact in (*self.ended, *self.contacts.values()):
            yield from self.told(t, contact)
        self.ended = []


class _Packets(_Tracker):
    """Protocol A."""

    def __init__(self, scale: _Scale) -> None:
        super().__init__(scale)
        self.packet: dict[int, int] = {}
        self.packets: list[dict[int, int]] = []
        self.contacts: list[_Contact] = []
        self.next_id = 0

    def event(self, raw: Raw) -> None:
        if raw.type == EV_ABS:
            self.packet[raw.code] = raw.value
        elif raw.type == EV_SYN and raw.code == SYN_MT_REPORT:
            self._part()

    def _part(self) -> None:
        if MT_X in self.packet and MT_Y in self.packet:
            self.packets.append(self.packet)
        self.packet = {}

    def report(self, t: float) -> Iterator[Row]:
        self._part()
        left, going_on = list(self.contacts), []
        for packet in self.packets:
            contact = self._same(packet, left)
            if contact is None:
                self.next_id += 1
                contact = _Contact(self.next_id)
            else:
                left.remove(contact)
            contact.values, contact.changed = packet, True
            going_on.append(contact)
        for contact in left:
            contact.ended = True
            yield from self.told(t, contact)
        for contact in going_on:
            yield from self.told(t, contact)
        self.contacts, self.packets = going_on, []

    def _same(self, packet: dict[int, int], left: list[_Contact]) -> _Contact | None:
        if MT_ID in packet:
            return next((one for one in left if one.values.get(MT_ID) == packet[MT_ID]), None)
        away = [(self._apart(packet, one.values), one) for one in left]
        near = min(away, key=lambda pair: pair[0], default=None)
        return near[1] if near is not None and near[0] <= self.scale.near_px else None

    def _apart(self, one: dict[int, int], other: dict[int, int]) -> float:
        dx, dy = (
            self.scale.place(one[code], n) - self.scale.place(other[code], n) for n, code in enumerate((MT_X, MT_Y))
        )
        return float((dx**2 + dy**2) ** 0.5)


class _Single(_Tracker):
    """One touch only."""

    x, y = ABS_X, ABS_Y

    def __init__(self, scale: _Scale) -> None:
        super().__init__(scale)
        self.values: dict[int, int] = {}
        self.contact: _Contact | None = None
        self.ended: _Contact | None = None
        self.count = 0

    def event(self, raw: Raw) -> None:
        if raw.type == EV_ABS:
            self.values[raw.code] = raw.value
            if self.contact:
                self.contact.changed = True
        elif raw.type == EV_KEY and raw.code == BTN_TOUCH:
            if self.contact:
                self.contact.ended, self.ended, self.contact = True, self.contact, None
            if raw.value:
                self.count += 1
                self.contact = _Contact(self.count)

    def report(self, t: float) -> Iterator[Row]:
        if self.ended:
            yield from self.told(t, self.ended)
            self.ended = None
        if self.contact:
            self.contact.values = dict(self.values)
            yield from self.told(t, self.contact)
