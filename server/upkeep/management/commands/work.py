"""One worker process: does queued work, and looks after the work of others."""

import asyncio
import logging
import os
import signal
from collections.abc import Callable
from typing import Any

from asgiref.sync import sync_to_async
from django.core.management.base import BaseCommand, CommandError
from django.db import DatabaseError, connections
from procrastinate.contrib.django import app
from procrastinate.worker import Worker

from server.common.versions import misfit
from server.upkeep import takeup

log = logging.getLogger("clear_lens.upkeep")
BEAT_S = 2.0
WATCH_EVERY, CHECK_EVERY, TIDY_EVERY = 3, 10, 1800  # beats
NICE = 15  # people at the bench come before photos that are being read
MISFIT = 4  # exit code: this program and the database are of different versions
DAY_S = 86_400.0  # the queue's own idea of the dead is by the wall clock, which may jump
GRACE_S = 6.0  # shorter than the launcher's patience


def _fresh(act: Callable[..., Any]) -> Callable[..., Any]:
    """In a thread of its own, with a database connection that is given back."""

    def acting(*arguments: Any) -> Any:
        try:
            return act(*arguments)
        finally:
            connections.close_all()

    return sync_to_async(acting, thread_sensitive=False)


class Command(BaseCommand):
    help = "Do queued work until stopped."

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            reason = misfit()
        except DatabaseError as error:
            raise CommandError(f"The database does not answer: {str(error).strip().splitlines()[0]}") from None
        finally:
            connections.close_all()
        if reason:
            raise CommandError(reason, returncode=MISFIT)
        os.nice(NICE)
        with app.replace_connector(app.connector.get_worker_connector()):  # type: ignore[attr-defined]
            reason = asyncio.run(self._work())
        connections.close_all()
        if reason:
            raise CommandError(reason, returncode=MISFIT)

    async def _work(self) -> str:
        """Until it is stopped; why it stopped by itself, else empty."""
        async with app.open_async():
            worker = Worker(
                app=app,
                concurrency=1,
                delete_jobs="successful",
                install_signal_handlers=False,
                update_heartbeat_interval=BEAT_S * 2,
                stalled_worker_timeout=DAY_S,
                fetch_job_polling_interval=2.0,
                shutdown_graceful_timeout=GRACE_S,
            )
            loop = asyncio.get_running_loop()
            for name in (signal.SIGTERM, signal.SIGINT):
                loop.add_signal_handler(name, worker.stop)
            watching = loop.create_task(self._look_after(worker))
            try:
                await worker.run()  # type: ignore[no-untyped-call]  # the library's own
            finally:
                watching.cancel()
                await asyncio.gather(watching, return_exceptions=True)
        return self.reason

    reason = ""

    async def _look_after(self, worker: Worker) -> None:
        beat, overseer = 0, takeup.Overseer()
        suspects: set[int] = set()
        while True:
            try:
                if worker.worker_id is not None:
                    await _fresh(takeup.say_alive)(worker.worker_id)
                    await _fresh(overseer.bury_the_dead)()
                    running = {context.job.id for context in worker._running_jobs.values() if context.job.id}
                    suspects = await takeup.disown(worker.worker_id, running, suspects)
                    await takeup.take_up()
                    if beat % WATCH_EVERY == 0:
                        await _fresh(takeup.watch)()
                    if beat % CHECK_EVERY == CHECK_EVERY - 1:
                        self.reason = await _fresh(misfit)()
                        if self.reason:  # the database was updated meanwhile
                            worker.stop()  # type: ignore[no-untyped-call]
                    if beat % TIDY_EVERY == TIDY_EVERY - 1:
                        await _fresh(takeup.tidy)()
            except DatabaseError as error:
                log.warning("the database does not answer: %s", error)
            except Exception:
                log.exception("looking after the queue failed")
            beat += 1
            await asyncio.sleep(BEAT_S if worker.worker_id is not None else 0.1)
