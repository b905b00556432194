"""Panels that are inspected without a customer's job: begun from an order, graded, decided, claimed."""

import datetime as dt
import io
import json
import zipfile
from typing import Any

from django.conf import settings

from lens.reporting import verify_file
from lens.simulate import DeviceFault
from server.incoming.models import IncomingPanel
from server.jobs.models import Job
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.purchasing.models import ARRIVED, Order, OrderLine
from server.reports.making import make_report
from server.reports.ticket import panel_label_html
from server.verdicts.look import JobLook
from tests.server.helpers import PANEL, InspectionCase, fixed, photo, work

LINE = (DeviceFault(kind="dark_column", x=300, y=0),)


class Incoming(InspectionCase):
    def setUp(self) -> None:
        super().setUp()
        spec = {"width": PANEL.width, "height": PANEL.height, "visible_mm": [200, 125], "touch": False}
        self.panel = PanelModel.objects.create(name="K-1", maker="M", spec=spec)
        self.offer = Offer.objects.create(
            panel=self.panel,
            supplier=supplier_called("S"),
            price=40,
            shipping=5,
            delivery_days=2,
            warranty_months=12,
            doa_days=14,
        )
        self.order = Order.objects.create(supplier=self.offer.supplier, state=ARRIVED, arrived_on=dt.date(2026, 11, 20))
        self.line = OrderLine.objects.create(order=self.order, offer=self.offer, unit_price=40)

    def begin(self, **body: Any) -> int:
        return int(self.bench.ok("POST", "/incoming", {"line_id": self.line.pk, **body})["job_id"])

    def shoot(self, number: int, faults: tuple[DeviceFault, ...]) -> None:
        run = fixed(self.bench.ok("POST", f"/jobs/{number}/runs/inspect")["id"])
        for pattern in ("white", "grey50"):
            self.bench.send(run.pk, photo(run, pattern, faults), f"{number}-{pattern}")
        work()

    def test_a_panel_with_a_line_goes_back_and_the_supplier_s_record_learns(self) -> None:
        number = self.begin(serial="S-1")
        head = self.bench.ok("GET", f"/jobs/{number}")
        self.assertEqual([one["id"] for one in head["stations"]], ["inspect", "grade"])
        self.assertEqual((head["subject"], head["diagonal_in"]), ("panel", 9.29))  # sqrt(200^2 + 125^2) / 25.4
        self.assertEqual(head["runs"][0]["conditions"]["panel"], "loose")
        path = f"/jobs/{number}/incoming/decision"
        self.assertEqual(
            self.bench.call("POST", path, {"decision": "returned"})[1]["type"], "/problems/nothing-measured"
        )
        self.shoot(number, LINE)
        told = self.bench.ok("GET", f"/jobs/{number}/incoming")
        self.assertEqual((told["panel"], told["claim_until"], told["supplier"]), ("K-1", "2026-12-04", "S"))
        self.assertIn("fail", {one["result"] for one in told["classes"]})
        self.assertTrue(all(one["fails"] for one in told["classes"] if one["result"] == "fail"))
        head = self.bench.ok("GET", f"/jobs/{number}")
        self.assertEqual((head["verdict"]["result"], head["stations"][1]["state"]), ("fail", "open"))
        self.assertEqual(
            self.bench.call("POST", path, {"decision": "shelf"})[1]["type"], "/problems/kept-though-failed"
        )
        self.assertEqual(self.bench.call("POST", path, {"decision": "eaten"})[0], 422)
        made = self.bench.ok("POST", f"/jobs/{number}/reports", {"kind": "claim"})
        make_report(made["id"])
        data = bytes(self.bench.client.get(f"/api/reports/{made['id']}/file").content)
        self.assertEqual(verify_file(data, [settings.SHOP_PUBLIC_KEY]).result, "holds")
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            facts = json.loads(archive.read("claim.json"))
            self.assertEqual(sum(name.startswith("photos/inspect") for name in archive.namelist()), 2)
        self.assertEqual((facts["order"], facts["claim_until"], facts["liners_off"]), (self.order.pk, "2026-12-04", []))
        self.bench.ok("POST", path, {"decision": "returned", "note": "A dark line."})
        self.line.refresh_from_db()
        self.assertEqual(self.line.outcome, "marked")
        figures = self.bench.ok("GET", "/supplier-figures")
        self.assertEqual([(one["arrived"], one["dead"]) for one in figures], [(1, 1)])
        self.assertIn("Goes back to the supplier", panel_label_html(JobLook.at(number)))
        self.assertTrue(self.bench.client.get(f"/api/jobs/{number}/ticket.pdf").content.startswith(b"%PDF"))
        self.assertEqual(self.bench.call("POST", path, {"decision": "shelf"})[1]["type"], "/problems/job-closed")

    def test_it_is_in_no_list_of_jobs_and_is_handed_over_to_nobody(self) -> None:
        number = self.begin(line_id=None, offer_id=self.offer.pk, place="device")
        self.assertEqual([one["id"] for one in self.bench.ok("GET", "/jobs?state=all")["jobs"]], [self.job["id"]])
        self.assertEqual(self.bench.ok("GET", "/today")["open"], 1)
        rows = self.bench.ok("GET", "/incoming")["panels"]
        self.assertEqual([(one["job_id"], one["verdict"], one["decision"]) for one in rows], [(number, None, "")])
        status, told = self.bench.call("POST", f"/jobs/{number}/hand-over", {"because": "x"})
        self.assertEqual((status, told["type"]), (422, "/problems/not-a-device"))
        self.assertEqual(self.bench.ok("GET", f"/jobs/{self.job['id']}/incoming")["panel"], "")
        self.bench.ok("POST", f"/jobs/{number}/incoming/decision", {"decision": "shelf", "note": "For training."})
        self.assertEqual(self.bench.ok("GET", "/incoming")["panels"], [])
        self.assertEqual(self.bench.ok("GET", "/incoming?state=all")["panels"][0]["decision"], "shelf")

    def test_what_cannot_be_begun(self) -> None:
        nameless = PanelModel.objects.create(name="K-2", maker="M", spec={})
        for body, problem in (
            ({"line_id": None}, "no-panel"),
            ({"line_id": None, "panel_id": nameless.pk}, "no-resolution"),
            ({"line_id": 99_999}, "not-found"),
        ):
            self.assertEqual(
                self.bench.call("POST", "/incoming", {"line_id": self.line.pk, **body})[1]["type"],
                f"/problems/{problem}",
            )
        Order.objects.update(state="shipped")
        self.assertEqual(
            self.bench.call("POST", "/incoming", {"line_id": self.line.pk})[1]["type"], "/problems/not-arrived"
        )
        self.assertEqual((IncomingPanel.objects.count(), Job.objects.count()), (0, 1))
