"""A job's screen is the sum of its facets: here they are collected, and nothing is known of any of them."""

from typing import Any

from django.conf import settings

from lens.progress import station_states
from lens.records import StationState, stations_of
from server.fitting.facet import FACET as FIT
from server.incoming.facet import FACET as INCOMING
from server.inspections.facet import FACET as PICTURES
from server.isolate.facet import FACET as ISOLATE
from server.jobs.facet import FACET as DOCUMENTS
from server.jobs.facets import Facet
from server.parts.facet import FACET as MATCH
from server.proving.facet import FACET as PROVING
from server.proving.verdict import verdict_of
from server.purchasing.facet import FACET as BUYING
from server.touch.facet import FACET as TOUCH
from server.verdicts.facet import FACET as COMPARISONS
from server.verdicts.look import JobLook

FACETS: dict[str, Facet[JobLook]] = {
    facet.id: facet
    for facet in (ISOLATE, PICTURES, TOUCH, COMPARISONS, DOCUMENTS, MATCH, BUYING, FIT, PROVING, INCOMING)
}
PLAIN = (
    "subject",
    "title",
    "device_type",
    "owner",
    "complaint",
    "visible_damage",
    "accessories",
    "start_consent",
    "serial_printed",
    "serial_system",
    "panel_serial",
    "panel_width",
    "panel_height",
    "diagonal_in",
    "profile",
    "build",
    "version",
    "station",
    "skipped",
    "hand_over_note",
    "closed_at",
    "created_at",
    "true_causes",
    "due_on",
    "urgent",
)


def states_of(look: JobLook) -> tuple[StationState, ...]:
    """The station column: each station that its subject passes, as its own facet tells it."""
    mine: set[str] = {one.id for one in stations_of(look.job.subject)}
    told = {
        station: say(look) for facet in FACETS.values() for station, say in facet.stations.items() if station in mine
    }
    return station_states(told, look.job.skipped, look.job.subject)


def hindrances(look: JobLook) -> list[str]:
    """What speaks against handing over now, as the facets tell it."""
    return [words for facet in FACETS.values() if facet.hinders for words in facet.hinders(look)]


def hindrances_of(job_id: int) -> list[str]:
    return hindrances(JobLook.at(job_id))


def head(look: JobLook) -> dict[str, Any]:
    """What every station shows of a job."""
    job = look.job
    return {
        **{name: getattr(job, name) for name in PLAIN},
        "id": job.pk,
        "created_by": job.created_by.username,
        "can_simulate": settings.DEMO,
        "assigned_to": job.assigned_to.username if job.assigned_to else "",
        "waiting_for": job.waiting_for or None,
        "verdict": verdict_of(look),
        "hindrances": [] if job.closed_at else hindrances(look),
        "stations": states_of(look),
    }


def job_with(job_id: int, *names: str) -> dict[str, Any]:
    """The head and the named facets; what a change gives back."""
    look = JobLook.at(job_id, *(field for name in names for field in FACETS[name].prefetch))
    return {**head(look), **{name: FACETS[name].view(look) for name in names}}


def facet_of(job_id: int, name: str) -> dict[str, Any]:
    """One facet by itself."""
    facet = FACETS[name]
    return facet.view(JobLook.at(job_id, *facet.prefetch))
