"""The disk under the database: a reserve that is given up when it is full, and a database that is only read until there is room again.

PostgreSQL that cannot write its log stops altogether (its documentation, 'Disk Full Failure'); what it needs to start and to answer questions is a
few megabytes. So a file of that size is kept as ballast.
"""

import os
import shutil
from pathlib import Path

from launcher.paths import VAR

BALLAST = VAR / "ballast"
BALLAST_BYTES = 64 * 1024**2
MAKE_ABOVE_BYTES = 512 * 1024**2
# a checkpoint and a little log; under this the database is only read
READ_ONLY_BYTES = 32 * 1024**2
WRITE_AGAIN_BYTES = 160 * 1024**2


def free_bytes(folder: Path) -> int:
    return shutil.disk_usage(folder).free


def load_ballast() -> None:
    """Put the reserve aside while there is room. What cannot be done now is done at a later look."""
    if BALLAST.exists() or free_bytes(VAR) < MAKE_ABOVE_BYTES:
        return
    try:
        opened = os.open(BALLAST, os.O_WRONLY | os.O_CREAT, 0o600)
        try:
            os.posix_fallocate(opened, 0, BALLAST_BYTES)
        finally:
            os.close(opened)
    except OSError:
        BALLAST.unlink(missing_ok=True)


def drop_ballast() -> bool:
    """Give the reserve up; False when there is none."""
    there = BALLAST.exists()
    BALLAST.unlink(missing_ok=True)
    return there
