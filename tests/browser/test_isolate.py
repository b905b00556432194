"""The Isolate station: by keyboard, out of order, taken back, on a narrow screen, and with a hasty finger."""

import re

from playwright.sync_api import expect

from lens.simulate import DeviceFault
from server.jobs.models import Evidence, Job
from tests.browser.live import Served
from tests.browser.steps import link, shoot_whole_set, station, take_in


class Isolate(Served):
    def test_the_card_is_answered_by_keys_and_the_causes_move(self) -> None:
        with self.page() as page:
            take_in(page, "Counter laptop")
            station(page, "Isolate")
            card, causes = (
                page.get_by_role("region", name="Next step"),
                page.get_by_role("region", name="Likely causes").first,
            )
            expect(card.get_by_role("heading", name="What is wrong at first look?")).to_be_visible()
            before = causes.get_by_role("listitem").first.inner_text()
            lines = card.get_by_role("button", name=re.compile("^Lines or bands"))
            page.keyboard.press(lines.inner_text().split()[-1].lower())
            expect(card.get_by_role("heading", name="What is wrong at first look?")).to_have_count(0)
            expect(causes.get_by_role("listitem").first).not_to_have_text(before)
            # one that cannot be done, and a check out of order
            due = card.get_by_role("heading").first.inner_text()
            page.keyboard.press("x")
            expect(card.get_by_role("heading").first).not_to_have_text(due)
            expect(page.get_by_role("region", name="Evidence").get_by_text("not possible").first).to_be_visible()
            page.get_by_role("button", name=re.compile("open checks")).click()
            page.get_by_role("list", name="Open checks").get_by_role(
                "button", name=re.compile("^Does it change with a light squeeze")
            ).click()
            expect(card.get_by_text("Picked by you")).to_be_visible()
            page.keyboard.press("w")
            expect(causes.get_by_role("listitem").first).to_contain_text("Connector not fully seated")
            # a cheap repair is worth a try before more is looked at
            expect(card.get_by_role("heading", name="Reseat both ends of the display cable")).to_be_visible()
            expect(card.get_by_text("trying it costs less than looking further")).to_be_visible()
            self.assert_accessible(page, "isolate with evidence")

    def test_the_first_job_says_what_its_device_shows_until_the_cause_stands_out(self) -> None:
        with self.page() as page:
            page.goto(f"{self.url}/today")
            page.get_by_role("button", name="Begin the first job").click()
            guide = page.get_by_role("region", name="First job")
            expect(guide).to_contain_text("step 2 of 7: Isolate")
            guide.get_by_role("link", name="Go to Isolate").click()
            for _ in range(8):
                shown = guide.get_by_text(re.compile("This device shows")).filter(visible=True)
                expect(
                    guide.get_by_text(re.compile("This device shows|That is the repair|measured from"))
                ).to_be_visible()
                if not shown.count():
                    break
                words = shown.inner_text()
                page.keyboard.press(words.rsplit("(", 1)[1][0].lower())
                expect(guide).not_to_contain_text(words.split(" This device")[0])
            expect(guide).to_contain_text("step 3 of 7: Inspect")
            causes = page.get_by_role("region", name="Likely causes").first
            expect(causes.get_by_role("listitem").first).to_contain_text("Cell flex or its bond")
            self.assert_accessible(page, "first job")
            page.goto(f"{self.url}/today")
            expect(page.get_by_role("button", name="Go on with the first job")).to_be_visible()

    def test_a_hasty_finger_answers_one_card_and_a_wrong_answer_is_withdrawn_with_its_reason(self) -> None:
        with self.page() as page:
            take_in(page, "Hasty laptop")
            station(page, "Isolate")
            card, ledger = page.get_by_role("region", name="Next step"), page.get_by_role("region", name="Evidence")
            expect(card.get_by_role("heading", name="What is wrong at first look?")).to_be_visible()
            page.get_by_role("button", name="On battery").click()
            for _ in range(3):
                page.keyboard.press("q")
            expect(ledger.get_by_text("What is wrong at first look? Nothing to see")).to_be_visible()
            self.assertLessEqual(Evidence.objects.filter(withdrawn=False).count(), 3)
            self.assertEqual(Evidence.objects.filter(check_id="first_look").count(), 1)
            expect(ledger.get_by_text("on battery").first).to_be_visible()
            entry = ledger.get_by_role("listitem").filter(has_text="What is wrong at first look?")
            entry.get_by_role("button", name="Withdraw").click()
            page.get_by_label("Why", exact=True).fill("Wrong laptop on the bench")
            page.get_by_role("button", name="Withdraw", exact=True).last.click()
            expect(entry).to_have_count(0)
            ledger.get_by_role("button", name=re.compile("withdrawn")).click()
            expect(ledger.get_by_text("withdrawn: Wrong laptop on the bench")).to_be_visible()
            page.reload()
            expect(card.get_by_role("heading", name="What is wrong at first look?")).to_be_visible()

    def test_two_glasses_in_step_and_a_capture_device_clear_the_board(self) -> None:
        with self.page() as page:
            take_in(page, "Laptop with a line")
            job = Job.objects.get()
            job.simulated = {"original": [DeviceFault(kind="dark_column", x=320, y=0).model_dump()]}
            job.save(update_fields=["simulated"])
            station(page, "Inspect")
            page.get_by_role("button", name="Triage").click()
            inside = link(page, "Show patterns on the device")
            shoot_whole_set(page)
            expect(page.get_by_role("region", name="Verdict")).to_be_visible()
            station(page, "Isolate")
            outer = page.get_by_role("region", name="External screen")
            outer.get_by_role("button", name="Measure it").click()
            outside = link(page, "Show patterns on the device")
            middle = (
                "[...document.getElementById('screen').getContext('2d').getImageData(320, 200, 1, 1).data].slice(0, 3)"
            )
            size = {"width": 640, "height": 400}
            with (
                self.page(signed_in=False, viewport=size) as first,
                self.page(signed_in=False, viewport=size) as second,
            ):
                for glass, address in ((first, inside), (second, outside)):
                    glass.goto(address)
                    expect(glass.locator("#screen")).to_have_attribute("data-step", re.compile(r"\d"))
                for pattern, colour in (
                    ("black-dim", [0, 0, 0]),
                    ("pale-red", [255, 140, 140]),
                    ("white", [255, 255, 255]),
                ):
                    outer.get_by_role("button", name=pattern, exact=True).click()
                    for glass in (first, second):
                        for _ in range(80):
                            if glass.evaluate(middle) == colour:
                                break
                            glass.wait_for_timeout(50)
                        self.assertEqual(glass.evaluate(middle), colour, pattern)
            outer.get_by_role("button", name="Simulated capture device: take a frame").click()
            expect(
                outer.get_by_text("The external screen is clean; 1 finding is shown by the panel alone")
            ).to_be_visible()
            graphics = (
                page.get_by_role("region", name="Likely causes")
                .first.get_by_role("listitem")
                .filter(has_text="Graphics")
            )
            expect(graphics).to_have_count(0)
            self.assert_accessible(page, "external screen")

    def test_it_reads_well_on_a_narrow_screen(self) -> None:
        with self.page(viewport={"width": 360, "height": 740}) as page:
            take_in(page, "Narrow laptop")
            station(page, "Isolate")
            expect(page.get_by_role("region", name="Next step")).to_be_visible()
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 360)
