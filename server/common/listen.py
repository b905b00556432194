"""The live link's receiving side: one LISTEN connection per process, fanned out to all open streams."""

import asyncio
import contextlib
import json
import logging
from collections.abc import AsyncIterator
from typing import Any

import psycopg
from django.db import connection

from server.common.notify import CHANNEL

log = logging.getLogger("clear_lens.live")
KEEP_ALIVE_S = 15.0
RETRY_S = 1.0
QUEUE_LENGTH = 200
LOST: dict[str, Any] = {"job": None, "run": None, "what": "reload"}


class Hub:
    """Streams of one event loop."""

    def __init__(self) -> None:
        self.queues: set[asyncio.Queue[dict[str, Any]]] = set()
        self.task: asyncio.Task[None] | None = None
        self.ready = asyncio.Event()

    def ensure(self) -> None:
        if self.task is None or self.task.done():
            self.task = asyncio.get_running_loop().create_task(self._listen())

    async def _listen(self) -> None:
        while True:
            try:
                await self._listen_once()
            except psycopg.Error as error:
                log.warning("the live link lost the database: %s", error)
                self.ready.clear()
                self._spread(LOST)  # what was missed meanwhile is fetched anew by the pages
                await asyncio.sleep(RETRY_S)

    async def _listen_once(self) -> None:
        parameters = connection.get_connection_params()
        wanted = {key: parameters[key] for key in ("host", "port", "dbname", "user", "password") if parameters.get(key)}
        async with await psycopg.AsyncConnection.connect(**wanted, autocommit=True) as listening:
            await listening.execute(f"listen {CHANNEL}")
            self.ready.set()
            async for notice in listening.notifies():
                self._spread(json.loads(notice.payload))

    def _spread(self, message: dict[str, Any]) -> None:
        for queue in self.queues:
            if queue.full():
                queue.get_nowait()
            queue.put_nowait(message)


_hubs: dict[asyncio.AbstractEventLoop, Hub] = {}


async def stream(job_id: int, run_id: int | None = None) -> AsyncIterator[bytes]:
    """Server-sent events of a job, or of one of its runs only."""
    loop = asyncio.get_running_loop()
    hub = _hubs.setdefault(loop, Hub())
    hub.ensure()
    queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue(QUEUE_LENGTH)
    hub.queues.add(queue)
    try:
        await hub.ready.wait()
        yield b"retry: 1000\nevent: hello\ndata: {}\n\n"
        while True:
            message = None
            with contextlib.suppress(TimeoutError):
                message = await asyncio.wait_for(queue.get(), KEEP_ALIVE_S)
            if message is None:
                yield b": still here\n\n"
            elif message["job"] in (job_id, None) and (run_id is None or message["run"] in (run_id, None)):
                yield f"data: {json.dumps(message)}\n\n".encode()
    finally:
        hub.queues.discard(queue)
