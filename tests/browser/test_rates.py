"""The shop's base rates: counted from closed jobs, reset by leads only."""

from django.contrib.auth.models import Group, User
from playwright.sync_api import expect

from server.jobs.actions import create_job, hand_over
from tests.browser.live import Served
from tests.server.helpers import JOB


class Rates(Served):
    def test_closed_jobs_count_until_a_lead_starts_anew(self) -> None:
        tech = User.objects.get(username="tech")
        job = create_job(tech, {**JOB, "profile": "class-II", "build": "ears"})
        hand_over(tech, job.pk, ["cable"], because="Repaired before it was measured.")
        with self.page() as page:
            page.goto(f"{self.url}/settings/rates")
            row = page.get_by_role("row", name="Display cable damaged")
            expect(row.get_by_role("cell", name="1", exact=True)).to_be_visible()
            expect(page.get_by_role("button", name="Start counting again")).to_have_count(0)
            page.get_by_role("button", name="Phones").click()
            expect(page.get_by_text("Nothing counted yet for this device type")).to_be_visible()
            self.assert_accessible(page, "base rates")
        tech.groups.set(Group.objects.filter(name="lead"))
        with self.page() as page:
            page.goto(f"{self.url}/settings/rates")
            page.get_by_role("button", name="Start counting again").click()
            page.get_by_role("button", name="Start anew").dblclick()
            expect(page.get_by_text("Counted since")).to_be_visible()
            expect(page.get_by_text("0 of the shop's own jobs")).to_be_visible()
