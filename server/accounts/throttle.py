"""Wrong passwords are slowed down: by name with address, and by address over all names, never by a name alone, so that a stranger elsewhere can
lock nobody out. Counted in the database, so over all processes."""

from typing import Any

from axes.handlers.database import AxesDatabaseHandler
from django.conf import settings
from django.db.models import Sum
from django.http import HttpRequest, HttpResponse

from server.common.errors import problem


class Throttle(AxesDatabaseHandler):  # type: ignore[misc]  # the library has no types
    """The library compares one limit with the worst count; an address has a higher limit than a name at an address, so its count is scaled."""

    def get_failures(self, request: HttpRequest, credentials: dict[str, Any] | None = None) -> int:
        counts = [
            rows.aggregate(total=Sum("failures_since_start"))["total"] or 0
            for rows in self.get_user_attempts(request, credentials)
        ]
        by_name_there, by_address = counts
        return max(by_name_there, by_address * settings.AXES_FAILURE_LIMIT // settings.MOST_FAILURES_AN_ADDRESS)


def locked(request: HttpRequest, *_: Any) -> HttpResponse:
    """In our own shape."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    answer = problem(
        429,
        "too-many-tries",
        f"Too many wrong tries. Wait {minutes} minutes, then try again, or ask the lead for a new password.",
    )
    answer["Retry-After"] = str(60 * minutes)
    return answer


def address_of(request: HttpRequest) -> str:
    """Who is at the other end of the connection. A proxy's word for it counts only where the launcher was told of the proxy."""
    return str(request.META.get("REMOTE_ADDR", ""))
