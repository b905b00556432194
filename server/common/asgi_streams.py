"""Requests on the way to the threads, and streams that stay on the event loop.

A stream's permission is asked for like any other request, in a thread and through Django; what it answers is a ticket, and from then on the
stream costs a queue on the loop: no thread, no database connection.
"""

import asyncio
import contextlib
import tempfile
from collections.abc import Awaitable, Callable
from typing import Any

from server.common.listen import stream
from server.common.tickets import HEADER, read

Message = dict[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Message, Receive, Send], Awaitable[None]]
IN_MEMORY_BYTES = 256 * 1024
IDLE_S = 30.0  # a sender that says nothing for so long is gone
PIECE_BYTES = 64 * 1024
NAME = HEADER.lower().encode()


class TooLong(Exception):
    """The body is longer than it may be."""


async def spooled(receive: Receive, most_bytes: int) -> tuple[Receive, Any]:
    """The whole body, taken from the network before a thread is given to the request: a slow phone keeps no thread waiting.

    Returns the receive function that hands it on, and the file to close. Raises TooLong, and TimeoutError for a sender that stalls.
    """
    file = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY_BYTES)  # noqa: SIM115 - it lives as long as the request
    try:
        size = 0
        while True:
            message = await asyncio.wait_for(receive(), IDLE_S)
            if message["type"] == "http.disconnect":
                raise TimeoutError
            size += len(message.get("body", b""))
            if size > most_bytes:
                raise TooLong
            file.write(message.get("body", b""))
            if not message.get("more_body", False):
                break
    except BaseException:
        file.close()
        raise
    file.seek(0)
    left = size

    async def handed() -> Message:
        nonlocal left
        piece = file.read(PIECE_BYTES)
        left -= len(piece)
        return {"type": "http.request", "body": piece, "more_body": left > 0}

    return handed, file


async def open_stream(requests: App, scope: Message, receive: Receive, send: Send) -> None:
    """Ask the view; stream when it gives a ticket, else pass its answer on."""
    start: Message = {}
    ticket = None

    async def asked(message: Message) -> None:
        nonlocal start, ticket
        if message["type"] == "http.response.start":
            start = message
            ticket = next((value for name, value in message["headers"] if name.lower() == NAME), None)
        if ticket is None:
            await send(message)

    async def no_body() -> Message:
        return {"type": "http.request", "body": b"", "more_body": False}

    await requests(scope, no_body, asked)
    if ticket is None:
        return
    left_out = (NAME, b"content-length", b"content-type")
    headers = [(name, value) for name, value in start["headers"] if name.lower() not in left_out]
    await send({**start, "headers": [*headers, (b"content-type", b"text/event-stream"), (b"x-accel-buffering", b"no")]})
    await _pump(stream(read(ticket.decode())), receive, send)


async def _pump(events: Any, receive: Receive, send: Send) -> None:
    """Send events until they end or the page is gone."""

    async def until_gone() -> None:
        while (await receive())["type"] != "http.disconnect":
            pass

    async def sending() -> None:
        async for piece in events:
            await send({"type": "http.response.body", "body": piece, "more_body": True})

    both = [asyncio.ensure_future(until_gone()), asyncio.ensure_future(sending())]
    try:
        await asyncio.wait(both, return_when=asyncio.FIRST_COMPLETED)
    finally:
        for one in both:
            one.cancel()
        await asyncio.gather(*both, return_exceptions=True)
        await events.aclose()
    with contextlib.suppress(Exception):  # the page may be gone
        await send({"type": "http.response.body", "body": b"", "more_body": False})
