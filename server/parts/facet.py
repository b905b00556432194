"""Match: the panel in the device, and the offers that fit it."""

from lens.progress import StationTold, stations
from server.jobs.facets import Facet
from server.parts.api import MatchState, match_state
from server.verdicts.look import JobLook


def _match(look: JobLook) -> StationTold:
    wanted, chosen = look.job.wanted_panel, look.job.chosen_offer
    return stations.match(wanted.name if wanted else "", chosen.panel.name if chosen else "")


FACET = Facet("match", MatchState, lambda look: match_state(look.job).model_dump(), stations={"match": _match})
