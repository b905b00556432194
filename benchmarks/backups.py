"""A backup while people write, restored elsewhere: equal to some moment between its start and its end, every photo whole."""

import hashlib
import tempfile
import threading
import time
from pathlib import Path

from benchmarks.client import Caller, code, new_job, shoot_patterns
from benchmarks.shop import Shop

CLIENTS, MANY_JOBS, SHORT_S = 20, 10_000, 60.0


def _another(photo: bytes, number: int) -> bytes:
    """The same picture as another file: a colour profile segment of our own (ICC, kept by the store) with a number in it."""
    text = b"ICC_PROFILE\0\1\1" + number.to_bytes(8, "big")
    return photo[:2] + b"\xff\xe2" + (len(text) + 2).to_bytes(2, "big") + text + photo[2:]


class Writers:
    """Clients that each add one numbered line after the other to jobs of their own, and photos now and then; when each was acknowledged."""

    def __init__(self, shop: Shop, seed: int) -> None:
        bench = Caller(shop.told["url"]).sign_in("Ada")
        self.jobs = [new_job(bench, f"Writer {number}") for number in range(CLIENTS)]
        self.snaps = [code(bench, run, "snap") for _, run in self.jobs]
        self.photos = list(shoot_patterns(bench, self.jobs[0][1], ("white", "black-dim", "pale-red"), seed).values())
        self.said: dict[int, list[tuple[float, int]]] = {job: [] for job, _ in self.jobs}
        self.asked: dict[int, int] = dict.fromkeys(self.said, 0)
        self.stopping = threading.Event()
        self.threads = [
            threading.Thread(target=self._write, args=(shop, number), daemon=True) for number in range(CLIENTS)
        ]
        for thread in self.threads:
            thread.start()

    def _write(self, shop: Shop, number: int) -> None:
        bench = Caller(shop.told["url"]).sign_in("Ada")
        job, _ = self.jobs[number]
        version = bench.ok("GET", f"/api/jobs/{job}")["version"]
        while not self.stopping.is_set():
            self.asked[job] += 1
            told = bench.json("PATCH", f"/api/jobs/{job}", {"version": version, "hand_over_note": str(self.asked[job])})
            if told[0] == 200:
                version = told[1]["version"]
                self.said[job].append((time.monotonic(), self.asked[job]))
            elif told[0] == 409:
                version = bench.ok("GET", f"/api/jobs/{job}")["version"]
            if self.asked[job] % 4 == number % 4:
                # each photo is another one: what stands behind a JPEG's end is cut off, a byte of its tables is not
                mine = self.photos[self.asked[job] % 3]
                bench.send_photo(
                    f"/s/{self.snaps[number]}/photos",
                    _another(mine, 100 * number + self.asked[job]),
                    f"k{self.asked[job]}",
                )

    def end(self) -> None:
        self.stopping.set()
        for thread in self.threads:
            thread.join()


def print_backups(shop: Shop, other: Shop, seed: int) -> bool:
    """Backup under load and restore; then the time that 10,000 jobs take."""
    writers = Writers(shop, seed)
    time.sleep(8)
    file = Path(tempfile.mkdtemp(dir=shop.folder.parent)) / "live.tar"
    began = time.monotonic()
    done = shop.run("backup", str(file))
    ended = time.monotonic()
    time.sleep(1)
    writers.end()
    if done.returncode or shop.run("restore", str(file), "--into", str(other.folder)).returncode:
        print(f"the backup or its restoring failed: {done.stderr}")
        return False
    other.start()
    wrong = []
    for job, note in other.sql("select id, hand_over_note from jobs_job"):
        stored, said = int(note or 0), writers.said[int(job)]
        least = max((number for at, number in said if at < began), default=0)
        most = min((number for at, number in said if at > ended), default=writers.asked[int(job)])
        if not least <= stored <= most:
            wrong.append(f"job {job}: {stored} is not between {least} and {most}")
    named = [sha256 for (sha256,) in other.sql("select distinct sha256 from inspections_photo")]
    for sha256 in named:
        copy = other.folder / "media" / "photos" / sha256[:2] / sha256
        if not copy.exists() or hashlib.sha256(copy.read_bytes()).hexdigest() != sha256:
            wrong.append(f"photo {sha256[:12]} is not whole")
    chains = sum(int(count) for (count,) in other.sql("select count(*) from jobs_entry"))
    changes = sum(map(len, writers.said.values()))
    print(
        f"\nbackup in {ended - began:.1f} s while {CLIENTS} clients wrote {changes} changes; restored: {chains} lines of record, "
        f"{len(named)} different photos; not of one moment or not whole: {len(wrong)}   (wanted: 0)"
    )
    for line in wrong[:10]:
        print(f"  {line}")
    return not wrong and _many(shop)


def _many(shop: Shop) -> bool:
    """10,000 jobs with ten lines of record and a result of the usual size each (text that hardly compresses), made by the database itself."""
    shop.sql(
        "insert into jobs_job (title, device_type, owner, complaint, visible_damage, accessories, panel_width, panel_height, profile, build, "
        "station, skipped, hand_over_note, true_causes, version, created_at, changed_at, created_by_id, "
        "urgent, waiting_for, stale, rules) select 'Job ' || n, 'clamshell', '', "
        "repeat('words ', 30), '', '', 1920, 1080, 'class-II', 'ears', 'inspect', '[]', '', '[]', 1, now(), now(), "
        f"(select min(id) from auth_user), false, '', false, '{{}}' from generate_series(1, {MANY_JOBS}) n"
    )
    shop.sql(
        "insert into jobs_entry (at, who, kind, text, data, hash, job_id) select now(), 'Ada', 'changed', repeat('words ', 10), '{\"a\": 1}', "
        "repeat('0', 64), j.id from jobs_job j, generate_series(1, 10)"
    )
    shop.sql(
        "insert into inspections_run (job_id, stage, run_code, pattern_set, pattern, pattern_step, status, created_at, asked, settled, tries, "
        "result) select j.id, 'inspect', 5, 'standard', 'white', 0, 'done', now(), 0, 0, 0, jsonb_build_object('text', (select "
        "string_agg(md5(random()::text || j.id || n), '') from generate_series(1, 1200) n)) from jobs_job j where j.title like 'Job %'"
    )
    began = time.monotonic()
    done = shop.run("backup", str(shop.folder.parent / "many.tar"))
    seconds = time.monotonic() - began
    print(f"backup of {MANY_JOBS} more jobs: {seconds:.1f} s   (wanted: under {SHORT_S:.0f}); {done.stdout.strip()}")
    return done.returncode == 0 and seconds < SHORT_S
