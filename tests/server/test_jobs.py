"""A job's life without photos: fields, conflicts, evidence, match, gates, hand-over, record, report."""

import json
from pathlib import Path
from typing import Any

from django.conf import settings
from django.test import TestCase

from lens.matching import PanelSpec
from lens.reporting import verify_report
from server.config.openapi import VOCABULARY, document, vocabulary
from server.config.settings import ROOT
from server.jobs.models import Entry
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from tests.server.helpers import JOB, Bench, person

SPEC = PanelSpec(
    part_number="A",
    width=640,
    height=400,
    outline_mm=(200, 120),
    thickness_mm=3,
    mounting="ears",
    connector_pins=30,
    connector_family="narrow",
    connector_side="right",
    signal="eDP",
    lanes=1,
    touch=False,
    finish="matt",
)


class Fields(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))

    def test_bad_input_names_what_was_expected(self) -> None:
        for change, words in (
            ({"panel_width": 5}, "outside what can be tested"),
            ({"device_type": "toaster"}, "choose clamshell"),
            ({"title": "  "}, "what device it is"),
            ({"profile": "class-9"}, "acceptance profile"),
            ({"diagonal_in": 900}, "diagonal"),
            ({"panel_width": "wide"}, "panel width"),
        ):
            status, told = self.bench.call("POST", "/jobs", {**JOB, **change})
            self.assertEqual(status, 422, change)
            self.assertIn(words, told["detail"])

    def test_two_people_changing_different_fields_both_win(self) -> None:
        job = self.bench.new_job()
        other = Bench(person("other"))
        self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "owner": "Ridge hall"})
        told = other.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "accessories": "Charger"})
        self.assertEqual((told["owner"], told["accessories"]), ("Ridge hall", "Charger"))

    def test_two_people_changing_one_field_are_told(self) -> None:
        job = self.bench.new_job()
        other = Bench(person("other"))
        self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "complaint": "First"})
        status, told = other.call("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "complaint": "Second"})
        self.assertEqual(status, 409)
        self.assertIn("'complaint'", told["detail"])
        self.assertEqual(self.bench.ok("GET", f"/jobs/{job['id']}")["complaint"], "First")


class Evidence(TestCase):
    def test_answers_rank_causes_can_change_and_be_withdrawn(self) -> None:
        bench = Bench(person("tech"))
        job = bench.new_job()
        told = bench.ok("POST", f"/jobs/{job['id']}/evidence", {"check": "light", "outcome": "no"})
        told = bench.ok("POST", f"/jobs/{job['id']}/evidence", {"check": "picture", "outcome": "torch"})
        self.assertEqual(told["diagnosis"]["causes"][0]["id"], "lamp_driver")
        told = bench.ok("POST", f"/jobs/{job['id']}/evidence", {"check": "light", "outcome": "yes"})
        self.assertEqual(
            [e["outcome"] for e in told["evidence"] if e["check"] == "light" and not e["withdrawn"]], ["yes"]
        )
        light = next(e for e in told["evidence"] if e["check"] == "light" and not e["withdrawn"])
        told = bench.ok("DELETE", f"/jobs/{job['id']}/evidence/{light['id']}?reason=misread")
        self.assertEqual(
            {e["withdrawn_because"] for e in told["evidence"] if e["withdrawn"]}, {"answered anew", "misread"}
        )
        bench.ok("POST", f"/jobs/{job['id']}/evidence", {"check": "hinge", "outcome": "no"})
        entries = Entry.objects.filter(job_id=job["id"], kind="evidence").count()
        bench.ok("POST", f"/jobs/{job['id']}/evidence", {"check": "hinge", "outcome": "no"})
        self.assertEqual(
            Entry.objects.filter(job_id=job["id"], kind="evidence").count(), entries, "a double click writes once"
        )

    def test_an_answer_keeps_who_when_how_and_under_which_conditions(self) -> None:
        bench = Bench(person("tech"))
        path = f"/jobs/{bench.new_job()['id']}/evidence"
        told = bench.ok(
            "POST",
            path,
            {"check": "light", "outcome": "dim", "conditions": {"mains": False, "battery_percent": 12, "room": "dark"}},
        )
        only = told["evidence"][0]
        self.assertEqual(
            (only["by"], only["source"], only["conditions"]),
            ("tech", "seen", {"mains": False, "battery_percent": 12, "room": "dark"}),
        )
        for wrong, words in (
            ({"check": "lihgt", "outcome": "no"}, "Did you mean 'light'"),
            ({"check": "light", "outcome": "maybe"}, "choose yes"),
            ({"check": "light", "outcome": "no", "conditions": {"battery_percent": 130}}, "battery percent"),
            ({"check": "light", "outcome": "no", "source": "measured"}, "source"),
        ):
            status, refused = bench.call("POST", path, wrong)
            self.assertEqual(status, 422, wrong)
            self.assertIn(words, refused["detail"])

    def test_a_check_can_be_put_aside_and_a_repair_tried(self) -> None:
        bench = Bench(person("tech"))
        job = bench.new_job()
        path, first = f"/jobs/{job['id']}/evidence", job["diagnosis"]["plan"][0]["id"]
        told = bench.ok("POST", path, {"check": first, "outcome": "not_possible"})
        self.assertNotEqual(told["diagnosis"]["plan"][0]["id"], first)
        before = next(c["p"] for c in told["diagnosis"]["causes"] if c["id"] == "connector")
        told = bench.ok("POST", path, {"check": "repair:reseat", "outcome": "same"})
        self.assertLess(next(c["p"] for c in told["diagnosis"]["causes"] if c["id"] == "connector"), 0.3 * before)
        entry = Entry.objects.filter(job_id=job["id"], kind="evidence").last()
        self.assertEqual(entry and entry.text, "Reseat both ends of the display cable: tried, and nothing changed.")


class BaseRates(TestCase):
    def rates(self, bench: Bench) -> dict[str, dict[str, Any]]:
        return {rate["cause"]: rate for rate in bench.ok("GET", "/rates")["devices"]["clamshell"]}

    def test_what_jobs_turned_out_to_be_counts_until_a_lead_resets_it(self) -> None:
        bench, lead = Bench(person("tech")), Bench(person("boss", "lead"))
        before = self.rates(bench)["connector"]
        for _ in range(3):
            job = bench.new_job()
            self.assertEqual(bench.call("POST", f"/jobs/{job['id']}/hand-over", {"true_causes": ["conector"]})[0], 422)
            told = bench.ok(
                "POST",
                f"/jobs/{job['id']}/hand-over",
                {"true_causes": ["connector", "connector"], "because": "Seen by eye."},
            )
            self.assertEqual(told["true_causes"], ["connector"])
        after = self.rates(bench)["connector"]
        self.assertEqual((before["counted"], after["counted"]), (0, 3))
        self.assertGreater(after["now"], before["now"])
        open_job = bench.new_job()
        share = next(c["p"] for c in open_job["diagnosis"]["causes"] if c["id"] == "connector")
        self.assertEqual(bench.call("POST", "/rates/reset")[0], 403)
        told = lead.ok("POST", "/rates/reset")
        self.assertIsNotNone(told["since"])
        self.assertEqual(
            (told["version"], [(one["version"], one["by"]) for one in told["resets"]]), (1, [(1, lead.user.username)])
        )
        self.assertEqual(self.rates(bench)["connector"]["counted"], 0)
        again = bench.ok("GET", f"/jobs/{open_job['id']}")["diagnosis"]["causes"]
        self.assertLess(next(c["p"] for c in again if c["id"] == "connector"), share)


class MatchAndFit(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job()
        self.path = f"/jobs/{self.job['id']}"
        for name, change in (("A", {}), ("B", {"finish": "glossy"}), ("C", {"signal": "LVDS"})):
            spec = SPEC.model_copy(update={"part_number": name, **change})
            panel = PanelModel.objects.create(name=name, maker="M", spec=spec.model_dump(mode="json"))
            Offer.objects.create(
                panel=panel,
                supplier=supplier_called("S"),
                price=10,
                shipping=2,
                delivery_days=3,
                warranty_months=12,
                doa_days=14,
            )

    def offer(self, name: str) -> int:
        return Offer.objects.get(panel__name=name).pk

    def test_offers_are_sorted_and_stops_are_refused(self) -> None:
        self.assertEqual(self.bench.ok("GET", f"{self.path}/match")["offers"], [])
        status, told = self.bench.call("POST", f"{self.path}/match/offer", {"offer_id": self.offer("A")})
        self.assertIn("label on its back", told["detail"])
        state = self.bench.ok("POST", f"{self.path}/match/panel", {"panel_id": PanelModel.objects.get(name="A").pk})
        self.assertEqual([o["match"]["result"] for o in state["offers"]], ["fits", "fits_with_consequences", "stop"])
        self.assertIn(
            "not ordered",
            self.bench.call("POST", f"{self.path}/match/offer", {"offer_id": self.offer("C")})[1]["detail"],
        )
        self.assertEqual(self.bench.call("POST", f"{self.path}/match/offer", {"offer_id": self.offer("B")})[0], 422)
        state = self.bench.ok(
            "POST", f"{self.path}/match/offer", {"offer_id": self.offer("B"), "consequences_told": True}
        )
        self.assertEqual(state["chosen_offer_id"], self.offer("B"))

    def test_gates_are_refused_by_the_server(self) -> None:
        status, told = self.bench.call("POST", f"{self.path}/fit/gates", {"gate": "close", "choice": "all"})
        self.assertEqual((status, told["type"]), (422, "/problems/gate-order"))
        safe = {"gate": "make_safe", "choice": "battery_out", "notes": {"held_s": 15}}
        for _ in range(2):  # a second click does nothing
            self.bench.ok("POST", f"{self.path}/fit/gates", safe)
        self.assertEqual(Entry.objects.filter(job_id=self.job["id"], kind="gate").count(), 1)
        status, told = self.bench.call("POST", f"{self.path}/fit/gates", {"gate": "bezel_screws"})
        self.assertIn("how many bezel screws come out", told["detail"])
        self.bench.work_to(self.job["id"], "dry_fit")
        status, told = self.bench.call("POST", f"{self.path}/fit/gates", {"gate": "dry_fit"})
        self.assertIn("needs its inspection", told["detail"])
        state = self.bench.ok("DELETE", f"{self.path}/fit/gates/make_safe")
        self.assertEqual([one["step"]["id"] for one in state["steps"] if one["state"] == "done"], ["fate"])
        self.assertEqual(state["out"], {})

    def test_a_lost_screw_holds_the_power_back(self) -> None:
        state = self.bench.work_to(self.job["id"], "dry_fit")
        self.assertEqual(state["out"], {"bezel": 2, "front": 4})
        state = self.bench.ok("POST", f"{self.path}/fit/loose", {"count": 1})
        steps = {one["step"]["id"]: one for one in state["steps"]}
        self.assertIn("loose screw on a board", steps["dry_fit"]["blocked"])
        self.assertEqual(self.bench.call("POST", f"{self.path}/fit/loose", {"count": -1})[0], 422)
        self.bench.look_by_eye(self.job["id"])
        body = {"gate": "dry_fit"}
        self.assertEqual(self.bench.call("POST", f"{self.path}/fit/gates", body)[0], 422)
        self.bench.ok("POST", f"{self.path}/fit/loose", {"count": 0})
        state = self.bench.ok("POST", f"{self.path}/fit/gates", body)
        again = {one["step"]["id"]: one["state"] for one in state["steps"]}
        self.assertEqual(
            (again["make_safe"], again["panel_in"]), ("open", "blocked")
        )  # the power-up ended the safe state

    def test_a_power_up_ends_the_safe_state_and_the_way_back_is_what_was_done(self) -> None:
        self.bench.work_to(self.job["id"], "panel_screws")
        state = self.bench.ok("POST", f"{self.path}/fit/powered")
        self.assertEqual([one["step"]["id"] for one in state["steps"] if one["state"] == "open"], ["make_safe"])
        self.assertEqual(
            state["way_back"], ["Bezel off", "Bezel screws out", "Make safe", "Decide about the old display"]
        )

    def test_a_build_is_asked_for_and_remembered(self) -> None:
        phone = self.bench.new_job(device_type="handset")
        path = f"/jobs/{phone['id']}/fit"
        state = self.bench.ok("GET", path)
        self.assertEqual((state["title"], len(state["builds"])), ("", 4))  # a laptop's procedure is none for a phone
        device = self.bench.ok("POST", "/devices", {"kind": "handset", "names": ["Rufhorn 5"]})
        self.bench.ok("POST", f"/jobs/{phone['id']}/device", {"device_id": device["id"]})
        self.assertEqual(self.bench.call("POST", f"{path}/build", {"build": "whole_lid"})[0], 422)
        state = self.bench.ok("POST", f"{path}/build", {"build": "phone_front"})
        self.assertEqual(state["steps"][1]["step"]["id"], "tray")
        self.assertEqual(self.bench.ok("GET", f"/devices/{device['id']}")["device"]["build"], "phone_front")
        self.bench.ok("POST", f"{path}/gates", {"gate": "tray"})
        self.assertEqual(self.bench.call("POST", f"{path}/build", {"build": "phone_back"})[0], 422)  # steps were done


class HandOver(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(owner="Zoë & <b>Co</b>")
        self.path = f"/jobs/{self.job['id']}"

    def test_a_closed_job_changes_no_more(self) -> None:
        self.bench.ok("POST", f"{self.path}/hand-over", {"because": "Handed back as it came."})
        self.bench.ok("POST", f"{self.path}/hand-over", {"because": "Handed back as it came."})
        self.assertEqual(Entry.objects.filter(kind="handed_over").count(), 1)
        for method, path, body in (
            ("PATCH", "", {"version": 99, "owner": "x"}),
            ("POST", "/evidence", {"check": "light", "outcome": "yes"}),
            ("POST", "/runs/inspect", None),
            ("POST", "/fit/gates", {"gate": "make_safe"}),
            ("POST", "/station", {"station": "fit"}),
        ):
            status, told = self.bench.call(method, self.path + path, body)
            self.assertEqual((status, told["type"]), (422, "/problems/job-closed"), path)

    def test_reports_hold_and_say_what_is_not_proven(self) -> None:
        report = json.loads(self.bench.client.get(f"/api{self.path}/report.json").content)
        self.assertEqual(verify_report(report, [settings.SHOP_PUBLIC_KEY]).result, "holds")
        self.assertEqual(verify_report(report).result, "unknown")
        report["job"]["owner"] = "somebody else"
        self.assertEqual(verify_report(report, [settings.SHOP_PUBLIC_KEY]).place, "job.owner")
        pdf = self.bench.client.get(f"/api{self.path}/report.pdf")
        self.assertTrue(pdf.content.startswith(b"%PDF"))
        from server.reports.pdf import report_html

        html = report_html(self.job["id"])
        self.assertIn("No photo of the closed device was measured", html)
        self.assertIn("Touch was not measured", html)
        self.assertIn("Zoë &amp; &lt;b&gt;Co", html)

    def test_stations_can_be_skipped_and_taken_up_again(self) -> None:
        told = self.bench.ok("POST", f"{self.path}/station", {"station": "match", "skip": True})
        self.assertEqual({s["id"]: s["state"] for s in told["stations"]}["match"], "skipped")
        told = self.bench.ok("POST", f"{self.path}/station", {"station": "match"})
        self.assertNotEqual({s["id"]: s["state"] for s in told["stations"]}["match"], "skipped")
        self.assertEqual(self.bench.call("POST", f"{self.path}/station", {"station": "moon"})[0], 422)


class Schema(TestCase):
    def test_the_front_ends_schema_is_the_apis(self) -> None:
        stored = Path(ROOT / "web" / "openapi.json").read_text(encoding="utf-8")
        self.assertEqual(document(), stored, "run: python -m server.config.openapi, then npm run schema in web/")
        self.assertEqual(vocabulary(), VOCABULARY.read_text(encoding="utf-8"), "run: python -m server.config.openapi")
