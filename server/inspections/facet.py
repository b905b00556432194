"""Pictures: the runs of photos and what they measured."""

from typing import Any

from ninja import Schema

from server.inspections.api import RunOut, run_out
from server.jobs.facets import Facet, Look


class PicturesOut(Schema):
    runs: list[RunOut]


def _view(look: Look) -> dict[str, Any]:
    return {"runs": [run_out(run) for run in look.job.runs.all()]}


FACET = Facet("pictures", PicturesOut, _view, prefetch=("runs__photos",))
