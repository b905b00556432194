"""A meter's readings in a job: white held to the panel's nominal figure, and put down as measured evidence."""

from collections.abc import Sequence

from django.db import transaction

from lens.diagnosis import EvidenceItem
from lens.errors import BadInput
from lens.meter import Reading, against_nominal
from server.accounts.policy import require
from server.jobs.actions import Person, lock_open_job, store_answer
from server.jobs.models import Job
from server.jobs.record import write

USUAL_CD_M2 = 250.0  # portable panels at full brightness (common practice), where no panel is on record


def nominal_of(job: Job) -> tuple[float, bool]:
    """The nominal luminance in cd/m2, and whether it is the panel's on record."""
    told = float(job.wanted_panel.spec.get("luminance_cd_m2") or 0) if job.wanted_panel else 0.0
    return (told, True) if told > 0 else (USUAL_CD_M2, False)


@transaction.atomic
def file_readings(user: Person, job_id: int, readings: Sequence[Reading]) -> Job:
    """Store readings; the brightest counts as white."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    white = max(readings, key=lambda one: one.luminance_cd_m2, default=None)
    if white is None:
        raise BadInput("There is no reading. Measure white in the middle of the panel at full brightness.", "readings")
    nominal, on_record = nominal_of(job)
    job.readings = {
        "readings": [one.model_dump(mode="json") for one in readings],
        "white_cd_m2": white.luminance_cd_m2,
        "nominal_cd_m2": nominal,
        "nominal_on_record": on_record,
    }
    job.save(update_fields=["readings"])
    write(
        job,
        person.username,
        "readings",
        f"Meter: white gives {white.luminance_cd_m2:.0f} cd/m2, nominal {nominal:.0f}.",
        **job.readings,
    )
    item = EvidenceItem(check="luminance", outcome=against_nominal(white.luminance_cd_m2, nominal), source="measured")
    store_answer(job, person, item, {})
    return job
