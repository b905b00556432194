"""The ASGI application: streams stay on the event loop, everything else runs whole in one thread.

Django adapts every middleware of a request between loop and threads by itself; for short requests that costs more than the
request (12 ms against 3 ms measured on two cores), and a change of pattern must reach the glass within a few frames.
"""

import gc
import os
import sys

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")

from a2wsgi import WSGIMiddleware  # noqa: E402
from django.core.asgi import get_asgi_application  # noqa: E402
from django.core.wsgi import get_wsgi_application  # noqa: E402

THREADS = 10
# a thread that computes keeps the loop, and with it a message to the glass, waiting for this long; 5 ms by default
SWITCH_INTERVAL_S = 0.0005
sys.setswitchinterval(SWITCH_INTERVAL_S)

streams = get_asgi_application()
requests = WSGIMiddleware(get_wsgi_application(), workers=THREADS)  # type: ignore[arg-type]  # a narrower WSGI type than Django's
gc.freeze()  # what was loaded stays, and need not be walked through in the middle of a request


async def application(scope, receive, send):  # type: ignore[no-untyped-def]
    """Live streams to the loop, the rest to the threads."""
    if scope["type"] == "http" and not scope["path"].endswith("/events"):
        await requests(scope, receive, send)
    else:
        await streams(scope, receive, send)
