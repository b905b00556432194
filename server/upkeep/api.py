"""The state of health, for monitors and for the bench."""

from datetime import datetime
from typing import Any, Literal

from django.http import HttpRequest
from ninja import Router, Schema, Status

from server.upkeep import condition

router = Router(tags=["upkeep"])


class HealthOut(Schema):
    """``queue_age_s`` is how long the oldest waiting work waits, null when none does."""

    ok: bool
    database: bool
    workers: int
    queue_age_s: float | None
    free_bytes: int
    free_share: float


class NoticeOut(Schema):
    code: str
    severity: Literal["info", "warning", "error"]
    text: str


class ConditionOut(Schema):
    """What the bench says on every screen; ``backup_at`` is null before the first nightly backup."""

    notices: list[NoticeOut]
    backup_at: datetime | None
    backup_text: str


@router.get("/health", auth=None, response={200: HealthOut, 503: HealthOut}, operation_id="health")
def health(request: HttpRequest) -> Status[dict[str, Any]]:
    """200 when database and analysis work and the disk has room, else 503; the same body."""
    told = condition.health()
    body = {
        "ok": told.ok,
        "database": told.database,
        "workers": told.workers,
        "queue_age_s": told.queue_age_s,
        "free_bytes": told.disk.free_bytes,
        "free_share": told.disk.free_bytes / max(told.disk.total_bytes, 1),
    }
    return Status(200 if told.ok else 503, body)


@router.get("/condition", response=ConditionOut, operation_id="getCondition")
def get_condition(request: HttpRequest) -> dict[str, Any]:
    backup = condition.last_backup()
    return {
        "notices": [notice._asdict() for notice in condition.notices()],
        "backup_at": backup[0] if backup else None,
        "backup_text": backup[1] if backup else "",
    }
