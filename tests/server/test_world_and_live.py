"""The demo world, the simulated bench, and the live link."""

import asyncio
import contextlib
import json
import time
from collections.abc import Callable
from functools import partial
from typing import Any
from unittest import mock

from asgiref.sync import sync_to_async
from django.contrib.auth.models import User
from django.db import connection, connections
from django.test import TestCase, TransactionTestCase, override_settings

from lens.matching import PanelSpec
from lens.panel import make_panel
from lens.photo import read_photo
from server.common import asgi_streams
from server.common.listen import stream
from server.common.notify import notify
from server.common.tickets import Ticket, end
from server.config.asgi import application
from server.inspections.models import Run
from server.jobs.models import Job
from server.parts.models import Device, Offer, PanelModel
from server.simbench.device import faults_at, shoot_run
from server.simbench.tasks import shoot_one
from server.simbench.world import load_catalogue, make_job, read_world
from tests.server.helpers import Bench, InspectionCase, person, work

REGISTERED_EXAMPLES = ("http", "www.", "@")


class World(TestCase):
    def setUp(self) -> None:
        self.world = read_world()
        load_catalogue(self.world)

    def test_it_is_as_rich_as_the_screens_need(self) -> None:
        self.assertGreaterEqual(len(self.world["jobs"]), 20)
        self.assertEqual((PanelModel.objects.count(), Device.objects.count()), (60, 40))
        self.assertEqual(Offer.objects.values("supplier").distinct().count(), 6)
        self.assertGreaterEqual(len({job["station"] for job in self.world["jobs"]}), 6)
        offered = {(one.panel.name, one.supplier.name) for one in Offer.objects.select_related("panel", "supplier")}
        self.assertLessEqual({tuple(one["offer"]) for one in self.world["incoming"]}, offered)

    def test_loading_twice_changes_nothing(self) -> None:
        before = (User.objects.count(), PanelModel.objects.count(), Offer.objects.count())
        load_catalogue(self.world)
        self.assertEqual((User.objects.count(), PanelModel.objects.count(), Offer.objects.count()), before)

    def test_every_specification_and_every_job_is_valid(self) -> None:
        for panel in PanelModel.objects.all():
            PanelSpec.model_validate(panel.spec)
        user = User.objects.get(username="bench")
        for told in self.world["jobs"]:
            job = make_job(user, told)
            panel = make_panel(job.panel_width, job.panel_height, job.diagonal_in)
            for stage in ("inspect", "dry_fit", "closed"):
                for fault in faults_at(job, stage):
                    self.assertTrue(0 <= fault.x < panel.width and 0 <= fault.y < panel.height, (job.title, fault))

    def test_a_job_of_each_outcome_is_there(self) -> None:
        closing = [job for job in self.world["jobs"] if job["faults"].get("closing")]
        self.assertTrue(closing, "a job that closing has marked")
        self.assertTrue([job for job in self.world["jobs"] if job.get("close")], "a job that is handed over")

    def test_no_addresses_stand_in_it(self) -> None:
        text = json.dumps(self.world)
        for word in REGISTERED_EXAMPLES:
            self.assertNotIn(word, text)


class SimulatedBench(InspectionCase):
    def test_its_photos_carry_the_run_and_the_pattern(self) -> None:
        read = read_photo(shoot_run(self.run, "green", 1), make_panel(640, 400))
        self.assertEqual((read.pattern.id, read.run), ("green", self.run.run_code))

    def test_the_same_seed_gives_the_same_photo(self) -> None:
        self.assertEqual(shoot_run(self.run, "white", 5), shoot_run(self.run, "white", 5))
        self.assertNotEqual(shoot_run(self.run, "white", 5), shoot_run(self.run, "white", 6))

    def test_a_photo_is_taken_once_and_not_after_closing(self) -> None:
        self.assertTrue(shoot_one(self.run.pk, "white", 1))
        self.assertTrue(shoot_one(self.run.pk, "white", 1))
        self.assertEqual(self.run.photos.count(), 1)
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over", {"because": "Handed back as it came."})
        self.assertFalse(shoot_one(self.run.pk, "black", 1))

    @override_settings(DEMO=True)
    def test_a_double_click_shoots_the_set_once(self) -> None:
        self.bench.ok("POST", f"/runs/{self.run.pk}/set", {"pattern_set": "triage"})
        for _ in range(3):
            self.assertEqual(self.bench.call("POST", f"/runs/{self.run.pk}/simulate", {})[0], 202)
        work()
        told = self.bench.ok("GET", f"/runs/{self.run.pk}")
        self.assertEqual(sorted(p["report"]["pattern"] for p in told["photos"]), ["black-dim", "grey50", "white"])
        self.assertEqual(told["result"]["verdict"]["result"] == "pass", False)

    def test_an_own_set_is_shown_and_exported_and_a_bad_one_changes_nothing(self) -> None:
        told = self.bench.ok(
            "POST", f"/runs/{self.run.pk}/set", {"own_yaml": "title: Night shift\npatterns: [black, ladder]\n"}
        )
        self.assertEqual(
            (told["pattern_set"], told["set_title"], told["patterns"]), ("", "Night shift", ["black", "ladder"])
        )
        status, refused = self.bench.call(
            "POST", f"/runs/{self.run.pk}/set", {"own_yaml": "title: Night shift\npatterns: [blakc]\n"}
        )
        self.assertEqual((status, "Did you mean 'black'?" in refused["detail"]), (422, True))
        self.assertEqual(self.bench.ok("GET", f"/runs/{self.run.pk}")["patterns"], ["black", "ladder"])
        self.assertEqual(
            self.bench.ok("POST", f"/runs/{self.run.pk}/set", {"pattern_set": "triage"})["patterns"],
            ["white", "black-dim", "grey50"],
        )

    def test_it_answers_in_the_demo_only(self) -> None:
        status, told = self.bench.call("POST", f"/runs/{self.run.pk}/simulate", {})
        self.assertEqual((status, told["type"]), (422, "/problems/no-demo"))

    def test_photos_of_the_intake_are_kept_and_not_measured(self) -> None:
        received = Run.objects.get(pk=self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/received")["id"])
        self.bench.send(received.pk, shoot_run(self.run, "white", 1), "k")
        work()
        told = self.bench.ok("GET", f"/runs/{received.pk}")
        self.assertEqual(([p["status"] for p in told["photos"]], told["result"]), (["kept"], None))
        from server.reports.pdf import report_html

        self.assertIn("data:image/jpeg;base64,", report_html(self.job["id"]))


def ticket(job: int, run: int | None = None, **fields: Any) -> Ticket:
    return Ticket(**{"job": job, "run": run, "until": time.time() + 60, "user": 1, **fields})


class LiveLink(TransactionTestCase):
    async def _collect(self, wanted: Ticket, say: list[Callable[[], None]]) -> tuple[list[dict[str, Any]], float]:
        """What a stream delivers until it ends, and the time from the last word to its arrival."""
        events = stream(wanted)
        self.assertIn(b"hello", await anext(events))
        started = time.perf_counter()
        for words in say:
            await sync_to_async(words)()
        told: list[dict[str, Any]] = []
        async with asyncio.timeout(10):
            async for piece in events:
                if not piece.startswith(b":"):
                    told.append(json.loads(piece.removeprefix(b"data: ")))
                if told and told[-1]["what"] == "last":
                    break
        seconds = time.perf_counter() - started
        await events.aclose()
        await sync_to_async(connections.close_all)()
        return told, seconds

    def heard(self, wanted: Ticket, *say: Callable[[], None]) -> list[tuple[int, str]]:
        return [(m["job"], m["what"]) for m in asyncio.run(self._collect(wanted, list(say)))[0]]

    def test_a_page_hears_its_own_job_only(self) -> None:
        told = self.heard(
            ticket(7), partial(notify, 7, "photo", 1), partial(notify, 8, "photo", 2), partial(notify, 7, "last")
        )
        self.assertEqual(told, [(7, "photo"), (7, "last")])

    def test_a_code_hears_its_own_run_only(self) -> None:
        told = self.heard(
            ticket(7, 1), partial(notify, 7, "pattern", 1), partial(notify, 7, "pattern", 2), partial(notify, 7, "last")
        )
        self.assertEqual(told, [(7, "pattern"), (7, "last")])

    def test_it_is_quick(self) -> None:
        _, seconds = asyncio.run(self._collect(ticket(7), [partial(notify, 7, "last")]))
        self.assertLess(seconds, 1.0)

    def test_a_stream_ends_with_what_opened_it(self) -> None:
        after = partial(notify, 7, "after")
        for wanted, taken_back, ends in (
            (ticket(7, 1, access=5), {"access": [4, 5]}, True),
            (ticket(7, 1, access=5), {"access": [4]}, False),
            (ticket(7, session="s"), {"session": ["s"]}, True),
            (ticket(7, session="s"), {"access": [5]}, False),
            (ticket(7, user=3), {"user": [3]}, True),
            (ticket(7, user=3), {"user": [4]}, False),
        ):
            told = self.heard(wanted, partial(end, **taken_back), after, partial(notify, 7, "last"))
            self.assertEqual(told, [] if ends else [(7, "after"), (7, "last")], (wanted, taken_back))

    def test_a_stream_ends_when_its_ticket_expires(self) -> None:
        self.assertEqual(self.heard(ticket(7, until=time.time() + 0.3)), [])

    def test_after_a_lost_database_pages_ask_anew(self) -> None:
        async def lose() -> list[bytes]:
            events = stream(ticket(7))
            await anext(events)
            await sync_to_async(self._cut_listeners)()
            async with asyncio.timeout(10):
                rest = [piece async for piece in events]
            await sync_to_async(connections.close_all)()
            return rest

        with self.assertLogs("clear_lens.live", "WARNING"):
            self.assertEqual(asyncio.run(lose()), [])

    @staticmethod
    def _cut_listeners() -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen %%' and pid <> pg_backend_pid()"
            )

    def test_streams_ask_for_permission(self) -> None:
        self.assertEqual(self.client.get("/api/jobs/1/events").status_code, 401)
        self.assertEqual(self.client.get("/g/aaaaaaaaaaaaa/events").status_code, 410)


class OnTheLoop(TransactionTestCase):
    """The ASGI application itself, without a server around it."""

    async def ask(
        self, path: str, cookie: str = "", method: str = "GET", body: tuple[bytes, ...] = (b"",), stall: bool = False
    ) -> list[Any]:
        sent: list[Any] = []
        pieces = list(body)

        async def receive() -> dict[str, Any]:
            if pieces and not (stall and len(pieces) == 1):
                return {"type": "http.request", "body": pieces.pop(0), "more_body": bool(pieces)}
            await asyncio.sleep(60)
            return {"type": "http.disconnect"}

        async def send(message: dict[str, Any]) -> None:
            sent.append(message)

        headers = [(b"host", b"127.0.0.1"), (b"cookie", cookie.encode()), (b"content-type", b"application/json")]
        scope = {
            "type": "http",
            "method": method,
            "path": path,
            "query_string": b"",
            "headers": headers,
            "http_version": "1.1",
            "scheme": "http",
            "server": ("127.0.0.1", 80),
            "client": ("127.0.0.1", 1),
        }
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(application(scope, receive, send), 3)
        return sent

    def test_a_stream_holds_no_connection_and_keeps_the_ticket_to_itself(self) -> None:
        bench = Bench(person("tech"))
        job = bench.new_job()
        cookie = f"sessionid={bench.client.cookies['sessionid'].value}"
        sent = asyncio.run(self.ask(f"/api/jobs/{job['id']}/events", cookie))
        names = {name.lower(): value for name, value in sent[0]["headers"]}
        self.assertEqual((sent[0]["status"], names[b"content-type"]), (200, b"text/event-stream"))
        self.assertNotIn(b"x-clear-lens-stream", names)
        self.assertIn(b"content-security-policy", names)
        self.assertIn(b"hello", sent[1]["body"])
        refused = asyncio.run(self.ask(f"/api/jobs/{job['id']}/events"))
        self.assertEqual(refused[0]["status"], 401)

    def test_a_sender_that_stalls_or_never_ends_keeps_no_thread(self) -> None:
        with mock.patch.object(asgi_streams, "IDLE_S", 0.2):
            self.assertEqual(asyncio.run(self.ask("/api/jobs", "", "POST", (b"{", b"}"), stall=True))[0]["status"], 408)
        with override_settings(MAX_BODY_BYTES=10):
            self.assertEqual(asyncio.run(self.ask("/api/jobs", "", "POST", (b"123456", b"7890123")))[0]["status"], 413)
        with mock.patch.object(asgi_streams.tempfile, "SpooledTemporaryFile", side_effect=OSError(28, "no space")):
            self.assertEqual(asyncio.run(self.ask("/api/jobs", "", "POST", (b"{}",)))[0]["status"], 507)


class Simulated(TestCase):
    def test_a_new_jobs_device_is_faulty_and_its_replacement_is_not(self) -> None:
        job = Job(pk=5, panel_width=640, panel_height=400)
        self.assertEqual(
            (len(faults_at(job, "inspect")), faults_at(job, "dry_fit"), faults_at(job, "closed")), (6, (), ())
        )
