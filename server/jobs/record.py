"""Writing the record: the one door through which a job's history grows."""

from typing import Any

from django.db.models import F
from django.utils import timezone

from lens.reporting import START, chain
from server.common.notify import notify
from server.jobs.models import Entry, Job


def entry_content(entry: Entry) -> dict[str, Any]:
    """What an entry's hash covers."""
    return {"at": entry.at.isoformat(), "who": entry.who, "kind": entry.kind, "text": entry.text, "data": entry.data}


def write(job: Job, who: str, kind: str, text: str, facets: tuple[str, ...] | None = None, **data: Any) -> Entry:
    """Add a line to the record, raise the job's version, tell open pages which ``facets`` changed (None: any). Call it inside the action's
    transaction."""
    entry = append(job, who, kind, text, data)
    Job.objects.filter(pk=job.pk).update(version=F("version") + 1, changed_at=timezone.now())
    job.refresh_from_db(fields=["version", "changed_at"])
    notify(job.pk, "job", facets=facets, version=job.version)
    return entry


def append(job: Job, who: str, kind: str, text: str, data: dict[str, Any]) -> Entry:
    """Add a line to the record alone: what no person entered is no other version of the job to who edits it."""
    Job.objects.select_for_update().get(pk=job.pk)  # entries of a job are chained one after the other
    Job.objects.filter(pk=job.pk).update(stale=True)
    before = Entry.objects.filter(job=job).order_by("-id").values_list("hash", flat=True).first() or START
    entry = Entry(job=job, at=timezone.now(), who=who, kind=kind, text=text, data=data)
    entry.hash = chain([entry_content(entry)], before)[0]["hash"]
    entry.save()
    return entry
