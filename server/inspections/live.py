"""Who may listen to the live link: to a job, who is signed in; to a run, who holds its code. The answer is a ticket, not the stream."""

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from server.accounts.policy import require
from server.common.errors import problem
from server.common.tickets import Ticket, answer, session_digest
from server.inspections.codes import Kind, open_access


@require_safe
def job_events(request: HttpRequest, job_id: int) -> HttpResponse:
    try:
        person = require(request.user, "job.view")
    except PermissionDenied:
        return problem(401, "signed-out", "You are signed out. Sign in again; nothing is lost.")
    until = request.session.get_expiry_date().timestamp()
    return answer(Ticket(job_id, None, until, person.pk, session=session_digest(request.session.session_key or "")))


@require_safe
def run_events(request: HttpRequest, code: str, kind: Kind) -> HttpResponse:
    access = open_access(code, kind)
    if access is None:
        return problem(410, "code-expired", "This code has expired. Open a new one from the bench.")
    return answer(
        Ticket(access.run.job_id, access.run_id, access.expires_at.timestamp(), access.made_by_id, access=access.pk)
    )
