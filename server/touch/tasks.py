"""Touch sessions are analysed in the background, anew after every step that was carried out."""

from django.db import transaction
from procrastinate.contrib.django import app

from lens.records import STAGES
from lens.records.upgrade import stamped
from server.common.notify import notify
from server.common.queue import Work
from server.jobs import judged
from server.jobs.models import Job
from server.touch import core_adapter
from server.touch.models import TouchSession

ANALYSING = Work(TouchSession, "touch", "session_id")
GIVEN_UP = "Clear Lens failed on this session, by an error of its own: the log has it. What was drawn is kept; end it and record another."


def enqueue(session: TouchSession) -> None:
    """Have a session analysed."""
    ANALYSING.ask(session.pk)


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
            )
        ANALYSING.settle(session_id, asked)
        notify(session.run.job_id, "touch_result", session.run_id)


ANALYSING.task = analyse_touch
