"""How long a job takes, by the way its display is built in."""

from functools import cache, lru_cache
from pathlib import Path

from pydantic import Field

from lens.fitting.gates import procedure_for
from lens.fitting.procedures import Procedure, get_procedure
from lens.records.base import Record
from lens.steps import comes_before, order
from lens.tables import shipped

DATA = Path(__file__).with_suffix(".yaml")


class Estimate(Record):
    """Minutes of work with the dry test, and hours that pass by themselves after it."""

    minutes: float = Field(ge=0)
    cure_hours: float = Field(ge=0)


class _Estimates(Record):
    usual: Estimate
    devices: dict[str, Estimate]


@lru_cache
def _by_procedure(build: str) -> Estimate:
    return estimate_of(get_procedure(build))


def estimate_of(procedure: Procedure) -> Estimate:
    """Of one legal order: its work, and the waiting at its end."""
    known = procedure.graph.by_id
    done = order(procedure.graph)
    wait = max((known[one.step].wait_minutes for one in done), default=0.0)
    return Estimate(minutes=sum(known[one.step].minutes for one in done), cure_hours=wait / 60)


@cache
def _data() -> _Estimates:
    return shipped(_Estimates, DATA)


# the old display is out after this step, and its label is seen; every shipped procedure has it
OPENED = "open"


def look_inside_minutes(build: str, device: str) -> float | None:
    """Minutes to open a device, photograph its panel's label and close it again, for a job that cannot know its part before.

    Closing takes about as long as opening (common practice). None where the build is not known, or where what holds it cures: it would be glued
    twice.
    """
    if procedure_for(build, device) is None or _by_procedure(build).cure_hours:
        return None
    steps = get_procedure(build).graph.by_id
    before, waiting = set[str](), [OPENED] if OPENED in steps else []
    while waiting:
        name = waiting.pop()
        if name not in before:
            before.add(name)
            waiting += comes_before(steps[name])
    return 2 * sum(steps[name].minutes for name in before) if before else None


def minutes_of(build: str, device: str) -> Estimate:
    """By the procedure of the build where devices of that kind are built so, else as is usual for the kind of device."""
    if procedure_for(build, device) is not None:
        return _by_procedure(build)
    return _data().devices.get(device, _data().usual)
