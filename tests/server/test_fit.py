"""Fit beyond the order of steps: clocks, parts, notes with photos, what was met last time."""

import datetime as dt
from typing import Any

import cv2
import numpy as np
from django.test import TestCase
from django.utils import timezone

from server.fitting.models import GatePassed
from server.jobs.models import Entry, Job
from server.reports.screw_map import CHECK_BAR_MM, screw_map_html
from tests.server.helpers import Bench, person
from tests.server.test_register import OFFER, SPEC

PHONE = {"device_type": "handset", "build": "phone_front"}


class Fit(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(**PHONE)
        self.path = f"/jobs/{self.job['id']}"

    def offer(self, comes_with: list[str]) -> None:
        self.bench.ok("POST", f"{self.path}/match/new-panel", {"name": "GW-1", "spec": {**SPEC, "finish": "matt"}})
        panel = self.bench.ok("POST", "/panels", {"name": "GW-2", "spec": {**SPEC, "finish": "matt"}})
        offer = self.bench.ok("POST", f"/panels/{panel['id']}/offers", {**OFFER, "comes_with": comes_with})
        self.bench.ok("POST", f"{self.path}/match/offer", {"offer_id": offer["id"]})

    def test_the_parts_that_the_offer_brings_are_not_asked_for(self) -> None:
        self.offer(["button", "adhesive"])
        state = self.bench.ok("GET", f"{self.path}/fit")
        self.assertEqual([part["id"] for part in state["parts"] if part["comes"]], ["home_button"])
        state = self.bench.work_to(self.job["id"], "parts", dry_fit="Seen by eye.")
        done: dict[str, Any] = {"gate": "parts", "choice": "", "notes": {"parts": {"earpiece": "moved"}}}
        status, told = self.bench.call("POST", f"{self.path}/fit/gates", done)
        self.assertEqual(
            (status, "home button" in told["detail"], "mesh" in told["detail"].lower()), (422, False, True)
        )
        fates = {"earpiece": "moved", "sensors": "moved", "mesh": "not_there", "face_unlock": "damaged"}
        state = self.bench.ok("POST", f"{self.path}/fit/gates", {**done, "notes": {"parts": fates}})
        self.assertEqual({p["id"]: p["fate"] for p in state["parts"] if p["fate"]}, fates)

    def test_adhesive_that_cures_holds_the_hand_over_back_over_reloads(self) -> None:
        self.bench.work_to(self.job["id"], "cure", dry_fit="Seen by eye.")
        body = {"gate": "cure", "choice": "liquid", "notes": {"hours": 6}}
        state = self.bench.ok("POST", f"{self.path}/fit/gates", body)
        clock = state["clocks"][-1]
        self.assertEqual((clock["title"], clock["known"], clock["left_s"] > 21_000), ("Adhesive cures", True, True))
        self.assertEqual([one["job_id"] for one in self.bench.ok("GET", "/clocks")], [self.job["id"]] * 2)
        head = self.bench.ok("GET", self.path)
        self.assertIn("Adhesive cures: 6 h 0 min left", head["hindrances"][0])
        status, told = self.bench.call("POST", f"{self.path}/hand-over", {"because": ""})
        self.assertEqual(status, 422)
        GatePassed.objects.filter(gate__in=("cure", "frame_ready")).update(at=timezone.now() - dt.timedelta(hours=7))
        self.assertEqual(self.bench.ok("GET", self.path)["hindrances"], [])
        self.assertEqual(self.bench.ok("GET", "/clocks"), [])  # it rang long ago

    def test_the_sheet_for_screws_has_its_true_size(self) -> None:
        """ISO 216: A4 is 210 x 297 mm; a point is 1/72 inch, so 595.28 x 841.89."""
        from weasyprint import HTML

        self.assertEqual(self.bench.call("GET", f"{self.path}/fit/screws.pdf")[1][:4], b"%PDF")
        job = Job.objects.get(pk=self.job["id"])
        page = HTML(string=screw_map_html(job)).render().pages[0]
        bars = [
            box for box in page._page_box.descendants() if box.element is not None and box.element.get("class") == "bar"
        ]
        self.assertAlmostEqual(bars[0].width * 25.4 / 96, CHECK_BAR_MM, places=3)
        self.assertAlmostEqual(page.width * 25.4 / 96, 210, places=1)
        Job.objects.filter(pk=job.pk).update(build="")
        self.assertEqual(self.bench.call("GET", f"{self.path}/fit/screws.pdf")[0], 422)

    def test_what_was_found_and_photographed_stays_at_its_step(self) -> None:
        run = self.bench.ok("POST", f"{self.path}/runs/bench")
        data = cv2.imencode(".jpg", np.full((400, 500, 3), 90, np.uint8))[1].tobytes()
        photo = self.bench.send(run["id"], data, "k").json()
        shown = {"step": "open", "photo_id": photo["id"]}
        for _ in range(2):
            state = self.bench.ok("POST", f"{self.path}/fit/notes", shown)
        self.assertEqual([(n["step"], n["photo_id"]) for n in state["notes"]], [("open", photo["id"])])
        found = {"step": "lift", "text": "Frame bent at the upper left", "was_so": True, "consent_needed": True}
        state = self.bench.ok("POST", f"{self.path}/fit/notes", found)
        entry = Entry.objects.filter(job_id=self.job["id"], kind="fit_note").get()
        self.assertIn("Found on the way: Frame bent at the upper left", entry.text)
        for wrong in ({"step": "open"}, {"was_so": False}, {"text": "x" * 400}):
            self.assertEqual(self.bench.call("POST", f"{self.path}/fit/notes", wrong)[0], 422, wrong)
        other = self.bench.new_job(**PHONE)
        self.assertEqual(self.bench.call("POST", f"/jobs/{other['id']}/fit/notes", shown)[0], 404)
        note = state["notes"][-1]["id"]
        self.assertEqual(len(self.bench.ok("DELETE", f"{self.path}/fit/notes/{note}")["notes"]), 1)

    def test_the_next_job_of_the_device_begins_where_the_last_one_ended(self) -> None:
        device = self.bench.ok("POST", "/devices", {"kind": "handset", "names": ["GW 5"], "build": "phone_front"})
        self.bench.ok("POST", f"{self.path}/device", {"device_id": device["id"]})
        self.bench.work_to(self.job["id"], "parts", dry_fit="Seen by eye.")
        Job.objects.filter(pk=self.job["id"]).update(closed_at=timezone.now())
        fresh = self.bench.new_job(**PHONE)
        self.bench.ok("POST", f"/jobs/{fresh['id']}/device", {"device_id": device["id"]})
        last = self.bench.ok("GET", f"/jobs/{fresh['id']}/fit")["last_time"]
        self.assertEqual(last["job_id"], self.job["id"])
        self.assertIn("3 display plate screws", last["told"]["open"])
        self.assertIn("warmed 2 times 45 s", last["told"]["lift"])
