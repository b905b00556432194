"""Thousands of mutated inputs against a running bench: no 5xx, no traceback, nothing slow, and no process that swells."""

import time
from collections import Counter
from pathlib import Path

from benchmarks.client import Caller, code, new_job, shoot_patterns
from benchmarks.mutations import Place, inputs
from benchmarks.shop import Shop

MOST_S, WEB_MB, WORKER_MB = 5.0, 300, 700
PLACES = 20


def peak_mb(pid: int) -> float:
    """The most memory that a process ever had (proc(5), VmHWM)."""
    return (
        next(
            int(line.split()[1])
            for line in Path(f"/proc/{pid}/status").read_text().splitlines()
            if line.startswith("VmHWM")
        )
        / 1024
    )


def _places(bench: Caller, seed: int) -> list[Place]:
    out = []
    for number in range(PLACES):
        job, run = new_job(bench, f"Aimed at {number}")
        session = int(bench.ok("POST", f"/api/runs/{run}/touch", {})["id"])
        place = Place(job, run, session, code(bench, run, "glass"), code(bench, run, "snap"))
        if number < 3:
            for key, data in shoot_patterns(bench, run, ("white", "black-dim"), seed + number).items():
                bench.send_photo(f"/api/runs/{run}/photos", data, key)
        out.append(place)
    return out


def print_wrong_input(shop: Shop, count: int, seed: int) -> bool:
    """The table; False when a figure is missed."""
    bench = Caller(shop.told["url"]).sign_in("Ada")
    places = _places(bench, seed)
    answers: Counter[int] = Counter()
    wrong: list[str] = []
    slowest, a_place = 0.0, max(1, count // PLACES)
    for number, place in enumerate(places):
        for told in inputs(place, a_place, seed + number):
            started = time.monotonic()
            try:
                status, _ = bench.call(told.method, told.path, told.body or None, told.headers)
            except (ValueError, UnicodeError):
                continue  # what an HTTP client cannot even send
            seconds = time.monotonic() - started
            slowest = max(slowest, seconds)
            answers[status] += 1
            if status >= 500 and status != 503 or status == 0:
                wrong.append(f"{status} {told.method} {told.path[:100]} {told.body[:80]!r}")
            if seconds > MOST_S:
                wrong.append(f"{seconds:.1f} s: {told.method} {told.path[:100]}")
            if status in (401, 403):
                bench.sign_in("Ada")
    time.sleep(5)
    web, worker = peak_mb(shop.pid("web")), peak_mb(shop.pid("worker"))
    tracebacks = (shop.folder / "web.log").read_text(errors="replace").count("Traceback")
    print(
        f"\n{sum(answers.values())} mutated inputs: "
        + ", ".join(f"{many} times {status}" for status, many in sorted(answers.items()))
    )
    print(
        f"5xx or none: {len(wrong)}   (wanted: 0); slowest {slowest:.1f} s   (wanted: under {MOST_S:.0f}); tracebacks: {tracebacks}   (wanted: 0)"
    )
    print(
        f"most memory: web {web:.0f} MB   (wanted: under {WEB_MB}), worker {worker:.0f} MB   (wanted: under {WORKER_MB})"
    )
    for line in wrong[:20]:
        print(f"  {line}")
    return not wrong and tracebacks == 0 and web < WEB_MB and worker < WORKER_MB
