"""Random kills of web server, worker, database and launcher while people work: nothing that was acknowledged may be lost or doubled, everything is
analysed, and it recovers without a hand."""

import hashlib
import random
import signal
import subprocess
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from benchmarks.client import Caller, code, new_job, shoot_patterns
from benchmarks.shop import Shop, wait_for
from lens.reporting import verify_report

VICTIMS, WEIGHTS = ("web", "worker", "database", "launcher"), (40, 40, 15, 5)
JOBS, ANSWERS = 6, {"light": ("yes", "dim", "no"), "picture": ("clean", "faulty"), "sound": ("yes", "no")}
PATTERNS, SHOTS = (
    ("white", "black-dim", "pale-red", "grey50"),
    4,
)  # photos of each, from as many places; some are sent twice, as people do
BACK_WITHIN_S, ANALYSED_WITHIN_S = 60.0, 600.0


@dataclass
class Acknowledged:
    """What the bench said that it has."""

    photos: dict[tuple[int, str], str] = field(default_factory=dict)  # run and key: SHA-256 of what was sent
    answers: dict[tuple[int, str], list[str]] = field(default_factory=dict)  # job and check: outcomes in their order
    parts: dict[tuple[int, int], int] = field(default_factory=dict)  # touch session and part: events
    refused: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)


class Work:
    """Three kinds of people who work until told to stop, each through whatever happens."""

    def __init__(self, shop: Shop, seed: int) -> None:
        self.shop, self.known = shop, Acknowledged()
        self.stopping = threading.Event()
        bench = self.bench()
        self.jobs = [new_job(bench, f"Laptop {number}") for number in range(JOBS)]
        self.photos = {
            run: [
                data
                for shot in range(SHOTS)
                for data in shoot_patterns(bench, run, PATTERNS, seed + 1000 * shot + 10 * run).values()
            ]
            for _, run in self.jobs
        }
        self.snaps = {run: code(bench, run, "snap") for _, run in self.jobs}
        self.glass = {run: code(bench, run, "glass") for _, run in self.jobs}
        self.sessions = {run: int(bench.ok("POST", f"/api/runs/{run}/touch", {})["id"]) for _, run in self.jobs}
        doings = (self._photograph, self._answer, self._draw)
        self.threads = [
            threading.Thread(target=do, args=(random.Random(seed + n),), daemon=True) for n, do in enumerate(doings)
        ]
        for thread in self.threads:
            thread.start()

    def bench(self) -> Caller:
        return Caller(self.shop.told["url"]).sign_in("Ada")

    def end(self) -> None:
        self.stopping.set()
        for thread in self.threads:
            thread.join()

    def _until_said(self, ask: Callable[[], tuple[int, Any]], what: str) -> bool:
        """Ask again and again until there is a final answer, as the pages do; was it taken?"""
        while not self.stopping.is_set():
            status, told = ask()
            if 200 <= status < 300:
                return True
            if status not in (0, 408, 429) and status < 500:
                self.known.refused.append(f"{what}: {status} {told}")
                return False
            time.sleep(0.2)
        return False

    def _photograph(self, rng: random.Random) -> None:
        count = 0
        while not self.stopping.is_set():
            _, run = rng.choice(self.jobs)
            data, key = rng.choice(self.photos[run]), f"k{count}"
            count += 1
            if sum(one == run for one, _ in self.known.photos) >= 55:  # an inspection takes 60
                time.sleep(0.1)
                continue
            phone = Caller(self.shop.told.get("url", "http://127.0.0.1:1"))
            if self._until_said(lambda: phone.send_photo(f"/s/{self.snaps[run]}/photos", data, key), "photo"):  # noqa: B023 - asked at once
                with self.known.lock:
                    self.known.photos[(run, key)] = hashlib.sha256(data).hexdigest()
            time.sleep(rng.uniform(0, 1.5))

    def _answer(self, rng: random.Random) -> None:
        bench = self.bench()
        while not self.stopping.is_set():
            job, _ = rng.choice(self.jobs)
            check = rng.choice(list(ANSWERS))
            outcome = rng.choice(ANSWERS[check])
            body = {"check": check, "outcome": outcome, "source": "seen"}
            if self._until_said(lambda: bench.json("POST", f"/api/jobs/{job}/evidence", body), "answer"):  # noqa: B023
                self.known.answers.setdefault((job, check), []).append(outcome)
            time.sleep(rng.uniform(0, 0.5))

    def _draw(self, rng: random.Random) -> None:
        numbers = dict.fromkeys(self.sessions.values(), 0)
        while not self.stopping.is_set():
            _, run = rng.choice(self.jobs)
            session = self.sessions[run]
            number, numbers[session] = numbers[session], numbers[session] + 1
            events = [
                [
                    number * 100.0 + n,
                    1,
                    "down" if n == 0 else "up" if n == 9 else "move",
                    10.0 * n,
                    5.0,
                    None,
                    None,
                    None,
                ]
                for n in range(10)
            ]
            part = {"sender": "glass", "number": number, "events": events, "steps": [], "origin_ms": 0.0}
            device = Caller(self.shop.told.get("url", "http://127.0.0.1:1"))
            if self._until_said(lambda: device.json("POST", f"/g/{self.glass[run]}/touch/{session}", part), "touch"):  # noqa: B023
                self.known.parts[(session, number)] = len(events)
            time.sleep(rng.uniform(0, 0.5))


def stand_in(shop: Shop, stopping: threading.Event) -> threading.Thread:
    """What systemd would do: run it again when the launcher has gone."""

    def watch() -> None:
        while not stopping.wait(0.2):
            if shop.process is not None and shop.process.poll() is not None:
                time.sleep(1.0)  # RestartSec of the unit is three
                shop.spawn()

    thread = threading.Thread(target=watch, daemon=True)
    thread.start()
    return thread


def kill_at_random(shop: Shop, kills: int, rng: random.Random) -> dict[str, list[float]]:
    """Seconds from each kill until all is well again, by victim. A victim that is down already is not counted."""
    took: dict[str, list[float]] = {name: [] for name in VICTIMS}
    while sum(map(len, took.values())) < kills:
        time.sleep(rng.uniform(0.0, 3.0))
        name = rng.choices(VICTIMS, WEIGHTS)[0]
        told = shop.told
        process = (told.get(name) or told.get("children", {}).get(name) or {}).get("pid")
        if process is None:
            continue
        before = time.monotonic()
        subprocess.run(["kill", f"-{int(signal.SIGKILL)}", str(process)], capture_output=True)
        wait_for(partial(_is_back, shop, name, process), BACK_WITHIN_S, f"{name} is back")
        took[name].append(time.monotonic() - before)
    return took


def _is_back(shop: Shop, name: str, process: int) -> bool:
    told = shop.told
    now = (told.get(name) or told.get("children", {}).get(name) or {}).get("pid")
    return now not in (None, process) and shop.up()


def missing(shop: Shop, work: Work) -> list[str]:
    """What was acknowledged and is lost, doubled, broken or never analysed."""
    known, wrong = work.known, list(work.known.refused)
    stored = shop.sql(
        "select run_id, client_key, sha256, status, count(*) over (partition by run_id, client_key) from inspections_photo"
    )
    there = {(int(run), key): (sha256, status, int(count)) for run, key, sha256, status, count in stored}
    for place in known.photos:
        sha256, status, count = there.get(place, ("", "", 0))
        if count != 1:
            wrong.append(f"photo {place} is there {count} times")
        elif status not in ("read", "refused"):
            wrong.append(f"photo {place} was never analysed: {status}")
        else:
            file = shop.folder / "media" / "photos" / sha256[:2] / sha256
            if not file.exists() or hashlib.sha256(file.read_bytes()).hexdigest() != sha256:
                wrong.append(f"the file of photo {place} is broken")
    bench = work.bench()
    for job, run in work.jobs:
        report = bench.ok("GET", f"/api/jobs/{job}/report.json")
        if verify_report(report).result == "broken":
            wrong.append(f"the record of job {job} does not hold")
        lines = sum(entry["kind"] == "photo" for entry in report["entries"])
        if lines != sum(one == run for one, _ in there):
            wrong.append(f"job {job} has {lines} lines of photos")
        now = {
            item["check"]: item["outcome"]
            for item in bench.ok("GET", f"/api/jobs/{job}/isolate")["evidence"]
            if not item["withdrawn"]
        }
        # an answer whose acknowledgement was lost on the way is sent again and is the last one all the same
        wrong += [
            f"job {job}: {check} is {now.get(check)}, not {told[-1]}"
            for (one, check), told in known.answers.items()
            if one == job and now.get(check) != told[-1]
        ]
    counted = {
        int(session): (int(events), int(parts))
        for session, events, parts in shop.sql(
            "select s.id, s.events, (select count(*) from touch_touchpart p where p.session_id = s.id) from touch_touchsession s"
        )
    }
    for session in work.sessions.values():
        mine = [number for one, number in known.parts if one == session]
        events, parts = counted[session]
        if events != 10 * parts or parts < len(mine):
            wrong.append(f"touch session {session}: {events} events in {parts} parts, {len(mine)} were acknowledged")
    return wrong


def all_analysed(shop: Shop) -> bool:
    open_runs = shop.sql(
        "select count(*) from inspections_run where asked > settled or status in ('queued', 'working')"
    )
    open_touch = shop.sql("select count(*) from touch_touchsession where asked > settled")
    return open_runs == open_touch == [["0"]]


def print_kills(shop: Shop, kills: int, seed: int) -> bool:
    """The table; False when anything was lost."""
    rng = random.Random(seed)
    work = Work(shop, seed)
    stopping = threading.Event()
    watcher = stand_in(shop, stopping)
    try:
        took = kill_at_random(shop, kills, rng)
    finally:
        work.end()
        stopping.set()
        watcher.join()
    wait_for(shop.up, BACK_WITHIN_S, "all is well")
    started = time.monotonic()
    wait_for(lambda: all_analysed(shop), ANALYSED_WITHIN_S, "everything is analysed")
    print("\nseconds from a kill until database, worker and web server are well again")
    print(f"{'random kills of':18s} {'kills':>6s} {'back: median':>13s} {'worst':>8s}")
    for name, times in took.items():
        if times:
            print(f"{name:18s} {len(times):6d} {sorted(times)[len(times) // 2]:13.1f} {max(times):8.1f}")
    every = sorted(second for times in took.values() for second in times)
    print(
        f"{'all':18s} {len(every):6d} {every[len(every) // 2]:13.1f} {every[-1]:8.1f}   (wanted: median under 10, none without)"
    )
    known, wrong = work.known, missing(shop, work)
    answers = sum(map(len, known.answers.values()))
    print(
        f"acknowledged: {len(known.photos)} photos, {answers} answers, {len(known.parts)} parts of touch; the last analysis ended "
        f"{time.monotonic() - started:.0f} s after the last kill"
    )
    print(f"lost, doubled, broken, refused or never analysed: {len(wrong)}   (wanted: 0); records whole")
    for line in wrong[:20]:
        print(f"  {line}")
    return not wrong and every[len(every) // 2] < 10
