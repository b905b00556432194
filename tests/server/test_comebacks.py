"""The job after the job: a device that comes back, what is new on it, its seals, who pays, and what was learnt."""

import datetime as dt
from typing import Any
from unittest import mock

import numpy as np

from lens.simulate import DeviceFault
from server.common.dates import months_later
from server.fitting.models import GatePassed
from server.inspections.looking_back import look_back_from
from server.inspections.models import Run
from server.jobs.models import Entry, Job
from server.parts.models import Device
from server.reports.ticket import ticket_html
from tests.server.helpers import DEAD, InspectionCase, fixed, photo, work


class Comebacks(InspectionCase):
    def handed_over(self, **fields: Any) -> int:
        Job.objects.filter(pk=self.job["id"]).update(**fields)
        self.bench.send(self.run.pk, photo(self.run, "white", ()), "w")
        self.bench.send(self.run.pk, photo(self.run, "black", ()), "b")
        work()
        # as it left: the same photos stand for the closed device
        Run.objects.filter(pk=self.run.pk).update(stage="closed")
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over", {"lesson": "The plug hides under tape."})
        return int(self.job["id"])

    def again(self, faults: tuple[DeviceFault, ...], **fields: Any) -> dict[str, Any]:
        job = self.bench.new_job()
        Job.objects.filter(pk=job["id"]).update(**fields)
        run = fixed(self.bench.ok("POST", f"/jobs/{job['id']}/runs/inspect")["id"])
        for pattern in ("white", "black"):
            self.bench.send(run.pk, photo(run, pattern, faults, seed=8), pattern)
        work()
        return dict(self.bench.ok("GET", f"/jobs/{job['id']}/before"))

    def test_a_device_that_comes_back_is_known_and_held_against_how_it_left(self) -> None:
        first = self.handed_over(serial_printed="SN 12-3456")
        told = self.again(DEAD, serial_system="sn123456")["earlier"][0]
        self.assertEqual((told["job_id"], told["how"]), (first, "serial"))
        self.assertTrue(told["new"] or told["unclear"])
        self.assertEqual({one["kind"] for one in told["new"]}, {"dead_pixel"})
        self.assertIn("New since", told["compared"])
        self.assertEqual(told["under_warranty"], [])

    def test_what_is_new_is_looked_up_in_the_photos_of_then(self) -> None:
        self.handed_over(serial_printed="SN123456")
        told = self.again(DEAD, serial_printed="SN123456")["earlier"][0]
        self.assertEqual([(one["kind"], one["was_there"]) for one in told["looked_back"]], [("dead_pixel", "no")])
        run = Run.objects.exclude(pk=self.run.pk).get()
        self.assertEqual(len(run.looked_back["places"]), 1)
        with mock.patch("server.inspections.looking_back.look_back") as asked_again:
            look_back_from(run)
        asked_again.assert_not_called()
        # the serial number came after the photos: it is asked for when somebody looks, once
        Job.objects.filter(pk=run.job_id).update(serial_printed="")
        Run.objects.filter(pk=run.pk).update(looked_back={})
        self.assertEqual(self.bench.ok("GET", f"/jobs/{run.job_id}/before")["earlier"], [])
        Job.objects.filter(pk=run.job_id).update(serial_system="sn-123456")
        self.assertEqual(self.bench.ok("GET", f"/jobs/{run.job_id}/before")["earlier"][0]["looked_back"], [])
        work()
        self.assertEqual(len(self.bench.ok("GET", f"/jobs/{run.job_id}/before")["earlier"][0]["looked_back"]), 1)
        run.refresh_from_db()
        self.assertEqual(run.asked, run.settled)
        with (
            self.assertLogs("clear_lens.tasks"),
            mock.patch("server.inspections.looking_back.look_back", side_effect=RuntimeError("an error of its own")),
        ):
            Run.objects.filter(pk=run.pk).update(looked_back={})
            self.bench.ok("GET", f"/jobs/{run.job_id}/before")
            work()
        run.refresh_from_db()
        self.assertEqual((run.status, run.looked_back.get("places")), ("done", None))

    def test_one_that_nobody_opened_left_as_it_was_received(self) -> None:
        first = self.handed_over(serial_printed="SN123456")
        Run.objects.filter(pk=self.run.pk).update(stage="inspect")
        told = self.again(DEAD, serial_printed="SN123456")["earlier"][0]
        self.assertEqual([one["kind"] for one in told["new"]], ["dead_pixel"])
        back = Job.objects.exclude(pk=first).get().pk
        GatePassed.objects.create(job_id=first, gate="power_off", by=self.bench.user)
        self.assertEqual(self.bench.ok("GET", f"/jobs/{back}/before")["earlier"][0]["compared"], "")

    def test_seals_and_who_pays_are_told_with_reasons_and_decided_by_a_person(self) -> None:
        first = self.job["id"]
        seals = f"/jobs/{first}/proving/seals"
        self.bench.ok("POST", seals, {"place": "base, left", "number": "0701"})
        self.bench.ok("POST", seals, {"place": "base, right", "number": "0702"})
        told = self.bench.ok("POST", seals, {"place": "base, right", "number": "0702", "on": False})
        self.assertEqual([(one["place"], one["number"]) for one in told["seals"]], [("base, left", "0701")])
        self.assertEqual(self.bench.call("POST", seals, {"place": " ", "number": "1"})[1]["type"], "/problems/no-seal")
        self.handed_over(serial_printed="SN123456")
        one = self.again(DEAD, serial_printed="SN123456")["earlier"][0]
        self.assertEqual(
            (one["seals"][0]["state"], one["proposed"]["payer"]), (None, "owner")
        )  # nothing was fitted: no cover
        back = Job.objects.exclude(pk=first).get().pk
        path = f"/jobs/{back}/before"
        told = self.bench.ok("POST", f"{path}/seals", {"place": "base, left", "state": "broken"})["earlier"][0]
        self.assertEqual((told["seals"][0]["state"], told["proposed"]["payer"]), ("broken", "open"))
        self.bench.ok("POST", f"{path}/seals", {"place": "base, left", "state": "whole"})
        body = {"earlier_id": first, "charged_to": "shop"}
        self.assertEqual(self.bench.call("POST", f"{path}/charge", body)[1]["type"], "/problems/charge-reason")
        told = self.bench.ok("POST", f"{path}/charge", {**body, "reason": "An old customer."})["earlier"][0]
        self.assertEqual((told["charged_to"], told["charge_reason"]), ("shop", "An old customer."))
        self.assertTrue(Entry.objects.filter(job=back, kind="comeback", text__contains="An old customer").exists())
        for wrong in ({"charged_to": "uncle"}, {"earlier_id": back}):
            self.assertEqual(self.bench.call("POST", f"{path}/charge", body | {"reason": "x"} | wrong)[0], 422)
        self.bench.ok("POST", f"/jobs/{back}/evidence", {"check": "onset", "outcome": "drop"})
        told = self.bench.ok("GET", path)["earlier"][0]
        self.assertIn("fall", told["proposed"]["reasons"][0].lower())

    def test_another_device_is_not_taken_for_it(self) -> None:
        self.handed_over(serial_printed="SN123456", owner="Ridge hall")
        self.assertEqual(self.again((), serial_printed="SN123457", owner="Ridge hall")["earlier"], [])

    def test_lessons_and_the_same_owners_device_are_shown(self) -> None:
        device = Device.objects.create(names=["Ferry 14"], kind="clamshell")
        self.handed_over(owner="Ridge hall", device=device)
        told = self.again((), owner="ridge hall", device=device)
        self.assertEqual(told["earlier"][0]["how"], "owner")
        self.assertEqual(told["lessons"][0]["text"], "The plug hides under tape.")
        self.assertEqual(told["earlier"][0]["new"], [])

    def test_months_end_where_numpy_says(self) -> None:
        """Month arithmetic against numpy's datetime64."""
        rng = np.random.default_rng(4)
        for _ in range(300):
            day = dt.date(2020, 1, 1) + dt.timedelta(days=int(rng.integers(0, 4000)))
            months = int(rng.integers(0, 60))
            month = np.datetime64(day, "M") + months
            last = (month + 1).astype("datetime64[D]") - 1
            wanted = min(month.astype("datetime64[D]") + (day.day - 1), last)
            self.assertEqual(np.datetime64(months_later(day, months)), wanted)

    def test_the_label_opens_the_job(self) -> None:
        Job.objects.update(title="<b>Tafel</b>", complaint="x" * 2000)
        html = ticket_html(Job.objects.get())
        self.assertIn("&lt;b&gt;Tafel", html)
        self.assertLess(len(html), 60_000)
        answer = self.bench.client.get(f"/api/jobs/{self.job['id']}/ticket.pdf")
        self.assertEqual(answer["Content-Type"], "application/pdf")
