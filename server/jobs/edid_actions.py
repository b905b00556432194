"""EDIDs of a job: the panel's, compared with the record and put down as measured evidence; and the replacement's, held to it."""

from typing import Any

from django.db import transaction

from lens.diagnosis import EvidenceItem
from lens.edid import Edid, compare_edids, compare_with_panel, read_edid
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


@transaction.atomic
def file_replacement_edid(user: Person, job_id: int, data: bytes) -> Job:
    """Read the EDID of the panel that is to be fitted: held to the panel's before it, or to the record where that one was not
    read or is damaged. It is no evidence for a cause. Raises BadInput for what is none."""
    person = require(user, "job.change")
    job = lock_open_job(job_id)
    edid = read_edid(data)
    before = Edid.model_validate(job.edid["decoded"]) if job.edid else None
    differs = compare_edids(before, edid) if before and before.checksum_ok else compare_with_panel(edid, to_panel(job))
    told: dict[str, Any] = {"decoded": edid.model_dump(mode="json"), "differences": [one.what for one in differs]}
    job.replacement_edid = told
    job.save(update_fields=["replacement_edid"])
    write(
        job,
        person.username,
        "edid",
        f"EDID of the replacement read: {edid.manufacturer_id} {edid.product_code}.",
        **told,
    )
    return job
