"""The live link's streams: a job's, for people who are signed in, and a run's, for who holds its code."""

from asgiref.sync import sync_to_async
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponseBase, StreamingHttpResponse

from server.accounts.policy import require
from server.common.errors import problem
from server.common.listen import stream
from server.inspections.codes import open_access

HEADERS = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}


def _may_view(request: HttpRequest) -> bool:
    try:
        require(request.user, "job.view")
    except PermissionDenied:
        return False
    return True


async def job_events(request: HttpRequest, job_id: int) -> HttpResponseBase:
    if not await sync_to_async(_may_view)(request):
        return problem(401, "signed-out", "You are signed out. Sign in again; nothing is lost.")
    return StreamingHttpResponse(stream(job_id), content_type="text/event-stream", headers=HEADERS)


async def run_events(request: HttpRequest, code: str) -> HttpResponseBase:
    access = await sync_to_async(open_access)(code)
    if access is None:
        return problem(410, "code-expired", "This code has expired. Open a new one from the bench.")
    return StreamingHttpResponse(stream(access.run.job_id, access.run_id), content_type="text/event-stream", headers=HEADERS)
