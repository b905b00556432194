"""What people see when the server goes away, a code ends, the line is slow."""

import re

from playwright.sync_api import Page, expect

from server.inspections.models import Access
from tests.browser.live import Served
from tests.browser.steps import link, station, take_in


class Away(Served):
    def test_what_is_on_screen_stays_and_what_was_lost_is_said(self) -> None:
        with self.page() as page:
            take_in(page, "Laptop of the upper hall")
            station(page, "Inspect")
            expect(page.get_by_role("button", name=re.compile("^Next"))).to_be_enabled()
            self.stop_server()
            page.keyboard.press("ArrowRight")
            notices = page.get_by_role("status", name="Notices")
            expect(notices.get_by_text("The server does not answer.")).to_be_visible()
            # what the station had still on its way when the server was killed counts beside the key
            lost = re.compile(
                r"(One key press or change was|2 key presses or changes were) not stored while the server was away\."
            )
            expect(notices.get_by_text(lost)).to_be_visible()
            expect(page.get_by_role("heading", name="Laptop of the upper hall")).to_be_visible()
            self.assert_accessible(page, "server away")
            self.start_server()
            expect(notices.get_by_text("The server does not answer.")).to_have_count(0)
            expect(notices.get_by_text("It is back: repeat what is missing.")).to_be_visible()
            page.get_by_role("button", name="Understood").click()
            expect(notices.get_by_text("not stored")).to_have_count(0)
            page.keyboard.press("ArrowRight")
            expect(page.get_by_text("black-dim", exact=True).first).to_be_visible()
            expect(page.get_by_text("The live link is away")).to_have_count(0)

    def test_a_revoked_code_is_said_on_the_device_and_on_the_phone(self) -> None:
        with self.page() as bench, self.page(signed_in=False) as glass, self.page(signed_in=False) as phone:
            take_in(bench, "Phone of the lower hall")
            station(bench, "Inspect")
            glass.goto(link(bench, "Show patterns on the device"))
            phone.goto(link(bench, "Phone camera"))
            expect(glass.locator("#screen")).to_have_attribute("data-step", re.compile(r"\d+"))
            expect(phone.locator("#pattern")).to_have_text("white")
            for button, code in (
                ("Show patterns on the device", Access.objects.get(kind="glass")),
                ("Phone camera", Access.objects.get(kind="snap")),
            ):
                bench.get_by_role("button", name=button).click()
                dialog = bench.get_by_role("dialog")
                dialog.get_by_role("list", name="Earlier codes").get_by_role("button", name="Revoke").click()
                expect(dialog.get_by_role("list", name="Earlier codes")).to_have_count(0)
                self.assert_accessible(bench, "codes")
                before = Access.objects.latest("id").expires_at
                dialog.get_by_role("button", name="Extend by 12 hours").click()
                expect(dialog.get_by_text(re.compile("Opens this inspection, until"))).to_be_visible()
                code.refresh_from_db()
                self.assertIsNotNone(code.revoked_at)
                self.assertGreaterEqual(Access.objects.latest("id").expires_at, before)
                dialog.get_by_role("button", name="Close").click()
            expect(glass.locator("#note")).to_contain_text("expired or was revoked")
            expect(phone.locator("#message")).to_contain_text("expired or was revoked")

    def test_the_frame_is_there_in_the_right_theme_before_any_script(self) -> None:
        for mode, colour in (("dark", "rgb(27, 27, 27)"), ("light", "rgb(243, 243, 243)")):
            with self.page(signed_in=False) as page:
                page.add_init_script(
                    f"localStorage.setItem('clear-lens-mode', '{mode}'); document.addEventListener('DOMContentLoaded', () => {{ window.seen = "
                    "[getComputedStyle(document.documentElement).backgroundColor, document.getElementById('frame')?.textContent]; })"
                )
                self._slow_line(page)
                page.goto(f"{self.url}/jobs", wait_until="commit")
                page.get_by_label("Name").wait_for()
                paint = page.evaluate("performance.getEntriesByType('paint').map(entry => entry.startTime)[0]")
                shown = page.evaluate("performance.now()")
                print(f"figure: first paint on a slow line {paint:.0f} ms, sign-in after {shown:.0f} ms ({mode})")
                self.assertLess(paint, 1000)
                self.assertGreater(shown, 1000, "the line is slow indeed")
                self.assertEqual(page.evaluate("window.seen"), [colour, "Clear Lens"])
                self.assertEqual(
                    page.evaluate("getComputedStyle(document.body).backgroundColor"), colour, "no flash to another one"
                )

    @staticmethod
    def _slow_line(page: Page) -> None:
        """A poor mobile line: 100 kB a second, 150 ms there and back."""
        line = {"offline": False, "latency": 150, "downloadThroughput": 100_000, "uploadThroughput": 50_000}
        page.context.new_cdp_session(page).send("Network.emulateNetworkConditions", line)

    def test_the_same_page_goes_on_at_the_next_stage(self) -> None:
        with self.page() as bench, self.page(signed_in=False) as glass:
            take_in(bench, "Laptop that was scanned once")
            station(bench, "Inspect")
            glass.goto(link(bench, "Show patterns on the device"))
            expect(glass.locator("#screen")).to_have_attribute("data-step", re.compile(r"\d+"))
            glass.evaluate("window.same = true")
            station(bench, "Prove")
            bench.get_by_role("button", name="Show patterns on the device").click()
            dialog = bench.get_by_role("dialog")
            dialog.get_by_role("list", name="Codes of other stages").get_by_role("button", name="Go on here").click()
            expect(dialog).to_have_count(0)
            expect(glass.locator("#note")).to_have_text("Now: Closed.")
            expect(bench.get_by_text(re.compile("1:1|keeps a rim"))).to_be_visible()
            bench.keyboard.press("ArrowRight")
            expect(bench.get_by_text("black-dim", exact=True).first).to_be_visible()
            expect(glass.locator("#screen")).to_have_attribute("data-step", "1")
            self.assertTrue(glass.evaluate("window.same"), "without a reload")
