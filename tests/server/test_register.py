"""The shop's own register: entered while working, from an empty one on."""

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

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

        def send(dry: str, data: bytes = text.encode()) -> Any:
            file = SimpleUploadedFile("panels.csv", data, "text/csv")
            return self.bench.client.post("/api/panels/import", {"file": file, "dry": dry})

        for dry in ("true", "false"):
            told = send(dry).json()
            self.assertEqual([told[n] for n in ("rows", "new", "changed", "same")], [3, 1, 1, 1], dry)
            self.assertEqual(told["faults"], [{"line": 4, "text": "thickness_mm: 'wide' is no number."}])
            self.assertEqual(PanelModel.objects.count(), 2 if dry == "true" else 3)
        panel = PanelModel.objects.get(name="A-1")
        self.assertEqual(
            (panel.maker, panel.spec["connector_pins"], panel.spec["lanes"], panel.version), ("M", 40, 2, 2)
        )
        self.assertEqual(KeptVersion.objects.filter(what=f"panel:{panel.pk}").count(), 2)
        whole = self.bench.client.get("/api/panels.csv").content
        self.assertEqual([send("false", whole).json()[n] for n in ("new", "changed", "same")], [0, 0, 3])
        self.assertEqual(send("true", b"PK\x03\x04\x00").status_code, 422)

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
