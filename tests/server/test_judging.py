"""Decisions on findings, own acceptance profiles, and the magnifier."""

import io
from typing import Any

import numpy as np
from django.test import TestCase
from PIL import Image

from server.inspections.models import Photo
from server.reports.pdf import report_html
from tests.server.helpers import DEAD, Bench, InspectionCase, person, photo, work

OWN = {"id": "counter", "title": "Counter sale", "pixels": "class-0"}


class Decisions(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        self.bench.send(self.run.pk, photo(self.run, "white"), "w")
        work()

    def result(self) -> Any:
        return self.bench.ok("GET", f"/runs/{self.run.pk}")["result"]

    def decide(self, verdict: str, reason: str = "", **more: Any) -> tuple[int, Any]:
        finding = {name: self.result()["findings"][0][name] for name in ("kind", "channel", "x", "y")}
        return self.bench.call(
            "POST", f"/runs/{self.run.pk}/decisions", {**finding, "verdict": verdict, "reason": reason, **more}
        )

    def count(self) -> float:
        return float(next(c["value"] for c in self.result()["verdict"]["criteria"] if c["id"] == "type_2"))

    def test_rejecting_changes_the_verdict_and_stays_through_a_new_measurement(self) -> None:
        self.assertEqual(self.count(), 1)
        self.assertEqual(self.decide("rejected", "Wiped off.")[0], 200)
        self.assertEqual(self.count(), 0)
        self.bench.send(self.run.pk, photo(self.run, "red", seed=4), "r")
        work()
        finding = self.result()["findings"][0]
        self.assertEqual(
            (finding["decision"]["verdict"], finding["decision"]["by"], self.count()), ("rejected", "tech", 0)
        )
        self.assertIn("Wiped off", report_html(self.job["id"]))
        self.assertEqual(self.decide("undo")[0], 200)
        self.assertEqual((self.result()["findings"][0]["decision"], self.count()), (None, 1))

    def test_a_correction_needs_a_reason_and_is_written_down(self) -> None:
        status, told = self.decide("corrected", becomes="bright_pixel")
        self.assertEqual((status, told["type"]), (422, "/problems/reason-missing"))
        self.assertEqual(self.decide("corrected", "Lit on black.", becomes="bright_pixel")[0], 200)
        finding = self.result()["findings"][0]
        self.assertEqual((finding["kind"], finding["decision"]["measured_kind"]), ("bright_pixel", "dead_pixel"))
        record = self.bench.ok("GET", f"/jobs/{self.job['id']}/record")
        self.assertIn("corrected to bright pixel", record[-2]["text"])
        self.assertEqual((record[-1]["kind"], record[-1]["who"]), ("judged", "Clear Lens"))

    def test_a_finding_that_is_gone_is_a_conflict(self) -> None:
        body = {"kind": "dead_pixel", "x": 3, "y": 3, "verdict": "rejected"}
        self.assertEqual(self.bench.call("POST", f"/runs/{self.run.pk}/decisions", body)[0], 409)
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over")
        self.assertEqual(self.decide("rejected")[1]["type"], "/problems/job-closed")

    def test_the_magnifier_shows_the_fault_and_its_neighbourhood(self) -> None:
        stored = Photo.objects.get()
        answer = self.bench.client.get(f"/api/photos/{stored.pk}/closeup?x={DEAD[0].x}&y={DEAD[0].y}&reach_px=8")
        seen = np.asarray(Image.open(io.BytesIO(answer.content)).convert("L"), float)
        half = seen.shape[0]
        middle = slice(half // 2 - 6, half // 2 + 6)
        # the dead pixel is dark in the middle of the left view, and the right view is even
        self.assertLess(seen[middle, middle].mean(), np.median(seen[:, :half]) - 40)
        self.assertGreater(
            seen[middle, half + 6 + half // 2 - 6 : half + 12 + half // 2].mean(), np.median(seen[:, half + 6 :]) - 40
        )
        for bad in ("x=9999&y=3", "x=nan&y=3"):
            self.assertEqual(self.bench.client.get(f"/api/photos/{stored.pk}/closeup?{bad}").status_code, 422)

    def test_a_changed_profile_judges_its_open_jobs_anew(self) -> None:
        lead = Bench(person("boss", "lead"))
        lead.ok("PUT", "/profiles/counter", {"profile": OWN, "version": 0})
        job = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "profile": "counter"})
        self.assertEqual(self.result()["verdict"]["result"], "fail")
        lead.ok("PUT", "/profiles/counter", {"profile": {**OWN, "pixels": "class-III"}, "version": 1})
        self.assertEqual(
            (self.result()["verdict"]["profile"], self.result()["verdict"]["result"]), ("counter", "not_proven")
        )


class Profiles(TestCase):
    def setUp(self) -> None:
        self.lead, self.tech = Bench(person("boss", "lead")), Bench(person("tech"))

    def test_leads_write_technicians_read(self) -> None:
        self.assertEqual(self.tech.call("PUT", "/profiles/counter", {"profile": OWN})[0], 403)
        self.lead.ok("PUT", "/profiles/counter", {"profile": OWN})
        told = {one["profile"]["id"]: one["version"] for one in self.tech.ok("GET", "/profiles")}
        self.assertEqual((told["counter"], told["class-II"]), (1, 0))
        self.assertIn("counter", [one["id"] for one in self.tech.ok("GET", "/vocabulary")["profiles"]])
        self.assertEqual(self.tech.new_job(profile="counter")["profile"], "counter")

    def test_what_a_profile_and_a_house_rule_said_before_is_told_with_who_and_when(self) -> None:
        self.lead.ok("PUT", "/profiles/counter", {"profile": OWN})
        changed = {**OWN, "pixels": "class-III", "touch": {"rate_hz": 60, "offset_mm": None}}
        self.lead.ok("PUT", "/profiles/counter", {"profile": changed, "version": 1})
        latest, first = self.tech.ok("GET", "/profiles/counter/history")
        self.assertEqual((latest["version"], first["version"], latest["by"]), (2, 1, "boss"))
        told = {one["field"]: (one["before"], one["after"]) for one in latest["changes"]}
        self.assertEqual(
            told, {"pixels": (OWN["pixels"], "class-III"), "rate_hz": ("", "60"), "offset_mm": ("", "not judged")}
        )
        self.assertIn("title", [one["field"] for one in first["changes"]])
        self.assertEqual(self.tech.ok("GET", "/profiles/class-II/history"), [])
        rule = self.lead.ok("GET", "/house-rules")[0]
        schools = [one["id"] for one in rule["schools"]]
        for school in (schools[1], schools[0]):
            self.lead.ok("PUT", f"/house-rules/{rule['id']}", {"school": school})
        change = self.tech.ok("GET", f"/house-rules/{rule['id']}/history")[0]["changes"][0]
        titles = [one["title"] for one in rule["schools"]]
        self.assertEqual((change["field"], change["before"], change["after"]), (rule["title"], titles[1], titles[0]))

    def test_two_editors_notice_each_other_and_built_in_names_are_taken(self) -> None:
        self.lead.ok("PUT", "/profiles/counter", {"profile": OWN})
        self.assertEqual(self.lead.call("PUT", "/profiles/counter", {"profile": OWN})[0], 409)
        self.assertEqual(
            self.lead.call("PUT", "/profiles/class-I", {"profile": OWN})[1]["type"], "/problems/profile-taken"
        )
        self.assertEqual(
            self.lead.call("PUT", "/profiles/counter", {"profile": {**OWN, "pixels": "class-9"}, "version": 1})[0], 422
        )

    def test_retired_ones_are_offered_no_longer_and_stay_with_their_jobs(self) -> None:
        self.lead.ok("PUT", "/profiles/counter", {"profile": OWN})
        job = self.tech.new_job(profile="counter")
        self.lead.ok("DELETE", "/profiles/counter")
        self.assertNotIn("counter", [one["profile"]["id"] for one in self.tech.ok("GET", "/profiles")])
        self.assertEqual(
            self.tech.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "owner": "Quay"})["profile"],
            "counter",
        )
