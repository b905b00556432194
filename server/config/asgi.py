"""The ASGI application: streams stay on the event loop, everything else runs whole in one thread.

Django adapts every middleware of a request between loop and threads by itself; for short requests that costs more than the
request (12 ms against 3 ms measured on two cores), and a change of pattern must reach the glass within a few frames.
"""

import gc
import json
import os
import sys

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")

from a2wsgi import WSGIMiddleware  # noqa: E402
from django.conf import settings  # noqa: E402
from django.core.wsgi import get_wsgi_application  # noqa: E402

from server.common.asgi_streams import App, Message, Receive, Send, TooLong, open_stream, spooled  # noqa: E402
from server.common.errors import BODY_TOO_LARGE  # noqa: E402

THREADS = 10
# a thread that computes keeps the loop, and with it a message to the glass, waiting for this long; 5 ms by default
SWITCH_INTERVAL_S = 0.0005
sys.setswitchinterval(SWITCH_INTERVAL_S)

requests: App = WSGIMiddleware(get_wsgi_application(), workers=THREADS)  # type: ignore[arg-type,assignment]  # narrower types than Django's
# hashing passwords takes its time: it has threads of its own, so that nobody else waits for them
SIGN_IN_THREADS = 2
sign_ins: App = WSGIMiddleware(get_wsgi_application(), workers=SIGN_IN_THREADS)  # type: ignore[arg-type,assignment]
gc.freeze()  # what was loaded stays, and need not be walked through in the middle of a request


# of answers that Django never sees
PLAIN_HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"content-security-policy", b"default-src 'none'; frame-ancestors 'none'"),
    (b"cache-control", b"no-store"),
]


async def _refuse(send: Send, status: int, told: tuple[str, str]) -> None:
    body = json.dumps({"type": f"/problems/{told[0]}", "status": status, "detail": told[1], "errors": []}).encode()
    length = str(len(body)).encode()
    headers = [
        (b"content-type", b"application/problem+json"),
        (b"content-length", length),
        (b"connection", b"close"),
        *PLAIN_HEADERS,
    ]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})


async def application(scope: Message, receive: Receive, send: Send) -> None:
    """Live streams to the loop, the rest to the threads."""
    if scope["type"] != "http":
        await requests(scope, receive, send)
        return
    if scope["path"].endswith("/events") and scope["method"] == "GET":
        await open_stream(requests, scope, receive, send)
        return
    if scope["method"] in ("GET", "HEAD"):
        await requests(scope, receive, send)
        return
    try:
        handed, file = await spooled(receive, settings.MAX_BODY_BYTES)
    except TooLong:
        await _refuse(send, 413, ("file-too-large", BODY_TOO_LARGE))
        return
    except TimeoutError:
        await _refuse(send, 408, ("too-slow", "The rest of what was sent did not come. Send it again."))
        return
    except OSError:
        await _refuse(
            send, 507, ("disk-full", "The bench's disk is full. Nothing was stored; make room on it, then send again.")
        )
        return
    with file:
        await (sign_ins if scope["path"] == "/api/session" else requests)(scope, handed, send)
