"""Touch sessions through the server: parts of a glass once and only once, steps, files in and out, evidence, re-tests."""

import json
from datetime import timedelta
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings
from django.utils import timezone

from lens.panel import make_panel
from lens.simulate.touch import touch_fault, touch_session
from lens.touch import standard_plan
from server.inspections.models import Run
from server.jobs.models import Entry, Job
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.touch.models import TouchPart, TouchSession
from tests.server.helpers import Bench, InspectionCase, person, work

PANEL = make_panel(720, 1280, 5.0)


class TouchCase(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        size = {"panel_width": 720, "panel_height": 1280, "diagonal_in": 5.0, "device_type": "handset"}
        self.job = self.bench.new_job(**size)
        self.run = Run.objects.get(pk=self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/inspect")["id"])

    def start(self, **fields: Any) -> dict[str, Any]:
        return dict(self.bench.ok("POST", f"/runs/{self.run.pk}/touch", {"soak_s": 2, **fields}))

    def told(self) -> dict[str, Any]:
        return dict(self.bench.ok("GET", f"/jobs/{self.job['id']}"))

    def recorded(self, fault: str) -> bytes:
        plan = standard_plan(PANEL, 2000).model_dump(mode="json")
        return touch_session((720, 1280), 5.0, plan, *touch_fault(fault, (720, 1280)))

    def send(self, data: bytes, plan: str = "", name: str = "session.jsonl") -> Any:
        return self.bench.client.post(
            f"/api/runs/{self.run.pk}/touch/file", {"file": SimpleUploadedFile(name, data), "plan": plan}
        )


class Glass(TouchCase):
    def setUp(self) -> None:
        super().setUp()
        url = self.bench.ok("POST", f"/runs/{self.run.pk}/access", {"kind": "glass"})["url"]
        self.page = f"/g/{url.rsplit('/', 1)[1]}/touch"
        self.device = Client()

    def part(self, session: int, number: int, events: list[Any], steps: list[Any] | None = None, **more: Any) -> Any:
        body = {"sender": "glass-a", "number": number, "events": events, "steps": steps or [], **more}
        return self.device.post(f"{self.page}/{session}", json.dumps(body), "application/json")

    def test_it_is_told_what_to_draw_and_each_part_counts_once(self) -> None:
        self.assertIsNone(self.device.get(self.page).json()["session"])
        session = self.start(fingers=3)
        told = self.device.get(self.page).json()
        self.assertEqual((told["session"], told["done"]), (session["id"], []))
        self.assertEqual([s["fingers"] for s in told["steps"] if s["kind"] == "multi_touch"], [3, 2])
        first = told["steps"][0] | {"start_ms": 0, "end_ms": 1000}
        rows = [
            [0.5, 1, "down", 10, 10, None, None, None],
            [9, 1, "move", 12.5, 10, 0.4, 30, 28],
            [20, 1, "up", 12.5, 10, None, None, None],
        ]
        answers = [
            self.part(session["id"], 0, rows, origin_ms=5000.5),
            *[self.part(session["id"], 1, [], [first], now={"phase": "ready"})] * 3,
        ]
        self.assertEqual([a.status_code for a in answers], [201, 201, 201, 201])
        again = self.part(session["id"], 1, [], [first])
        self.assertEqual((again.status_code, again.json()), (200, {"new": False}))
        stored = TouchSession.objects.get()
        self.assertEqual((stored.events, [s["id"] for s in stored.done]), (3, ["lines across"]))
        self.assertEqual((stored.origin_ms, stored.now["phase"], stored.now["left"]), (5000.5, "ready", 0))
        self.assertEqual(self.device.get(self.page).json()["done"], ["lines across"])
        work()
        self.assertEqual(self.told()["touches"][0]["result"]["verdict"], "not_proven")
        lines = self.bench.client.get(f"/api/touch/{session['id']}/session.jsonl").content.splitlines()
        self.assertEqual(
            json.loads(lines[2]),
            {"t": 9.0, "id": 1, "ev": "move", "x": 12.5, "y": 10.0, "p": 0.4, "w": 30.0, "h": 28.0},
        )
        self.assertEqual(json.loads(lines[0])["plan"]["steps"][0]["end_ms"], 1000)
        strokes = self.bench.ok("GET", f"/touch/{session['id']}/strokes")
        self.assertEqual(strokes, [{"points": [[0, 10, 10]]}])

    def test_cracked_glass_is_drawn_on_through_film_only(self) -> None:
        # common practice: splinters cut, so clear film lies over cracked glass before a finger does
        self.assertEqual(self.start()["drawn_with"], "bare")
        answer = self.bench.ok(
            "POST", f"/jobs/{self.job['id']}/evidence", {"check": "first_look", "outcome": "glass", "source": "seen"}
        )
        self.assertTrue(answer["cracked"])
        for with_what in ("bare", "glove"):
            status, told = self.bench.call("POST", f"/runs/{self.run.pk}/touch", {"soak_s": 2, "drawn_with": with_what})
            self.assertGreaterEqual(status, 400)
            self.assertIn("put clear film over it", told["detail"])
        session = self.start(drawn_with="film")
        self.assertEqual(session["drawn_with"], "film")
        texts = Job.objects.get(pk=self.job["id"]).entries.values_list("text", flat=True)
        self.assertTrue(any("through clear film" in text for text in texts))
        # the glass of the new display is another one
        closed = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/closed")["id"]
        self.assertEqual(self.bench.ok("POST", f"/runs/{closed}/touch", {"soak_s": 2})["drawn_with"], "bare")

    def test_contacts_of_two_glasses_are_not_one(self) -> None:
        session = self.start()["id"]
        row = [1, 1, "down", 10, 10, None, None, None]
        self.part(session, 0, [row])
        self.part(session, 0, [[2, 1, "down", 700, 900, None, None, None]], sender="glass-b")
        self.part(session, 1, [[3, 1, "move", 12, 10, None, None, None]])
        lines = self.bench.client.get(f"/api/touch/{session}/session.jsonl").content.splitlines()[1:]
        ids = [json.loads(line)["id"] for line in lines]
        self.assertEqual(ids[0], ids[2])
        self.assertNotEqual(ids[0], ids[1])

    def test_what_is_no_part_is_refused_and_changes_nothing(self) -> None:
        session = self.start()["id"]
        good = [0.5, 1, "down", 10, 10, None, None, None]
        for body in (
            "{",
            "[]",
            '{"sender": "a", "number": -1}',
            '{"sender": "", "number": 1}',
            '{"sender": "a", "number": 1, "events": [[1]]}',
            '{"sender": "a", "number": 1, "events": [[NaN, 1, "down", 1, 1, null, null, null]]}',
            '{"sender": "a", "number": 1, "steps": [{"id": "x", "kind": "dance"}]}',
            '{"sender": "a", "number": 1, "now": {"phase": {"not": "a word"}}}',
            '{"sender": "a", "number": 1, "steps": [{"id": "x", "kind": "edge", "path": [[0, 0], [1e12, 0]], "start_ms": 0, "end_ms": 9}]}',
            '{"sender": "a", "number": 1, "steps": [{"id": "x", "kind": "free", "start_ms": 5, "end_ms": 1}]}',
        ):
            self.assertEqual(
                self.device.post(f"{self.page}/{session}", body, "application/json").status_code, 422, body
            )
        self.assertEqual(self.part(session, 1, [good] * 6001).status_code, 422)
        self.assertEqual(
            self.device.post(f"{self.page}/{session}", "x" * 1_100_000, "application/json").status_code, 422
        )
        self.assertEqual(self.part(session + 99, 1, [good]).status_code, 404)
        self.assertEqual(TouchPart.objects.count(), 0)
        other = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/closed")["id"]
        url = self.bench.ok("POST", f"/runs/{other}/access", {"kind": "glass"})["url"]
        self.page = f"/g/{url.rsplit('/', 1)[1]}/touch"
        self.assertEqual(self.part(session, 1, [good]).status_code, 404)
        self.assertEqual(self.device.get("/g/nothing/touch").status_code, 410)

    def test_the_bench_drives_it(self) -> None:
        session = self.start()["id"]
        for number in (1, 2):
            self.bench.call("POST", f"/touch/{session}/command", {"do": "go"})
            told = self.device.get(self.page).json()
            self.assertEqual((told["command"], told["do"]), (number, "go"))
        self.assertEqual(self.bench.call("POST", f"/touch/{session}/command", {"do": "dance"})[0], 422)
        self.bench.ok("POST", f"/touch/{session}/more", {"what": "free"})
        self.bench.ok("POST", f"/touch/{session}/more", {"what": "soak"})
        names = [step["id"] for step in self.device.get(self.page).json()["steps"]]
        self.assertEqual(names[-3:], ["free drawing", "hands off 2", "hands off, charger in 2"])
        self.assertEqual(self.bench.call("POST", f"/touch/{session}/more", {"what": "missing"})[0], 422)
        self.bench.ok("POST", f"/touch/{session}/end")
        self.assertIsNone(self.device.get(self.page).json()["session"])
        self.start()
        second = self.start()["id"]
        self.assertEqual(self.device.get(self.page).json()["session"], second)
        self.assertEqual(TouchSession.objects.filter(status="open").count(), 1)


class Files(TouchCase):
    def test_a_session_file_is_judged_exported_alike_and_becomes_evidence(self) -> None:
        data = self.recorded("half")
        answer = self.send(data)
        self.assertEqual(answer.status_code, 201, answer.content)
        work()
        told = self.told()
        result = told["touches"][0]["result"]
        self.assertEqual((result["verdict"], [z["kind"] for z in result["dead_zones"]]), ("fail", ["half"]))
        inspect = next(s for s in told["stations"] if s["id"] == "inspect")
        self.assertEqual((inspect["state"], inspect["known"]), ("failed", "Touch fails. No photo was measured."))
        # common practice: a dead half is the controller or its data
        self.assertEqual(max(told["diagnosis"]["causes"], key=lambda c: c["p"])["id"], "touch_controller")
        out = self.bench.client.get(f"/api/touch/{told['touches'][0]['id']}/session.jsonl").content
        events = [json.loads(line) for line in data.splitlines()[1:]]
        self.assertEqual([json.loads(line) for line in out.splitlines()[1:]], events)
        self.assertIn("does not answer", " ".join(result["reasons"]))
        report = self.bench.ok("GET", f"/jobs/{self.job['id']}/report.json")
        self.assertEqual(report["touch"]["inspect"]["verdict"], "fail")
        page = self.bench.client.get(f"/api/jobs/{self.job['id']}/report.pdf")
        self.assertEqual(page.status_code, 200)

    def test_a_profile_sets_limits_of_its_own_and_its_open_jobs_are_judged_anew(self) -> None:
        lead = Bench(person("boss", "lead"))
        shipped = lead.ok("GET", "/profiles/touch-limits")
        self.assertEqual((shipped["rate_hz"]["least"], shipped["rate_hz"]["most"]), (40, None))
        own = {"id": "till", "title": "Till", "pixels": "class-II", "touch": {"rate_hz": 300, "offset_mm": None}}
        lead.ok("PUT", "/profiles/till", {"profile": own, "version": 0})
        self.send(self.recorded("none"))
        work()

        def judged() -> tuple[str, dict[str, str]]:
            result = self.told()["touches"][0]["result"]
            return result["verdict"], {one["id"]: one["result"] for one in result["criteria"]}

        self.assertEqual((judged()[0], judged()[1]["rate_hz"], judged()[1]["offset_mm"]), ("pass", "pass", "pass"))
        job = self.told()
        self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "profile": "till"})
        work()
        verdict, criteria = judged()
        self.assertEqual((verdict, criteria["rate_hz"], "offset_mm" in criteria), ("fail", "fail", False))
        entry = Entry.objects.filter(job=job["id"], kind="judged", data__part="touch").latest("pk")
        self.assertEqual((entry.data["profile"], entry.data["profile_version"]), ("till", 1))
        lead.ok("PUT", "/profiles/till", {"profile": {**own, "touch": {}}, "version": 1})
        work()
        self.assertEqual(judged()[0], "pass")
        for wrong in ({"speed": 1}, {"rate_hz": 0}, {"rate_hz": "fast"}):
            answer = lead.call("PUT", "/profiles/till", {"profile": {**own, "touch": wrong}, "version": 2})
            self.assertEqual(answer[0], 422, wrong)

    def test_a_withdrawn_session_counts_no_more(self) -> None:
        self.send(self.recorded("half"))
        work()
        session = self.told()["touches"][0]["id"]
        self.bench.ok("PATCH", f"/touch/{session}", {"withdrawn": True, "reason": "Glove on"})
        self.assertEqual(next(s for s in self.told()["stations"] if s["id"] == "inspect")["state"], "open")
        self.bench.ok("PATCH", f"/touch/{session}", {"withdrawn": False})
        self.assertEqual(next(s for s in self.told()["stations"] if s["id"] == "inspect")["state"], "failed")

    def test_bad_files_are_refused_in_words_and_leave_nothing(self) -> None:
        head = self.recorded("none").splitlines()[0]
        for data, words in (
            (b"", "no JSON"),
            (b"\x89PNG\r\n", "no JSON"),
            (head + b"\nrubbish\n{}\n", "no event"),
            (head.replace(b"720", b"721"), "721 x 1280, not 720 x 1280"),
            (b"# EVEMU 1.3\nN: mouse\n", "no recording of a touch screen"),
        ):
            answer = self.send(data)
            self.assertEqual(answer.status_code, 422, data[:30])
            self.assertIn(words, answer.json()["detail"])
        plan = json.dumps(json.loads(head)["plan"])
        self.assertIn(
            "no recording of a touch screen",
            self.send(b"# EVEMU 1.3\nN: mouse\n", plan, "mouse.evemu").json()["detail"],
        )
        self.assertEqual(TouchSession.objects.count(), 0)

    def test_roles(self) -> None:
        onlooker = Bench(person("onlooker", None))
        for path in (f"/runs/{self.run.pk}/touch", f"/jobs/{self.job['id']}/rechecks"):
            self.assertEqual(onlooker.call("POST", path, {"due_on": "2030-01-01", "reason": "x"})[0], 403)
        self.assertEqual(onlooker.call("GET", "/rechecks")[0], 403)


@override_settings(DEMO=True)
class SimulatedFinger(TouchCase):
    def test_before_and_after_and_only_what_is_missing_again(self) -> None:
        Job.objects.filter(pk=self.job["id"]).update(simulated={"touch": {"original": ["row"], "replacement": []}})
        session = self.start(fingers=2)["id"]
        for _ in range(2):
            self.bench.call("POST", f"/touch/{session}/simulate")
        work()
        first = self.told()["touches"][0]
        self.assertEqual(([z["kind"] for z in first["result"]["dead_zones"]], len(first["done"])), (["row"], 10))
        again = self.bench.ok("POST", f"/touch/{session}/more", {"what": "missing"})
        self.assertEqual(again["plan"]["steps"][-1]["id"], "again")
        self.bench.call("POST", f"/touch/{session}/simulate")
        work()
        self.assertEqual([z["kind"] for z in self.told()["touches"][0]["result"]["dead_zones"]], ["row"])
        closed = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/closed")["id"]
        fresh = self.bench.ok("POST", f"/runs/{closed}/touch", {"soak_s": 2})["id"]
        self.bench.call("POST", f"/touch/{fresh}/simulate")
        work()
        told = self.told()
        self.assertEqual((told["touch_comparison"]["result"], len(told["touch_comparison"]["gone"])), ("better", 1))


class Rechecks(TouchCase):
    def test_it_is_due_after_hand_over_and_is_recorded_on_the_closed_job(self) -> None:
        day = (timezone.localdate() + timedelta(days=3)).isoformat()
        for bad in ({"due_on": "2001-01-01", "reason": "x"}, {"due_on": day, "reason": " "}):
            self.assertEqual(self.bench.call("POST", f"/jobs/{self.job['id']}/rechecks", bad)[0], 422)
        wanted = {"due_on": day, "reason": "After the system update"}
        first, second = (self.bench.ok("POST", f"/jobs/{self.job['id']}/rechecks", wanted)["id"] for _ in range(2))
        self.assertEqual(first, second)
        self.bench.ok(
            "POST", f"/jobs/{self.job['id']}/hand-over", {"true_causes": [], "because": "Handed back as it came."}
        )
        run = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/recheck")["id"]
        self.bench.ok("POST", f"/runs/{run}/access", {"kind": "glass"})
        self.assertEqual([r["id"] for r in self.bench.ok("GET", "/rechecks")], [first])
        self.assertEqual(self.bench.call("POST", f"/runs/{self.run.pk}/touch", {})[0], 422)
        self.assertEqual(self.bench.call("POST", f"/runs/{run}/touch", {"soak_s": 5})[0], 201)
        self.bench.ok("POST", f"/rechecks/{first}/settle", {"because": "Quiet, all answers"})
        self.assertEqual(self.bench.ok("GET", "/rechecks"), [])
        self.assertEqual(self.bench.call("POST", f"/runs/{run}/touch", {})[0], 422)


@override_settings(DEMO=True)
class NewPanelWhoseTouchFails(TouchCase):
    def test_the_gate_stays_shut_and_the_ways_out_are_weighed_by_the_house_rule(self) -> None:
        spec = {"width": 720, "height": 1280, "touch": True, "connector_pins": 34, "signal": "MIPI"}
        terms = {"shipping": 8, "delivery_days": 4, "warranty_months": 6, "doa_days": 7}
        offers = [
            Offer.objects.create(
                panel=PanelModel.objects.create(name=name, maker="M", spec=spec),
                supplier=supplier_called(name),
                price=price,
                **terms,
            )
            for name, price in (("bought", 31), ("other", 44))
        ]
        # the one procedure that there is, is a clamshell's; its touch counts as its panel has one
        Job.objects.filter(pk=self.job["id"]).update(
            simulated={"touch": {"replacement": ["half"]}}, chosen_offer=offers[0], device_type="clamshell"
        )
        path = f"/jobs/{self.job['id']}/touch-choice"
        self.assertIsNone(self.bench.ok("GET", path)["choice"])
        self.assertEqual(self.bench.call("POST", path, {"way": "return"})[0], 422)
        run = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/dry_fit")["id"]
        session = self.bench.ok("POST", f"/runs/{run}/touch", {"soak_s": 2})["id"]
        self.bench.call("POST", f"/touch/{session}/simulate")
        work()
        choice = self.bench.ok("GET", path)["choice"]
        self.assertEqual(
            (choice["school"], choice["options"][0]["way"], len(choice["options"])), ("when_fails", "rework", 3)
        )
        self.assertEqual(self.bench.call("PUT", "/house-rules/touch_controller", {"school": "return_panel"})[0], 403)
        lead = Bench(person("boss", "lead"))
        self.assertEqual(lead.call("PUT", "/house-rules/touch_controller", {"school": "pray"})[0], 422)
        lead.ok("PUT", "/house-rules/touch_controller", {"school": "return_panel"})
        # the job keeps the school that it was begun with; one that is taken in now follows the new one
        self.assertEqual(self.bench.ok("GET", path)["choice"]["options"][0]["way"], "rework")
        fresh = Job.objects.get(pk=self.bench.new_job()["id"])
        self.assertEqual(fresh.rules["touch_controller"], "return_panel")
        Job.objects.filter(pk=self.job["id"]).update(rules=fresh.rules)
        self.assertEqual(self.bench.ok("GET", path)["choice"]["options"][0]["way"], "return")
        self.assertEqual(self.bench.ok("POST", path, {"way": "return"})["decided"], ["return"])
        self.assertIn(
            "Decided: Return it", [e["text"] for e in self.bench.ok("GET", f"/jobs/{self.job['id']}/record")][-1]
        )
        self.bench.work_to(self.job["id"], "dry_fit")
        status, told = self.bench.call("POST", f"/jobs/{self.job['id']}/fit/gates", {"gate": "dry_fit"})
        self.assertEqual(status, 422)
        self.assertIn("in picture or touch", told["detail"])
