"""Photos are stripped of personal data before they are stored. JPEG, byte by byte, at once; whatever must be decoded for it in a process of its own
with limits on time and memory, one at a time: a file that was made to cost much costs nobody else anything."""

import json
import os
import resource
import subprocess
import sys
import threading

from django.conf import settings

from lens.errors import BadInput
from lens.photo_file import MAX_BYTES, strip_metadata
from server.common.errors import Busy

JPEG = b"\xff\xd8\xff"
TIME_S, CPU_S = 30.0, 20
# a picture of 110 million pixels twice over, and the libraries
MEMORY_BYTES = 2 * 1024**3
WAIT_S = 20.0
_one_at_a_time = threading.BoundedSemaphore(1)


def strip(data: bytes) -> bytes:
    """The photo without personal data. Raises BadInput, and Busy when it should be sent again later."""
    if data.startswith(JPEG) or len(data) > MAX_BYTES or not data:
        return strip_metadata(data)
    if not _one_at_a_time.acquire(timeout=WAIT_S):
        raise Busy
    try:
        return _apart(data)
    finally:
        _one_at_a_time.release()


def _limit() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_S, CPU_S))
    os.nice(5)


def _apart(data: bytes) -> bytes:
    program = (
        settings.ROOT / "lens" / "photo_file" / "stripped.py"
    )  # by its path: the whole room of photos takes a second to load
    env = {**os.environ, "PYTHONPATH": str(settings.ROOT), "OPENBLAS_NUM_THREADS": "1"}
    try:
        done = subprocess.run(
            [sys.executable, str(program)], input=data, capture_output=True, timeout=TIME_S, preexec_fn=_limit, env=env
        )
    except subprocess.TimeoutExpired:
        raise _too_costly() from None
    if done.returncode == 0:
        return done.stdout
    if done.returncode == 2:
        code, message = json.loads(done.stderr.splitlines()[-1])
        raise BadInput(message, code)
    raise _too_costly()


def _too_costly() -> BadInput:
    return BadInput(
        "This file takes too much time or memory to read. Save it as an ordinary JPEG and send that.", "too_costly"
    )
