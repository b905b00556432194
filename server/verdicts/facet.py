"""Comparisons between stages, and what Inspect says of itself."""

from typing import Any

from ninja import Schema

from lens.inspecting import Comparison, Witness
from lens.progress import StationTold, stations
from lens.touch import TouchComparison
from server.jobs.facets import Facet
from server.verdicts.look import JobLook


class ComparisonsOut(Schema):
    comparison: Comparison | None
    touch_comparison: TouchComparison | None
    witness: Witness | None


def _view(look: JobLook) -> dict[str, Any]:
    return {name: getattr(look, name) for name in ComparisonsOut.model_fields}


def _inspect(look: JobLook) -> StationTold:
    return stations.measured(look.stages.get("inspect"), "No photo yet.", "Show the patterns and photograph them.")


FACET = Facet("comparisons", ComparisonsOut, _view, stations={"inspect": _inspect})
