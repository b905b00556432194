"""A touch session by real touch input: the whole plan drawn on a glass with a dead part and touches that nobody made."""

import json
import re
import statistics

from playwright.sync_api import expect

from server.touch.models import TouchPart, TouchSession
from tests.browser.finger import Finger, Place
from tests.browser.live import WAIT_MS, Served
from tests.browser.steps import link, station, take_in

SIZE = {"width": 270, "height": 480}
RATIO = 2.0  # the panel has 540 x 960 pixels
expect.set_options(timeout=WAIT_MS)


class Touch(Served):
    def test_a_dead_part_and_phantoms_are_found_and_only_what_is_missing_is_drawn_again(self) -> None:
        with self.page() as page:
            take_in(page, "Rental handset", "540x960")
            page.get_by_label("Diagonal").fill("2.6")
            page.get_by_label("Diagonal").blur()
            station(page, "Inspect")
            expect(page.get_by_role("group", name="What is proven")).to_be_visible()
            page.keyboard.press("t")
            page.get_by_label("Hands off, seconds").fill("3")
            page.get_by_label("Fingers at once").fill("3")
            page.get_by_role("button", name="Start the session").click()
            address = link(page, "Show it on the device")
            with self.page(signed_in=False, viewport=SIZE, device_scale_factor=RATIO, has_touch=True) as glass:
                glass.goto(address)
                expect(glass.locator("#screen")).to_have_attribute("data-touch", "lines across.ready")
                box = glass.locator("#note").bounding_box() or {"width": 99.0, "height": 99.0}
                self.assertLessEqual(box["width"] * box["height"], 4, "words must not cover what is to be drawn")
                plan = glass.evaluate("fetch(location.pathname + '/touch').then(answer => answer.json())")
                half = plan["panel"]["height"] / 2

                def dead(place: Place) -> bool:
                    return place[1] > half

                finger = Finger(glass, RATIO, dead)
                glass.context.set_offline(True)  # the network goes away while the first lines are drawn
                lags: dict[int, list[tuple[int, float]]] = {1: [], 4: []}
                for number, step in enumerate(plan["steps"]):
                    throttle = 4 if step["id"] in ("circle", "diagonals") else 1
                    finger.wire.send("Emulation.setCPUThrottlingRate", {"rate": throttle})
                    before = str(glass.locator("#screen").get_attribute("data-trail-lags") or "").split()
                    if step["kind"] in ("guided_path", "edge"):
                        finger.draw(step)
                    elif step["kind"] == "hands_off":
                        finger.hands_off(
                            step,
                            [(100, 100), (101, 102), (99, 101), (100, 102), (101, 100)] if step["charging"] else (),
                        )
                    else:
                        finger.hold(step)
                    after = str(glass.locator("#screen").get_attribute("data-trail-lags") or "").split()
                    lags[throttle] += [
                        (int(frames), float(ms)) for frames, ms in (lag.split(":") for lag in after[len(before) :])
                    ]
                    if number == 0:
                        glass.context.set_offline(False)
                expect(glass.locator("#screen")).to_have_attribute("data-touch", "end.end")
                for throttle, told in lags.items():
                    ms = statistics.median(lag for _, lag in told)
                    one = sum(frames <= 1 for frames, _ in told) / len(told)
                    print(
                        f"figure: trail behind the finger, processor slowed {throttle}x: {100 * one:.0f} % in the next frame, median {ms:.0f} ms"
                    )
                    self.assertGreaterEqual(one, 0.9)
                verdict = page.get_by_role("region", name="Touch verdict")
                expect(verdict.get_by_text("Touches that nobody made, fixed spot")).to_be_visible()
                expect(verdict.get_by_text("A half of")).to_be_visible()
                expect(page.get_by_role("group", name="Touch", exact=True).locator("[data-zone=half]")).to_have_count(1)
                session = TouchSession.objects.get()
                self.assertEqual(
                    sum(len(json.loads(rows)) for rows in TouchPart.objects.values_list("rows", flat=True)),
                    session.events,
                )
                self.assertEqual([step["id"] for step in session.done], [step["id"] for step in plan["steps"]])
                drawn_s = (
                    sum(
                        step["end_ms"] - step["start_ms"]
                        for step in plan["steps"]
                        if step["kind"] in ("guided_path", "edge")
                    )
                    / 1000
                )
                self.assertLess(drawn_s, 60)
                page.get_by_role("button", name="Play the strokes").click()
                expect(page.get_by_role("slider", name="Time of the replay")).to_be_visible()
                self.assert_accessible(page, "touch")
                # the plug is seated anew: only what is missing is drawn again, and it answers now
                page.keyboard.press("m")
                expect(glass.locator("#screen")).to_have_attribute("data-touch", "again.ready")
                finger.dead = lambda place: False
                again = glass.evaluate("fetch(location.pathname + '/touch').then(answer => answer.json())")["steps"][-1]
                finger.draw(again)
                expect(glass.locator("#screen")).to_have_attribute("data-touch", "end.end")
                expect(verdict.get_by_text("answers at times only")).to_be_visible()
            page.get_by_role("button", name="End the recording").click()
            expect(page.get_by_role("button", name="Start another session")).to_be_visible()

    def test_a_panel_that_feels_nothing_is_asked_about_and_dead(self) -> None:
        with self.page(viewport={"width": 360, "height": 740}) as page:
            take_in(page, "Dead handset", "540x960")
            page.goto(page.url.replace("/intake", "/inspect") + "?part=touch")
            page.get_by_label("Hands off, seconds").fill("2")
            page.get_by_role("button", name="Start the session").click()
            address = link(page, "Show it on the device")
            with self.page(signed_in=False, viewport=SIZE, device_scale_factor=RATIO, has_touch=True) as glass:
                glass.goto(address)
                screen = glass.locator("#screen")
                expect(screen).to_have_attribute("data-touch", "lines across.ready")
                page.keyboard.press("ArrowRight")
                expect(screen).to_have_attribute("data-touch", "lines across.running")
                glass.reload()  # in the middle of a step: it waits for that step again
                expect(screen).to_have_attribute("data-touch", "lines across.ready")
                page.keyboard.press("ArrowRight")
                expect(screen).to_have_attribute("data-touch", "lines across.asking")
                expect(page.get_by_text("felt nothing: was it drawn?")).to_be_visible()
                page.keyboard.press("ArrowLeft")
                expect(screen).to_have_attribute("data-touch", "lines across.ready")
                page.keyboard.press("ArrowRight")
                expect(screen).to_have_attribute("data-touch", "lines across.asking")
                page.keyboard.press("ArrowRight")
                expect(screen).to_have_attribute("data-touch", "lines down.ready")
            expect(
                page.get_by_role("region", name="Touch verdict").get_by_text("The whole panel does not answer")
            ).to_be_visible()
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 360)

    def test_where_no_page_opens_places_are_marked_by_eye(self) -> None:
        with self.page(viewport={"width": 360, "height": 740}) as page:
            take_in(page, "School tablet, locked", "540x960")
            station(page, "Inspect")
            expect(page.get_by_role("group", name="What is proven")).to_be_visible()
            page.keyboard.press("t")
            page.get_by_role("button", name="It cannot open our page: mark by eye").press("Enter")
            section = page.get_by_role("region", name="Touch by eye")
            grid = section.get_by_role("application")
            grid.focus()
            for key in ("ArrowRight", "ArrowRight", "ArrowRight", " ", *(("ArrowDown", " ") * 19)):
                page.keyboard.press(key)
            self.assertIn("20 marked; at column 4, row 20, marked", grid.get_attribute("aria-label") or "")
            self.assert_accessible(page, "touch by eye")
            box = grid.bounding_box() or {"x": 0.0, "y": 0.0, "width": 1.0, "height": 1.0}
            cell = box["width"] / 11
            page.mouse.move(box["x"] + 8.5 * cell, box["y"] + 2.5 * cell)
            page.mouse.down()
            page.mouse.move(box["x"] + 9.5 * cell, box["y"] + 2.5 * cell, steps=4)
            page.mouse.up()
            section.get_by_role("button", name="Keep 22 places").click()
            expect(section.get_by_role("status")).to_contain_text("A column does not answer, 32 % from the left.")
            expect(section.get_by_role("status")).to_contain_text("A place does not answer")
            page.reload()
            expect(section.get_by_text("A column does not answer, 32 % from the left.")).to_be_visible()
            station(page, "Isolate")
            expect(page.get_by_text(re.compile("Touch by eye as received: A column does not answer"))).to_be_visible()
            expect(
                page.get_by_text("Sense line of the touch layer", exact=True).filter(visible=True).first
            ).to_be_visible()
