"""Fit: the procedure of the job's build, and how far it is."""

from lens.fitting import procedure_for
from lens.progress import StationTold, stations
from server.fitting.api import FitState, fit_state
from server.jobs.facets import Facet
from server.verdicts.look import JobLook


def _fit(look: JobLook) -> StationTold:
    build = procedure_for(look.job.build, look.job.device_type)
    if build is None:
        return stations.fit(None)
    passed = {gate.gate for gate in look.job.gates.all()}
    return stations.fit([(gate.title, gate.id in passed) for gate in build.gates])


FACET = Facet("fit", FitState, lambda look: fit_state(look.job).model_dump(), stations={"fit": _fit})
