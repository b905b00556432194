"""Fit: the procedure of the job's build, and how far it is."""

from lens.fitting import POWERED, standing
from lens.progress import StationTold, stations
from lens.steps import applies
from server.fitting.actions import log_of, rows_of, unaccounted_of
from server.fitting.following import procedure_of
from server.fitting.shapes import FitState
from server.fitting.state import fit_state
from server.jobs.facets import Facet
from server.verdicts.look import JobLook


def _fit(look: JobLook) -> StationTold:
    procedure = procedure_of(look.job)
    if procedure is None:
        return stations.fit(None)
    rows = rows_of(look.job)
    log = log_of(procedure, rows)
    open_now = set(standing(procedure, log, unaccounted=unaccounted_of(rows)).open)
    done = {one.step for one in log} - open_now
    plain = [one for one in log if one.step != POWERED]
    asked = [step for step in procedure.steps if step.id in done or applies(procedure.graph, step, plain) is not False]
    return stations.fit([(step.title, step.id in done) for step in asked])


FACET = Facet("fit", FitState, lambda look: fit_state(look.job).model_dump(), stations={"fit": _fit})
