"""How it survives: kills, full disks, load, wrong input, backups under load, and who may do what. Black box: the launcher's commands and HTTP."""

import contextlib
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.client import PASSWORD
from benchmarks.kills import print_kills
from benchmarks.shop import Shop


@contextlib.contextmanager
def open_shop(port: int, *options: str, **env: str) -> Iterator[Shop]:
    """A shop of its own with one lead, Ada; stopped and removed at the end."""
    home = Path(tempfile.mkdtemp(prefix="cl-", dir="/var/tmp"))
    home.chmod(0o711)
    shop = Shop(home / "var", port)
    shop.env |= env
    try:
        shop.start(*options)
        told = shop.run("person", "Ada", "--lead", given=f"{PASSWORD}\n")
        if told.returncode:
            raise AssertionError(told.stderr)
        yield shop
    finally:
        shop.stop()
        shop.run("stop")
        shutil.rmtree(home, ignore_errors=True)


def print_reliability(kills: int, inputs: int, load_s: float, full_disks: int, seed: int) -> int:
    """All tables; a count of 0 leaves one out. 0 when every wanted figure holds, else 1."""
    good = []
    print(f"Seeds from {seed}; one machine, web server and one worker of one thread.")
    if kills:
        with open_shop(8760) as shop:
            good.append(print_kills(shop, kills, seed))
    return 0 if all(good) else 1
