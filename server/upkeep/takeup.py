"""Work of workers that died is taken up, and what was forgotten is queued again."""

import logging
import os
import socket
import time
from datetime import datetime

from django.db import connection, transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Status

from lens import core_version
from server.common.processes import is_alive, machine, started_ticks
from server.common.queue import Work
from server.readings.actions import forget_old
from server.upkeep.models import WorkerProcess

log = logging.getLogger("clear_lens.upkeep")
# a worker of another machine is told dead by its silence: three missed beats, and some for a clock or network that stumbles
SILENT_S = 30.0
KEPT_FAILURES_DAYS = 30


def say_alive(worker_id: int) -> None:
    """Write down who this worker is, or that it is still there."""
    now = timezone.now()
    changed = WorkerProcess.objects.filter(worker_id=worker_id).update(seen_at=now)
    if not changed:
        WorkerProcess.objects.create(
            worker_id=worker_id,
            machine=machine(),
            host=socket.gethostname()[:100],
            pid=os.getpid(),
            started_ticks=started_ticks(os.getpid()) or 0,
            version=core_version()[:60],
            seen_at=now,
        )


class Overseer:
    """Tells which workers are dead. One on this machine is, when its process is gone; one elsewhere, when its beat has not moved for
    ``SILENT_S`` on this process's own monotonic clock: a clock that jumps kills nobody."""

    def __init__(self) -> None:
        self._beats: dict[int, tuple[datetime, float]] = {}

    def bury_the_dead(self) -> int:
        """Take dead workers out of the queue's list, so that their jobs have no worker; the number of them."""
        with connection.cursor() as cursor:
            cursor.execute("select id, last_heartbeat from procrastinate_workers")
            beats = dict(cursor.fetchall())
        known = {one.worker_id: one for one in WorkerProcess.objects.all()}
        dead = [
            worker_id
            for worker_id in {*beats, *known}
            if self._is_dead(known.get(worker_id), worker_id, beats.get(worker_id))
        ]
        if dead:
            log.warning("workers that are gone: %s", ", ".join(map(str, dead)))
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.execute("delete from procrastinate_workers where id = any(%s)", (dead,))
                WorkerProcess.objects.filter(worker_id__in=dead).delete()
        return len(dead)

    def _is_dead(self, process: WorkerProcess | None, worker_id: int, beat: datetime | None) -> bool:
        if process is not None and process.machine == machine() != "":
            return not is_alive(process.pid, process.started_ticks)
        now = time.monotonic()
        seen = max(at for at in (beat, process.seen_at if process else None) if at is not None)
        last, since = self._beats.get(worker_id, (seen, now))
        self._beats[worker_id] = (seen, since if seen == last else now)
        return now - self._beats[worker_id][1] > SILENT_S


async def take_up() -> int:
    """Run the jobs that no worker has any more again; the number of them. One that cannot be taken up keeps no other waiting."""
    taken = 0
    for job in await app.connector.execute_query_all_async(ORPHANS):
        try:
            await _take_up_one(job["id"], job["task_name"])
            taken += 1
        except Exception:
            log.exception("job %s (%s) of a worker that died could not be taken up", job["id"], job["task_name"])
    return taken


ORPHANS = "select id, task_name from procrastinate_jobs where status = 'doing' and worker_id is null"
# at once the first times; what ends its workers again and again lets the others pass
AGAIN = (
    "update procrastinate_jobs set status = 'todo', attempts = attempts + 1, scheduled_at = case when attempts >= 3 then now() + "
    "make_interval(secs => least(2 ^ attempts, 20)) end where id = %(id)s and status = 'doing'"
)
# nothing of ours is ever put off for longer: a clock that was wrong by an hour must not strand it
STRANDED = "update procrastinate_jobs set scheduled_at = null where status = 'todo' and scheduled_at > now() + interval '1 minute'"


MINE = "select id from procrastinate_jobs where status = 'doing' and worker_id = %(worker)s"
DISOWN = (
    "update procrastinate_jobs set worker_id = null where id = %(id)s and status = 'doing' and worker_id = %(worker)s"
)


async def disown(worker_id: int, running: set[int], suspects: set[int]) -> set[int]:
    """Let go of jobs that this living worker holds by the queue's list and does not run: their end could not be written down while the database
    was away. Only those that were so a beat ago too (``suspects``), since a job may be on its way; the suspects for the next beat."""
    held = {int(row["id"]) for row in await app.connector.execute_query_all_async(MINE, worker=worker_id)} - running
    for job_id in held & suspects:
        log.warning("job %s ended while the database was away and is taken up", job_id)
        await app.connector.execute_query_async(DISOWN, id=job_id, worker=worker_id)
    return held - suspects


async def _take_up_one(job_id: int, task_name: str) -> None:
    try:
        await app.connector.execute_query_async(AGAIN, id=job_id)
        log.warning("job %s (%s) of a worker that died is taken up", job_id, task_name)
    except UniqueViolation:
        # the same work waits already: it sees all that this one would have seen
        await app.job_manager.finish_job_by_id_async(job_id, Status.FAILED, delete_job=True)
        log.warning("job %s (%s) of a worker that died is done by the one that waits", job_id, task_name)


def watch() -> int:
    """Queue what was asked for and is neither settled, queued nor at work; the number of things."""
    with connection.cursor() as cursor:
        cursor.execute(STRANDED)
    found = [(kind, pk) for kind in Work.kinds for pk in kind.forgotten()]
    for kind, pk in found:
        log.warning("%s %s was asked for and forgotten: queued again", kind.prefix, pk)
        kind.queue(pk)
    return len(found)


def tidy() -> None:
    """Failed jobs are kept for a month, for who reads the log; files that nobody took in go after a day."""
    forget_old()
    with connection.cursor() as cursor:
        cursor.execute(
            "delete from procrastinate_jobs j where j.status in ('failed', 'aborted', 'cancelled') and not exists "
            "(select 1 from procrastinate_events e where e.job_id = j.id and e.at > now() - make_interval(days => %s))",
            (KEPT_FAILURES_DAYS,),
        )
