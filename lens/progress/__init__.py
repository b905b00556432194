"""How far a job is, and the one verdict that stands over it."""

from lens.progress import stations
from lens.progress.stations import StationTold, reached, station_states
from lens.progress.verdict import JobVerdict, Seen, VerdictPart, has_touch, job_verdict, stage_verdict

__all__ = [
    "JobVerdict",
    "Seen",
    "StationTold",
    "VerdictPart",
    "has_touch",
    "job_verdict",
    "reached",
    "stage_verdict",
    "station_states",
    "stations",
]
