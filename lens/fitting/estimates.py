"""How long a job takes, by the way its display is built in."""

from functools import cache
from pathlib import Path

from pydantic import Field

from lens.fitting.gates import procedure_for
from lens.records.base import Record
from lens.tables import shipped

DATA = Path(__file__).with_suffix(".yaml")


class Estimate(Record):
    """Minutes of work with the dry test, and hours that pass by themselves after it."""

    minutes: float = Field(ge=0)
    cure_hours: float = Field(ge=0)


class _Estimates(Record):
    usual: Estimate
    builds: dict[str, Estimate]
    devices: dict[str, Estimate]


@cache
def _data() -> _Estimates:
    return shipped(_Estimates, DATA)


def minutes_of(build: str, device: str) -> Estimate:
    """The estimate for a build where devices of that kind are built so, else for the kind of device."""
    if procedure_for(build, device) is not None and build in _data().builds:
        return _data().builds[build]
    return _data().devices.get(device, _data().usual)
