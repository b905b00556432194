"""What a code opens: one run, as glass or as hand camera, until it expires."""

from typing import Literal

from django.utils import timezone

from server.inspections.models import Access


def open_access(code: str, kind: Literal["glass", "snap"] | None = None) -> Access | None:
    """The access of a code, None when it is unknown, expired, or of the other kind."""
    found = Access.objects.select_related("run__job").filter(code=code.lower(), expires_at__gt=timezone.now()).first()
    if found is None or (kind is not None and found.kind != kind):
        return None
    return found
