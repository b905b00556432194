"""What a server app adds to a job's screen: a facet, with a view of its own and what its stations say.

An app writes one in its ``facet.py``; the bench collects them. Each is read by itself at ``/api/jobs/{id}/{facet}``, and live events name those
that changed.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Generic, Protocol, TypeVar

from ninja import Schema

from lens.progress import StationTold
from server.jobs.models import Job


class Look(Protocol):
    """A job as one request looks at it."""

    @property
    def job(self) -> Job: ...


L = TypeVar("L", contravariant=True)


@dataclass(frozen=True)
class Facet(Generic[L]):
    """``prefetch`` is what its view reads of the job, ``stations`` what its stations know, ``hinders`` what speaks against handing over now."""

    id: str
    schema: type[Schema]
    view: Callable[[L], dict[str, Any]]
    prefetch: tuple[str, ...] = ()
    stations: Mapping[str, Callable[[L], StationTold]] = field(default_factory=dict)
    hinders: Callable[[L], list[str]] | None = None
