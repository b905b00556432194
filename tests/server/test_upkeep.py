"""Work that is never forgotten: workers that die, rows that poison, runs that nobody queued."""

import asyncio
import os
import subprocess
import sys
from typing import Any
from unittest import mock

from django.db import OperationalError, connection
from django.utils import timezone
from procrastinate.contrib.django import app

from lens.records import Inspection
from server.common.processes import is_alive, machine, started_ticks
from server.inspections import core_adapter, tasks
from server.inspections.models import Photo, Run
from server.upkeep import takeup
from server.upkeep.models import WorkerProcess
from tests.server.helpers import DEAD, InspectionCase, photo, work


def dead_worker(pid: int = 2**22 + 1) -> int:
    """A worker of this machine whose process is gone."""
    with connection.cursor() as cursor:
        cursor.execute("insert into procrastinate_workers (last_heartbeat) values (now()) returning id")
        worker = int(cursor.fetchone()[0])
    WorkerProcess.objects.create(
        worker_id=worker, machine=machine(), host="here", pid=pid, started_ticks=1, version="", seen_at=timezone.now()
    )
    return worker


def rows() -> list[tuple[Any, ...]]:
    with connection.cursor() as cursor:
        cursor.execute("select status, lock, worker_id from procrastinate_jobs order by id")
        return cursor.fetchall()


def assign(worker: int, lock: str) -> None:
    """As if this worker had fetched the job."""
    with connection.cursor() as cursor:
        cursor.execute(
            "update procrastinate_jobs set status = 'doing', worker_id = %s where lock = %s and status = 'todo'",
            (worker, lock),
        )


def take_up() -> int:
    """As a worker does in each beat."""
    takeup.Overseer().bury_the_dead()

    async def taking() -> int:
        with app.replace_connector(app.connector.get_worker_connector()):
            async with app.open_async():
                return await takeup.take_up()

    return asyncio.run(taking())


class WorkersThatDie(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        core_adapter._reads.clear()  # a worker that died remembers nothing: what earlier tests of this process read is not known

    def told(self) -> dict[str, Any]:
        return dict(self.bench.ok("GET", f"/runs/{self.run.pk}"))

    def test_two_photos_in_flight_are_taken_up_though_the_same_work_waits(self) -> None:
        for number in range(2):
            self.bench.send(self.run.pk, photo(self.run, "white", seed=3 + number), f"k{number}")
            assign(dead_worker(), f"run-{self.run.pk}")  # each worker dies with the job in its hands
            self.assertEqual(take_up(), 1)
        self.bench.send(self.run.pk, photo(self.run, "black"), "k2")
        assign(dead_worker(), f"run-{self.run.pk}")
        self.bench.send(
            self.run.pk, photo(self.run, "red"), "k3"
        )  # waits behind the dead one's: its queueing lock is taken
        self.assertEqual(take_up(), 1)
        self.assertEqual([(status, lock) for status, lock, _ in rows()], [("todo", f"run-{self.run.pk}")])
        work()
        told = self.told()
        self.assertEqual((told["status"], [p["status"] for p in told["photos"]]), ("done", ["read"] * 4))
        self.assertEqual(len([f for f in told["result"]["findings"] if f["kind"] == "dead_pixel"]), len(DEAD))

    def test_a_living_worker_lets_go_of_what_it_does_not_run(self) -> None:
        """Its end could not be written down while the database was away."""
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        with connection.cursor() as cursor:
            cursor.execute("insert into procrastinate_workers (last_heartbeat) values (now()) returning id")
            worker = int(cursor.fetchone()[0])
            cursor.execute("select id from procrastinate_jobs")
            job = int(cursor.fetchone()[0])
        assign(worker, f"run-{self.run.pk}")

        async def beats(running: set[int]) -> list[set[int]]:
            with app.replace_connector(app.connector.get_worker_connector()):
                async with app.open_async():
                    first = await takeup.disown(worker, running, set())
                    return [first, await takeup.disown(worker, running, first)]

        self.assertEqual(asyncio.run(beats({job})), [set(), set()])
        self.assertEqual(rows()[0][2], worker, "what it runs stays its own")
        self.assertEqual(asyncio.run(beats(set())), [{job}, set()])
        self.assertIsNone(rows()[0][2])
        with connection.cursor() as cursor:
            cursor.execute("delete from procrastinate_workers where id = %s", (worker,))
        self.assertEqual(take_up(), 1)
        work()
        self.assertEqual(self.told()["status"], "done")

    def test_one_poisoned_row_keeps_no_other_waiting(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        other = self.bench.new_job(title="Another")
        second = Run.objects.get(pk=self.bench.ok("POST", f"/jobs/{other['id']}/runs/inspect")["id"])
        self.bench.send(second.pk, photo(second, "white"), "k")
        for run in (self.run, second):
            assign(dead_worker(), f"run-{run.pk}")
        original = takeup._take_up_one

        async def poisoned(job_id: int, task_name: str) -> None:
            if job_id == min(jobs):
                raise RuntimeError("poison")
            await original(job_id, task_name)

        with connection.cursor() as cursor:
            cursor.execute("select id from procrastinate_jobs")
            jobs = [row[0] for row in cursor.fetchall()]
        with mock.patch.object(takeup, "_take_up_one", poisoned), self.assertLogs("clear_lens.upkeep", "ERROR"):
            self.assertEqual(take_up(), 1)
        self.assertEqual(sorted(status for status, *_ in rows()), ["doing", "todo"])

    def test_living_workers_keep_their_jobs_whatever_the_clock_says(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "insert into procrastinate_workers (last_heartbeat) values (now() - interval '1 hour') returning id"
            )
            worker = int(cursor.fetchone()[0])
        takeup.say_alive(worker)
        WorkerProcess.objects.update(seen_at=timezone.now() - timezone.timedelta(hours=1))
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        assign(worker, f"run-{self.run.pk}")
        self.assertEqual(take_up(), 0)
        WorkerProcess.objects.update(machine="another boot of another machine")
        overseer = takeup.Overseer()
        self.assertEqual(
            overseer.bury_the_dead(), 0
        )  # one of another machine is given its time, by this process's own clock
        with mock.patch.object(takeup.time, "monotonic", return_value=1e9):
            self.assertEqual(overseer.bury_the_dead(), 1)

    def test_what_was_acknowledged_and_never_queued_is_found(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        with connection.cursor() as cursor:
            cursor.execute("truncate procrastinate_jobs cascade")
        self.assertEqual((takeup.watch(), takeup.watch()), (1, 0))
        work()
        self.assertEqual(self.told()["status"], "done")
        self.assertEqual(takeup.watch(), 0)

    def test_a_clock_that_was_an_hour_ahead_strands_nothing(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        with connection.cursor() as cursor:
            cursor.execute("update procrastinate_jobs set scheduled_at = now() + interval '1 hour'")
        work()
        self.assertEqual(self.told()["status"], "queued")
        takeup.watch()
        work()
        self.assertEqual(self.told()["status"], "done")

    def test_what_ends_its_workers_again_and_again_lets_others_pass(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        with connection.cursor() as cursor:
            cursor.execute("update procrastinate_jobs set attempts = 4")
        assign(dead_worker(), f"run-{self.run.pk}")
        self.assertEqual(take_up(), 1)
        with connection.cursor() as cursor:
            cursor.execute(
                "select scheduled_at > now() and scheduled_at < now() + interval '30 seconds' from procrastinate_jobs"
            )
            self.assertTrue(cursor.fetchone()[0])

    def test_touch_sessions_are_found_too(self) -> None:
        session = self.bench.ok("POST", f"/runs/{self.run.pk}/touch", {})
        self.bench.ok("POST", f"/touch/{session['id']}/end")
        with connection.cursor() as cursor:
            cursor.execute("truncate procrastinate_jobs cascade")
        self.assertEqual(takeup.watch(), 1)
        work()
        self.assertEqual(takeup.watch(), 0)

    def test_a_database_that_goes_away_is_no_failure_of_the_run(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        with (
            mock.patch.object(tasks, "_store", side_effect=OperationalError("gone")),
            self.assertLogs("procrastinate", "ERROR"),
        ):
            work()
        self.assertEqual((self.told()["status"], takeup.watch()), ("working", 1))
        work()
        self.assertEqual(self.told()["status"], "done")

    def test_a_photo_that_ends_its_process_is_left_out_and_analyse_again_tries_it(self) -> None:
        for name in ("white", "red"):
            self.bench.send(self.run.pk, photo(self.run, name), name)
        bad = Photo.objects.get(client_key="red")
        Photo.objects.filter(pk=bad.pk).update(tries=tasks.MOST_TRIES + 1)
        work()
        self.assertEqual([p["status"] for p in self.told()["photos"]], ["read", "refused"])
        self.assertIn("left out", self.told()["photos"][1]["report"]["problems"][0]["message"])
        self.bench.ok("POST", f"/runs/{self.run.pk}/analyse")
        work()
        self.assertEqual([p["status"] for p in self.told()["photos"]], ["read", "read"])

    def test_a_run_whose_process_dies_again_and_again_says_so(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        Run.objects.update(tries=tasks.MOST_TRIES)
        with self.assertLogs("clear_lens.tasks", "ERROR"):
            work()
        self.assertEqual((self.told()["status"], takeup.watch()), ("failed", 0))
        self.bench.ok("POST", f"/runs/{self.run.pk}/analyse")
        work()
        self.assertEqual(self.told()["status"], "done")

    def test_a_missing_file_is_said(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white", seed=99), "k")
        with (
            mock.patch.object(core_adapter.storage, "load", side_effect=FileNotFoundError),
            self.assertLogs("clear_lens.photos", "ERROR"),
        ):
            work()
        self.assertIn("missing from the store", self.told()["photos"][0]["report"]["problems"][0]["message"])

    def test_the_cache_of_read_photos_is_bounded_in_bytes(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white", seed=41), "a")
        self.bench.send(self.run.pk, photo(self.run, "white", seed=42), "b")
        core_adapter._reads.clear()
        with mock.patch.object(core_adapter, "MOST_CACHED_BYTES", 1):
            work()
            self.assertEqual(len(core_adapter._reads), 1)
        self.assertGreater(next(iter(core_adapter._reads.values()))[1], 640 * 400 * 4)
        self.assertIsInstance(core_adapter.result_of(Run.objects.get(pk=self.run.pk)), Inspection)


class Processes(InspectionCase):
    def test_a_process_is_told_by_its_start_too(self) -> None:
        child = subprocess.Popen([sys.executable, "-c", "input()"], stdin=subprocess.PIPE)
        ticks = started_ticks(child.pid)
        assert ticks is not None
        self.assertTrue(is_alive(child.pid, ticks))
        self.assertFalse(is_alive(child.pid, ticks + 1))
        child.kill()
        os.waitid(os.P_PID, child.pid, os.WEXITED | os.WNOWAIT)
        self.assertFalse(is_alive(child.pid, ticks), "a corpse is not alive")
        child.communicate()
        self.assertIsNone(started_ticks(child.pid))
