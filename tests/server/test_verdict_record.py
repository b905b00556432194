"""Judgements in the record, a record that only grows, and the one verdict on every surface."""

import json
import tempfile
from pathlib import Path

from django.db import DatabaseError, transaction
from django.test import TestCase

from lens.acceptance import get_profile
from lens.fitting import get_procedure
from lens.reporting import new_key
from server.config.kept import kept, public_half, published
from server.inspections import tasks
from server.jobs.models import Entry, Job
from server.profiles.actions import profile_hash
from server.reports.pdf import report_html
from tests.server.helpers import Bench, InspectionCase, fixed, person, photo, work


class Judged(InspectionCase):
    def entries(self) -> list[Entry]:
        return list(Entry.objects.filter(job_id=self.job["id"], kind="judged"))

    def shoot(self, stage: str) -> None:
        run = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/{stage}")["id"]
        self.bench.send(run, photo(fixed(run), "white", ()), stage)
        work()

    def test_every_judgement_is_chained_once_with_what_it_stands_on(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "a")
        work()
        first = self.entries()
        names = ("stage", "part", "profile", "photos")
        self.assertEqual(
            [tuple(e.data[name] for name in names) for e in first], [("inspect", "picture", "class-II", 1)]
        )
        self.assertRegex(first[0].data["core_version"], r"^\d+\.\d+\.\d+\+[0-9a-f]{8}$")
        version = Job.objects.get(pk=self.job["id"]).version
        tasks.enqueue(self.run)
        work()
        self.assertEqual(len(self.entries()), 1, "the same result says nothing new")
        self.bench.ok("PATCH", f"/jobs/{self.job['id']}", {"version": version, "profile": "class-0"})
        self.assertEqual([e.data["profile"] for e in self.entries()], ["class-II", "class-0"])
        self.assertNotEqual(self.entries()[0].data["result_sha256"], self.entries()[1].data["result_sha256"])

    def test_a_profile_stays_as_it_was_when_a_verdict_named_it(self) -> None:
        lead = Bench(person("boss", "lead"))
        for version, limit in enumerate((2, 5)):
            rule = {"title": "Dark dots", "kinds": ["dead_pixel"], "limit": limit}
            lead.ok(
                "PUT",
                "/profiles/house",
                {"profile": {"id": "house", "title": "House", "rules": [rule]}, "version": version},
            )
            if version == 0:
                job = Job.objects.get(pk=self.job["id"])
                self.bench.ok("PATCH", f"/jobs/{job.pk}", {"version": job.version, "profile": "house"})
                self.bench.send(self.run.pk, photo(self.run, "white"), "a")
                work()
        told = [e.data for e in self.entries()]
        self.assertEqual([(one["profile"], one["profile_version"]) for one in told], [("house", 1), ("house", 2)])
        kept = [self.bench.ok("GET", f"/profiles/by-hash/{one['profile_sha256']}")["rules"][0]["limit"] for one in told]
        self.assertEqual(kept, [2, 5])
        self.assertEqual(self.bench.call("GET", "/profiles/by-hash/none")[0], 404)

    def test_the_database_refuses_to_change_or_take_away_a_line(self) -> None:
        entry = Entry.objects.filter(job_id=self.job["id"]).first()
        assert entry is not None
        for change in (lambda: Entry.objects.filter(pk=entry.pk).update(text="another"), entry.delete):
            with self.assertRaisesRegex(DatabaseError, "never changed or taken away"), transaction.atomic():
                change()
        self.assertEqual(Entry.objects.get(pk=entry.pk).text, entry.text)

    def test_the_old_panels_verdict_is_nobodys_headline(self) -> None:
        self.bench.work_to(self.job["id"], "dry_fit")
        self.shoot("inspect")
        told = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.assertEqual((told["verdict"]["result"], told["verdict"]["parts"]), ("not_proven", []))
        html = report_html(self.job["id"])
        self.assertIn('<p class="verdict">Not proven</p>', html)
        self.assertIn("The picture of the closed device was not measured", html)
        report = json.loads(self.bench.client.get(f"/api/jobs/{self.job['id']}/report.json").content)
        self.assertEqual(report["verdict"], told["verdict"])
        line = next(one for one in self.bench.ok("GET", "/jobs")["jobs"] if one["id"] == self.job["id"])
        self.assertEqual((line["verdict"], line["stages"]), (None, {"inspect": "not_proven"}))
        self.assertIn(report["head"]["closing_hash"], html)

    def test_a_gate_without_proof_needs_a_reason_which_is_printed(self) -> None:
        path = f"/jobs/{self.job['id']}/fit/gates"
        self.bench.work_to(self.job["id"], "dry_fit")
        self.shoot("dry_fit")
        status, told = self.bench.call("POST", path, {"gate": "dry_fit"})
        self.assertEqual((status, told["type"]), (422, "/problems/gate-not-proven"))
        body = {"gate": "dry_fit", "reason": "The owner's train leaves."}
        self.assertEqual(self.bench.call("POST", path, body)[1]["type"], "/problems/leads-only")
        lead = Bench(person("chief", "lead"))
        gates = {one["step"]["id"]: one for one in lead.ok("POST", path, body)["steps"]}
        self.assertEqual(
            (gates["dry_fit"]["reason"], gates["dry_fit"]["done_by"]), ("The owner's train leaves.", "chief")
        )
        self.assertIn("The owner&#x27;s train leaves.", report_html(self.job["id"]))
        self.assertEqual(len(gates), len(get_procedure("ears").steps))

    def test_a_hash_of_a_profile_outlives_new_limits(self) -> None:
        profile = get_profile("class-II")
        self.assertEqual(profile_hash(profile), profile_hash(profile.model_copy(update={"middle_share": 0.5})))
        self.assertNotEqual(profile_hash(profile), profile_hash(profile.model_copy(update={"middle_share": 0.4})))


class ShopKey(TestCase):
    def test_it_is_made_once_and_a_damaged_one_ends_the_start_in_words(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        first = kept(folder, "shop.key", new_key)
        self.assertEqual(kept(folder, "shop.key", new_key), first)
        self.assertEqual((folder / "shop.key").stat().st_mode & 0o777, 0o600)
        public = published(folder, "shop.pub", public_half(first, folder / "shop.key"))
        (folder / "shop.pub").write_text("of another key")
        published(folder, "shop.pub", public)
        self.assertEqual((folder / "shop.pub").read_text(), public)
        for damaged in ("", "not a key"):
            with self.assertRaisesRegex(SystemExit, "Put it back from a backup"):
                public_half(damaged, folder / "shop.key")
