"""Acceptance profiles through the real interface."""

from django.contrib.auth.models import Group, User
from playwright.sync_api import expect

from tests.browser.live import Served
from tests.browser.steps import take_in


class Profiles(Served):
    def test_a_lead_writes_a_profile_and_jobs_may_choose_it(self) -> None:
        with self.page() as page:
            page.goto(f"{self.url}/settings/acceptance/class-I")
            expect(page.get_by_text("A lead writes profiles")).to_be_visible()
        User.objects.get(username="tech").groups.set(Group.objects.filter(name="lead"))
        with self.page() as page:
            page.goto(f"{self.url}/settings/acceptance/new")
            page.get_by_label("Name").fill("counter")
            page.get_by_label("Title", exact=True).fill("Counter sale")
            page.get_by_label("Uniformity, at least").fill("0,8")
            page.get_by_role("button", name="Add a rule").click()
            self.assert_accessible(page, "profile")
            page.get_by_role("button", name="Save as own").dblclick()
            expect(page.get_by_role("button", name="Save", exact=True)).to_be_visible()
            expect(page.get_by_label("Uniformity, at least")).to_have_value("0.8")
            page.get_by_role("link", name="Jobs", exact=True).click()
            take_in(page, "Counter laptop")
            page.get_by_role("combobox", name="Acceptance profile").click()
            page.get_by_role("option", name="Counter sale").click()
            page.get_by_role("combobox", name="Acceptance profile").blur()
            expect(page.get_by_text("class-II.")).to_have_count(0)
