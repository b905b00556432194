"""Several workers: how much faster 60 photos of 10 runs are read by two workers of one thread than by one."""

import os
import subprocess
import sys
import time

from benchmarks.client import Caller, new_job, shoot_patterns
from benchmarks.kills import all_analysed
from benchmarks.shop import LAUNCHER, Shop, wait_for
from lens.simulate import Camera

RUNS, PATTERNS = 10, ("white", "black-dim", "pale-red", "pale-green", "pale-blue", "grey50")
WANTED = 1.6


def _fill(shop: Shop, seed: int) -> None:
    bench = Caller(shop.told["url"]).sign_in("Ada")
    camera = Camera(
        width=4000, height=3000
    )  # as phones send them: of a short measurement the second worker would miss too much
    for number in range(RUNS):
        _, run = new_job(bench, f"Read {seed} {number}")
        for key, data in shoot_patterns(bench, run, PATTERNS, seed + 10 * number, camera).items():
            bench.send_photo(f"/api/runs/{run}/photos", data, key)


def _seconds(shop: Shop, count: int) -> float:
    """From the first photo's reading until all is read by so many workers, each on a processor of its own: what 'one thread' means to the
    system. That they load first is left out."""
    processors = sorted(os.sched_getaffinity(0))
    workers = [
        subprocess.Popen(
            ["taskset", "-c", str(processors[n % len(processors)]), sys.executable, LAUNCHER, "worker"],
            env=shop.env,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        for n in range(count)
    ]
    try:
        wait_for(
            lambda: shop.sql("select count(*) > 0 from inspections_photo where status = 'reading'") == [["t"]],
            60,
            "a worker begins",
        )
        started = time.monotonic()
        wait_for(lambda: all_analysed(shop), 600, "all is read")
        return time.monotonic() - started
    finally:
        for worker in workers:
            worker.terminate()
        for worker in workers:
            worker.wait()


def print_workers(shop: Shop, seed: int) -> bool:
    """The row; the shop has no worker of its own."""
    _fill(shop, seed)
    one = _seconds(shop, 1)
    _fill(shop, seed + 1000)
    two = _seconds(shop, 2)
    print(
        f"\n{RUNS * len(PATTERNS)} photos in {RUNS} runs: one worker of one thread {one:.0f} s, two {two:.0f} s: {one / two:.2f}x   "
        f"(wanted: {WANTED})"
    )
    return one / two >= WANTED
