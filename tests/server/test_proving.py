"""The one verdict: what was measured, what people tried, under which conditions, and what was passed without proof."""

import base64
import csv
import io
import json
import time
from typing import Any
from urllib.parse import quote

import numpy as np
from django.test import Client, TestCase

from lens.reporting import owner_texts
from server.bench.summaries import refresh_stale
from server.fitting.models import GatePassed
from server.handchecks.models import HandCheck
from server.inspections.models import Run
from server.jobs.models import Entry, Job
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.proving.verdict import functions_of, verdict_of
from server.reports.pdf import report_html
from server.verdicts.look import JobLook
from tests.server.helpers import JOB, Bench, InspectionCase, person, photo, work


class Functions(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(device_type="handset", build="phone_front", panel_width=360, panel_height=640)
        self.path = f"/jobs/{self.job['id']}/proving"

    def test_what_was_touched_is_asked_and_nothing_before_it_was_opened(self) -> None:
        self.assertEqual(self.bench.ok("GET", self.path)["functions"], [])
        self.bench.work_to(self.job["id"], "frame_ready", by_eye=True)
        asked = {one["id"]: one for one in self.bench.ok("GET", self.path)["functions"]}
        self.assertIn("moved over", asked["earpiece"]["because"])
        self.assertTrue({"proximity", "camera", "card", "face_unlock"} <= set(asked))
        self.assertNotIn("keyboard", asked)

    def test_untested_functions_leave_it_not_proven_and_a_dead_one_fails_it(self) -> None:
        self.bench.work_to(self.job["id"], "frame_ready", by_eye=True)
        verdict = self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]
        self.assertEqual(verdict["result"], "not_proven")
        self.assertTrue(any("not tested" in words for words in verdict["missing"]), verdict["missing"])
        self.bench.test_functions(self.job["id"])
        parts = {one["part"]: one for one in self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]["parts"]}
        self.assertEqual((parts["functions"]["result"], parts["functions"]["grade"]), ("pass", "seen"))
        self.bench.ok(
            "POST", f"{self.path}/functions", {"function": "earpiece", "outcome": "faulty", "note": "rattles"}
        )
        verdict = self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]
        self.assertEqual(verdict["result"], "fail")
        self.assertIn("earpiece", " ".join(one["text"] for one in verdict["parts"]))
        self.bench.ok("POST", f"{self.path}/functions", {"function": "earpiece", "outcome": "was_so"})
        told = self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]
        self.assertIn("Earpiece did not work before either.", told["conditions"])
        self.assertEqual(Entry.objects.filter(kind="hand_check", data__name="earpiece").count(), 3)

    def test_wrong_answers_are_refused_in_words(self) -> None:
        self.assertEqual(
            self.bench.call("POST", f"{self.path}/functions", {"function": "toaster", "outcome": "good"})[0], 422
        )
        self.assertEqual(
            self.bench.call("POST", f"{self.path}/functions", {"function": "earpiece", "outcome": "fine"})[0], 422
        )
        self.assertEqual(
            self.bench.call("POST", f"{self.path}/eye/received", {"aspect": "light", "outcome": "good"})[0], 422
        )

    def test_a_look_by_eye_passes_the_dry_fit_and_is_printed_as_such(self) -> None:
        self.bench.work_to(self.job["id"], "dry_fit")
        gates = f"/jobs/{self.job['id']}/fit/gates"
        for aspect, outcome in (("picture", "good"), ("light", "good"), ("touch", "bad")):
            self.bench.ok("POST", f"{self.path}/eye/dry_fit", {"aspect": aspect, "outcome": outcome})
        self.assertEqual(self.bench.call("POST", gates, {"gate": "dry_fit"})[1]["type"], "/problems/gate-failed")
        self.bench.ok("POST", f"{self.path}/eye/dry_fit", {"aspect": "touch", "outcome": "good"})
        self.bench.ok("POST", gates, {"gate": "dry_fit"})
        self.assertIn("seen by eye", Entry.objects.filter(kind="gate").last().text)  # type: ignore[union-attr]
        self.assertIn("by eye by tech, not measured", report_html(self.job["id"]))
        # nobody can say so of himself
        self.bench.ok("DELETE", f"{gates}/dry_fit")
        self.bench.ok("POST", f"{self.path}/eye/dry_fit", {"aspect": "touch", "outcome": "cannot_tell"})
        notes = {"by_eye": True}
        self.assertEqual(
            self.bench.call("POST", gates, {"gate": "dry_fit", "notes": notes})[1]["type"], "/problems/gate-inspection"
        )

    def test_what_a_person_sees_to_be_bad_fails_and_good_by_eye_proves_no_class(self) -> None:
        self.bench.look_by_eye(self.job["id"], "closed")
        verdict = self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]
        self.assertEqual((verdict["result"], verdict["parts"][-1]["grade"]), ("not_proven", "seen"))
        self.assertIn("not measured", verdict["parts"][-1]["text"])
        self.bench.ok("POST", f"{self.path}/eye/closed", {"aspect": "light", "outcome": "bad"})
        self.assertEqual(self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]["result"], "fail")

    def test_every_place_shows_the_same_verdict(self) -> None:
        self.bench.work_to(self.job["id"], "frame_ready", by_eye=True)
        self.bench.test_functions(self.job["id"])
        self.bench.ok("POST", f"{self.path}/functions", {"function": "camera", "outcome": "faulty"})
        number = self.job["id"]
        head = self.bench.ok("GET", f"/jobs/{number}")
        report = json.loads(self.bench.client.get(f"/api/jobs/{number}/report.json").content)
        listed = self.bench.ok("GET", "/jobs")["jobs"][0]
        self.assertEqual({head["verdict"]["result"], report["verdict"]["result"], listed["verdict"]}, {"fail"})
        self.assertIn('<p class="verdict">Fail</p>', report_html(number))
        state = next(one for one in head["stations"] if one["id"] == "prove")
        self.assertEqual(state["state"], "failed")
        table = self.bench.client.get(f"/api/jobs/{number}/findings.csv?stage=closed").content.decode()
        self.assertIn("job_verdict", next(csv.reader(io.StringIO(table))))

    def test_own_ways_ask_as_the_way_that_they_were_made_of(self) -> None:
        self.assertEqual(functions_of(Job.objects.get()), ())


class Conditions(TestCase):
    def test_they_are_kept_in_the_record_and_checked(self) -> None:
        bench = Bench(person("tech"))
        job = bench.new_job()
        run = bench.ok("POST", f"/jobs/{job['id']}/runs/dry_fit")
        self.assertEqual(run["pattern_set"], "triage")
        told = bench.ok("PUT", f"/runs/{run['id']}/conditions", {"film": "on", "battery_percent": 4, "mains": False})
        self.assertEqual((told["conditions"]["film"], told["conditions"]["room"]), ("on", None))
        self.assertIn("film on, on battery, 4 % of charge", Entry.objects.last().text)  # type: ignore[union-attr]
        before = Entry.objects.count()
        bench.ok("PUT", f"/runs/{run['id']}/conditions", {"film": "on", "battery_percent": 4, "mains": False})
        self.assertEqual(Entry.objects.count(), before)
        self.assertEqual(bench.call("PUT", f"/runs/{run['id']}/conditions", {"battery_percent": 400})[0], 422)


class Sensed(TestCase):
    """What the device records is judged at the bench; only 'good' is entered, as measured."""

    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(device_type="handset", build="phone_with_frame")
        self.bench.work_to(self.job["id"], "plug", by_eye=True)
        run = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/closed")["id"]
        url = self.bench.ok("POST", f"/runs/{run}/access", {"kind": "sense"})["url"]
        self.path = "/" + url.split("/", 3)[3]

    def send(self, body: Any) -> tuple[int, Any]:
        answer = Client().post(f"{self.path}/sensed", json.dumps(body), content_type="application/json")
        return answer.status_code, answer.json()

    def outcomes(self) -> dict[str, Any]:
        told = self.bench.ok("GET", f"/jobs/{self.job['id']}/proving")["functions"]
        return {one["id"]: (one["answer"]["outcome"], one["answer"]["grade"]) for one in told if one["answer"]}

    def test_a_tone_and_a_frame(self) -> None:
        state = Client().get(f"{self.path}/state").json()
        self.assertIn("tone", {one["id"] for one in state["senses"]})
        rng, at = np.random.default_rng(1), np.arange(12_000) / 16_000
        quiet = rng.normal(0, 300, 12_000)
        tones = sum(2000 * np.sin(2 * np.pi * hz * at) for hz in state["tones_hz"])

        def text(samples: Any) -> str:
            return base64.b64encode(samples.astype("<i2").tobytes()).decode()

        body = {"sense": "tone", "rate_hz": 16_000, "quiet": text(quiet)}
        status, told = self.send({**body, "played": text(rng.normal(0, 300, 12_000))})
        self.assertEqual((status, told["good"], self.outcomes()), (200, None, {}))
        self.assertTrue(self.send({**body, "played": text(quiet + tones)})[1]["good"])
        frame = np.tile(np.linspace(10, 240, 160).astype(np.uint8), (90, 1))
        luma = base64.b64encode(frame.tobytes()).decode()
        self.assertTrue(self.send({"sense": "front_camera", "width": 160, "luma": luma})[1]["good"])
        found = self.outcomes()
        self.assertEqual(set(found.values()), {("good", "measured")})
        self.assertLessEqual({"loudspeaker", "microphone", "camera"} & set(found), set(found))
        self.assertTrue(any(one["good"] for one in Client().get(f"{self.path}/state").json()["senses"]))

    def test_what_is_damaged_is_refused_and_a_revoked_code_opens_nothing(self) -> None:
        for body in (
            [],
            {},
            {"sense": "smell"},
            {"sense": "tone"},
            {"sense": "tone", "rate_hz": 1e400, "quiet": "", "played": ""},
            {"sense": "tone", "rate_hz": 16_000, "quiet": "?", "played": "?"},
            {"sense": "front_camera", "width": 7, "luma": "AAAA"},
            {"sense": "front_camera", "width": -1, "luma": "AAAA"},
            {"sense": "front_camera", "width": 160, "luma": "A" * 2_000_001},
        ):
            self.assertEqual(self.send(body)[0], 422, str(body)[:80])
        self.assertIn("microphone=(self)", Client().get(self.path)["Permissions-Policy"])
        self.assertEqual(
            Client().get(self.path.replace("/f/", "/g/") + "/state").status_code, 410
        )  # it opens nothing else
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over", {"because": "x"})
        self.assertEqual(Client().get(f"{self.path}/state").status_code, 410)


class Worthless(TestCase):
    def test_a_dim_look_without_charge_does_not_count(self) -> None:
        bench = Bench(person("tech"))

        def causes(**conditions: Any) -> tuple[str, list[float]]:
            path = f"/jobs/{bench.new_job()['id']}/evidence"
            told = bench.ok("POST", path, {"check": "first_look", "outcome": "dim", "conditions": conditions})
            return told["evidence"][-1]["set_aside"], [one["p"] for one in told["diagnosis"]["causes"]]

        aside, flat = causes(battery_percent=2, mains=False)
        counts, dim = causes(battery_percent=2, mains=True)
        self.assertIn("Plug it in", aside)
        self.assertEqual(counts, "")
        self.assertNotEqual(flat, dim)


class OneVerdict(InspectionCase):
    """No screen and no file says another verdict than the others: 200 made-up jobs, every place that shows one."""

    JOBS, SHOWN, PRINTED = 200, 60, 12

    def stored(self) -> dict[str, Any]:
        self.bench.send(self.run.pk, photo(self.run, "white", ()), "w")
        work()
        told = Run.objects.get(pk=self.run.pk).result
        assert told is not None
        return dict(told)

    def made_up(self, rng: np.random.Generator, whole: dict[str, Any], user: Any) -> Job:
        device = str(rng.choice(["clamshell", "handset"]))
        build = {"clamshell": "ears", "handset": "phone_front"}[device] if rng.random() < 0.8 else ""
        job = Job.objects.create(
            **{**JOB, "profile": "class-II", "device_type": device, "build": build}, created_by=user
        )
        for stage in ("inspect", "dry_fit", "closed", "recheck"):
            if rng.random() < 0.6:
                result = str(rng.choice(["pass", "fail", "not_proven"]))
                verdict = {**whole["verdict"], "result": result, "criteria": []}
                told: dict[str, Any] = {"battery_percent": int(rng.integers(0, 30)), "mains": bool(rng.random() < 0.5)}
                told |= {"room": str(rng.choice(["dark", "bright"]))} if rng.random() < 0.5 else {}
                Run.objects.create(job=job, stage=stage, result={**whole, "verdict": verdict}, conditions=told)
        if build and rng.random() < 0.7:
            done = ("make_safe", "plug", "panel_in") if device == "clamshell" else ("make_safe", "edge_screws")
            for gate in done:
                GatePassed.objects.create(job=job, gate=gate, by=user)
            for name in ("camera", "hinges", "earpiece"):
                if rng.random() < 0.5:
                    outcome = str(rng.choice(["good", "faulty", "was_so", "not_tested"]))
                    HandCheck.objects.create(
                        job=job, stage="closed", what="function", name=name, outcome=outcome, by=user
                    )
        return job

    def test_every_place_says_the_same(self) -> None:
        rng, whole, user = np.random.default_rng(22), self.stored(), self.bench.user
        Job.objects.update(title="The one that was photographed")
        jobs = [self.made_up(rng, whole, user) for _ in range(self.JOBS)]
        refresh_stale(10 * self.JOBS)  # as workers do beside the lists, some at a time
        listed: dict[int, str | None] = {}
        query = "/jobs?limit=100"
        while True:
            page = self.bench.ok("GET", query)
            listed |= {one["id"]: one["verdict"] for one in page["jobs"]}
            if not page["after"]:
                break
            query = f"/jobs?limit=100&after={quote(page['after'])}"
        seen: set[str] = set()
        began = time.monotonic()
        verdicts = {job.pk: verdict_of(JobLook.at(job.pk)) for job in jobs}
        print(
            f"figure: a job's verdict joined in {1e3 * (time.monotonic() - began) / len(jobs):.1f} ms, reading it included"
        )
        for number, job in enumerate(jobs):
            wanted = verdicts[job.pk]
            seen.add(wanted.result)
            self.assertEqual(listed[job.pk], wanted.result if wanted.measured else None)
            if number >= self.SHOWN:
                continue
            head = self.bench.call("GET", f"/jobs/{job.pk}")[1]
            self.assertEqual(head["verdict"]["result"], wanted.result)
            prove = next(one for one in head["stations"] if one["id"] == "prove")["state"]
            shown = {"pass": "done", "fail": "failed", "not_proven": "not_proven"}[wanted.result]
            self.assertEqual(prove, shown if wanted.measured else "open", job.pk)
            if number >= self.PRINTED:
                continue
            report = json.loads(self.bench.client.get(f"/api/jobs/{job.pk}/report.json").content)
            self.assertEqual(report["verdict"], wanted.model_dump(mode="json"))
            table = self.bench.client.get(f"/api/jobs/{job.pk}/findings.csv?stage=closed").content.decode()
            self.assertTrue(all(line.endswith(f",{wanted.result}") for line in table.splitlines()[1:]))
            html = report_html(job.pk, "en")
            words = {"pass": "Pass", "fail": "Fail", "not_proven": "Not proven"}[wanted.result]
            self.assertIn(f'<p class="verdict">{words}</p>', html)
            self.assertIn(owner_texts()["en"].verdict[wanted.result], html)
        self.assertEqual(seen, {"pass", "fail", "not_proven"})


class Losses(TestCase):
    def test_what_the_chosen_grade_costs_is_told_before_the_order(self) -> None:
        bench = Bench(person("tech"))
        job = bench.new_job(device_type="handset", build="phone_front")
        path = f"/jobs/{job['id']}/proving"
        self.assertEqual(bench.ok("GET", path)["losses"], [])
        panel = PanelModel.objects.create(name="K-1", maker="M", spec={})
        terms = {"price": 40, "shipping": 5, "delivery_days": 2, "warranty_months": 12, "doa_days": 14}
        offer = Offer.objects.create(panel=panel, supplier=supplier_called("S"), grade="copy", **terms)
        Job.objects.update(chosen_offer=offer)
        told = " ".join(bench.ok("GET", path)["losses"])
        self.assertIn("Colours follow the room's light", told)
        self.assertIn("Fingerprint reader", told)
        Offer.objects.update(grade="new_original")
        self.assertEqual(bench.ok("GET", path)["losses"], [])
