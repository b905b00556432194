"""The EDID of a job's panel: read, compared with the record, and put down as measured evidence."""

from typing import Any

from django.db import transaction

from lens.diagnosis import EvidenceItem
from lens.edid import Edid, compare_with_panel, read_edid
from server.accounts.policy import require
from server.jobs.actions import Person, lock_open_job, store_answer
from server.jobs.core_adapter import to_panel
from server.jobs.models import Job
from server.jobs.record import write


def _outcome(edid: Edid, serious: bool) -> str:
    """The answer to the check 'edid'."""
    return "bad" if not edid.checksum_ok else "other" if serious else "right"


@transaction.atomic
def file_edid(user: Person, job_id: int, data: bytes) -> Job:
    """Read an EDID file into the job. Raises BadInput for what is none."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    edid = read_edid(data)
    differs = compare_with_panel(edid, to_panel(job))
    told: dict[str, Any] = {"decoded": edid.model_dump(mode="json"), "differences": [one.what for one in differs]}
    job.edid = told
    job.save(update_fields=["edid"])
    write(job, person.username, "edid", f"EDID read: {edid.manufacturer_id} {edid.product_code}.", **told)
    item = EvidenceItem(check="edid", outcome=_outcome(edid, any(one.serious for one in differs)), source="measured")
    store_answer(job, person, item, {})
    return job
