"""The list of jobs: found, filtered, sorted and cut into pages by the database."""

import base64
import json
from collections.abc import Sequence
from datetime import date, datetime
from typing import Any, Literal, NamedTuple

from django.contrib.auth.models import User
from django.contrib.postgres.search import TrigramSimilarity
from django.db import connection, transaction
from django.db.models import F, Q, QuerySet, Value
from django.db.models.functions import Coalesce
from django.http import HttpRequest
from django.utils import timezone
from ninja import Field, Query, Schema

from lens.errors import BadInput
from lens.records import Outcome, StationId, StationStatus, WaitingFor
from server.accounts.policy import require
from server.bench.api import router  # one router an address
from server.bench.models import JobSummary, ListedWord
from server.bench.summaries import refresh_stale
from server.jobs.models import Job
from server.touch.models import Recheck

PAGE, MOST = 50, 100
NEVER = date(9999, 12, 31)
__all__ = ["router"]
MOST_WORDS, MOST_NEAR = 6, 4
NEAREST = 0.9  # of the likeness of what comes nearest
LEAST_LIKE = 0.25  # of trigrams alike: two letters exchanged in a word of six
Sort = Literal["urgent", "new", "old", "due", "changed", "title"]


class JobLine(Schema):
    """``station`` is how far the job is; ``next`` the one thing it asks for there."""

    id: int
    title: str
    owner: str
    device_type: str
    panel_width: int
    panel_height: int
    station: StationId
    state: StationStatus
    next: str
    verdict: Outcome | None
    stages: dict[str, Outcome]
    assigned_to: str
    due_on: date | None
    overdue: bool
    urgent: bool
    waiting_for: WaitingFor | None
    created_at: datetime
    changed_at: datetime
    closed_at: datetime | None


class JobPage(Schema):
    """``after`` asks for the page that follows; None on the last one."""

    jobs: list[JobLine]
    total: int
    after: str | None


class Wanted(Schema):
    """What to list. ``verdict`` 'none' is a job on which nothing was measured; ``who`` a person's name, or 'nobody'."""

    q: str = Field(default="", max_length=100)
    state: Literal["open", "closed", "all"] = "open"
    station: StationId | None = None
    verdict: Outcome | Literal["none"] | None = None
    waiting_for: WaitingFor | Literal["any", "none"] | None = None
    who: str = Field(default="", max_length=150)
    overdue: bool = False
    sort: Sort = "urgent"
    after: str = Field(default="", max_length=400)
    limit: int = Field(default=PAGE, ge=1, le=MOST)


class Key(NamedTuple):
    """A column to sort by; ``read`` makes its value of what a cursor holds."""

    name: str
    down: bool
    read: Any = int


ORDERS: dict[Sort, tuple[Key, ...]] = {
    "urgent": (Key("urgent", True, bool), Key("due", False, date.fromisoformat), Key("id", True)),
    "new": (Key("id", True),),
    "old": (Key("id", False),),
    "due": (Key("due", False, date.fromisoformat), Key("id", True)),
    "changed": (Key("changed_at", True, datetime.fromisoformat), Key("id", True)),
    "title": (Key("title", False, str), Key("id", True)),
}


def _found(q: str) -> QuerySet[Job]:
    """Jobs with every word of a question. A word that no job has as it was typed is taken for a typing error, and what is like it is found."""
    jobs = Job.objects.filter(subject="device")
    for word in q.lower().split()[:MOST_WORDS]:
        found = Q(summary__words__contains=word)
        if word.isdecimal() and len(word) < 10:
            found |= Q(pk=int(word))
        if not JobSummary.objects.filter(words__contains=word).exists():
            for near in _near(word):
                found |= Q(summary__words__contains=near)
        jobs = jobs.filter(found)
    return jobs


def _near(word: str) -> list[str]:
    """The words of jobs that come nearest to one that no job has."""
    alike = ListedWord.objects.annotate(alike=TrigramSimilarity("word", word)).filter(word__trigram_similar=word)
    nearest = list(alike.order_by("-alike", "word").values_list("word", "alike")[:MOST_NEAR])
    return [found for found, likeness in nearest if likeness >= NEAREST * nearest[0][1]]


def _filtered(jobs: QuerySet[Job], wanted: Wanted, today: date) -> QuerySet[Job]:
    if wanted.state != "all":
        jobs = jobs.filter(closed_at__isnull=wanted.state == "open")
    if wanted.station:
        jobs = jobs.filter(summary__station=wanted.station)
    if wanted.verdict:
        jobs = jobs.filter(summary__verdict="" if wanted.verdict == "none" else wanted.verdict)
    if wanted.waiting_for == "any":
        jobs = jobs.exclude(waiting_for="")
    elif wanted.waiting_for:
        jobs = jobs.filter(waiting_for="" if wanted.waiting_for == "none" else wanted.waiting_for)
    if wanted.who == "nobody":
        jobs = jobs.filter(assigned_to=None)
    elif wanted.who:
        jobs = jobs.filter(assigned_to__username=wanted.who)
    if wanted.overdue:
        jobs = jobs.filter(due_on__lt=today, closed_at=None)
    return jobs


def _cursor(keys: Sequence[Key], job: Any) -> str:
    values = [getattr(job, key.name) for key in keys]
    text = json.dumps([v.isoformat() if isinstance(v, date) else v for v in values])
    return base64.urlsafe_b64encode(text.encode()).decode()


def _behind(keys: Sequence[Key], cursor: str) -> Q:
    """What comes after the row that a cursor was made of, in the order of the keys."""
    try:
        told = json.loads(base64.urlsafe_b64decode(cursor.encode()))
        values = [key.read(value) for key, value in zip(keys, told, strict=True)]
    except (ValueError, TypeError):
        raise BadInput("This page of the list is not there any more. Start from the first.", "bad_cursor") from None
    behind = Q(pk__in=[])
    for n, key in enumerate(keys):
        same = {before.name: value for before, value in zip(keys[:n], values, strict=False)}
        behind |= Q(**same, **{f"{key.name}__{'lt' if key.down else 'gt'}": values[n]})
    return behind


def _line(job: Any, today: date) -> dict[str, Any]:
    names = (
        "title",
        "owner",
        "device_type",
        "panel_width",
        "panel_height",
        "due_on",
        "urgent",
        "created_at",
        "changed_at",
        "closed_at",
    )
    summary = getattr(job, "summary", None)
    return {
        **{name: getattr(job, name) for name in names},
        "id": job.pk,
        "station": summary.station if summary else job.station,
        "state": summary.state if summary else "open",
        "next": summary.next if summary else "",
        "verdict": (summary.verdict or None) if summary else None,
        "stages": summary.stages if summary else {},
        "assigned_to": job.assigned_to.username if job.assigned_to else "",
        "overdue": bool(job.due_on and job.due_on < today and job.closed_at is None),
        "waiting_for": job.waiting_for or None,
    }


@router.get("/jobs", response=JobPage, operation_id="listJobs")
def list_jobs(request: HttpRequest, wanted: Query[Wanted]) -> dict[str, Any]:
    refresh_stale()
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("set local pg_trgm.similarity_threshold = %s", (LEAST_LIKE,))
        return _page(wanted)


def _page(wanted: Wanted) -> dict[str, Any]:
    today, keys = timezone.localdate(), ORDERS[wanted.sort]
    jobs = _filtered(_found(wanted.q), wanted, today)
    total = jobs.count()
    jobs = jobs.annotate(due=Coalesce(F("due_on"), Value(NEVER)))
    if wanted.after:
        jobs = jobs.filter(_behind(keys, wanted.after))
    ordered = jobs.order_by(*(f"{'-' if key.down else ''}{key.name}" for key in keys))
    rows = list(
        ordered.select_related("summary", "assigned_to").defer("simulated", "edid", "readings")[: wanted.limit + 1]
    )
    page = rows[: wanted.limit]
    return {
        "jobs": [_line(job, today) for job in page],
        "total": total,
        "after": _cursor(keys, page[-1]) if len(rows) > wanted.limit else None,
    }


class Today(Schema):
    """How the day stands: counts that lead to lists, and the re-tests that are due."""

    open: int
    mine: int
    nobodys: int
    urgent: int
    overdue: int
    waiting: int
    retests_due: int


@router.get("/today", response=Today, operation_id="getToday")
def today(request: HttpRequest) -> dict[str, int]:
    person = require(request.user, "job.view")
    day, still_open = timezone.localdate(), Job.objects.filter(subject="device", closed_at=None)
    return {
        "open": still_open.count(),
        "mine": still_open.filter(assigned_to=person).count(),
        "nobodys": still_open.filter(assigned_to=None).count(),
        "urgent": still_open.filter(urgent=True).count(),
        "overdue": still_open.filter(due_on__lt=day).count(),
        "waiting": still_open.exclude(waiting_for="").count(),
        "retests_due": Recheck.objects.filter(settled_at=None, due_on__lte=day).count(),
    }


@router.get("/colleagues", response=list[str], operation_id="listColleagues")
def colleagues(request: HttpRequest) -> list[str]:
    """Who can be given a job: everybody with a role who can sign in."""
    found = User.objects.filter(is_active=True, groups__isnull=False).distinct().order_by("username")
    return list(found.values_list("username", flat=True))
