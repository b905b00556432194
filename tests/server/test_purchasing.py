"""Devices, suppliers, orders, quotes and promises of a shop that began with nothing."""

import datetime as dt
from decimal import Decimal
from typing import Any
from unittest.mock import patch

import cv2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase
from django.utils import timezone

from lens.simulate.labels import label_photo
from server.jobs.models import Job
from server.parts.models import Offer
from server.purchasing.models import Order
from server.readings.models import Reading as StoredReading
from server.readings.tasks import READING, read_file
from server.upkeep.takeup import tidy
from tests.server.helpers import Bench, person
from tests.server.test_register import SPEC

DEVICE = {"kind": "clamshell", "maker": "Talblick", "names": ["TB 303", "TB303-X"], "diagonal_in": 11.6}
MONDAY = dt.datetime(2026, 11, 30, 9)


class Shop(TestCase):
    """``now`` is the shop's clock."""

    def setUp(self) -> None:
        self.bench, self.lead = Bench(person("tech")), Bench(person("boss", "lead"))
        self.now = MONDAY
        for place in ("core_adapter", "orders", "quotes", "state", "api"):
            stopped = patch(f"server.purchasing.{place}.local_now", lambda: self.now)
            stopped.start()
            self.addCleanup(stopped.stop)
        self.number = 0

    def job(self, number: str = "KS-064B", **fields: Any) -> dict[str, Any]:
        job = self.bench.new_job(**fields)
        self.bench.ok(
            "POST", f"/jobs/{job['id']}/match/new-panel", {"name": number, "spec": {**SPEC, "finish": "matt"}}
        )
        return job

    def offer(self, number: str = "KS-064B", **fields: Any) -> dict[str, Any]:
        panel = next(one for one in self.bench.ok("GET", "/panels") if one["name"] == number)
        told = {
            "supplier": "Northside",
            "price": "54.00",
            "shipping": "9.00",
            "delivery_days": 3,
            "doa_days": 14,
            **fields,
        }
        return dict(self.bench.ok("POST", f"/panels/{panel['id']}/offers", told))

    def choose(self, job: dict[str, Any], offer: dict[str, Any]) -> None:
        self.bench.ok("POST", f"/jobs/{job['id']}/match/offer", {"offer_id": offer["id"], "consequences_told": True})

    def buying(self, job: dict[str, Any]) -> dict[str, Any]:
        return dict(self.bench.ok("GET", f"/jobs/{job['id']}/buying"))


class Devices(Shop):
    def test_two_names_of_one_device_and_those_that_look_alike(self) -> None:
        one = self.bench.ok("POST", "/devices", DEVICE)
        other = self.bench.ok("POST", "/devices", {**DEVICE, "names": ["TB 503"], "diagonal_in": 13.3})
        for words in ("tb303x", "tb-303", "TB303-Y"):
            self.assertEqual(self.bench.ok("GET", f"/devices?q={words}".replace(" ", "%20"))[0]["id"], one["id"], words)
        alike = self.bench.ok("GET", f"/devices/{one['id']}")["alike"]
        self.assertEqual(
            [(a["device"]["id"], a["why"]) for a in alike],
            [(other["id"], "'303' against '503', 11.6 against 13.3 in.")],
        )

    def test_bad_devices_say_what_is_wrong(self) -> None:
        for wrong in ({"names": []}, {"names": ["--"]}, {"kind": "toaster"}):
            self.assertEqual(self.bench.call("POST", "/devices", {**DEVICE, **wrong})[0], 422, wrong)
        one = self.bench.ok("POST", "/devices", DEVICE)
        self.bench.ok("PATCH", f"/devices/{one['id']}", {**DEVICE, "generation": "2", "version": 1})
        self.assertEqual(self.bench.call("PATCH", f"/devices/{one['id']}", {**DEVICE, "version": 1})[0], 409)

    def test_closed_jobs_say_which_panel_is_in_it(self) -> None:
        one = self.bench.ok("POST", "/devices", DEVICE)
        for count, enough in ((1, False), (2, False), (3, True)):
            job = self.job()
            self.bench.ok("POST", f"/jobs/{job['id']}/device", {"device_id": one["id"]})
            Job.objects.filter(pk=job["id"]).update(closed_at=MONDAY.replace(tzinfo=dt.UTC))
            fresh = self.bench.new_job()
            told = self.bench.ok("POST", f"/jobs/{fresh['id']}/device", {"device_id": one["id"]})["likely"]
            self.assertEqual([(h["panel"]["name"], h["enough"]) for h in told], [("KS-064B", enough)])
            self.assertIn(f"In {count} of {count}" if count > 1 else "The closed job", told[0]["reasons"][0])

    def test_merging_keeps_names_and_jobs(self) -> None:
        one, other = (
            self.bench.ok("POST", "/devices", DEVICE),
            self.bench.ok("POST", "/devices", {**DEVICE, "names": ["TB-X1"]}),
        )
        job = self.bench.new_job()
        self.bench.ok("POST", f"/jobs/{job['id']}/device", {"device_id": other["id"]})
        merged = self.bench.ok("POST", f"/devices/{one['id']}/merge", {"other_id": other["id"]})
        self.assertEqual(merged["names"], ["TB 303", "TB303-X", "TB-X1"])
        self.assertEqual(Job.objects.get(pk=job["id"]).device_id, one["id"])
        self.assertEqual(len(self.bench.ok("GET", "/devices")), 1)


class Buying(Shop):
    def test_offers_show_their_trade_off(self) -> None:
        job = self.job()
        cheap, fast = self.offer(), self.offer(supplier="Passway", price="80.00", delivery_days=1)
        told = self.buying(job)["ranked"]
        self.assertEqual([one["offer_id"] for one in told], [cheap["id"], fast["id"]])
        self.assertTrue(all(one["best"] for one in told))
        self.assertLess(told[1]["ready_on"], told[0]["ready_on"])
        self.assertEqual(sum(Decimal(p["amount"]) for p in told[0]["parts"]), Decimal(told[0]["cost"]))

    def test_an_offer_in_other_money_is_not_compared(self) -> None:
        job = self.job()
        self.offer(currency="USD")
        told = self.buying(job)["ranked"][0]
        self.assertIsNone(told["cost"])
        self.assertIn("USD", told["problem"])
        panel = self.bench.ok("GET", "/panels")[0]["id"]
        for wrong in ({"price": "0"}, {"grade": "shiny"}, {"breaks": [[5, "60.00"]]}, {"comes_with": ["luck"]}):
            body = {"supplier": "A", "price": "50.00", **wrong}
            self.assertEqual(self.bench.call("POST", f"/panels/{panel}/offers", body)[0], 422, wrong)

    def test_an_order_from_the_click_to_the_parcel(self) -> None:
        job, path = self.job(), ""
        self.choose(job, self.offer())
        path = f"/jobs/{job['id']}/buying/order"
        order = self.bench.ok("POST", path, {})["order"]
        self.assertEqual((order["state"], order["due_on"]), ("ordered", "2026-12-03"))
        self.assertEqual(Job.objects.get(pk=job["id"]).waiting_for, "part")
        status, told = self.lead.call("POST", path, {})  # two people order for one job
        self.assertEqual(status, 422)
        self.assertIn("by tech", told["detail"])
        self.now = dt.datetime(2026, 12, 7, 10)
        self.assertEqual([one["id"] for one in self.bench.ok("GET", "/orders?state=late")["orders"]], [order["id"]])
        line = order["lines"][0]["id"]
        self.assertEqual(self.bench.call("POST", f"/orders/lines/{line}", {"outcome": "good"})[0], 422)  # not here yet
        told = self.bench.ok("POST", f"/orders/{order['id']}", {"what": "arrived"})
        self.assertEqual(Order.objects.get(pk=order["id"]).late_days, 2)
        self.assertEqual(Job.objects.get(pk=job["id"]).waiting_for, "")
        status, again = self.bench.call("POST", f"/orders/{order['id']}", {"what": "arrived"})  # it arrives twice
        self.assertEqual((status, again["detail"]), (422, "This order is arrived already, on 07 Dec 2026."))
        self.bench.ok("POST", f"/orders/lines/{line}", {"outcome": "dead", "note": "no light"})
        self.assertIsNone(self.buying(job)["order"])  # the job needs another one
        ranked = self.buying(job)["ranked"][0]
        self.assertEqual(ranked["orders"], 1)
        self.assertGreater(ranked["dead_rate"], 0.06)
        self.assertIn(b"no light", self.bench.call("GET", "/orders.csv")[1])

    def test_jobs_share_a_parcel_and_its_freight(self) -> None:
        one, two = self.job(), self.job()
        offer = self.offer()
        self.choose(one, offer)
        self.bench.ok("POST", f"/jobs/{one['id']}/buying/order", {"collect": True})
        freight = {p["id"]: p["amount"] for p in self.buying(two)["ranked"][0]["parts"]}["freight"]
        self.assertEqual(freight, "4.50")
        self.choose(two, offer)
        order = self.bench.ok("POST", f"/jobs/{two['id']}/buying/order", {})["order"]
        self.assertEqual((order["state"], len(order["lines"])), ("ordered", 2))

    def test_the_shelf_is_an_offer_until_it_is_empty(self) -> None:
        one, two = self.job(), self.job()
        shelf = self.offer(supplier="Own shelf", on_shelf=1, price="40.00", delivery_days=0)
        ranked = self.buying(one)["ranked"][0]
        self.assertEqual((ranked["ready_on"], ranked["dead_rate"]), ("2026-11-30", 0))
        self.choose(one, shelf)
        self.choose(two, shelf)
        self.assertEqual(self.bench.ok("POST", f"/jobs/{one['id']}/buying/order", {})["order"]["state"], "arrived")
        self.assertEqual(self.bench.call("POST", f"/jobs/{two['id']}/buying/order", {})[0], 422)

    def test_an_offer_withdrawn_after_it_was_chosen_is_not_ordered(self) -> None:
        job, offer = self.job(), self.offer()
        self.choose(job, offer)
        Offer.objects.filter(pk=offer["id"]).update(withdrawn=True)
        status, told = self.bench.call("POST", f"/jobs/{job['id']}/buying/order", {})
        self.assertEqual((status, told["type"]), (422, "/problems/offer-withdrawn"))

    def test_holidays_without_a_working_day_are_told(self) -> None:
        job = self.job()
        self.offer()
        closed = [(MONDAY.date() + dt.timedelta(days=n)).isoformat() for n in range(300)]
        shop = self.lead.ok("GET", "/shop")
        self.lead.ok("PUT", "/shop", {**shop, "closed_on": closed})
        status, told = self.bench.call("GET", f"/jobs/{job['id']}/buying")
        self.assertEqual((status, told["type"]), (422, "/problems/no-working-day"))


class Told(Shop):
    def quoted(self) -> tuple[dict[str, Any], dict[str, Any]]:
        job = self.job()
        self.choose(job, self.offer())
        lines = self.bench.ok("GET", f"/jobs/{job['id']}/buying/quote")["lines"]
        return job, self.bench.ok("POST", f"/jobs/{job['id']}/buying/quote", {"lines": lines})

    def test_a_quote_and_the_owners_yes(self) -> None:
        job, told = self.quoted()
        quote, path = told["quote"], f"/jobs/{job['id']}/buying"
        self.assertEqual(
            Decimal(quote["quote"]["net"]), sum(Decimal(line["amount"]) for line in quote["quote"]["lines"])
        )
        closed = self.bench.new_job()  # nobody knows its panel: looking inside has its price
        lines = self.bench.ok("GET", f"/jobs/{closed['id']}/buying/quote")["lines"]
        self.assertEqual([(one["kind"], one["minutes"] > 0) for one in lines], [("work", True)] * 2)
        self.assertIn("label", lines[0]["title"])
        text = self.bench.call("GET", f"{path}/quotes/{quote['id']}.txt")[1].decode()
        self.assertIn(f"Total: {quote['quote']['total']} EUR", text)
        self.assertEqual(self.bench.call("GET", f"{path}/quotes/{quote['id']}.pdf")[1][:4], b"%PDF")
        answer = {"answer": "yes", "by": "Ada", "how": "phone"}
        self.assertEqual(self.bench.call("POST", f"{path}/quotes/{quote['id']}/answer", {**answer, "by": " "})[0], 422)
        self.assertEqual(self.bench.ok("POST", f"{path}/quotes/{quote['id']}/answer", answer)["quote"]["answer"], "yes")
        self.assertEqual(self.bench.call("POST", f"{path}/quotes/{quote['id']}/answer", answer)[0], 422)
        more = [*quote["quote"]["lines"], {"kind": "extra", "title": "Cracked bezel", "amount": "18.00"}]
        again = self.bench.ok("POST", f"{path}/quote", {"lines": more})["quote"]  # found while open: it is asked again
        self.assertEqual(again["answer"], "")
        self.assertEqual(self.bench.call("POST", f"{path}/quotes/{quote['id']}/answer", answer)[0], 422)
        self.now += dt.timedelta(days=30)
        self.assertEqual(self.bench.call("POST", f"{path}/quotes/{again['id']}/answer", answer)[0], 422)  # it is over

    def test_a_promise_that_moves_says_why(self) -> None:
        job, _ = self.quoted()
        path = f"/jobs/{job['id']}/buying/promise"
        self.assertEqual(self.bench.call("POST", path, {"day": "2026-11-29"})[0], 422)
        told = self.bench.ok("POST", path, {"day": "2026-12-07"})
        self.assertGreater(told["promises"][0]["chance"], 0.5)
        self.assertEqual(str(Job.objects.get(pk=job["id"]).due_on), "2026-12-07")
        self.assertEqual(self.bench.call("POST", path, {"day": "2026-12-09"})[0], 422)
        self.bench.ok("POST", path, {"day": "2026-12-09", "because": "the panel came dead"})
        texts = [
            entry["text"] for entry in self.bench.ok("GET", f"/jobs/{job['id']}/record") if entry["kind"] == "promise"
        ]
        self.assertIn("2 days later, because the panel came dead", texts[-1])


class Files(Shop):
    def send(self, what: str, text: str, dry: bool = False) -> dict[str, Any]:
        return dict(self.bench.read(what, text.encode(), take_in=not dry)["table"])

    def test_offers_from_a_file_and_back(self) -> None:
        self.job()
        old = self.offer()
        text = "part_number;supplier;price;grade\nKS 064b;northside;49,90;\nKS-064B;Valley;30;copy\nKS-064B;Valley;x;\nNONE;A;1;\nKS-064B;B;0;\n"
        told = self.send("offers", text, dry=True)
        self.assertEqual((told["new"], told["changed"], told["run"]), (1, 1, None))
        self.assertEqual([fault["line"] for fault in told["faults"]], [4, 5, 6])
        told = self.send("offers", text)
        self.assertEqual(self.send("offers", text)["same"], 2)
        standing = Offer.objects.filter(withdrawn=False)
        self.assertEqual(sorted(str(offer.price) for offer in standing), ["30.00", "49.90"])
        self.assertEqual(standing.get(supplier__name="Northside").doa_days, 14)  # what the file leaves out stays
        self.assertEqual(self.bench.ok("POST", f"/imports/{told['run']}/undo"), {"back": 2, "kept": 0})
        self.assertEqual([offer.pk for offer in Offer.objects.filter(withdrawn=False)], [old["id"]])
        self.assertEqual(self.bench.call("POST", f"/imports/{told['run']}/undo")[0], 422)

    def test_panels_from_a_file_and_back(self) -> None:
        self.job()
        told = self.send("panels", "part_number,finish\nKS-064B,glossy\nNEW-1,matt\nNEW-2,matt\n")
        later = next(one for one in self.bench.ok("GET", "/panels") if one["name"] == "NEW-2")
        self.bench.ok("PATCH", f"/panels/{later['id']}", {**later, "maker": "changed since"})
        self.assertEqual(self.bench.ok("POST", f"/imports/{told['run']}/undo"), {"back": 2, "kept": 1})
        panels = {one["name"]: one["spec"]["finish"] for one in self.bench.ok("GET", "/panels")}
        self.assertEqual(panels, {"KS-064B": "matt", "NEW-2": "matt"})


class Suppliers(Shop):
    def test_who_is_bought_from_no_more_offers_nothing_and_comes_back_by_name(self) -> None:
        self.job()
        offer = self.offer()
        supplier = self.bench.ok("GET", "/suppliers")[0]
        self.bench.ok("DELETE", f"/suppliers/{supplier['id']}")
        self.assertEqual((self.bench.ok("GET", "/suppliers"), Offer.objects.get(pk=offer["id"]).withdrawn), ([], True))
        self.offer()
        self.assertEqual([one["id"] for one in self.bench.ok("GET", "/suppliers")], [supplier["id"]])


class Reading(Shop):
    def test_a_label_photo_finds_its_panel_in_the_register(self) -> None:
        import numpy as np

        self.job("AB123CDE-F46")
        photo = label_photo("AB123CDE-F46", np.random.default_rng(5), "QRCode", letter_px=30)
        told = self.bench.read("label", photo.data)["label"]
        self.assertEqual(told["reading"]["accepted"], "AB123CDE-F46")
        self.assertEqual(told["known"]["AB123CDE-F46"]["name"], "AB123CDE-F46")
        blank = cv2.imencode(".jpg", np.full((400, 500, 3), 90, np.uint8))[1].tobytes()
        told = self.bench.read("label", blank)["label"]
        self.assertIn("nothing_read", [p["code"] for p in told["reading"]["problems"]])
        self.assertEqual({bytes(row.data) for row in StoredReading.objects.all()}, {b""})  # no photo is kept
        bad = self.bench.read("back", b"none")
        self.assertEqual((bad["state"], bad["back"]), ("failed", None))
        self.assertIn("photo", bad["problem"])

    def test_what_was_sent_is_its_senders_and_is_not_forgotten(self) -> None:
        sent = self.bench.client.post(
            "/api/readings", {"file": SimpleUploadedFile("x.csv", b"part_number\nA\n"), "kind": "panels"}
        ).json()
        path = f"/readings/{sent['id']}"
        self.assertEqual((sent["state"], self.bench.ok("GET", path)["state"]), ("waiting", "waiting"))
        self.assertEqual(self.bench.call("POST", f"{path}/take-in")[0], 422)  # nobody has looked at it yet
        with connection.cursor() as cursor:  # its worker was killed, and its job with it
            cursor.execute("delete from procrastinate_jobs")
        self.assertEqual(READING.forgotten(), [sent["id"]])
        other = Bench(person("other"))
        self.assertEqual(other.call("GET", path)[0], 404)
        old = self.bench.client.post("/api/readings", {"file": SimpleUploadedFile("x", b"x"), "kind": "panels"}).json()[
            "id"
        ]
        StoredReading.objects.filter(pk=old).update(made_at=timezone.now() - dt.timedelta(days=2))
        tidy()
        self.assertEqual(list(StoredReading.objects.values_list("pk", flat=True)), [sent["id"]])
        self.bench.ok("DELETE", path)
        read_file(sent["id"])  # it is not wanted any more
        for kind, data in (("poem", b"x"), ("label", bytes(60_000_000))):
            answer = self.bench.client.post("/api/readings", {"file": SimpleUploadedFile("x", data), "kind": kind})
            self.assertIn(answer.status_code, (413, 422), kind)
        for _ in range(10):
            self.bench.client.post("/api/readings", {"file": SimpleUploadedFile("x", b"x"), "kind": "panels"})
        answer = self.bench.client.post("/api/readings", {"file": SimpleUploadedFile("x", b"x"), "kind": "panels"})
        self.assertEqual(answer.json()["type"], "/problems/readings-waiting")
