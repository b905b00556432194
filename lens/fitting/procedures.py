"""Procedures as data: one file a build, steps with what must come before them, what is careful about them, and what they change."""

from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import Field

from lens.errors import BadInput, ModelInconsistent
from lens.fitting.details import parts
from lens.fitting.fit_step import Fasteners, FitStep, KeepOut, Liner
from lens.house_rules import house_rules
from lens.records.base import Record
from lens.steps import Done, Graph, Step, applies, blocked, check, check_log, due, open_steps, way_back
from lens.tables import not_known, parse, shipped, unknown, validated

FOLDER = Path(__file__).with_name("procedures")
SHARED, HAZARDS = Path(__file__).with_name("shared_steps.yaml"), Path(__file__).with_name("hazards.yaml")
ISOLATED = "isolated"
POWERED = "powered_up"  # stands in the log for a power-up that no step is about


class Procedure(Record):
    """How a display that is built in one way is replaced. ``part_of``: the builds in whose course it may be done."""

    id: str
    title: str
    devices: tuple[str, ...]
    opened_from: str
    held_by: str
    part_of: tuple[str, ...] = ()
    opens: str = Field(default="", description="in words: which way, and what is known before the pick goes in")
    carries: tuple[str, ...] = Field(default=(), description="parts that an old display of this build may carry")
    liners: dict[str, Liner] = {}
    keep_outs: tuple[KeepOut, ...] = ()
    fasteners: dict[str, Fasteners] = {}
    subs: tuple[str, ...] = Field(default=(), description="sub-procedures that were taken in (see lens.fitting.sub)")
    steps: tuple[FitStep, ...]

    @property
    def graph(self) -> Graph:
        return Graph(id=self.id, title=self.title, steps=self.steps)


class Standing(Record):
    """Where somebody stands: ``open`` steps in the order of the file, those that are left and ``blocked``,
    with the reason, and the way ``undo`` leads."""

    open: tuple[str, ...]
    blocked: tuple[tuple[str, str], ...]
    undo: tuple[str, ...]


class _Hazards(Record):
    hazards: dict[str, str]


class _Steps(Record):
    steps: dict[str, dict[str, Any]]


class _File(Record):
    title: str = Field(min_length=1, max_length=120)
    devices: tuple[str, ...] = Field(min_length=1)
    opened_from: str = ""
    held_by: str = ""
    part_of: tuple[str, ...] = ()
    opens: str = Field(default="", max_length=200)
    carries: tuple[str, ...] = Field(default=(), max_length=40)
    liners: dict[str, Liner] = {}
    keep_outs: tuple[KeepOut, ...] = Field(default=(), max_length=20)
    fasteners: dict[str, Fasteners] = {}
    steps: list[dict[str, Any]] = Field(min_length=1, max_length=500)


@cache
def hazards() -> Mapping[str, str]:
    """Cautions by id."""
    return shipped(_Hazards, HAZARDS).hazards


@cache
def _shared() -> Mapping[str, dict[str, Any]]:
    return shipped(_Steps, SHARED).steps


def read_procedure(text: str | bytes, name: str) -> Procedure:
    """A procedure of a YAML text, checked in full. Raises BadInput with every fault by its place: unknown words, doubled ids, circles, steps that
    nobody can reach."""
    told = validated(_File, parse(text, f"The procedure '{name}'"), f"The procedure '{name}'", "procedure")
    steps = [_expanded(row, number) for number, row in enumerate(told.steps)]
    about = {"id": name, **told.model_dump(exclude={"steps"})}
    procedure = validated(Procedure, {**about, "steps": steps}, f"The procedure '{name}'", "procedure")
    for step in procedure.steps:
        for hazard in step.hazards:
            if hazard not in hazards():
                raise BadInput(f"Step '{step.id}': hazard {unknown(hazard, hazards())}", "procedure")
    _check_words(procedure)
    try:
        check(procedure.graph)
    except ModelInconsistent as faults:
        raise BadInput(f"The procedure '{name}' cannot be followed. {faults}", "procedure") from None
    return procedure


def _check_words(procedure: Procedure) -> None:
    """Raises BadInput for a part, liner, group of screws or choice that a procedure names and does not describe."""
    for part in procedure.carries:
        if part not in parts():
            raise BadInput(f"Carried part {unknown(part, parts())}", "procedure")
    if bool(procedure.carries) != any(step.moves for step in procedure.steps):
        raise BadInput(
            "Parts that are carried need one step that moves them over ('moves: true'), and it needs them.", "procedure"
        )
    taken_off = [liner for step in procedure.steps for liner in step.liners]
    for liner in procedure.liners:
        if taken_off.count(liner) != 1:
            raise BadInput(f"Liner '{liner}' comes off at one step; {taken_off.count(liner)} name it.", "procedure")
    for step in procedure.steps:
        for rule in step.schools:
            if rule not in house_rules():
                raise BadInput(f"Step '{step.id}': house rule {unknown(rule, house_rules())}", "procedure")
        for liner in step.liners:
            if liner not in procedure.liners:
                raise BadInput(f"Step '{step.id}': liner {unknown(liner, procedure.liners)}", "procedure")
        for choice in step.clocks:
            if choice and choice not in step.choices:
                raise BadInput(f"Step '{step.id}': clock of choice {unknown(choice, step.choices)}", "procedure")
        for group in step.counts:
            if procedure.fasteners and group not in procedure.fasteners:
                raise BadInput(f"Step '{step.id}': screws {unknown(group, procedure.fasteners)}", "procedure")


def _expanded(row: dict[str, Any], number: int) -> dict[str, Any]:
    """A step with what it takes from a shared one; what it says itself holds."""
    own = dict(row)
    name = own.pop("use", None)
    if name is None:
        return own
    if name not in _shared():
        raise BadInput(f"Step {number + 1}: shared step {unknown(str(name), _shared())}", "procedure")
    return {"id": name, **_shared()[name], **own}


@cache
def procedures() -> Mapping[str, Procedure]:
    """The shipped ones by build, each checked."""
    found = {path.stem: path for path in sorted(FOLDER.glob("*.yaml"))}
    return {name: read_procedure(path.read_bytes(), name) for name, path in found.items()}


def shipped_text(build: str) -> str:
    """The YAML of a shipped procedure. Raises BadInput with the known builds."""
    get_procedure(build)
    return (FOLDER / f"{build}.yaml").read_text(encoding="utf-8")


def get_procedure(build: str) -> Procedure:
    """Raises BadInput with the known builds."""
    if build not in procedures():
        raise not_known("procedure for the build", build, procedures(), "unknown_build")
    return procedures()[build]


def builds_for(device: str) -> tuple[Procedure, ...]:
    """The ways in which a display of such a device may be built in; sub-procedures are none."""
    return tuple(one for one in procedures().values() if device in one.devices and not one.part_of)


def powers_up(step: Step) -> bool:
    return ISOLATED in step.ends


def with_power(procedure: Procedure) -> Graph:
    """The graph with the power-up that no step is about, as it may stand in a log."""
    switched = Step(id=POWERED, title="Power-up", ends=(ISOLATED,))
    return Graph(id=procedure.id, title=procedure.title, steps=(*procedure.steps, switched))


def standing(procedure: Procedure, log: Sequence[Done], powered: bool = False, unaccounted: int = 0) -> Standing:
    """What may be done next.

    Parameters
    ----------
    log : steps that were done, in order; one may stand there several times, and `POWERED` for each power-up that no step is about
    powered : the device was switched on since it was last made safe, outside of any step
    unaccounted : screws and other loose things that nobody can find; no power-up while there are any
    """
    graph = with_power(procedure)
    check_log(graph, log)
    told = (*log, Done(step=POWERED)) if powered else tuple(log)
    free = set(open_steps(graph, told))
    ready: list[str] = []
    waits: list[tuple[str, str]] = []
    for step in procedure.steps:
        lost = unaccounted > 0 and powers_up(step)
        if step.id in free and not lost:
            ready.append(step.id)
        elif step.id in free:
            things = "1 loose thing is" if unaccounted == 1 else f"{unaccounted} loose things are"
            waits.append(
                (
                    step.id,
                    f"{things} not accounted for. No power before each is found: a loose screw on a board is a short.",
                )
            )
        elif due(graph, step, told) and applies(graph, step, told) is not False:
            waits.append((step.id, blocked(graph, step.id, told)))
    return Standing(
        open=tuple(ready), blocked=tuple(waits), undo=tuple(name for name in way_back(graph, log) if name != POWERED)
    )
