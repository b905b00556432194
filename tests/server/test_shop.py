"""The shop's particulars: what they are checked for, who may change them, and what goes by them."""

import io
from datetime import datetime
from typing import Any
from unittest import mock
from zoneinfo import ZoneInfo

from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from PIL import Image, ImageFile

from server.jobs.models import Job
from server.profiles.models import KeptVersion
from server.reports.pdf import report_html
from tests.server.helpers import Bench, person


class Shop(TestCase):
    def setUp(self) -> None:
        cache.clear()
        self.addCleanup(cache.clear)
        self.lead, self.bench = Bench(person("boss", "lead")), Bench(person("tech"))

    def put(self, **fields: Any) -> tuple[int, Any]:
        told = self.lead.ok("GET", "/shop")
        return self.lead.call("PUT", "/shop", {**told, **fields})

    def test_a_lead_changes_it_and_every_state_is_kept(self) -> None:
        self.assertEqual(self.bench.call("PUT", "/shop", self.bench.ok("GET", "/shop"))[0], 403)
        told = self.put(
            name="Ridge Repairs", currency="CHF", tax_percent="8.1", hours={"mon": "08:00-12:00, 13:00-17:30"}
        )[1]
        self.assertEqual((told["version"], told["tax_percent"], told["changed_by"]), (1, "8.1", "boss"))
        self.assertEqual(self.put(name="Ridge and Valley")[1]["version"], 2)
        kept = list(KeptVersion.objects.filter(what="shop").values_list("content__name", flat=True))
        self.assertEqual(kept, ["Ridge Repairs", "Ridge and Valley"])
        self.assertEqual(self.put(version=1)[0], 409)

    def test_what_makes_no_sense_is_refused_in_words(self) -> None:
        for fields, words in (
            ({"time_zone": "Europe/Zurick"}, "Did you mean 'Europe/Zurich'"),
            ({"currency": "euro"}, "3 characters"),
            ({"currency": "E1R"}, "ISO 4217"),
            ({"paper": "A0"}, "choose A4"),
            ({"language": "xx"}, "choose en"),
            ({"profile": "class-9"}, "no acceptance profile"),
            ({"hours": {"mon": "8-12"}}, "08:00-12:00"),
            ({"hours": {"mon": "08:00-12:00, 11:00-17:00"}}, "one after the other"),
            ({"hours": {"moonday": "08:00-12:00"}}, "no weekday"),
            ({"tax_percent": "101"}, "100"),
        ):
            status, told = self.put(**fields)
            self.assertEqual(status, 422, fields)
            self.assertIn(words, str(told), fields)

    def test_a_logo_is_kept_small_and_printed_and_what_is_none_is_refused(self) -> None:
        def sent(data: bytes, by: Bench) -> Any:
            return by.client.post("/api/shop/logo", {"file": SimpleUploadedFile("logo", data)})

        big = io.BytesIO()
        Image.new("RGB", (3000, 1500), (20, 90, 120)).save(big, "PNG")
        self.assertEqual(sent(big.getvalue(), self.bench).status_code, 403)
        self.assertEqual(self.lead.call("GET", "/shop/logo")[0], 404)
        self.assertTrue(sent(big.getvalue(), self.lead).json()["has_logo"])
        kept = Image.open(io.BytesIO(self.bench.client.get("/api/shop/logo").content))
        self.assertEqual((kept.format, kept.size), ("PNG", (480, 240)))
        job = self.bench.new_job()
        self.assertIn("data:image/png;base64", report_html(job["id"]))
        self.assertIn(
            "data:image/png;base64", self.bench.client.get(f"/api/jobs/{job['id']}/owner.html").content.decode()
        )
        svg = b'<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>'
        bomb = io.BytesIO()
        Image.new("1", (12_000, 12_000)).save(bomb, "PNG")
        ImageFile.LOAD_TRUNCATED_IMAGES = True  # as after the first PDF that this process made
        for data in (svg, b"", b"\x89PNG\r\n\x1a\nxxxx", big.getvalue()[:-400], bomb.getvalue(), b"x" * 5_000_001):
            self.assertEqual(sent(data, self.lead).json()["type"], "/problems/logo", data[:20])
        self.assertTrue(self.lead.ok("GET", "/shop")["has_logo"])
        self.assertFalse(self.lead.ok("DELETE", "/shop/logo")["has_logo"])
        self.assertEqual(self.put(language="de")[1]["language"], "de")

    def test_days_begin_at_the_shops_midnight(self) -> None:
        job = self.bench.new_job()
        evening = timezone.now().astimezone(ZoneInfo("UTC")).replace(hour=20)
        Job.objects.filter(pk=job["id"]).update(due_on=evening.date())
        for zone, overdue in (("UTC", False), ("Pacific/Auckland", True)):  # there it is the next day already
            self.put(time_zone=zone)
            with mock.patch.object(timezone, "now", return_value=evening):
                self.assertEqual(self.bench.ok("GET", "/jobs")["jobs"][0]["overdue"], overdue, zone)

    def test_reports_print_the_shop_its_paper_and_its_time(self) -> None:
        self.put(name="Ridge <Repairs>", address="Upper square 1\nValley", paper="Letter", time_zone="Asia/Tokyo")
        job = self.bench.new_job()
        self.bench.ok(
            "POST",
            f"/jobs/{job['id']}/fit/gates",
            {"gate": "make_safe", "choice": "battery_out", "notes": {"held_s": 15}},
        )
        Job.objects.get(pk=job["id"]).gates.update(at=datetime(2030, 6, 1, 20, 0, tzinfo=ZoneInfo("UTC")))
        html = report_html(job["id"])
        for words in ("Ridge &lt;Repairs&gt;<br>Upper square 1<br>Valley", "size: Letter", "2030-06-02 05:00"):
            self.assertIn(words, html)
