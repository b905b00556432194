"""Disks that fill: photos on a disk that is full at a random byte, and a database whose own disk is full."""

import hashlib
import os
import random
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from benchmarks.client import Caller, code, new_job, shoot_patterns
from benchmarks.shop import Shop, wait_for

DISK_MB, DATABASE_DISK_MB = 48, 900


def can_mount() -> bool:
    """Only root may make a disk of a size."""
    return os.geteuid() == 0 and subprocess.run(["which", "mount"], capture_output=True).returncode == 0


@contextmanager
def small_disk(size_mb: int) -> Iterator[Path]:
    """A folder on a disk of its own."""
    folder = Path(tempfile.mkdtemp(prefix="cl-", dir="/var/tmp"))
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size_mb}m,mode=0711", "tmpfs", str(folder)], check=True)
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", str(folder)])
        folder.rmdir()


def fill(folder: Path, leave: int) -> Path:
    """Take all of a disk but ``leave`` bytes."""
    filler = folder / "filler"
    filler.unlink(missing_ok=True)
    told = os.statvfs(folder)
    take = max(0, told.f_bavail * told.f_frsize - leave)
    with filler.open("wb") as out:
        try:
            os.posix_fallocate(out.fileno(), 0, take)
        except OSError:
            while True:  # as much as there is
                try:
                    out.write(bytes(65536))
                    out.flush()
                except OSError:
                    break
    return filler


def print_photos_on_a_full_disk(shop: Shop, disk: Path, times: int, seed: int) -> bool:
    """Fill the photos' disk at a random byte, send photos: what is acknowledged is whole, the rest is told and can be sent again."""
    rng = random.Random(seed)
    bench = Caller(shop.told["url"]).sign_in("Ada")
    answers: dict[int, int] = {}
    broken = again = 0
    for number in range(times):
        _, run = new_job(bench, f"Full {number}")
        snap = code(bench, run, "snap")
        photos = shoot_patterns(bench, run, ("white", "black-dim"), seed + 10 * number)
        size = sum(map(len, photos.values()))
        filler = fill(disk, rng.randint(0, int(1.2 * size)))
        refused = []
        for key, data in photos.items():
            status, _ = bench.send_photo(f"/s/{snap}/photos", data, key)
            answers[status] = answers.get(status, 0) + 1
            if status not in (200, 201):
                refused.append(key)
        filler.unlink()
        for key in refused:
            status, _ = bench.send_photo(f"/s/{snap}/photos", photos[key], key)
            again += status in (200, 201)
        for (sha256,) in shop.sql(f"select sha256 from inspections_photo where run_id = {run}"):
            file = disk / "media" / "photos" / sha256[:2] / sha256
            broken += not file.exists() or hashlib.sha256(file.read_bytes()).hexdigest() != sha256
        broken += len(list((disk / "media").rglob(".part-*")))
    told = ", ".join(f"{count} times {status}" for status, count in sorted(answers.items()))
    refusals = sum(count for status, count in answers.items() if status not in (200, 201))
    print(
        f"\nphotos on a disk that is full at a random byte, {times} times: answered {told}; {again} of {refusals} sent again when there was room; "
        f"broken: {broken}   (wanted: 0)"
    )
    return broken == 0 and set(answers) <= {200, 201, 507} and 507 in answers


def print_database_on_a_full_disk(shop: Shop, disk: Path) -> bool:
    """The database's own disk: what is there can be read, what is new is refused with 507, and it recovers by itself."""
    bench = Caller(shop.told["url"]).sign_in("Ada")
    job, _ = new_job(bench, "Before the disk was full")
    filler = fill(disk, 0)
    wait_for(lambda: shop.told.get("read_only"), 60, "the launcher notices")
    reads = wait_for(lambda: bench.json("GET", f"/api/jobs/{job}")[0] == 200, 60, "jobs can be read")
    status, told = bench.json(
        "POST", f"/api/jobs/{job}/evidence", {"check": "light", "outcome": "no", "source": "seen"}
    )
    notices = [notice["code"] for notice in bench.json("GET", "/api/condition")[1]["notices"]]
    filler.unlink()
    wait_for(lambda: not shop.told.get("read_only"), 60, "the launcher notices that there is room")

    def recovers() -> bool:
        return bench.json("POST", f"/api/jobs/{job}/evidence", {"check": "light", "outcome": "yes"})[0] == 200

    wait_for(recovers, 60, "it stores again")
    print(
        f"the database's disk full: jobs can be read: {reads}; a change is answered {status} ({(told or {}).get('type')}); the bench says "
        f"{', '.join(notices)}; with room it stores again by itself"
    )
    return status == 507 and "disk_full" in notices
