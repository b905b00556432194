"""The owner's link: an address that nobody can guess, that expires and can be taken back. It opens one page and nothing else."""

import base64
import datetime as dt
import hashlib
from typing import Any

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.views.decorators.http import require_safe

from lens.errors import BadInput
from server.accounts.policy import require
from server.jobs.actions import Person
from server.jobs.models import Job
from server.jobs.record import append
from server.reports.content import look_at
from server.reports.making import check_language
from server.reports.models import OwnerLink
from server.reports.owner_facts import owner_html, owner_style
from server.shop.actions import the_shop

MOST_DAYS, USUAL_DAYS = 365, 30
MOST_LINKS = 20
GONE = (
    "<!doctype html><html lang=en><meta charset=utf-8><meta name=viewport content='width=device-width'><title>Not there</title>"
    "<p>This link has expired or was taken back. Ask the shop for a new one.</p></html>"
)


def address_of(link: OwnerLink) -> str:
    return f"{settings.PUBLIC_URL}/r/{link.code}"


def living(**which: Any) -> Any:
    return OwnerLink.objects.filter(revoked_at=None, expires_at__gt=timezone.now(), **which)


@transaction.atomic
def make_link(user: Person, job_id: int, language: str, days: int) -> OwnerLink:
    """Raises BadInput for a time that is none, or too many links."""
    person = require(user, "job.change")
    job = get_object_or_404(Job.objects.select_for_update(), pk=job_id)
    if not 1 <= days <= MOST_DAYS:
        raise BadInput(f"A link holds 1 to {MOST_DAYS} days.", "link_days")
    if living(job=job).count() >= MOST_LINKS:
        raise BadInput("This job has many links already. Take some back first.", "too_many_links")
    link = OwnerLink.objects.create(
        job=job, language=check_language(language), expires_at=timezone.now() + dt.timedelta(days=days), made_by=person
    )
    append(job, person.username, "owner_link", f"A link for the owner was made, for {days} days.", {"link": link.pk})
    return link


@transaction.atomic
def revoke_link(user: Person, link_id: int) -> OwnerLink:
    person = require(user, "job.change")
    link = get_object_or_404(OwnerLink.objects.select_for_update().select_related("job"), pk=link_id)
    if link.revoked_at is None:
        link.revoked_at = timezone.now()
        link.save(update_fields=["revoked_at"])
        append(link.job, person.username, "owner_link", "The owner's link was taken back.", {"link": link.pk})
    return link


@require_safe
def owner_link_page(request: HttpRequest, code: str) -> HttpResponse:
    """The page itself; it loads nothing, and no script runs in it."""
    link = living(code=code.lower()[:20]).first() if "\0" not in code else None
    if link is None:
        return _plain(GONE, 410, "")
    return _plain(owner_html(look_at(link.job_id), link.language), 200, owner_style(the_shop().paper, screen=True))


def _plain(html: str, status: int, style: str) -> HttpResponse:
    allowed = base64.b64encode(hashlib.sha256(style.encode()).digest()).decode()
    return HttpResponse(
        html,
        status=status,
        headers={
            "Content-Security-Policy": f"default-src 'none'; style-src 'sha256-{allowed}'; img-src data:; base-uri 'none'; "
            "form-action 'none'; frame-ancestors 'none'",
            "Cache-Control": "no-store",
            "X-Robots-Tag": "noindex, nofollow",
            "Referrer-Policy": "no-referrer",
        },
    )
