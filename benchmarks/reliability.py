"""How it survives: kills, full disks, load, wrong input, backups under load, and who may do what. Black box: the launcher's commands and HTTP."""

import contextlib
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.access_matrix import print_access
from benchmarks.backups import print_backups
from benchmarks.client import PASSWORD
from benchmarks.full_disk import (
    DATABASE_DISK_MB,
    DISK_MB,
    can_mount,
    print_database_on_a_full_disk,
    print_photos_on_a_full_disk,
    small_disk,
)
from benchmarks.kills import print_kills
from benchmarks.load import print_load
from benchmarks.shop import STARTS_WITHIN_S, Shop, wait_for
from benchmarks.workers import print_workers
from benchmarks.wrong_input import print_wrong_input


@contextlib.contextmanager
def open_shop(port: int, *options: str, folder: Path | None = None, healthy: bool = True, **env: str) -> Iterator[Shop]:
    """A shop of its own with one lead, Ada; stopped and removed at the end."""
    home = Path(tempfile.mkdtemp(prefix="cl-", dir="/var/tmp"))
    home.chmod(0o711)
    shop = Shop(folder or home / "var", port)
    shop.env |= env
    try:
        if healthy:
            shop.start(*options)
        else:  # without a worker it is not well, and says so
            shop.spawn(*options)
            wait_for(lambda: shop.health()[1].get("database"), STARTS_WITHIN_S, "the instance starts")
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
    with open_shop(8764) as shop:
        good.append(print_access(shop))
    if inputs:
        with open_shop(8765) as shop:
            good.append(print_wrong_input(shop, inputs, seed))
    with open_shop(8766) as shop, tempfile.TemporaryDirectory(prefix="cl-", dir="/var/tmp") as home:
        Path(home).chmod(0o711)
        other = Shop(Path(home) / "var", 8767)
        try:
            good.append(print_backups(shop, other, seed))
        finally:
            other.stop()
    if kills:
        with open_shop(8760) as shop:
            good.append(print_kills(shop, kills, seed))
    with open_shop(8768, "--workers", "0", healthy=False) as shop:
        good.append(print_workers(shop, seed))
    if full_disks:
        good.append(_full_disks(full_disks, seed))
    if load_s:
        with open_shop(8761) as shop:
            good.append(print_load(shop, load_s, seed))
    return 0 if all(good) else 1


def _full_disks(times: int, seed: int) -> bool:
    if not can_mount():
        print("\nfull disks: only root can make a disk of a size; run this as root")
        return False
    with (
        small_disk(DISK_MB) as disk,
        open_shop(8762, CLEAR_LENS_MEDIA=str(disk / "media"), CLEAR_LENS_LEAST_FREE_BYTES="0") as shop,
    ):
        photos = print_photos_on_a_full_disk(shop, disk, times, seed)
    with (
        small_disk(DATABASE_DISK_MB) as disk,
        open_shop(8763, folder=disk / "var", CLEAR_LENS_LEAST_FREE_BYTES=str(48 * 1024**2)) as shop,
    ):
        return print_database_on_a_full_disk(shop, disk) and photos
