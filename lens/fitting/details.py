"""What is noted as a step is done: heat that was used, adhesive that was laid, parts that were moved, liners that came off. Checked in full: the
report and the next opener rely on it."""

import datetime as dt
from collections.abc import Collection, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Literal, NamedTuple

from pydantic import Field

from lens.errors import BadInput
from lens.fitting.fastening import FastenerNote, fastener_words
from lens.fitting.fit_step import Clock, FitStep
from lens.records.base import Record
from lens.tables import shipped

PARTS = Path(__file__).with_name("parts.yaml")
HOTTEST_CELL_C = 60.0  # the surface of a lithium cell (from memory, as the caution says)
LONGEST_H = 168.0


class HeatNote(Record):
    """What warmed it. ``battery_c``: the surface on the battery's side as measured; None is 'not measured', which is told so."""

    source: Literal["plate", "hot_air", "hair_dryer", "warm_pack", "other"]
    setting_c: float | None = Field(default=None, gt=20, le=500)
    cycles: int = Field(default=1, ge=1, le=99)
    seconds: int = Field(default=60, ge=1, le=3600, description="of one cycle")
    battery_c: float | None = Field(default=None, gt=-20, le=200)


class AdhesiveNote(Record):
    """What holds it now. ``hours`` of the data sheet; None is 'not known'. ``side`` carries it."""

    kind: Literal["tape", "laid_on", "liquid", "strips", "foam", "none"]
    side: Literal["frame", "part", "both"] = "frame"
    thickness_mm: float | None = Field(default=None, gt=0, le=5)
    gap_mm: float | None = Field(default=None, gt=0, le=5)
    hours: float | None = Field(default=None, gt=0, le=LONGEST_H)
    lowest_c: float | None = Field(default=None, gt=-30, le=60)
    where: tuple[Literal["top", "bottom", "left", "right", "under"], ...] = Field(
        default=(),
        max_length=5,
        description="edges of the device seen from the front that it runs along, or under the panel",
    )


PartFate = Literal["moved", "came_with_it", "not_there", "damaged"]


class StepNotes(Record):
    """All that may be noted with a step."""

    held_s: int = Field(default=0, ge=0, le=86_400)
    forced_off: int = Field(default=0, ge=0, le=99, description="how often it was forced off")
    by_eye: bool = Field(default=False, description="its inspection was a look by eye; said by the server alone")
    heat: HeatNote | None = None
    adhesive: AdhesiveNote | None = None
    fasteners: dict[str, FastenerNote] = Field(default={}, max_length=10)
    parts: dict[str, PartFate] = Field(default={}, max_length=40)
    liners: dict[str, Literal["off", "none_there"]] = Field(default={}, max_length=20)
    hours: float | None = Field(
        default=None, gt=0, le=LONGEST_H, description="of the data sheet, where a clock asks for them"
    )


class Part(Record):
    """What an old display may carry. ``comes_as``: what an offer calls it; ``functions`` ride on it."""

    title: str
    freed: str
    risk: str = ""
    functions: tuple[str, ...] = ()
    comes_as: str = ""


class _Parts(Record):
    parts: dict[str, Part]


@cache
def parts() -> Mapping[str, Part]:
    """What may have to move over, by id."""
    return shipped(_Parts, PARTS).parts


def to_move(carried: Sequence[str], comes_with: Sequence[str]) -> tuple[str, ...]:
    """The parts that the old display carries and the new one does not bring, in their order."""
    return tuple(name for name in carried if not (parts()[name].comes_as and parts()[name].comes_as in comes_with))


def check_notes(
    step: FitStep,
    notes: StepNotes,
    carried: Sequence[str],
    liners: Sequence[str],
    reason: str,
    devices: Collection[str] = (),
) -> None:
    """Raises BadInput for what a step asks for and nobody noted, or what stops the work.

    Parameters
    ----------
    carried : parts that are still to be moved over in this job
    liners : titles of the step's liners, in the order of its ids
    devices : the kinds of device that the procedure is for
    """
    if notes.held_s < step.hold_s and not reason.strip():
        raise BadInput(
            f"'{step.title}': hold it for {step.hold_s} s by the clock. Or say why not: the report will tell.",
            "not_held",
        )
    if "heat" in step.notes and notes.heat is None and not reason.strip():
        raise BadInput(
            f"'{step.title}': say what warmed it, and whether the battery's surface was measured.", "heat_note"
        )
    if notes.heat is not None and (notes.heat.battery_c or 0.0) > HOTTEST_CELL_C:
        raise BadInput(
            f"The battery's surface had {notes.heat.battery_c:g} °C. Stop: let it cool, look at the battery. A swollen or smelling one ends the "
            "job here; local rules apply. Go on only below 60 °C.",
            "cell_hot",
        )
    if "adhesive" in step.notes and notes.adhesive is None:
        raise BadInput(
            f"'{step.title}': say which adhesive holds it now. The next opener needs to know.", "adhesive_note"
        )
    if notes.adhesive is not None:
        _check_adhesive(notes.adhesive, devices)
    if step.moves:
        open_ones = [parts()[name].title for name in carried if name not in notes.parts]
        if open_ones:
            raise BadInput(
                f"'{step.title}': say of each part whether it was moved over: {', '.join(open_ones).lower()}.",
                "parts_left",
            )
    on = [title for name, title in zip(step.liners, liners, strict=True) if name not in notes.liners]
    if on:
        raise BadInput(f"'{step.title}': is it off, or was there none? {', '.join(on)}.", "liners_left")


def _check_adhesive(note: AdhesiveNote, devices: Collection[str]) -> None:
    if "under" in note.where and "clamshell" not in devices:
        raise BadInput(
            "No adhesive under such a panel: it stains or damages it. It runs along the frame; only strips behind a laptop's panel are a mount.",
            "adhesive_under",
        )
    if note.kind in ("tape", "foam") and note.thickness_mm and note.gap_mm and note.thickness_mm > note.gap_mm:
        raise BadInput(
            f"The tape is {note.thickness_mm:g} mm thick, the gap {note.gap_mm:g} mm: the part would stand out and be pressed. Take a thinner one.",
            "tape_thick",
        )


class Running(NamedTuple):
    """A clock that runs, or has run out: ``left_s`` is 0 then. ``known``: its hours are those of a data sheet, or fixed."""

    step: str
    clock: Clock
    began: dt.datetime
    ends: dt.datetime
    left_s: float
    known: bool


class DoneAt(NamedTuple):
    """A step of the log with its moment (UTC) and what was noted."""

    step: str
    choice: str
    at: dt.datetime
    notes: StepNotes


def running(steps: Mapping[str, FitStep], log: Sequence[DoneAt], now: dt.datetime) -> tuple[Running, ...]:
    """The clocks that the log began, in its order; of a step that was done twice the later one.

    They are reckoned from the moments of the log, so they survive reloads, other machines and the change of clocks (UTC). A clock that was set back
    makes a clock longer, never shorter than it began.
    """
    told: dict[str, Running] = {}
    for done in log:
        step = steps.get(done.step)
        clock = (step.clocks.get(done.choice) or step.clocks.get("")) if step is not None else None
        if clock is None:
            continue
        hours = done.notes.hours if clock.asked else None
        length = dt.timedelta(hours=hours) if hours is not None else dt.timedelta(minutes=clock.minutes)
        ends = done.at + length
        left = min(max((ends - now).total_seconds(), 0.0), length.total_seconds())
        told[done.step] = Running(done.step, clock, done.at, ends, left, hours is not None or not clock.asked)
    return tuple(told.values())


def waits_for_clock(step: FitStep, powers: bool, clocks: Sequence[Running]) -> Running | None:
    """The clock that keeps a step from being done now; of several the one that runs longest."""
    held = [
        one
        for one in clocks
        if one.left_s > 0
        and one.step != step.id
        and (
            one.clock.blocks == "power"
            and powers
            or one.clock.blocks == "next"
            and one.step in (*step.needs, *step.when)
        )
    ]
    return max(held, key=lambda one: one.left_s, default=None)


def notes_words(notes: StepNotes) -> list[str]:
    """What was noted with a step, in a few words each."""
    told: list[str] = []
    if notes.heat is not None:
        heat = notes.heat
        battery = "battery not measured" if heat.battery_c is None else f"battery {heat.battery_c:g} °C"
        told.append(f"warmed {heat.cycles} times {heat.seconds} s, {battery}")
    if notes.adhesive is not None:
        where = f" ({', '.join(notes.adhesive.where)})" if notes.adhesive.where else ""
        told.append(f"adhesive: {notes.adhesive.kind.replace('_', ' ')}{where}")
    told += fastener_words(notes.fasteners)
    told += [
        f"{parts()[name].title.lower() if name in parts() else name} {fate.replace('_', ' ')}"
        for name, fate in notes.parts.items()
    ]
    if notes.forced_off:
        told.append(f"forced off {'once' if notes.forced_off == 1 else f'{notes.forced_off} times'}")
    if notes.hours is not None:
        told.append(f"{notes.hours:g} h by its data sheet")
    return told


def left_words(seconds: float) -> str:
    """'3 h 12 min', '4 min', '15 s'."""
    if seconds < 90:
        return f"{int(seconds) + (seconds > int(seconds))} s"
    minutes = int(-(-seconds // 60))
    return f"{minutes} min" if minutes < 90 else f"{minutes // 60} h {minutes % 60} min"
