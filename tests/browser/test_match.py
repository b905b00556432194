"""From an empty shop to the parcel on the bench: a device, its label, two offers by hand and one from a file, quote, yes, order, arrival."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from lens.simulate.labels import label_photo
from server.jobs.models import Job
from server.parts.models import Device, Offer
from server.purchasing.models import Order, Quote
from tests.browser.live import Served
from tests.browser.steps import station, take_in

NUMBER = "KS064F2"


def add_offer(page: Page, supplier: str, price: str, days: str) -> None:
    box = page.get_by_role("combobox", name="Add an offer of")
    box.press_sequentially(NUMBER.lower())
    page.get_by_role("option", name=NUMBER).click()
    page.get_by_label("Supplier").fill(supplier)
    page.get_by_label("Price").fill(price)
    page.get_by_label("Delivery").fill(days)
    page.get_by_role("button", name="Add the offer").click()
    expect(page.get_by_role("list", name="Offers that may fit").get_by_text(supplier)).to_be_visible()


class FromAnEmptyShop(Served):
    def test_from_the_label_to_the_parcel(self) -> None:
        with self.page() as page:
            take_in(page, "Counter laptop")
            page.get_by_role("button", name="Add this model to the register").click()
            page.get_by_label("Names on its labels").fill("Kehre 303\nKE303-1")
            page.get_by_role("dialog").get_by_role("button", name="Save").click()
            expect(page.get_by_label("Model, from the register")).to_have_value("Kehre 303 / KE303-1")
            station(page, "Match")
            page.get_by_role("button", name="Read the label").click()
            photo = label_photo(NUMBER, np.random.default_rng(5), "QRCode", letter_px=30)
            file = {"name": "label.jpg", "mimeType": "image/jpeg", "buffer": photo.data}
            page.get_by_label("Photo of the label").set_input_files(file)  # type: ignore[arg-type]
            page.get_by_role("dialog").get_by_role("button", name=NUMBER).click()
            page.get_by_role("button", name="Add and use it").click()
            add_offer(page, "Northside", "54,50", "3")
            add_offer(page, "Passway", "80", "1")
            page.get_by_role("link", name="Parts").click()
            page.get_by_role("button", name="Import offers").click()
            text = f"part_number;supplier;price;delivery_days\n{NUMBER};Valley;49,00;6\nX-999;Valley;1;1\n"
            file = {"name": "offers.csv", "mimeType": "text/csv", "buffer": text.encode()}
            page.get_by_label("CSV file").set_input_files(file)  # type: ignore[arg-type]
            expect(page.get_by_text("Line 3: No panel 'X-999' is in the register")).to_be_visible()
            page.get_by_role("button", name="Take them in").click()
            page.get_by_role("button", name="Close").click()
            page.go_back()
            expect(page.get_by_role("list", name="Offers that may fit").get_by_role("listitem")).to_have_count(3)
            expect(page.get_by_role("img", name="Northside")).to_be_visible()  # the trade-off, told in words as well
            self.assert_accessible(page, "match with a trade-off")
            page.keyboard.press("o")
            expect(page.get_by_text(f"{NUMBER}, chosen")).to_be_visible()
            page.get_by_role("button", name="Make a quote").click()
            page.get_by_role("button", name="Make the quote").click()
            expect(page.get_by_text(re.compile(r"Quote: \d+\.\d\d EUR"))).to_be_visible()
            page.get_by_label("Who answered").fill("Ada")
            page.get_by_role("button", name="Owner said yes").click()
            expect(page.get_by_text("Ada said yes")).to_be_visible()
            page.get_by_role("button", name="Ordered now").click()
            expect(page.get_by_text("Ordered from Valley")).to_be_visible()
            page.get_by_role("button", name="Promise this day").click()
            expect(page.get_by_text("Promised for")).to_be_visible()
            page.get_by_role("link", name="Parts").click()
            page.get_by_role("tab", name="Orders").click()
            page.get_by_role("button", name="Arrived").click()
            expect(page.get_by_text("No order here")).to_be_visible()
            page.goto(f"{self.url}/jobs/{Job.objects.get().pk}/match")
            page.get_by_role("button", name="Good", exact=True).click()
            expect(page.get_by_text("arrived good")).to_be_visible()
        self.assertEqual((Order.objects.get().state, Quote.objects.get().answer), ("arrived", "yes"))
        self.assertEqual((Device.objects.get().names, Offer.objects.count()), (["Kehre 303", "KE303-1"], 3))
        self._three_keys()

    def _three_keys(self) -> None:
        """A second job of the device: 4 for Match, h for what the closed job had, o for the cheapest offer that fits."""
        first = Job.objects.get()
        Job.objects.filter(pk=first.pk).update(closed_at=first.created_at)
        with self.page() as page:
            take_in(page, "Second laptop")
            box = page.get_by_label("Model, from the register")
            box.fill("ke303")
            page.get_by_role("option", name="Kehre 303").click()
            expect(box).to_have_value("Kehre 303 / KE303-1")
            box.blur()
            page.keyboard.press("4")
            expect(page.get_by_text("The closed job of this device had it")).to_be_visible()
            page.keyboard.press("h")
            expect(page.get_by_text("Cheapest that fits")).to_be_visible()
            page.keyboard.press("o")
            expect(page.get_by_text(f"{NUMBER}, chosen")).to_be_visible()
