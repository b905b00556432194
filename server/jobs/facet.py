"""The job's own: Intake, Hand over, and the documents that were filed with it."""

from typing import Any

from ninja import Schema

from lens.edid import Edid
from lens.meter import Reading
from lens.progress import StationTold, stations
from server.jobs.facets import Facet, Look
from server.profiles.actions import profile_title


class ReadingsOut(Schema):
    """The last readings of a meter; the brightest is white, held to the nominal figure."""

    readings: list[Reading]
    white_cd_m2: float
    nominal_cd_m2: float
    nominal_on_record: bool


class EdidOut(Schema):
    """As last read, and what differs: the panel's from the record, a replacement's from the panel before it."""

    decoded: Edid
    differences: list[str]


class DocumentsOut(Schema):
    edid: EdidOut | None
    replacement_edid: EdidOut | None
    readings: ReadingsOut | None


def _view(look: Look) -> dict[str, Any]:
    return {name: getattr(look.job, name) for name in DocumentsOut.model_fields}


def _intake(look: Look) -> StationTold:
    job = look.job
    return stations.intake(job.complaint, f"{job.panel_width}x{job.panel_height}", profile_title(job.profile))


def _hand_over(look: Look) -> StationTold:
    return stations.hand_over(look.job.closed_at is not None)


FACET = Facet("documents", DocumentsOut, _view, stations={"intake": _intake, "hand_over": _hand_over})
