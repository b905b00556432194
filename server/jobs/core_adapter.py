"""Between stored jobs and the core."""

from lens.diagnosis import Diagnosis, EvidenceItem, diagnose, evidence_from_inspection
from lens.panel import Panel, make_panel
from lens.records import Inspection
from server.jobs.models import Evidence, Job


def to_panel(job: Job) -> Panel:
    return make_panel(job.panel_width, job.panel_height, job.diagonal_in)


def evidence_items(answers: list[Evidence], inspection: Inspection | None) -> list[EvidenceItem]:
    """Answers that stand, and what the photos measured."""
    items = [EvidenceItem.model_validate({"check": a.check_id, "outcome": a.outcome, "source": a.source}) for a in answers if not a.withdrawn]
    measured = evidence_from_inspection(inspection) if inspection else None
    return [*items, *([measured] if measured else [])]


def diagnose_job(job: Job, answers: list[Evidence], inspection: Inspection | None) -> Diagnosis:
    return diagnose(job.device_type, evidence_items(answers, inspection))
