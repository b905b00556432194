"""The shop's own register: entered while working, from an empty one on."""

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from lens.simulate.edid import EdidPanel, edid_of
from server.jobs.models import Job
from server.parts.models import Offer, PanelModel
from server.profiles.models import KeptVersion
from tests.server.helpers import Bench, person

SPEC: dict[str, Any] = {
    "width": 640,
    "height": 400,
    "outline_mm": [160.0, 100.0],
    "thickness_mm": 3.0,
    "mounting": "ears",
    "connector_pins": 30,
    "connector_family": "narrow",
    "connector_side": "right",
    "signal": "eDP",
    "lanes": 1,
    "touch": False,
}
OFFER = {"supplier": "Northside", "price": "54.00", "shipping": "9.50", "delivery_days": 3}


class Register(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))

    def test_from_an_empty_register_to_a_chosen_offer(self) -> None:
        job = self.bench.new_job()
        path = f"/jobs/{job['id']}/match"
        self.assertEqual(self.bench.ok("GET", "/panels"), [])
        told = self.bench.ok("POST", f"{path}/new-panel", {"name": "FG-064 A", "maker": "Firngrat", "spec": SPEC})
        self.assertEqual((told["wanted"]["name"], told["offers"]), ("FG-064 A", []))
        other = self.bench.ok("POST", "/panels", {"name": "KS-064B", "spec": {**SPEC, "finish": None}})
        offer = self.bench.ok("POST", f"/panels/{other['id']}/offers", OFFER)
        told = self.bench.ok("GET", path)
        self.assertEqual(told["offers"][0]["match"]["result"], "fits_with_consequences")  # its finish is not known
        choice = {"offer_id": offer["id"], "consequences_told": False}
        self.assertEqual(self.bench.call("POST", f"{path}/offer", choice)[0], 422)
        told = self.bench.ok("POST", f"{path}/offer", {**choice, "consequences_told": True})
        self.assertEqual(told["chosen_offer_id"], offer["id"])
        self.bench.ok("DELETE", f"/offers/{offer['id']}")
        told = self.bench.ok("GET", path)  # it holds for others no more; the job keeps it
        self.assertEqual([one["offer"]["withdrawn"] for one in told["offers"]], [True])
        self.assertEqual(told["chosen_offer_id"], offer["id"])

    def test_what_decides_and_is_not_known_is_asked_for(self) -> None:
        job = self.bench.new_job()
        path = f"/jobs/{job['id']}/match"
        self.bench.ok("POST", f"{path}/new-panel", {"name": "A", "spec": {"width": 640, "height": 400}})
        panel = self.bench.ok("POST", "/panels", {"name": "B", "spec": SPEC})
        offer = self.bench.ok("POST", f"/panels/{panel['id']}/offers", OFFER)
        match = self.bench.ok("GET", path)["offers"][0]["match"]
        self.assertEqual(match["result"], "ask")
        self.assertEqual(match["items"][0]["ask"].split(",")[0], "Look at the back")
        status, told = self.bench.call("POST", f"{path}/offer", {"offer_id": offer["id"]})
        self.assertEqual((status, told["type"]), (422, "/problems/match-unknown"))

    def test_a_number_is_there_once_whatever_its_dashes(self) -> None:
        self.bench.ok("POST", "/panels", {"name": "FG-141 A"})
        status, told = self.bench.call("POST", "/panels", {"name": "fg 141-a"})
        self.assertEqual((status, told["type"]), (422, "/problems/panel-known"))
        job = self.bench.new_job()
        told = self.bench.ok("POST", f"/jobs/{job['id']}/match/new-panel", {"name": "FG141A"})
        self.assertEqual((told["wanted"]["name"], PanelModel.objects.count()), ("FG-141 A", 1))
        self.assertEqual([p["name"] for p in self.bench.ok("GET", "/panels?q=fg 141")], ["FG-141 A"])
        self.assertEqual([p["name"] for p in self.bench.ok("GET", "/panels?q=FG-l41A")], ["FG-141 A"])  # an l for a 1
        self.assertEqual(self.bench.ok("GET", "/panels?q=KS-970"), [])
        for q, found in (
            ("fg*1?", 1),
            ("FG?41*", 1),
            ("f?1*a", 1),
            ("*41?", 1),
            ("?", 0),
            ("*", 1),
            ("(*", 1),
            ("[?", 0),
        ):
            self.assertEqual(len(self.bench.ok("GET", f"/panels?q={q}")), found, q)

    def test_changes_are_kept_and_two_editors_notice_each_other(self) -> None:
        panel = self.bench.ok("POST", "/panels", {"name": "A", "spec": {"connector_pins": 30}})
        path = f"/panels/{panel['id']}"
        change = {"name": "A", "maker": "M", "spec": {"connector_pins": 40}, "version": 1}
        self.assertEqual(self.bench.ok("PATCH", path, change)["version"], 2)
        self.assertEqual(self.bench.call("PATCH", path, change)[0], 409)
        kept = KeptVersion.objects.filter(what=f"panel:{panel['id']}").values_list(
            "content__spec__connector_pins", flat=True
        )
        self.assertEqual(list(kept), [30, 40])

    def test_a_file_says_what_it_would_change_and_then_does(self) -> None:
        self.bench.ok("POST", "/panels", {"name": "A-1", "maker": "M", "spec": {"connector_pins": 30, "lanes": 2}})
        self.bench.ok("POST", "/panels", {"name": "B", "spec": {"connector_pins": 30}})
        text = "part_number;connector_pins;thickness_mm\na1;40;3,2\nB;30;\nC;30;wide\nD;30;\n"

        for taken in (False, True):
            told = self.bench.read("panels", text.encode(), take_in=taken)["table"]
            self.assertEqual([told[n] for n in ("rows", "new", "changed", "same")], [3, 1, 1, 1], taken)
            self.assertEqual(told["faults"], [{"line": 4, "text": "thickness_mm: 'wide' is no number."}])
            self.assertEqual((PanelModel.objects.count(), told["applied"]), (3 if taken else 2, taken))
        panel = PanelModel.objects.get(name="A-1")
        self.assertEqual(
            (panel.maker, panel.spec["connector_pins"], panel.spec["lanes"], panel.version), ("M", 40, 2, 2)
        )
        self.assertEqual(KeptVersion.objects.filter(what=f"panel:{panel.pk}").count(), 2)
        whole = self.bench.client.get("/api/panels.csv").content
        again = self.bench.read("panels", whole, take_in=True)["table"]
        self.assertEqual([again[n] for n in ("new", "changed", "same")], [0, 0, 3])
        bad = self.bench.read("panels", b"PK\x03\x04\x00")
        self.assertEqual((bad["state"], bad["table"]), ("failed", None))
        self.assertIn("CSV", bad["problem"])

    def test_a_file_does_not_overwrite_what_was_measured(self) -> None:
        body = {"name": "A", "spec": {"thickness_mm": 3.1, "lanes": 2}, "filled_from": {"thickness_mm": "measured"}}
        panel = self.bench.ok("POST", "/panels", body)
        self.assertEqual(
            {n: s["source"] for n, s in panel["sources"].items()}, {"thickness_mm": "measured", "lanes": "typed"}
        )
        text = b"part_number,thickness_mm,lanes,width\nA,3.6,4,1366\n"
        told = self.bench.read("panels", text, source="supplier", take_in=True)["table"]
        self.assertEqual((told["changed"], told["kept"]), (1, 2))  # a supplier's list counts less than what was typed
        self.bench.read("panels", text, take_in=True)
        spec = self.bench.ok("GET", "/panels?q=A")[0]["spec"]
        self.assertEqual([spec[n] for n in ("thickness_mm", "lanes", "width")], [3.1, 4, 1366])
        self.assertEqual(self.bench.read("panels", text, take_in=True)["table"]["kept"], 1)
        past = self.bench.ok("GET", f"/history/panel/{panel['id']}")
        self.assertEqual([one["version"] for one in past], [3, 2, 1])
        self.assertEqual(past[0]["changes"], [{"field": "lanes", "before": "2", "after": "4 (typed)"}])
        self.assertEqual(past[0]["by"], "tech")

    def test_two_entries_become_one_and_one_goes_and_comes_back(self) -> None:
        one, other = (
            self.bench.ok("POST", "/panels", {"name": n, "spec": s}) for n, s in (("A-1", {"lanes": 2}), ("B-2", SPEC))
        )
        self.bench.ok("POST", f"/panels/{other['id']}/offers", OFFER)
        job = self.bench.new_job()
        self.bench.ok("POST", f"/jobs/{job['id']}/match/panel", {"panel_id": other["id"]})
        told = self.bench.ok("POST", f"/panels/{one['id']}/merge", {"other_id": other["id"]})
        self.assertEqual(
            (told["spec"]["other_numbers"], told["spec"]["lanes"], told["spec"]["connector_pins"]), (["B-2"], 2, 30)
        )
        self.assertEqual([p["name"] for p in self.bench.ok("GET", "/panels?q=b2")], ["A-1"])
        self.assertEqual(self.bench.ok("GET", f"/jobs/{job['id']}/match")["wanted"]["name"], "A-1")
        self.assertEqual(len(self.bench.ok("GET", f"/panels/{one['id']}/offers")), 1)
        self.assertEqual(self.bench.call("POST", f"/panels/{one['id']}/merge", {"other_id": one["id"]})[0], 422)
        self.bench.ok("POST", f"/panels/{one['id']}/retired", {"retired": True})
        self.assertEqual(self.bench.ok("GET", "/panels"), [])
        self.assertIn("take it back", self.bench.call("POST", "/panels", {"name": "A-1"})[1]["detail"])
        self.bench.ok("POST", f"/panels/{one['id']}/retired", {"retired": False})
        self.assertEqual(len(self.bench.ok("GET", "/panels")), 1)

    def test_a_code_tells_what_is_known_of_its_panels(self) -> None:
        code = {"code": "KS-9", "maker": "Karsee", "controller": "on the panel", "trouble": "Flickers when warm."}
        told = self.bench.ok("POST", "/label-codes", code)
        self.bench.ok("POST", "/label-codes", {**code, "code": "KS", "trouble": ""})
        for wrong in ({"code": "K"}, {"code": "ks9"}, {"code": "ZZ", "maker": "", "controller": "", "trouble": " "}):
            self.assertEqual(self.bench.call("POST", "/label-codes", {**code, **wrong})[0], 422, wrong)
        job = self.bench.new_job()
        match = self.bench.ok("POST", f"/jobs/{job['id']}/match/new-panel", {"name": "KS-970B", "spec": SPEC})
        self.assertEqual((match["code"]["code"], match["code"]["trouble"]), ("KS-9", "Flickers when warm."))
        self.assertEqual(self.bench.call("PATCH", f"/label-codes/{told['id']}", {**code, "version": 7})[0], 409)
        self.bench.ok("DELETE", f"/label-codes/{told['id']}")
        self.assertEqual(self.bench.ok("GET", f"/jobs/{job['id']}/match")["code"]["code"], "KS")

    def test_an_edid_names_its_panel_and_fills_the_register(self) -> None:
        job = self.bench.new_job()
        block = edid_of(EdidPanel(width=640, height=400, size_mm=(160, 100), clock_10khz=2064, blank=(160, 30)))
        self.bench.client.post(f"/api/jobs/{job['id']}/edid", {"file": SimpleUploadedFile("edid.bin", block)})
        panel = self.bench.ok("POST", "/panels", {"name": "FG-064", "spec": {**SPEC, "edid_identity": "QZX-1401"}})
        match = self.bench.ok("GET", f"/jobs/{job['id']}/match")
        self.assertEqual([one["panel"]["name"] for one in match["likely"]], ["FG-064"])
        self.assertIn("QZX-1401", match["likely"][0]["reasons"][0])
        match = self.bench.ok("POST", f"/jobs/{job['id']}/match/panel", {"panel_id": panel["id"]})
        self.assertEqual(set(match["edid_tells"]), {"refresh_hz", "bits_per_colour", "visible_mm"})
        match = self.bench.ok("POST", f"/jobs/{job['id']}/match/learn-edid")
        self.assertEqual((match["edid_tells"], match["wanted"]["sources"]["refresh_hz"]["source"]), ({}, "edid"))
        self.assertEqual(self.bench.call("POST", f"/jobs/{job['id']}/match/learn-edid")[0], 422)

    def test_a_pasted_line_is_read(self) -> None:
        told = self.bench.ok("POST", "/panels/read-line", {"text": "FHD 1920x1080 eDP 30 pin, connector left"})
        self.assertEqual((told["spec"]["width"], told["spec"]["connector_pins"]), (1920, 30))
        self.assertEqual([p["code"] for p in told["problems"]], ["view_unknown"])

    def test_wrong_values_are_refused_in_words(self) -> None:
        panel = self.bench.ok("POST", "/panels", {"name": "A"})
        for method, path, body in (
            ("POST", "/panels", {"name": " - "}),
            ("POST", "/panels", {"name": "B", "spec": {"width": -4}}),
            ("POST", "/panels", {"name": "B", "spec": {"signal": "smoke"}}),
            ("POST", f"/panels/{panel['id']}/offers", {**OFFER, "price": "-1"}),
            ("POST", f"/panels/{panel['id']}/offers", {**OFFER, "supplier": " "}),
            ("POST", f"/panels/{panel['id']}/offers", {**OFFER, "price": "1.005"}),
        ):
            self.assertEqual(self.bench.call(method, path, body)[0], 422, body)
        self.assertEqual(self.bench.call("POST", "/panels/999/offers", OFFER)[0], 404)
        self.assertFalse(Offer.objects.exists())

    def test_the_job_keeps_the_school_it_was_begun_with(self) -> None:
        job = self.bench.new_job()
        lead = Bench(person("boss", "lead"))
        lead.ok("PUT", "/house-rules/matching", {"school": "exact"})
        fresh = self.bench.new_job()
        schools = [self.bench.ok("GET", f"/jobs/{one['id']}/match")["school"] for one in (job, fresh)]
        self.assertEqual(schools, ["fit_form_function", "exact"])
        Job.objects.update(rules={})
        self.assertEqual(self.bench.ok("GET", f"/jobs/{job['id']}/match")["school"], "exact")
