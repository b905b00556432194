"""Procedures per build as gates that open in order only."""

from collections.abc import Mapping, Sequence
from functools import cache, cached_property
from pathlib import Path

from lens.errors import BadInput
from lens.records.base import Record
from lens.steps import Done, Graph, Step, blocked, check
from lens.tables import not_known, shipped

DATA = Path(__file__).with_name("builds.yaml")


class Gate(Record):
    """One gate: what to do, what to be careful with, what must be there before it can be passed."""

    id: str
    title: str
    steps: tuple[str, ...]
    caution: str = ""
    needs_inspection: str | None = None
    choices: dict[str, str] = {}


class Build(Record):
    """``devices`` are the kinds of device that are built so."""

    title: str
    devices: tuple[str, ...]
    gates: tuple[Gate, ...]

    @cached_property
    def graph(self) -> Graph:
        """The gates as a chain of steps."""
        chain = [
            Step(
                id=gate.id,
                title=gate.title,
                how=gate.steps,
                needs=(before.id,) if before else (),
                hazards=(gate.caution,) if gate.caution else (),
                evidence=(f"inspection:{gate.needs_inspection}",) if gate.needs_inspection else (),
                choices=gate.choices,
            )
            for before, gate in zip((None, *self.gates), self.gates, strict=False)
        ]
        return Graph(id="build", title=self.title, steps=tuple(chain))


class _Builds(Record):
    builds: dict[str, Build]


@cache
def builds() -> dict[str, Build]:
    """The builds that have a procedure, each checked."""
    found = shipped(_Builds, DATA).builds
    for build in found.values():
        check(build.graph)
    return found


def get_build(build_id: str) -> Build:
    """The build of that name; raises BadInput with the known ones."""
    if build_id not in builds():
        raise not_known("procedure for the build", build_id, builds(), "unknown_build")
    return builds()[build_id]


def procedure_for(build_id: str, device: str) -> Build | None:
    """The procedure of a build where a device of that kind may be built so; None where there is none, and the maker's documents hold."""
    build = builds().get(build_id)
    return build if build is not None and device in build.devices else None


def check_gate(
    build: Build, gate_id: str, passed: Sequence[str], inspections: Mapping[str, str], choice: str, reason: str = ""
) -> Gate:
    """The gate, when it may be passed now.

    Parameters
    ----------
    passed : ids of the gates that were passed
    inspections : verdicts (pass, fail, not_proven) by stage, of the inspections that were made
    choice : id of the gate's choice, empty where it has none
    reason : why a gate is passed although its inspection proves nothing; a failed one is never passed

    Raises
    ------
    BadInput
        with what is still missing.
    """
    gates = {gate.id: gate for gate in build.gates}
    if gate_id not in gates:
        raise not_known("gate", gate_id, gates, "unknown_gate")
    gate = gates[gate_id]
    waits = "" if gate_id in passed else blocked(build.graph, gate_id, [Done(step=name) for name in passed])
    if waits:
        raise BadInput(f"'{gate.title}' cannot be passed yet: {waits}", "gate_order")
    if gate.needs_inspection:
        verdict = inspections.get(gate.needs_inspection)
        if verdict is None and not reason.strip():
            raise BadInput(
                f"'{gate.title}' needs its inspection: photograph the new panel with the pattern set, and draw over its touch, before going on. "
                "Or say why you go on without: the report will tell.",
                "gate_inspection",
            )
        if verdict == "not_proven" and not reason.strip():
            raise BadInput(
                f"'{gate.title}': not all of the new panel is proven. Show what is missing, or say why you go on: the report will tell.",
                "gate_not_proven",
            )
        if verdict == "fail":
            raise BadInput(
                f"'{gate.title}' is not passed: the new panel fails its inspection, in picture or touch. Return it with this evidence, or put "
                "another one in.",
                "gate_failed",
            )
    if gate.choices and choice not in gate.choices:
        raise BadInput(f"'{gate.title}' asks for a choice: {', '.join(gate.choices.values())}.", "gate_choice")
    return gate
