"""Touch sessions are analysed in the background, anew after every step that was carried out."""

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from lens.errors import BadInput
from server.common.notify import notify
from server.touch import core_adapter
from server.touch.models import TouchSession


def enqueue(session: TouchSession) -> None:
    """Have a session analysed; does nothing when that is queued already."""
    try:
        with transaction.atomic():  # a refused second row must not break the action's own transaction
            analyse_touch.configure(lock=f"touch-{session.pk}", queueing_lock=f"touch-{session.pk}").defer(session_id=session.pk)
    except AlreadyEnqueued:
        pass


@app.task(name="analyse_touch")
def analyse_touch(session_id: int) -> None:
    session = TouchSession.objects.select_related("run__job").get(pk=session_id)
    result, problem = None, ""
    try:
        result = core_adapter.judged(session).model_dump(mode="json")
    except BadInput as error:
        problem = error.message
    with transaction.atomic():
        TouchSession.objects.filter(pk=session_id).update(result=result, problem=problem[:300])
        notify(session.run.job_id, "touch_result", session.run_id)
