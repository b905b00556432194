"""The live link's receiving side: one LISTEN connection per process, fanned out to all open streams."""

import asyncio
import contextlib
import json
import logging
import random
import time
from collections.abc import AsyncIterator
from typing import Any

import psycopg
from django.db import connection

from server.common.notify import CHANNEL
from server.common.tickets import Ticket

log = logging.getLogger("clear_lens.live")
KEEP_ALIVE_S = 15.0
RETRY_S = 0.5
CHECK_S = 5.0  # a connection that broke without a word (a network cable) is noticed by a question in this rhythm
QUEUE_LENGTH = 200
RECONNECT_MS = (300, 1500)  # spread, so that all pages do not come back in the same instant


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
            await asyncio.sleep(RETRY_S)

    async def _listen_once(self) -> None:
        parameters = connection.get_connection_params()
        wanted = {
            key: parameters[key]
            for key in ("host", "port", "dbname", "user", "password", "sslmode", "sslrootcert")
            if parameters.get(key)
        }
        async with await psycopg.AsyncConnection.connect(**wanted, autocommit=True) as listening:
            await listening.execute(f"listen {CHANNEL}")
            # what was said or taken back while nobody listened is not known: open streams end, and their pages ask anew
            self._spread({"job": None, "run": None, "what": "renew"})
            self.ready.set()
            while True:
                async for notice in listening.notifies(timeout=CHECK_S):
                    self._spread(json.loads(notice.payload))
                await listening.execute("select 1")

    def _spread(self, message: dict[str, Any]) -> None:
        for queue in self.queues:
            if queue.full():
                queue.get_nowait()
            queue.put_nowait(message)


_hubs: dict[asyncio.AbstractEventLoop, Hub] = {}


async def stream(ticket: Ticket) -> AsyncIterator[bytes]:
    """Server-sent events of what a ticket lets hear. Ends when it expires or is taken back; holds no database connection."""
    loop = asyncio.get_running_loop()
    hub = _hubs.setdefault(loop, Hub())
    hub.ensure()
    await hub.ready.wait()
    queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue(QUEUE_LENGTH)
    hub.queues.add(queue)
    try:
        yield f"retry: {random.randint(*RECONNECT_MS)}\nevent: hello\ndata: {{}}\n\n".encode()
        while (left_s := ticket.until - time.time()) > 0:
            message = None
            with contextlib.suppress(TimeoutError):
                message = await asyncio.wait_for(queue.get(), min(KEEP_ALIVE_S, left_s))
            if message is None:
                yield b": still here\n\n"
            elif message["what"] == "renew" or (message["what"] == "end" and ticket.ended_by(message["taken_back"])):
                return
            elif message["job"] == ticket.job and (ticket.run is None or message["run"] in (ticket.run, None)):
                yield f"data: {json.dumps(message)}\n\n".encode()
    finally:
        hub.queues.discard(queue)
