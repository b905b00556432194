"""The demo world, the simulated bench, and the live link."""

import asyncio
import json
import time

from asgiref.sync import sync_to_async
from django.contrib.auth.models import User
from django.db import connections
from django.test import TestCase, TransactionTestCase, override_settings

from lens.matching import PanelSpec
from lens.panel import make_panel
from lens.photo import read_photo
from server.common.listen import stream
from server.common.notify import notify
from server.inspections.models import Run
from server.jobs.models import Job
from server.parts.models import Offer, PanelModel
from server.simbench.device import faults_at, shoot_run
from server.simbench.tasks import shoot_one
from server.simbench.world import load_catalogue, make_job, read_world
from tests.server.helpers import InspectionCase, work

REGISTERED_EXAMPLES = ("http", "www.", "@")


class World(TestCase):
    def setUp(self) -> None:
        self.world = read_world()
        load_catalogue(self.world)

    def test_it_is_as_rich_as_the_screens_need(self) -> None:
        self.assertGreaterEqual(len(self.world["jobs"]), 6)
        self.assertEqual(PanelModel.objects.count(), 12)
        self.assertEqual(Offer.objects.values("supplier").distinct().count(), 4)
        self.assertGreaterEqual(len({job["station"] for job in self.world["jobs"]}), 6)

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
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over")
        self.assertFalse(shoot_one(self.run.pk, "black", 1))

    @override_settings(DEMO=True)
    def test_a_double_click_shoots_the_set_once(self) -> None:
        self.bench.ok("POST", f"/runs/{self.run.pk}/set", {"pattern_set": "triage"})
        for _ in range(3):
            self.assertEqual(self.bench.call("POST", f"/runs/{self.run.pk}/simulate", {})[0], 202)
        work()
        told = self.bench.ok("GET", f"/runs/{self.run.pk}")
        self.assertEqual(sorted(p["report"]["pattern"] for p in told["photos"]), ["black", "grey50", "white"])
        self.assertEqual(told["result"]["verdict"]["result"] == "pass", False)

    def test_an_own_set_is_shown_and_exported_and_a_bad_one_changes_nothing(self) -> None:
        told = self.bench.ok("POST", f"/runs/{self.run.pk}/set", {"own_yaml": "title: Night shift\npatterns: [black, ladder]\n"})
        self.assertEqual((told["pattern_set"], told["set_title"], told["patterns"]), ("", "Night shift", ["black", "ladder"]))
        status, refused = self.bench.call("POST", f"/runs/{self.run.pk}/set", {"own_yaml": "title: Night shift\npatterns: [blakc]\n"})
        self.assertEqual((status, "Did you mean 'black'?" in refused["detail"]), (422, True))
        self.assertEqual(self.bench.ok("GET", f"/runs/{self.run.pk}")["patterns"], ["black", "ladder"])
        self.assertEqual(self.bench.ok("POST", f"/runs/{self.run.pk}/set", {"pattern_set": "triage"})["patterns"], ["white", "black", "grey50"])

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


class LiveLink(TransactionTestCase):
    async def _collect(self, job_id: int, run_id: int | None, send: list[tuple[int, int | None, str]]) -> tuple[list[dict], float]:
        """What a stream delivers, and the time from the last notify to its arrival."""
        events = stream(job_id, run_id)
        self.assertIn(b"hello", await anext(events))
        started = time.perf_counter()
        for job, run, what in send:
            await sync_to_async(notify)(job, what, run)
        await sync_to_async(notify)(job_id, "end", run_id)
        told = []
        while True:
            message = json.loads((await asyncio.wait_for(anext(events), 10)).removeprefix(b"data: "))
            if message["what"] == "end":
                break
            told.append(message)
        await events.aclose()
        await sync_to_async(connections.close_all)()
        return told, time.perf_counter() - started

    def test_a_page_hears_its_own_job_only(self) -> None:
        told, _ = asyncio.run(self._collect(7, None, [(7, 1, "photo"), (8, 2, "photo"), (7, None, "job")]))
        self.assertEqual([(m["job"], m["what"]) for m in told], [(7, "photo"), (7, "job")])

    def test_a_code_hears_its_own_run_only(self) -> None:
        told, _ = asyncio.run(self._collect(7, 1, [(7, 1, "pattern"), (7, 2, "pattern"), (7, None, "job")]))
        self.assertEqual([m["what"] for m in told], ["pattern", "job"])

    def test_it_is_quick(self) -> None:
        _, seconds = asyncio.run(self._collect(7, None, []))
        self.assertLess(seconds, 1.0)

    def test_streams_ask_for_permission(self) -> None:
        self.assertEqual(self.client.get("/api/jobs/1/events").status_code, 401)
        self.assertEqual(self.client.get("/g/aaaaaaaaaaaaa/events").status_code, 410)


class Simulated(TestCase):
    def test_a_new_jobs_device_is_faulty_and_its_replacement_is_not(self) -> None:
        job = Job(pk=5, panel_width=640, panel_height=400)
        self.assertEqual((len(faults_at(job, "inspect")), faults_at(job, "dry_fit"), faults_at(job, "closed")), (6, (), ()))
