"""A phone proved by hand and handed over, and the same phone coming back."""

import re

from django.contrib.auth.models import User
from playwright.sync_api import expect

from server.jobs.models import Job
from tests.browser.live import Served
from tests.browser.steps import station, take_in
from tests.server.helpers import JOB, Bench


class Phone(Served):
    def test_functions_conditions_hand_over_and_a_comeback(self) -> None:
        fields = {
            **JOB,
            "device_type": "handset",
            "build": "phone_front",
            "title": "Guide phone",
            "serial_printed": "GP-778812",
        }
        tech = User.objects.get(username="tech")
        job = Job.objects.create(**fields, profile="class-II", created_by=tech)
        Bench(tech).work_to(job.pk, "frame_ready", by_eye=True)
        with self.page(viewport={"width": 360, "height": 780}) as page:
            page.goto(f"{self.url}/jobs/{job.pk}/prove?part=functions")
            functions = page.get_by_role("region", name="Functions")
            rows = functions.get_by_role("listitem")
            expect(rows.first).to_be_visible()
            self.assert_accessible(page, "functions at 360 px")
            for row in rows.all():
                row.get_by_role("button", name="Works").click()
            expect(functions.get_by_text("All are answered.")).to_be_visible()
            verdict = page.get_by_role("region", name="Verdict of the job")
            expect(verdict.get_by_text("functions tested")).to_be_visible()
            expect(verdict.get_by_text("looked at by eye")).to_be_visible()
            ear = functions.get_by_role("listitem", name="Earpiece")
            ear.get_by_role("button", name="Does not").click()
            expect(verdict.get_by_text("Not working: earpiece.")).to_be_visible()
            expect(verdict.get_by_text("Fail", exact=True)).to_be_visible()
            page.reload()
            expect(ear.get_by_text("Does not work")).to_be_visible()
            page.get_by_role("button", name="Touch").click()
            page.get_by_role("button", name="Change").click()
            page.get_by_role("combobox", name="Film").click()
            page.get_by_role("option", name="Film on").click()
            expect(page.get_by_text("Conditions: Film on.")).to_be_visible()
            station(page, "Hand over")
            page.get_by_role("button", name="Hand over", exact=True).last.click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("What to know next time").fill("The earpiece flex hides under the frame.")
            dialog.get_by_label("Why").first.fill("The owner knows of the earpiece.")
            dialog.get_by_role("button", name="Hand over").click()
            expect(page.get_by_text(re.compile(r"^Handed over \w+ \d"))).to_be_visible()
        with self.page() as page:
            take_in(page, "The guide's phone again")
            page.get_by_label("Serial number printed").fill("gp 778812")
            page.get_by_label("Serial number printed").blur()
            before = page.get_by_role("region", name="It was here before")
            expect(before.get_by_role("link", name=f"Job {job.pk}, Guide phone")).to_be_visible()
            self.assert_accessible(page, "a comeback at intake")
