"""The list of jobs: found with typing errors, filtered, sorted and paged by the database, with no result read."""

from datetime import UTC, date, datetime, timedelta
from typing import Any
from unittest import mock

from django.contrib.auth.models import User
from django.core.cache import cache
from django.db import OperationalError, connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from lens.fitting import procedures
from lens.steps import order
from server.bench.models import JobSummary
from server.bench.summaries import refresh_stale
from server.fitting.models import GatePassed
from server.jobs.models import Job
from server.shop.models import Shop
from server.verdicts.look import JobLook
from tests.server.helpers import JOB, Bench, person


class Listing(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))

    def page(self, query: str = "") -> dict[str, Any]:
        return dict(self.bench.ok("GET", f"/jobs{query}"))

    def titles(self, query: str = "") -> list[str]:
        return [job["title"] for job in self.page(query)["jobs"]]

    def new(self, title: str, **fields: Any) -> dict[str, Any]:
        job = self.bench.new_job(title=title, owner=fields.pop("owner", ""))
        if fields:
            self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], **fields})
        return job

    def test_words_are_found_with_a_typing_error_and_by_number_owner_and_complaint(self) -> None:
        counter = self.new("Ticket counter laptop", owner="Valley station")
        self.new("Audio guide", owner="Museum")
        for q in (
            "laptop",
            "labtop",
            "latop",
            "couner",
            "tikcet counter",
            "valley",
            "Ticket",
            "dots ticket",
            str(counter["id"]),
        ):
            self.assertEqual(self.titles(f"?q={q}"), ["Ticket counter laptop"], q)
        self.assertEqual(self.titles("?q=laptop museum"), [])
        self.new("Lamp controller")
        self.assertEqual(self.titles("?q=lamp"), ["Lamp controller"])  # what is there as typed is not blurred
        self.assertEqual(self.titles("?q=%25"), [])  # no wildcard
        self.assertEqual(len(self.titles("?q=640x400")), 3)

    def test_filters_narrow_and_say_how_many(self) -> None:
        yesterday, tomorrow = (timezone.localdate() + timedelta(days=n) for n in (-1, 1))
        self.new("Late", due_on=yesterday.isoformat(), assigned_to="tech")
        self.new("Soon", due_on=tomorrow.isoformat(), waiting_for="part")
        self.new("Urgent", urgent=True)
        self.assertEqual(self.titles(), ["Urgent", "Late", "Soon"])
        for query, expected in (
            ("?overdue=true", ["Late"]),
            ("?who=tech", ["Late"]),
            ("?who=nobody", ["Urgent", "Soon"]),
            ("?waiting_for=any", ["Soon"]),
            ("?waiting_for=owner", []),
            ("?verdict=none&sort=due", ["Late", "Soon", "Urgent"]),
            ("?verdict=pass", []),
            ("?station=isolate&sort=title", ["Late", "Soon", "Urgent"]),
            ("?state=closed", []),
        ):
            self.assertEqual(self.titles(query), expected, query)
        self.assertEqual(self.page("?who=nobody&limit=1")["total"], 2)
        self.assertEqual(
            self.bench.ok("GET", "/today"),
            {"open": 3, "mine": 1, "nobodys": 2, "urgent": 1, "overdue": 1, "waiting": 1, "retests_due": 0},
        )

    def test_pages_hold_every_job_once_though_jobs_come_and_change_meanwhile(self) -> None:
        for n in range(23):
            self.new(f"Job {n:02}", **({"due_on": date(2031, 1, 1 + n % 5).isoformat()} if n % 3 else {}))
        for sort in ("urgent", "new", "old", "due", "changed", "title"):
            seen: list[int] = []
            after = ""
            while True:
                page = self.page(f"?sort={sort}&limit=7&after={after}")
                seen += [job["id"] for job in page["jobs"]]
                if sort == "new" and len(seen) == 7:
                    self.new("Came between")
                if page["after"] is None:
                    break
                after = page["after"]
            self.assertEqual(len(seen), len(set(seen)), sort)
            self.assertGreaterEqual(len(seen), 23, sort)
        self.assertEqual(self.bench.call("GET", "/jobs?after=rubbish")[0], 422)
        self.assertEqual(self.bench.call("GET", "/jobs?sort=colour")[0], 422)

    def test_the_number_of_queries_does_not_grow_and_no_result_is_read(self) -> None:
        cache.set("shop_zone", "UTC", None)  # asked of the database every few seconds only
        self.addCleanup(cache.clear)
        self.new("One")
        self.page()
        with self.assertNumQueries(9):
            self.page()
        for n in range(40):
            self.new(f"More {n}")
        refresh_stale(100)
        with self.assertNumQueries(9) as told:
            self.assertEqual(len(self.page()["jobs"]), 41)
        self.assertFalse([q for q in told.captured_queries if "inspections_run" in q["sql"] or '"result"' in q["sql"]])

    def test_a_list_is_as_new_as_the_record(self) -> None:
        job = self.new("Changing")
        self.assertEqual(self.page()["jobs"][0]["station"], "isolate")
        self.bench.ok("POST", f"/jobs/{job['id']}/evidence", {"check": "light", "outcome": "no"})
        line = self.page()["jobs"][0]
        self.assertEqual((line["station"], line["state"]), ("isolate", "active"))
        self.assertIn("Next:", line["next"])
        JobSummary.objects.all().delete()  # worked out anew where it is gone
        Job.objects.update(stale=True)
        self.assertEqual(self.page()["jobs"][0], line)
        self.bench.ok("POST", f"/jobs/{job['id']}/hand-over", {"because": "Owner came."})
        self.assertEqual(self.titles(), [])
        self.assertEqual(self.page("?state=closed")["jobs"][0]["station"], "hand_over")

    def test_one_job_that_cannot_be_read_hides_no_other(self) -> None:
        bad, good = self.new("Bad"), self.new("Good")
        broken = JobLook.at
        with (
            mock.patch.object(
                JobLook, "at", side_effect=lambda pk, *rest: 1 / 0 if pk == bad["id"] else broken(pk, *rest)
            ),
            self.assertLogs("clear_lens.summaries", "ERROR"),
        ):
            self.assertEqual(self.titles("?sort=title"), ["Bad", "Good"])
        self.bench.ok("POST", f"/jobs/{good['id']}/evidence", {"check": "light", "outcome": "no"})
        with (
            mock.patch("server.bench.summaries.refresh", side_effect=OperationalError("read-only")),
            self.assertLogs("clear_lens.summaries", "WARNING"),
        ):
            self.assertEqual(self.titles("?sort=title"), ["Bad", "Good"])

    def test_who_and_when_are_changed_and_kept_in_the_record(self) -> None:
        person("Ada")
        job = self.new("Given", assigned_to="Ada", due_on="2031-02-03", urgent=True, waiting_for="owner")
        told = self.bench.ok("GET", f"/jobs/{job['id']}")
        self.assertEqual(
            [told[name] for name in ("assigned_to", "due_on", "urgent", "waiting_for")],
            ["Ada", "2031-02-03", True, "owner"],
        )
        fields = Job.objects.get(pk=job["id"]).entries.get(kind="changed").data["fields"]
        self.assertEqual(fields["assigned_to"], [None, "Ada"])
        self.bench.ok(
            "PATCH",
            f"/jobs/{job['id']}",
            {"version": told["version"], "assigned_to": "", "due_on": None, "waiting_for": ""},
        )
        told = self.bench.ok("GET", f"/jobs/{job['id']}")
        self.assertEqual([told[name] for name in ("assigned_to", "due_on", "waiting_for")], ["", None, None])
        status, refusal = self.bench.call(
            "PATCH", f"/jobs/{job['id']}", {"version": told["version"], "assigned_to": "Nobody Known"}
        )
        self.assertEqual((status, "can sign in" in refusal["detail"]), (422, True))
        self.assertIn("Ada", self.bench.ok("GET", "/colleagues"))
        self.assertEqual(self.bench.call("POST", "/jobs", {**JOB, "title": " "})[0], 422)


class TheDay(TestCase):
    """What one person does next and when; the arithmetic itself is tested in the core."""

    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        Shop.objects.update_or_create(pk=1, defaults={"hours": {}, "time_zone": "UTC"})

    def at(self, moment: datetime, whose: str = "mine") -> dict[str, Any]:
        with mock.patch("django.utils.timezone.now", return_value=moment):
            return dict(self.bench.ok("GET", f"/day?whose={whose}"))

    def test_clocks_that_run_put_a_job_off_and_others_fill_the_time(self) -> None:
        nine = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)
        phone = self.bench.new_job(title="Phone", device_type="handset", build="phone_both_sides")
        laptop = self.bench.new_job(title="Laptop", build="ears")
        waits = self.bench.new_job(title="Waits", build="ears")
        self.bench.new_job(title="No panel yet", build="ears")
        tech = User.objects.get(username="tech")
        Job.objects.update(assigned_to=tech, due_on=nine.date())
        Job.objects.filter(pk=waits["id"]).update(waiting_for="part")
        found = self.at(nine)["slots"]
        self.assertEqual({slot["piece"] for slot in found}, {"Find out and choose the panel"})
        GatePassed.objects.create(job_id=laptop["id"], gate="fate", by=tech)
        procedure = procedures()["phone_both_sides"]
        step_of = {step.id: step for step in procedure.steps}
        for done in order(procedure.graph):
            GatePassed.objects.create(job_id=phone["id"], gate=done.step, choice=done.choice or "", by=tech)
            if "next" in {clock.blocks for clock in step_of[done.step].clocks.values()}:
                break
        GatePassed.objects.update(at=nine - timedelta(minutes=1))
        told = self.at(nine)
        first = told["slots"][0]
        self.assertEqual((first["title"], first["begins"]), ("Laptop", "2026-11-30T09:00:00Z"))
        later = next(slot for slot in told["slots"] if slot["title"] == "Phone")
        self.assertGreaterEqual(later["begins"], "2026-11-30T09:29:00Z")
        self.assertNotIn("Waits", [slot["title"] for slot in told["slots"]])
        self.assertEqual(self.at(nine.replace(hour=19))["slots"], [])
        self.assertEqual(self.at(nine.replace(hour=19))["late"], ["Phone", "Laptop", "No panel yet"])

    def test_mine_or_everybodys_with_as_many_queries_for_one_as_for_many(self) -> None:
        nine = datetime(2026, 11, 30, 9, 0, tzinfo=UTC)
        self.bench.new_job(title="Nobody's", build="ears")
        self.assertEqual((self.at(nine)["slots"], len(self.at(nine, "all")["slots"])), ([], 1))
        self.assertEqual(self.bench.call("GET", "/day?whose=yours")[0], 422)
        counts = []
        for _ in range(2):
            with CaptureQueriesContext(connection) as queries:
                self.at(nine, "all")
            counts.append(len(queries))
            for number in range(8):
                self.bench.new_job(title=f"{number}", build="ears")
        self.assertEqual(counts[0], counts[1])
