"""How far a job is, and the one verdict that stands over it."""

from lens.progress.verdict import JobVerdict, Seen, VerdictPart, has_touch, job_verdict, stage_verdict

__all__ = ["JobVerdict", "Seen", "VerdictPart", "has_touch", "job_verdict", "stage_verdict"]
