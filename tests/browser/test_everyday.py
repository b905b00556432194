"""The everyday through the real interface, from an empty shop on: a register that fills while one works, a list that finds, people, settings."""

import re

from django.contrib.auth.models import Group, User
from playwright.sync_api import expect

from server.parts.models import PanelModel
from tests.browser.live import Served
from tests.browser.steps import station, take_in


class Everyday(Served):
    def test_a_panel_and_its_offer_are_entered_from_the_job(self) -> None:
        with self.page() as page:
            take_in(page, "Counter laptop")
            station(page, "Match")
            page.get_by_role("button", name="It is not in the register").click()
            page.get_by_label("Part number on the label").fill("FG-064 A")
            page.get_by_label("Outline").fill("160,4 x 100")
            page.get_by_role("button", name="Add and use it").click()
            expect(page.get_by_text("Nobody offers a panel yet")).to_be_visible()
            box = page.get_by_role("combobox", name="Add an offer of")
            box.press_sequentially("fg064")
            page.get_by_role("option", name="FG-064 A").click()
            page.get_by_label("Supplier").fill("Northside")
            page.get_by_label("Price").fill("54,50")
            page.get_by_role("button", name="Add the offer").click()
            offer = page.get_by_role("listitem").filter(has_text="FG-064 A")
            expect(offer).to_contain_text("Fits")  # one number is one panel
            self.assert_accessible(page, "match with an offer")
            page.get_by_role("button", name="Choose").click()
            expect(offer).to_contain_text("chosen")
            page.get_by_role("link", name="Parts").click()
            page.get_by_role("button", name="Import panels").click()
            text = "part_number;connector_pins\nFG-064A;30\nKS-1;wide\nKS-2;40\n"
            file = {"name": "panels.csv", "mimeType": "text/csv", "buffer": text.encode()}
            page.get_by_label("CSV file").set_input_files(file)  # type: ignore[arg-type]
            expect(page.get_by_text("It would add 1 new and change 1")).to_be_visible()
            expect(page.get_by_text("Line 3: connector_pins: 'wide' is no number.")).to_be_visible()
            page.get_by_role("button", name="Take them in").click()
            expect(page.get_by_text("Taken in: 1 new, 1 changed")).to_be_visible()
            page.get_by_role("button", name="Close").click()
            expect(page.get_by_role("button", name=re.compile("^KS-2"))).to_be_visible()
            self.assertEqual(PanelModel.objects.get(name="FG-064 A").spec["connector_pins"], 30)

    def test_a_job_is_found_given_and_seen_today(self) -> None:
        with self.page() as page:
            take_in(page, "Ticket counter laptop")
            page.get_by_role("button", name="Who and when").click()
            page.get_by_role("combobox", name="Given to").click()
            page.get_by_role("option", name="tech (me)").click()
            page.get_by_role("checkbox", name="Urgent").check()
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_text("Urgent, with tech")).to_be_visible()
            page.get_by_role("link", name="Today", exact=True).click()
            expect(page.get_by_role("region", name="Mine").get_by_text("Ticket counter laptop")).to_be_visible()
            page.get_by_role("link", name="Jobs", exact=True).click()
            page.get_by_label("Find").fill("labtop")
            expect(page).to_have_url(re.compile("q=labtop"))
            expect(page.get_by_text("Ticket counter laptop")).to_be_visible()
            page.reload()
            expect(page.get_by_label("Find")).to_have_value("labtop")
            page.get_by_label("Find").fill("")
            page.get_by_role("button", name="Overdue").click()
            expect(page.get_by_text("No job is like this")).to_be_visible()

    def test_a_lead_adds_a_person_and_describes_the_shop(self) -> None:
        User.objects.get(username="tech").groups.set(Group.objects.filter(name="lead"))
        with self.page() as page:
            page.get_by_role("link", name="Settings").click()
            page.get_by_label("Name").fill("Ridge Repairs")
            page.get_by_label("Time zone").fill("Europe/Vienna")
            page.get_by_role("button", name="Save").click()
            expect(page.get_by_text("Saved.")).to_be_visible()
            page.get_by_role("tab", name="People").click()
            page.get_by_role("button", name="Add a person").click()
            page.get_by_label("Name").fill("Ada")
            page.get_by_label("First password").fill("short")
            page.get_by_role("button", name="Add", exact=True).click()
            expect(page.get_by_text("too short")).to_be_visible()
            page.get_by_label("First password").fill("long-enough-2")
            page.get_by_role("button", name="Add", exact=True).click()
            expect(page.get_by_role("list", name="People").get_by_text("Ada")).to_be_visible()
            page.keyboard.press("?")
            expect(page.get_by_role("dialog").get_by_text("Next and previous finding")).to_be_visible()
            self.assert_accessible(page, "help")
