"""How far a job is, and the one verdict that stands over it."""

from lens.progress import stations
from lens.progress.stations import StationTold, reached, station_states
from lens.progress.conditions import not_comparable
from lens.progress.verdict import JobVerdict, Missing, Seen, Told, VerdictPart, has_touch, job_verdict, stage_verdict

__all__ = [
    "JobVerdict",
    "Missing",
    "Seen",
    "StationTold",
    "Told",
    "VerdictPart",
    "has_touch",
    "job_verdict",
    "not_comparable",
    "reached",
    "stage_verdict",
    "station_states",
    "stations",
]
