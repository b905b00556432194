"""Touch sessions are analysed in the background, anew after every step that was carried out."""

from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from procrastinate.contrib.django import app

from lens.records import STAGES
from lens.records.upgrade import stamped
from server.common.notify import notify
from server.common.queue import Work
from server.jobs import judged
from server.jobs.models import Job
from server.profiles.actions import find_profile, profile_hash, version_of
from server.touch import core_adapter
from server.touch.models import TouchSession

ANALYSING = Work(TouchSession, "touch", "session_id")
GIVEN_UP = "Clear Lens failed on this session, by an error of its own: the log has it. What was drawn is kept; end it and record another."


def enqueue(session: TouchSession) -> None:
    """Have a session analysed."""
    ANALYSING.ask(session.pk)


def judge_anew(sessions: QuerySet[TouchSession]) -> None:
    """Have sessions judged again, as after a change of what was agreed on. Call it inside the action's transaction."""
    for session in sessions.exclude(status="withdrawn").filter(result__isnull=False):
        enqueue(session)


@app.task(name="analyse_touch")
def analyse_touch(session_id: int) -> None:
    session = TouchSession.objects.select_related("run__job").get(pk=session_id)
    asked = ANALYSING.begin(session_id)
    result, problem = ANALYSING.attempt(
        session_id,
        "touch session",
        GIVEN_UP,
        lambda: stamped("touch_result", core_adapter.judged(session).model_dump(mode="json")),
    )
    with transaction.atomic():
        job = Job.objects.select_for_update().get(pk=session.run.job_id)
        TouchSession.objects.filter(pk=session_id).update(result=result, problem=problem[:300])
        if result is not None:
            judged.enter(
                job,
                session.run.stage,
                "touch",
                result["verdict"],
                f"{STAGES[session.run.stage].title}, touch",
                result,
                session=session_id,
                **_agreed(job),
            )
        ANALYSING.settle(session_id, asked)
        notify(session.run.job_id, "touch_result", session.run_id)


def _agreed(job: Job) -> dict[str, Any]:
    """The profile that a verdict stands on, where it sets limits of touch; the shipped ones are named by the core's version."""
    profile = find_profile(job.profile)
    if not profile.touch:
        return {}
    return {"profile": profile.id, "profile_version": version_of(profile.id), "profile_sha256": profile_hash(profile)}


ANALYSING.task = analyse_touch
