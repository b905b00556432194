"""A job travels as a file: everything arrives, the record's chain holds, and nothing that was changed on the way is taken."""

import io
import json
import tempfile
import uuid
import zipfile
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import CommandError, call_command
from django.utils import timezone

from lens.errors import BadInput
from lens.reporting import verify_report
from server.inspections.models import Photo
from server.jobfiles.actions import DOCUMENT, export_job, import_job
from server.jobs.models import Job
from server.reports.content import report_json
from server.upkeep.models import Installation
from tests.server.helpers import InspectionCase, photo, work


class JobFiles(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.file = Path(folder.name) / "job.zip"
        self.number = self.job["id"]
        for name in ("white", "black"):
            self.bench.send(self.run.pk, photo(self.run, name), name)
        work()
        run = self.bench.ok("GET", f"/runs/{self.run.pk}")
        finding = next(f for f in run["result"]["findings"] if f["kind"] == "dead_pixel")
        decision = {name: finding[name] for name in ("kind", "channel", "x", "y")}
        self.bench.ok("POST", f"/runs/{self.run.pk}/decisions", {**decision, "verdict": "accepted"})
        self.bench.ok("POST", f"/jobs/{self.number}/evidence", {"check": "light", "outcome": "yes", "source": "seen"})
        session = self.bench.ok("POST", f"/runs/{self.run.pk}/touch", {})
        self.bench.ok("POST", f"/touch/{session['id']}/end")
        due = (timezone.localdate() + timedelta(days=3)).isoformat()
        self.bench.ok("POST", f"/jobs/{self.number}/rechecks", {"due_on": due, "reason": "update"})
        work()

    def elsewhere(self) -> None:
        """From here on this is another installation."""
        Installation.objects.all().delete()
        Installation.objects.create(pk=1, name=uuid.uuid4())

    def changed(
        self,
        change: Callable[[dict[str, Any]], None] | None = None,
        photos: Callable[[bytes], bytes] = bytes,
        leave_out: str = "",
    ) -> Path:
        """The same file with something changed."""
        out = self.file.with_name(f"changed-{uuid.uuid4()}.zip")
        with zipfile.ZipFile(self.file) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                data = old.read(name)
                if name == DOCUMENT and change:
                    told = json.loads(data)
                    change(told)
                    data = json.dumps(told).encode()
                elif name != DOCUMENT:
                    data = photos(data)
                if not (leave_out and name.startswith(leave_out)):
                    new.writestr(name, data)
        return out

    def test_a_job_arrives_whole(self) -> None:
        told = self.bench.ok("POST", f"/jobs/{self.number}/match/new-panel", {"name": "FG-064 A"})
        version = self.bench.ok("GET", f"/jobs/{self.number}")["version"]
        change = {"version": version, "assigned_to": "tech", "due_on": "2031-02-03"}
        self.bench.ok("PATCH", f"/jobs/{self.number}", change)
        path = f"/jobs/{self.number}"
        self.bench.work_to(self.number, "panel_screws")
        found = {
            "step": "bezel",
            "text": "Bezel cracked",
            "was_so": True,
            "photo_id": self.run.photos.earliest("id").pk,
        }
        self.bench.ok("POST", f"{path}/fit/notes", found)
        lines = self.bench.ok("GET", f"{path}/buying/quote")["lines"]
        self.bench.ok("POST", f"{path}/buying/quote", {"lines": lines})
        self.bench.ok("POST", f"{path}/buying/promise", {"day": "2031-02-03"})
        said = export_job(self.number, self.file)
        self.assertIn("and 2 photos", said)
        before = report_json(self.number)
        self.elsewhere()
        job = import_job(self.file)
        self.assertNotEqual(job.pk, self.number)
        # the panel is the one that is known here by its number; who has the job, each shop says itself
        self.assertEqual(job.wanted_panel_id, told["wanted"]["id"])
        self.assertEqual((job.assigned_to, str(Job.objects.get(pk=job.pk).due_on)), (None, "2031-02-03"))
        after = report_json(job.pk)
        self.assertEqual(verify_report(after, [settings.SHOP_PUBLIC_KEY]).result, "holds")
        self.assertEqual(after["entries"][: len(before["entries"]) - 1], before["entries"][:-1])
        self.assertEqual(after["inspections"], before["inspections"])
        told = self.bench.ok("GET", f"/jobs/{job.pk}")
        self.assertEqual([len(told[name]) for name in ("runs", "touches", "evidence", "rechecks")], [1, 1, 1, 1])
        self.assertEqual([p["status"] for p in told["runs"][0]["photos"]], ["read", "read"])
        self.assertEqual(told["created_at"], self.bench.ok("GET", f"/jobs/{self.number}")["created_at"])
        fit, buying = (self.bench.ok("GET", f"/jobs/{job.pk}/{name}") for name in ("fit", "buying"))
        self.assertEqual(
            [(n["text"], n["was_so"], n["photo_id"] is not None) for n in fit["notes"]], [("Bezel cracked", True, True)]
        )
        self.assertEqual((fit["out"], fit["newer"]), ({"bezel": 2}, False))
        self.assertEqual((len(buying["promises"]), buying["quote"]["quote"]["lines"][0]["kind"]), (1, "work"))
        there = User.objects.get(pk=Job.objects.get(pk=job.pk).created_by_id)
        self.assertRegex(there.username, r"^tech \([0-9a-f]{8}\)$")
        self.assertFalse(there.is_active or there.has_usable_password())
        line = self.bench.ok("GET", f"/jobs/{job.pk}/record")[-1]
        self.assertEqual((line["kind"], f"it was job {self.number}" in line["text"]), ("imported", True))
        with self.assertRaisesRegex(BadInput, f"it is job {job.pk}"):
            import_job(self.file)

    def test_what_waited_there_waits_here(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "red"), "red")
        export_job(self.number, self.file)
        self.elsewhere()
        job = import_job(self.file)
        work()
        self.assertEqual(
            [p["status"] for p in self.bench.ok("GET", f"/jobs/{job.pk}")["runs"][0]["photos"]], ["read"] * 3
        )

    def test_a_job_of_this_installation_is_known(self) -> None:
        export_job(self.number, self.file)
        with self.assertRaisesRegex(BadInput, f"it is job {self.number}"):
            import_job(self.file)

    def test_a_file_of_an_earlier_version_has_fewer_tables(self) -> None:
        def drop(told: dict[str, Any]) -> None:
            for name in ("followed", "fit_notes", "quotes", "promises"):
                del told["rows"][name]

        export_job(self.number, self.file)
        self.elsewhere()
        self.assertEqual(import_job(self.changed(drop)).title, self.job["title"])

    def test_what_no_screen_could_show_is_not_taken(self) -> None:
        self.bench.work_to(self.number, "panel_screws")
        export_job(self.number, self.file)
        self.elsewhere()
        for table, field in (("followed", "content"), ("gates", "details")):

            def spoil(told: dict[str, Any], table: str = table, field: str = field) -> None:
                told["rows"][table][0][field] = {"heat": "much"}

            with self.assertRaisesRegex(BadInput, "no whole job file"):
                import_job(self.changed(spoil))

    def test_what_was_changed_on_the_way_is_not_taken(self) -> None:
        export_job(self.number, self.file)
        self.elsewhere()
        count = Job.objects.count()
        for words, file in (
            ("does not hold", self.changed(lambda d: d["rows"]["entries"][0].update(text="Never taken in."))),
            ("does not hold", self.changed(lambda d: d["rows"]["entries"].pop(0))),
            ("was changed", self.changed(photos=lambda data: data[:-3] + b"xyz")),
            ("damaged", self.changed(leave_out="photos/")),
            ("damaged", self.changed(leave_out=DOCUMENT)),
            ("newer version", self.changed(lambda d: d.update(format=99))),
            (
                "not named by their hashes",
                self.changed(lambda d: d["rows"]["photos"][0].update(sha256="../../etc/passwd")),
            ),
            ("no whole job file", self.changed(lambda d: d["rows"]["runs"][0].update(stage=None))),
            ("no whole job file", self.changed(lambda d: d["job"].pop("id"))),
            ("no whole job file", self.changed(lambda d: d["rows"]["photos"][0].update(run=99999))),
            ("holds no job", self.changed(lambda d: d.pop("rows"))),
        ):
            with self.assertRaisesRegex(BadInput, words):
                import_job(file)
        for data in (b"", b"PK", b"no zip at all" * 100):
            self.file.with_name("bad.zip").write_bytes(data)
            with self.assertRaises(BadInput):
                import_job(self.file.with_name("bad.zip"))
        self.assertEqual(Job.objects.count(), count)

    def test_the_commands_say_what_is_wrong_in_one_line(self) -> None:
        out = io.StringIO()
        call_command("export_job", self.number, str(self.file), stdout=out)
        self.assertIn("lines of record", out.getvalue())
        wrong = (
            ("export_job", 99999, str(self.file)),
            ("import_job", str(self.file) + "x"),
            ("export_job", self.number, "/no/such/place.zip"),
        )
        for command in wrong:
            with self.assertRaises(CommandError) as told:
                call_command(*command)
            self.assertEqual(told.exception.returncode, 2)
        Photo.objects.update(sha256="0" * 64)
        with self.assertRaisesRegex(CommandError, "missing from the store"):
            call_command("export_job", self.number, str(self.file))
