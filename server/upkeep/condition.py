"""How the whole is: what a monitor asks for, and what the bench must say."""

import json
import shutil
import time
from datetime import datetime, timedelta
from typing import Any, Literal, NamedTuple

from django.conf import settings
from django.db import DatabaseError, InterfaceError, connection
from django.utils import timezone

from server.common.files import existing
from server.upkeep.models import WorkerProcess

SEEN_WITHIN_S = 15.0
SAID_FOR_S = 900.0  # what happened is said on the bench for a quarter of an hour
OLD_BACKUP_DAYS = 3
WAITING = (
    "select extract(epoch from now() - min(e.at)) from procrastinate_jobs j join procrastinate_events e on e.job_id = j.id and e.type = 'deferred' "
    "where j.status = 'todo'"
)


class Disk(NamedTuple):
    free_bytes: int
    total_bytes: int

    @property
    def low(self) -> bool:
        return self.free_bytes < settings.LOW_DISK_BYTES or self.free_bytes < settings.LOW_DISK_SHARE * self.total_bytes

    @property
    def full(self) -> bool:
        return self.free_bytes < settings.LEAST_FREE_BYTES


class Notice(NamedTuple):
    """Something that the bench says on every screen. ``code`` stays the same while it is the same thing."""

    code: str
    severity: Literal["info", "warning", "error"]
    text: str


class Health(NamedTuple):
    database: bool
    workers: int
    queue_age_s: float | None
    disk: Disk

    @property
    def ok(self) -> bool:
        return self.database and self.workers > 0 and not self.disk.full


def disk() -> Disk:
    told = shutil.disk_usage(existing(settings.MEDIA_ROOT))
    return Disk(told.free, told.total)


def health() -> Health:
    """Asked anew each time; a database that is away is an answer and no error."""
    try:
        workers = WorkerProcess.objects.filter(seen_at__gt=timezone.now() - timedelta(seconds=SEEN_WITHIN_S)).count()
        with connection.cursor() as cursor:
            cursor.execute(WAITING)
            age = cursor.fetchone()[0]
    except (DatabaseError, InterfaceError):
        return Health(False, 0, None, disk())
    return Health(True, workers, None if age is None else float(age), disk())


def notices() -> list[Notice]:
    """What people at the bench should know now."""
    told = health()
    out = []
    if told.disk.full:
        out.append(
            Notice(
                "disk_full",
                "error",
                "The disk is full: photos are not stored until there is room on it. Phones keep theirs meanwhile.",
            )
        )
    elif told.disk.low:
        free = f"{told.disk.free_bytes / 2**30:.1f} GB"
        out.append(
            Notice(
                "disk_low",
                "warning",
                f"The disk has {free} left. Make room, or move the oldest backups elsewhere, before it is full.",
            )
        )
    if told.database and told.workers == 0:
        out.append(
            Notice(
                "no_worker", "error", "No analysing process runs: photos are kept and will be read when one is back."
            )
        )
    return [*out, *_events(), *_backup()]


def _events() -> list[Notice]:
    """What the launcher wrote down of late; the newest of each kind."""
    found: dict[str, Notice] = {}
    for event in _read("instance.json").get("events", []):
        try:
            ago_s = time.time() - datetime.strptime(event["at"], "%Y-%m-%dT%H:%M:%S%z").timestamp()
        except (KeyError, ValueError, TypeError):
            continue
        if ago_s < SAID_FOR_S and event["what"].endswith("_restarted"):
            found[event["what"]] = Notice(f"{event['what']} {event['at']}", "info", event["text"])
    return list(found.values())


def _backup() -> list[Notice]:
    last = _read("backups/last.json")
    if last and not last.get("ok"):
        return [Notice("backup_failed", "warning", f"The last nightly backup failed: {last.get('text', '')}")]
    days = (time.time() - last["at"]) / 86_400 if last else 0
    if days > OLD_BACKUP_DAYS:
        return [
            Notice(
                "backup_old",
                "warning",
                f"The last nightly backup is {days:.0f} days old. Let the bench run overnight, or make one by hand.",
            )
        ]
    return []


def last_backup() -> tuple[datetime, str] | None:
    """When the last nightly backup was made, and what it says."""
    last = _read("backups/last.json")
    return (
        (datetime.fromtimestamp(last["at"], tz=timezone.get_current_timezone()), str(last.get("text", "")))
        if last
        else None
    )


def _read(name: str) -> dict[str, Any]:
    try:
        told = json.loads((settings.VAR / name).read_text())
    except (OSError, ValueError):
        return {}
    return told if isinstance(told, dict) else {}
