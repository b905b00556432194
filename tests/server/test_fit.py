"""Fit beyond the order of steps: clocks, parts, notes with photos, what was met last time."""

import datetime as dt
from typing import Any

import cv2
import numpy as np
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from server.fitting.models import GatePassed
from server.inspections.models import Photo, Run
from server.jobs.models import Entry, Job
from server.parts.models import Device
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
        state = self.bench.work_to(self.job["id"], "parts", by_eye=True)
        done: dict[str, Any] = {"gate": "parts", "choice": "", "notes": {"parts": {"earpiece": "moved"}}}
        status, told = self.bench.call("POST", f"{self.path}/fit/gates", done)
        self.assertEqual(
            (status, "home button" in told["detail"], "mesh" in told["detail"].lower()), (422, False, True)
        )
        fates = {"earpiece": "moved", "sensors": "moved", "mesh": "not_there", "face_unlock": "damaged"}
        state = self.bench.ok("POST", f"{self.path}/fit/gates", {**done, "notes": {"parts": fates}})
        self.assertEqual({p["id"]: p["fate"] for p in state["parts"] if p["fate"]}, fates)

    def test_adhesive_that_cures_holds_the_hand_over_back_over_reloads(self) -> None:
        self.bench.work_to(self.job["id"], "cure", by_eye=True)
        body = {"gate": "cure", "choice": "liquid", "notes": {"hours": 6}}
        state = self.bench.ok("POST", f"{self.path}/fit/gates", body)
        clock = state["clocks"][-1]
        self.assertEqual((clock["title"], clock["known"], clock["left_s"] > 21_000), ("Adhesive cures", True, True))
        self.assertEqual([one["job_id"] for one in self.bench.ok("GET", "/clocks")], [self.job["id"]] * 2)
        with CaptureQueriesContext(connection) as few:
            self.bench.ok("GET", "/clocks")
        for _ in range(3):
            other = self.bench.new_job(**PHONE)
            self.bench.work_to(other["id"], "lift")
        self.bench.ok("GET", "/clocks")
        with CaptureQueriesContext(connection) as more:
            self.bench.ok("GET", "/clocks")
        self.assertEqual(len(more), len(few))  # as many questions for four jobs as for one
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

    def test_a_step_that_asks_for_a_photo_waits_for_it_or_for_a_reason(self) -> None:
        job = self.bench.new_job(build="whole_lid")
        path = f"/jobs/{job['id']}"
        state = self.bench.work_to(job["id"], "open")
        step = next(one for one in state["steps"] if one["step"]["id"] == "open")
        self.assertEqual((step["with_reason"], "photo first" in step["blocked"]), (True, True))
        self.assertEqual(
            self.bench.call("POST", f"{path}/fit/gates", {"gate": "open"})[1]["type"], "/problems/gate-photo"
        )
        run = self.bench.ok("POST", f"{path}/runs/bench")
        data = cv2.imencode(".jpg", np.full((400, 500, 3), 70, np.uint8))[1].tobytes()
        self.bench.ok(
            "POST",
            f"{path}/fit/notes",
            {"step": "open", "photo_id": self.bench.send(run["id"], data, "k").json()["id"]},
        )
        self.bench.ok("POST", f"{path}/fit/gates", {"gate": "open"})

    def test_the_next_job_of_the_device_begins_where_the_last_one_ended(self) -> None:
        device = self.bench.ok("POST", "/devices", {"kind": "handset", "names": ["GW 5"], "build": "phone_front"})
        self.bench.ok("POST", f"{self.path}/device", {"device_id": device["id"]})
        self.bench.work_to(self.job["id"], "parts", by_eye=True)
        Job.objects.filter(pk=self.job["id"]).update(closed_at=timezone.now())
        fresh = self.bench.new_job(**PHONE)
        self.bench.ok("POST", f"/jobs/{fresh['id']}/device", {"device_id": device["id"]})
        last = self.bench.ok("GET", f"/jobs/{fresh['id']}/fit")["last_time"]
        self.assertEqual(last["job_id"], self.job["id"])
        self.assertIn("3 display plate screws", last["told"]["open"])
        self.assertIn("warmed 2 times 45 s, battery 41 °C", last["told"]["lift"])


class OwnProcedures(TestCase):
    """A shop's own way: written by a lead, checked in full, followed as it was when the job began."""

    def setUp(self) -> None:
        self.bench, self.lead = Bench(person("tech")), Bench(person("boss", "lead"))
        self.text = self.lead.ok("GET", "/procedures/ears/text")["text"]

    def save(self, text: str, version: int = 0) -> dict[str, Any]:
        body = {"text": text, "based_on": "ears", "version": version}
        return dict(self.lead.ok("PUT", "/procedures/own_ears_2", body))

    def test_a_job_keeps_the_version_it_began_and_is_offered_the_newer_one(self) -> None:
        self.save(self.text.replace("title: Front screws out", "title: Six front screws out"))
        device = self.bench.ok("POST", "/devices", {"kind": "clamshell", "names": ["TB 9"], "build": "ears"})
        job = self.bench.new_job()
        path = f"/jobs/{job['id']}"
        self.bench.ok("POST", f"{path}/device", {"device_id": device["id"]})
        state = self.bench.ok("POST", f"{path}/fit/build", {"build": "own_ears_2"})
        self.assertEqual([(b["id"], b["own"]) for b in state["builds"]][0], ("own_ears_2", True))
        self.assertEqual(self.bench.ok("GET", f"/devices/{device['id']}")["device"]["build"], "own_ears_2")
        self.bench.work_to(job["id"], "panel_screws")
        told = self.save(self.text.replace("title: Front screws out", "title: Eight front screws out"), version=1)
        self.assertEqual(told["version"], 2)
        state = self.bench.ok("GET", f"{path}/fit")
        titles = [one["step"]["title"] for one in state["steps"]]
        self.assertEqual(("Six front screws out" in titles, state["newer"]), (True, True))
        state = self.bench.ok("POST", f"{path}/fit/newer")
        self.assertIn("Eight front screws out", [one["step"]["title"] for one in state["steps"]])
        self.assertEqual((state["newer"], state["out"]), (False, {"bezel": 2}))
        self.assertEqual(self.bench.call("POST", f"{path}/fit/newer")[0], 422)
        self.lead.ok("DELETE", "/procedures/own_ears_2")
        self.assertEqual(self.bench.ok("GET", f"{path}/fit")["title"], told["title"])  # the job goes on by it
        fresh = self.bench.new_job()
        self.assertEqual(self.bench.call("POST", f"/jobs/{fresh['id']}/fit/build", {"build": "own_ears_2"})[0], 422)

    def test_what_cannot_be_followed_is_not_stored(self) -> None:
        circle = self.text.replace("id: bezel_screws\n", "id: bezel_screws\n    needs: [close]\n", 1)
        for slug, text, words in (
            ("ears", self.text, "own_"),
            ("own_A", self.text, "own_"),
            ("own_a", circle, "needs"),
            ("own_a", self.text.replace("needs: [make_safe]", "needs: [make_save]", 1), "make_safe"),
            ("own_a", "title: [", "YAML"),
            ("own_a", "a: &a [x, x]\nb: &b [*a, *a]\nc: [*b, *b]\n", ""),
            ("own_a", "x" * 90_000, ""),
        ):
            status, told = self.lead.call("PUT", f"/procedures/{slug}", {"text": text})
            self.assertEqual(status, 422, slug)
            self.assertIn(words, told["detail"])
        self.assertEqual(self.bench.call("PUT", "/procedures/own_a", {"text": self.text})[0], 403)
        self.save(self.text)
        self.assertEqual(self.lead.call("PUT", "/procedures/own_ears_2", {"text": self.text})[0], 409)
        told = self.bench.ok("POST", "/procedures/own_x/check", {"text": self.text})
        self.assertEqual((len(told["steps"]), told["changes"]), (14, []))
        changed = self.text.replace("id: bezel_screws\n", "id: bezel_screws\n    why: They are short.\n", 1)
        told = self.bench.ok("POST", "/procedures/own_x/check", {"text": changed, "based_on": "ears"})
        self.assertTrue(any(line.endswith("out: why.") for line in told["changes"]), told["changes"])


class Screws(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(build="ears")
        self.path = f"/jobs/{self.job['id']}/fit"

    def test_places_are_tapped_kept_and_offered_to_the_next_job(self) -> None:
        device = Device.objects.create(names=["Ferry 14"], kind="clamshell", build="ears")
        Job.objects.update(device=device)
        spots = [{"x": 0.1, "y": 0.9, "hole": ""}, {"x": 0.12, "y": 0.9, "hole": "inner"}]
        state = self.bench.ok("PUT", f"{self.path}/places/front", {"places": spots})
        self.assertEqual((state["fasteners"]["front"]["placed"], state["fasteners"]["front"]["spots"]), ("here", spots))
        self.bench.work_to(self.job["id"], "bezel")
        Job.objects.update(closed_at=timezone.now())
        after = self.bench.new_job(build="ears")
        Job.objects.filter(pk=after["id"]).update(device=device)
        told = self.bench.ok("GET", f"/jobs/{after['id']}/fit")["fasteners"]
        self.assertEqual((told["front"]["placed"], told["bezel"]["placed"]), ("last_time", "usual"))
        for body in ({"places": [{"x": 3, "y": 0}]}, {"places": spots * 40}, {"places": spots, "photo_id": 999}):
            self.assertIn(self.bench.call("PUT", f"/jobs/{after['id']}/fit/places/front", body)[0], (404, 422), body)
        self.assertEqual(self.bench.call("PUT", f"/jobs/{after['id']}/fit/places/sofa", {"places": []})[0], 422)

    def test_screws_on_a_photo_stay_on_that_photo_for_the_next_job_too(self) -> None:
        device = Device.objects.create(names=["Ferry 14"], kind="clamshell", build="ears")
        Job.objects.update(device=device)
        run = Run.objects.create(job_id=self.job["id"], stage="bench")
        shot = Photo.objects.create(run=run, name="open.jpg", sha256="0" * 64, size_bytes=1, sent_by="tech")
        spots = [{"x": 0.4, "y": 0.2, "hole": ""}]
        body = {"places": spots, "photo_id": shot.pk}
        self.bench.ok("PUT", f"{self.path}/places/front", body)
        self.bench.work_to(self.job["id"], "bezel")
        Job.objects.update(closed_at=timezone.now())
        after = self.bench.new_job(build="ears")
        path = f"/jobs/{after['id']}/fit"
        self.assertEqual(
            self.bench.call("PUT", f"{path}/places/front", body)[0], 404
        )  # the photo is of a job of no known device
        Job.objects.filter(pk=after["id"]).update(device=device)
        front = self.bench.ok("GET", path)["fasteners"]["front"]
        self.assertEqual((front["placed"], front["photo_id"], front["spots"]), ("last_time", shot.pk, spots))
        front = self.bench.ok("PUT", f"{path}/places/front", body)["fasteners"]["front"]
        self.assertEqual((front["placed"], front["photo_id"]), ("here", shot.pk))

    def test_a_keep_out_found_here_is_shown_to_the_next_job_of_the_device(self) -> None:
        device = Device.objects.create(names=["Ferry 14"], kind="clamshell", build="ears")
        Job.objects.update(device=device)
        place = {"edge": "bottom", "along": [0.2, 0.4], "depth_mm": 12, "what": "light cable"}
        for _ in range(2):  # a second press changes nothing
            state = self.bench.ok("POST", f"{self.path}/keep-outs", place)
        found = [one for one in state["keep_outs"] if one["id"]]
        self.assertEqual([(one["what"], one["by"]) for one in found], [("light cable", "tech")])
        for wrong in ({"along": [0.4, 0.2]}, {"along": [-1, 2]}, {"depth_mm": 0}, {"what": ""}, {"edge": "front"}):
            self.assertEqual(self.bench.call("POST", f"{self.path}/keep-outs", place | wrong)[0], 422, wrong)
        after = self.bench.new_job(build="ears")
        path = f"/jobs/{after['id']}/fit"
        self.assertEqual([one["id"] for one in self.bench.ok("GET", path)["keep_outs"]], [])
        self.assertEqual(self.bench.call("DELETE", f"{path}/keep-outs/{found[0]['id']}")[0], 404)
        Job.objects.filter(pk=after["id"]).update(device=device)
        self.assertEqual([one["id"] for one in self.bench.ok("GET", path)["keep_outs"]], [found[0]["id"]])
        self.assertEqual(self.bench.ok("DELETE", f"{path}/keep-outs/{found[0]['id']}")["keep_outs"], [])

    def test_a_screw_lost_inside_holds_the_power_back(self) -> None:
        self.bench.work_to(self.job["id"], "power_on", by_eye=True)
        self.bench.ok("DELETE", f"{self.path}/gates/close")
        body = {"gate": "close", "choice": "some_missing", "counts": {"bezel": 1}}
        self.assertEqual(self.bench.call("POST", f"{self.path}/gates", body)[1]["type"], "/problems/gate-missing")
        body["notes"] = {"fasteners": {"bezel": {"lost_inside": 1}}}
        state = self.bench.ok("POST", f"{self.path}/gates", body)
        self.assertEqual((state["unaccounted"], state["out"]), (1, {}))
        steps = {one["step"]["id"]: one for one in state["steps"]}
        self.assertIn("loose", steps["power_on"]["blocked"])
        self.assertIn("1 bezel lost inside", Entry.objects.last().text)  # type: ignore[union-attr]

    def test_the_touch_controller_moves_over_in_the_course_of_the_job(self) -> None:
        phone = self.bench.new_job(**PHONE)
        path = f"/jobs/{phone['id']}/fit"
        state = self.bench.work_to(phone["id"], "dry_fit")
        self.assertEqual([one["id"] for one in state["subs"]], ["touch_transfer"])
        state = self.bench.ok("POST", f"{path}/sub", {"sub": "touch_transfer"})
        steps = {one["step"]["id"]: one for one in state["steps"]}
        self.assertEqual((steps["sub_claim"]["state"], steps["plug"]["state"]), ("open", "blocked"))
        self.assertEqual((state["subs"], state["newer"]), ([], False))
        self.assertIn("photo", self.bench.call("POST", f"{path}/gates", {"gate": "sub_claim"})[1]["detail"])
        self.bench.ok("POST", f"{path}/gates", {"gate": "sub_claim", "reason": "The camera is away."})
        state = self.bench.ok("DELETE", f"{path}/sub")
        self.assertEqual(state["subs_taken"], [])
        self.assertNotIn("sub_claim", {one["step"]["id"] for one in state["steps"]})
        self.assertEqual(self.bench.call("DELETE", f"{path}/sub")[0], 422)
        self.assertEqual(self.bench.call("POST", f"{path}/sub", {"sub": "side_brackets"})[0], 422)

    def test_a_device_that_differs_becomes_a_way_of_our_own_with_all_that_was_done(self) -> None:
        device = Device.objects.create(names=["Ferry 14"], kind="clamshell", build="ears")
        Job.objects.update(device=device)
        self.bench.work_to(self.job["id"], "panel_screws")
        body = {"differs": 'Two more screws "under" the rubber foot'}
        self.assertEqual(self.bench.call("POST", f"{self.path}/fork", body)[0], 403)
        lead = Bench(person("chief", "lead"))
        self.assertEqual(lead.call("POST", f"{self.path}/fork", {"differs": " "})[0], 422)
        state = lead.ok("POST", f"{self.path}/fork", body)
        self.assertIn("rubber foot", state["title"])
        self.assertEqual((state["build"], state["newer"]), ("own_ears_2", False))
        self.assertEqual([one["step"]["id"] for one in state["steps"] if one["state"] == "open"], ["panel_screws"])
        device.refresh_from_db()
        self.assertEqual(device.build, "own_ears_2")
        self.bench.work_to(self.job["id"], "close", by_eye=True)
        asked = {one["id"] for one in self.bench.ok("GET", f"/jobs/{self.job['id']}/proving")["functions"]}
        self.assertEqual(asked, {"hinges", "camera"})
