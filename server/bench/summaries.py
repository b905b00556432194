"""Keeping what lists show of a job in step with its record.

A line of the record marks its job stale; whoever lists next works the stale ones out, some at a time. So no change waits for it, a process that
dies leaves nothing wrong, and a list is never older than the last line.
"""

import logging
import re

from django.db import DatabaseError, transaction

from lens import core_version
from lens.progress import reached
from server.bench.facets import states_of
from server.bench.models import JobSummary, ListedWord
from server.jobs.models import Job
from server.proving.verdict import verdict_of
from server.verdicts.look import JobLook

log = logging.getLogger("clear_lens.summaries")
SHORT_WORD = 4  # letters
AT_A_TIME = 25  # of these a list may wait for: some 20 ms each where a job holds whole results


def words_of(text: str) -> set[str]:
    """The words that may be typed wrong: in shorter ones, and in numbers, nearly any is like any other."""
    return {word[:40] for word in re.findall(rf"[^\W\d_]{{{SHORT_WORD},}}", text)}


@transaction.atomic
def refresh(job_id: int) -> bool:
    """Work one job's summary out; False where somebody else is at it."""
    if not Job.objects.select_for_update(skip_locked=True, of=("self",)).filter(pk=job_id).exists():
        return False
    look = JobLook.at(job_id)
    job, states = look.job, states_of(look)
    station = reached(states, job.closed_at is not None)
    at = next(one for one in states if one.id == station)
    words = [str(job.pk), job.title, job.owner, job.complaint, f"{job.panel_width}x{job.panel_height}"]
    named = [job.wanted_panel.name] if job.wanted_panel else []
    text = " ".join([*words, *named]).lower()
    ListedWord.objects.bulk_create([ListedWord(word=word) for word in sorted(words_of(text))], ignore_conflicts=True)
    JobSummary.objects.update_or_create(
        job=job,
        defaults={
            "words": text,
            "station": station,
            "state": at.state,
            "verdict": verdict_of(look).result if verdict_of(look).parts else "",
            "stages": {stage: one.result for stage, one in look.stages.items()},
            "next": at.next[:300],
            "core_version": core_version(),
        },
    )
    Job.objects.filter(pk=job_id).update(stale=False)
    return True


def mark_older_rules() -> None:
    """After an update: what earlier rules told of jobs is told anew as they are listed."""
    Job.objects.exclude(summary__core_version=core_version()).update(stale=True)


def refresh_stale(most: int = AT_A_TIME) -> int:
    """Work out what is old, the jobs changed last first; how many were."""
    stale = list(Job.objects.filter(stale=True).order_by("-id").values_list("pk", flat=True)[:most])
    return sum(_tried(job_id) for job_id in stale)


def _tried(job_id: int) -> bool:
    """A job whose summary cannot be worked out keeps its old one: the others are listed all the same."""
    try:
        return refresh(job_id)
    except DatabaseError as reason:  # read-only while its disk is full: later
        log.warning("job %s keeps its old summary: %s", job_id, reason)
    except Exception:
        log.exception("job %s has no new summary until it changes", job_id)
        Job.objects.filter(pk=job_id).update(stale=False)
    return False
