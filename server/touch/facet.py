"""Touch: the sessions of all stages, and the re-tests that are due."""

from typing import Any

from ninja import Schema

from server.jobs.facets import Facet, Look
from server.touch.api import RecheckOut, TouchOut, recheck_out, touch_out


class TouchFacetOut(Schema):
    touches: list[TouchOut]
    rechecks: list[RecheckOut]


def _view(look: Look) -> dict[str, Any]:
    return {
        "touches": [touch_out(session, run) for run in look.job.runs.all() for session in run.touches.all()],
        "rechecks": [recheck_out(one) for one in look.job.rechecks.all()],
    }


FACET = Facet("touch", TouchFacetOut, _view, prefetch=("runs__touches__made_by", "rechecks__job"))
