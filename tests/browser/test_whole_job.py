"""The whole job through the real interface: glass, hand camera and bench in three pages, with the simulated bench."""

import io
import re
import statistics
import time
from pathlib import Path

from django.conf import settings
from PIL import Image, ImageFilter
from playwright.sync_api import Page, Route, expect

from lens.matching import PanelSpec
from lens.reporting import verify_file
from lens.simulate import DeviceFault
from server.common.notify import notify
from server.inspections.models import Photo, Run
from server.jobs.models import Entry, Job
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from tests.browser.live import Served
from tests.browser.steps import link, look_closely, shoot_whole_set, station, take_in, work_to
from tests.server.helpers import photo

SPEC = PanelSpec(
    part_number="A",
    width=640,
    height=400,
    outline_mm=(200, 120),
    thickness_mm=3,
    mounting="ears",
    connector_pins=30,
    connector_family="narrow",
    connector_side="right",
    signal="eDP",
    lanes=1,
    touch=False,
    finish="matt",
)
LATENCY_CHANGES = 100
WARM_UP_CHANGES = 8  # every pattern has been fetched and decoded once

VIEWS = (
    "/jobs",
    "/jobs/new",
    "/look",
    "/today",
    "/parts",
    "/settings/shop",
    "/settings/people",
    "/settings/rules",
    "/settings/me",
    "/settings/acceptance/grade-a",
)


class WholeJob(Served):
    def setUp(self) -> None:
        super().setUp()
        for name, change in (("A", {}), ("C", {"signal": "LVDS"})):
            spec = SPEC.model_copy(update={"part_number": name, **change})
            panel = PanelModel.objects.create(name=name, maker="M", spec=spec.model_dump(mode="json"))
            Offer.objects.create(
                panel=panel,
                supplier=supplier_called("S"),
                price=10,
                shipping=2,
                delivery_days=3,
                warranty_months=12,
                doa_days=14,
            )

    def test_from_intake_to_hand_over(self) -> None:
        started = time.monotonic()
        with self.page() as page:
            take_in(page, "Counter laptop")
            job = Job.objects.get()
            job.simulated = {
                "original": [DeviceFault(kind="dark_column", x=320, y=0).model_dump()],
                "replacement": [],
                "closing": [DeviceFault(kind="dead_pixel", x=100, y=300).model_dump()],
            }
            job.save(update_fields=["simulated"])
            page.get_by_label("Owner", exact=True).fill("Ridge hall")
            page.get_by_label("Owner", exact=True).blur()
            expect(page.get_by_text("Everything is saved as you type.")).to_be_visible()
            self.assert_accessible(page, "intake")

            station(page, "Isolate")
            page.get_by_role("region", name="Next step").get_by_role("button", name="Lines or bands").click()
            expect(
                page.get_by_role("region", name="Evidence").get_by_text("What is wrong at first look? Lines or bands")
            ).to_be_visible()
            self.assert_accessible(page, "isolate")

            station(page, "Inspect")
            shoot_whole_set(page)
            expect(page.get_by_role("region", name="Verdict").get_by_text("Fail", exact=True)).to_be_visible()
            expect(page.get_by_role("list", name="Findings").get_by_text("Line", exact=True)).to_be_visible()
            self.assert_accessible(page, "inspect")
            look_closely(self, page)

            station(page, "Match")
            page.get_by_role("combobox", name="Panel in the device").click()
            page.get_by_role("option", name=re.compile("^A")).click()
            expect(page.get_by_text("1 does not fit: why")).to_be_visible()
            page.get_by_role("button", name="Choose").first.click()
            expect(page.get_by_text(", chosen")).to_be_visible()
            self.assert_accessible(page, "match")

            station(page, "Fit")
            page.get_by_role("button", name="slim panel with mounting tabs").click()
            work_to(page, "Dry fit")
            expect(page.get_by_role("button", name="Done: dry fit")).to_be_disabled()
            shoot_whole_set(page)
            # three photos are enough for the short profile of a dry fit
            expect(page.get_by_role("button", name="Done: dry fit")).to_be_enabled()
            self.assert_accessible(page, "fit")
            page.get_by_role("button", name="Done: dry fit").click()
            page.get_by_role("button", name="Done: dry fit").wait_for(state="detached")
            work_to(page, "")
            expect(page.get_by_text("All steps are done")).to_be_visible()

            station(page, "Prove")
            shoot_whole_set(page)
            expect(page.get_by_text("Closing changed something")).to_be_visible()
            expect(page.get_by_text("dead pixel (new since the dry fit)")).to_be_visible()
            self.assert_accessible(page, "prove")

            station(page, "Hand over")
            expect(page.get_by_text("Not everything is good or proven.")).to_be_visible()
            self.assert_accessible(page, "hand over")
            self.assertEqual(
                page.request.get(f"{self.url}/api/jobs/{job.pk}/report.pdf").headers["content-type"], "application/pdf"
            )
            reports = page.get_by_role("region", name="Reports")
            reports.get_by_role("button", name="Make the report (PDF)").click()
            with page.expect_download() as saved:
                reports.get_by_role("link", name="Save").first.click()
            told = verify_file(Path(saved.value.path()).read_bytes(), [settings.SHOP_PUBLIC_KEY])
            self.assertEqual(told.result, "holds", told.text)
            reports.get_by_role("button", name="Link for the owner").click()
            reports.get_by_role("button", name="Make a link").click()
            address = reports.get_by_role("link", name="/r/").get_attribute("href") or ""
            with self.page(signed_in=False) as owner:
                owner.goto(self.url + address[address.index("/r/") :])
                expect(owner.get_by_role("heading", name="Counter laptop")).to_be_visible()
                expect(owner.get_by_text("Not all of it is in order.")).to_be_visible()
                self.assert_accessible(owner, "owner's page")
            page.get_by_role("button", name="Hand over", exact=True).last.click()
            page.get_by_role("dialog").get_by_role("button", name="Hand over").dblclick()
            expect(page.get_by_text(re.compile(r"^Handed over \w+ \d"))).to_be_visible()
            expect(page.get_by_role("dialog")).to_have_count(0)
            self.assertEqual(Entry.objects.filter(kind="handed_over").count(), 1)
        print(f"figure: whole job driven in {time.monotonic() - started:.0f} s")

    def test_two_windows_notice_each_other_and_nothing_typed_is_lost(self) -> None:
        with self.page() as page:
            take_in(page, "Shared laptop")
            complaint = page.get_by_label("Complaint")
            with self.page() as other:
                other.goto(page.url)
                held: list[Route] = []
                page.route(
                    "**/api/jobs/*",
                    lambda route: held.append(route) if route.request.method == "PATCH" else route.continue_(),
                )
                complaint.fill("Flickers when")
                complaint.blur()
                while not held:
                    page.wait_for_timeout(50)
                other.get_by_label("Complaint").fill("Dark after a fall.")
                other.get_by_label("Complaint").blur()
                while Job.objects.get().complaint != "Dark after a fall.":
                    other.wait_for_timeout(50)
                held[0].continue_()
                page.unroute("**/api/jobs/*")
                expect(page.get_by_text('Somebody else stored "Dark after a fall." meanwhile.')).to_be_visible()
                expect(complaint).to_have_value("Flickers when")
                complaint.press("Escape")
                expect(complaint).to_have_value("Dark after a fall.")
                # typing on while a save is under way is no clash with oneself, and one field's save does not make another's forgotten
                held.clear()
                page.route(
                    "**/api/jobs/*",
                    lambda route: (
                        held.append(route) if route.request.method == "PATCH" and not held else route.continue_()
                    ),
                )
                complaint.press_sequentially(" Flickers too,", delay=120)
                complaint.blur()
                while not held:
                    page.wait_for_timeout(50)
                page.get_by_label("Accessories").fill("a sleeve")
                page.get_by_label("Accessories").blur()
                while Job.objects.get().accessories != "a sleeve":
                    page.wait_for_timeout(50)
                held[0].continue_()
                complaint.press("End")
                complaint.press_sequentially(" and then some.", delay=120)
                complaint.blur()
                expect(other.get_by_label("Complaint")).to_have_value("Dark after a fall. Flickers too, and then some.")
                expect(other.get_by_label("Accessories")).to_have_value("a sleeve")
                self.assertEqual(page.get_by_text("Somebody else stored").count(), 0)
                page.unroute("**/api/jobs/*")

    def test_a_double_click_opens_one_job_and_every_refused_file_is_named(self) -> None:
        with self.page() as page:
            page.get_by_role("link", name="Take in a device").click()
            page.get_by_label("Device", exact=False).first.fill("Hasty tablet")
            page.get_by_role("button", name="Open the job").dblclick()
            expect(page.get_by_role("heading", name="Hasty tablet")).to_be_visible()
            self.assertEqual(Job.objects.count(), 1)
            station(page, "Inspect")
            page.get_by_label("Photos", exact=True).first.set_input_files(
                [
                    {"name": name, "mimeType": "image/jpeg", "buffer": data}
                    for name, data in (("empty.jpg", b""), ("note.jpg", b"not a photo"))
                ]
            )
            for name in ("empty.jpg", "note.jpg"):
                expect(page.get_by_role("alert").filter(has_text=name)).to_be_visible()
            page.get_by_role("alert").filter(has_text="empty.jpg").get_by_role("button", name="Close").click()
            expect(page.get_by_role("alert").filter(has_text="empty.jpg")).to_have_count(0)
            expect(page.get_by_role("alert").filter(has_text="note.jpg")).to_be_visible()

    def test_other_views_are_accessible_dark_light_and_narrow(self) -> None:
        for width in (1280, 360):
            with self.page(viewport={"width": width, "height": 800}) as page:
                for name in VIEWS:
                    page.goto(f"{self.url}{name}")
                    page.get_by_role("heading", level=1).first.wait_for()
                    self.assert_accessible(page, f"{name} at {width}, dark")
                    self.assertLessEqual(
                        page.evaluate("document.documentElement.scrollWidth"),
                        width,
                        f"{name} at {width} scrolls sideways",
                    )
                page.goto(f"{self.url}/settings/me")
                page.get_by_role("button", name="Light, for the desk").click()
                for name in ("/look", "/today", "/settings/shop"):
                    page.goto(f"{self.url}{name}")
                    page.get_by_role("heading", level=1).first.wait_for()
                    self.assert_accessible(page, f"{name} at {width}, light")


class GlassAndHand(Served):
    def open_inspection(self, page: Page, size: str = "1920x1080") -> Run:
        take_in(page, "Tablet", size)
        station(page, "Inspect")
        expect(page.get_by_test_id("pattern")).to_have_text("white")
        return Run.objects.get()

    def latency(self, size: tuple[int, int]) -> list[float]:
        """Milliseconds from key press on the bench to the painted frame on the glass."""
        with self.page() as page:
            self.open_inspection(page, f"{size[0]}x{size[1]}")
            with self.page(signed_in=False, viewport={"width": size[0], "height": size[1]}) as glass:
                glass.goto(link(page, "Show patterns on the device"))
                expect(page.get_by_text("Device page: 1:1")).to_be_visible()
                page.evaluate("addEventListener('keydown', () => { window.pressedAt = Date.now() }, true)")
                screen, told = glass.locator("#screen"), []
                for step in range(1, WARM_UP_CHANGES + LATENCY_CHANGES + 1):
                    page.keyboard.press("ArrowRight")
                    expect(screen).to_have_attribute("data-step", str(step))
                    told.append(int(screen.get_attribute("data-painted-at") or 0) - page.evaluate("window.pressedAt"))
                return told[WARM_UP_CHANGES:]

    def test_the_bench_changes_the_pattern_quickly(self) -> None:
        for size, wanted_ms in (((1920, 1080), 50), ((3840, 2160), 100)):
            told = self.latency(size)
            p95 = statistics.quantiles(told, n=20)[-1]
            print(
                f"figure: pattern change at {size[0]}x{size[1]}: median {statistics.median(told):.0f} ms, p95 {p95:.0f} ms (wanted {wanted_ms})"
            )
            # a shared machine may be busy: the figure is printed, the bound here only catches a broken path
            self.assertLess(statistics.median(told), 3 * wanted_ms)
            Run.objects.all().delete()

    def test_the_glass_paints_every_pixel_and_warns_when_it_cannot(self) -> None:
        with self.page() as page:
            self.open_inspection(page, "640x400")
            address = link(page, "Show patterns on the device")
            with self.page(signed_in=False, viewport={"width": 640, "height": 400}) as glass:
                glass.goto(address)
                screen = glass.locator("#screen")
                expect(screen).to_have_attribute("data-step", "0")
                at_first = glass.evaluate("fetch(location.pathname + '/state').then((answer) => answer.json())")
                page.keyboard.press("ArrowRight")
                page.keyboard.press("ArrowRight")
                expect(screen).to_have_attribute("data-step", "2")
                middle = "[...document.getElementById('screen').getContext('2d').getImageData(320, 200, 1, 1).data].slice(0, 3)"
                self.assertEqual(glass.evaluate(middle), [255, 140, 140])
                # an answer that was on its way while the pattern changed is older than what the glass was told
                glass.route("**/state", lambda route: route.fulfill(json=at_first))
                with glass.expect_response("**/state"):
                    notify(Run.objects.get().job_id, "run", Run.objects.get().pk)
                glass.wait_for_timeout(300)
                self.assertEqual(screen.get_attribute("data-step"), "2")
                glass.unroute("**/state")
                glass.keyboard.press("ArrowLeft")
                expect(page.get_by_test_id("pattern")).to_have_text("black-dim")
            with self.page(signed_in=False, viewport={"width": 500, "height": 500}) as wrong:
                wrong.goto(address)
                expect(wrong.get_by_role("status")).to_contain_text("Not 1:1")
                expect(page.get_by_text("The device page is not 1:1")).to_be_visible()
            with self.page(signed_in=False) as gone:
                gone.goto(f"{self.url}/g/aaaaaaaaaaaaa")
                expect(gone.get_by_role("status")).to_contain_text("Open a new one from the bench")

    def test_the_hand_camera_keeps_photos_through_reload_and_loss_of_network(self) -> None:
        with self.page() as page:
            run = self.open_inspection(page, "640x400")
            files = [
                {"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": photo(run, name)}
                for name in ("white", "black", "red")
            ]
            address = link(page, "Phone camera")
            with self.page(signed_in=False, viewport={"width": 360, "height": 740}) as hand:
                hand.goto(address)
                expect(hand.get_by_role("heading", name="Tablet")).to_be_visible()
                self.assert_accessible(hand, "hand camera")
                hand.locator("#camera").set_input_files(files[0])
                expect(hand.get_by_text("All photos are on the bench.")).to_be_visible()
                hand.route("**/photos", lambda route: route.abort())
                hand.locator("#files").set_input_files(files[1:])
                expect(hand.get_by_role("status")).to_contain_text("2 waiting")
                hand.reload()
                expect(hand.get_by_role("status")).to_contain_text("2 waiting")
                hand.unroute("**/photos")
                hand.reload()
                expect(hand.get_by_text("All photos are on the bench.")).to_be_visible()
                hand.locator("#files").set_input_files(
                    {"name": "notes.jpg", "mimeType": "image/jpeg", "buffer": b"no photo"}
                )
                expect(hand.get_by_text("Not taken")).to_be_visible()
            self.assertEqual(Photo.objects.count(), 3)
            expect(page.get_by_role("list", name="Photos").get_by_text("red: read")).to_be_visible()
            expect(page.get_by_text("Dead pixel", exact=True).first).to_be_visible()

    def test_a_photo_without_markers_is_read_by_dragged_corners(self) -> None:
        blank = io.BytesIO()
        Image.new("RGB", (1200, 900), (190, 190, 190)).save(blank, "JPEG")
        with self.page() as page:
            self.open_inspection(page, "640x400")
            page.get_by_label("Photos", exact=True).first.set_input_files(
                {"name": "plain.jpg", "mimeType": "image/jpeg", "buffer": blank.getvalue()}
            )
            page.get_by_role("button", name="Give the corners").click()
            handle = page.get_by_role("slider", name="Corner top left")
            box = handle.bounding_box()
            assert box is not None
            page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
            page.mouse.down()
            page.mouse.move(box["x"] + 60, box["y"] + 50, steps=4)
            page.mouse.up()
            page.get_by_role("slider", name="Corner bottom left").press("Shift+ArrowRight")
            self.assert_accessible(page, "corners")
            page.get_by_role("button", name="Read the photo with these corners").click()
            expect(page.get_by_text("white: read")).to_be_visible()
            expect(page.get_by_text("Registered by four corners given by hand")).to_be_visible()

    def test_a_lit_area_without_markers_is_read_by_its_outline(self) -> None:
        lit = Image.new("RGB", (1200, 900), (6, 6, 6))
        lit.paste((190, 190, 190), (40, 100, 1160, 800))
        file = io.BytesIO()
        lit.filter(ImageFilter.GaussianBlur(0.8)).save(file, "JPEG", quality=93)
        with self.page() as page:
            self.open_inspection(page, "640x400")
            page.get_by_label("Photos", exact=True).first.set_input_files(
                {"name": "lit.jpg", "mimeType": "image/jpeg", "buffer": file.getvalue()}
            )
            page.get_by_role("button", name="Say what it shows").press("Enter")
            expect(page.get_by_role("menuitem", name="Black")).to_have_count(0)
            page.get_by_role("menuitem", name="White", exact=True).press("Enter")
            expect(page.get_by_text("white: read")).to_be_visible()
            expect(page.get_by_text("Registered by the outline of the lit area")).to_be_visible()
