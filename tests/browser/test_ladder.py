"""Devices that cannot open the bench's page, from pictures out of a stick down to nothing at all. (The stick that starts a laptop is tried in
tests/launcher/test_stick.py.)"""

import io
import json
import re
import zipfile

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from lens.panel import make_panel
from lens.patterns import get_pattern
from lens.simulate import DeviceFault, FaultyPanel, emit, photograph, random_camera, random_pose, shoot
from server.inspections.models import Run
from server.shop.models import Shop
from tests.browser.live import Served
from tests.browser.steps import station, take_in
from tests.core.trails import trail_shot

PANEL = make_panel(640, 400)
DEVICE = FaultyPanel(panel=PANEL, faults=(DeviceFault(kind="dead_pixel", x=200, y=150),))


class Ladder(Served):
    def inspection(self, page: Page, rung: str, size: str = "640x400") -> Run:
        take_in(page, "Locked laptop", size)
        station(page, "Inspect")
        page.get_by_role("button", name="It cannot open our page").click()
        page.get_by_role("combobox", name="What can it show?").click()
        page.get_by_role("option", name=rung).click()
        return Run.objects.latest("pk")

    def test_an_owner_at_home_tests_touch_alone_and_sends_a_photo_of_a_mirror(self) -> None:
        with self.page() as page:
            run = self.inspection(page, "The owner has it at home")
            page.get_by_role("button", name="Make a link for the owner").click()
            expect(page.get_by_text("no public address")).to_be_visible()
            page.get_by_role("dialog").get_by_role("button", name="Close").click()
            Shop.objects.update_or_create(pk=1, defaults={"public_address": self.url})
            page.get_by_role("button", name="Make a link for the owner").click()
            address = page.get_by_role("dialog").get_by_role("link").get_attribute("href") or ""
            self.assertIn("/h/", address)
            with self.page(signed_in=False, viewport={"width": 360, "height": 740}, has_touch=True) as phone:
                phone.goto(address)
                expect(phone.get_by_role("heading", name="First of all")).to_be_visible()
                self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 360)
                self.assert_accessible(phone, "owner's page at home")
                phone.get_by_role("button", name="Start with a bare finger").press("Enter")
                expect(phone).to_have_url(f"{self.url}/g/{address.rsplit('/', 1)[1]}")
                expect(phone.locator("canvas[data-mode=touch]")).to_be_visible()
                phone.goto(address)
                phone.get_by_role("link", name="Send pictures that were taken in a mirror").press("Enter")
                expect(phone.get_by_text("Photos of a mirror")).to_be_visible()
                rng = np.random.default_rng(31)
                shot = shoot(DEVICE, "white", random_camera(rng, 1600, 1200), rng, run.run_code)
                seen = Image.open(io.BytesIO(shot.data)).transpose(Image.Transpose.FLIP_LEFT_RIGHT)
                mirrored = io.BytesIO()
                seen.save(mirrored, "JPEG", quality=95)
                phone.locator("#files").set_input_files(
                    {"name": "mirror.jpg", "mimeType": "image/jpeg", "buffer": mirrored.getvalue()}
                )
                expect(phone.get_by_text("Read", exact=True)).to_be_visible(timeout=30_000)
            self.assertEqual(run.photos.get().sent_by, "the owner at home")
            page.get_by_role("dialog").get_by_role("button", name="Close").click()
            expect(page.get_by_role("list", name="Findings").get_by_text("dead pixel")).to_be_visible()
            # what the owner draws comes in under Touch
            self.assertEqual(run.touches.get().status, "open")

    def test_plain_colours_that_a_device_has_built_in_are_placed_by_their_outline(self) -> None:
        rng = np.random.default_rng(32)
        with self.page() as page:
            run = self.inspection(page, "Built-in colours")
            for name in ("White", "Red"):
                drive = get_pattern(name.lower()).drive
                camera = random_camera(rng, 2000, 1500)
                plain = np.broadcast_to(np.uint8(drive), (400, 640, 3)).copy()
                shot = photograph(emit(DEVICE, plain), camera, random_pose(PANEL, camera, rng, fill=0.85), rng)
                page.get_by_label("Photos", exact=True).first.set_input_files(
                    {"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": shot.data}
                )
                page.get_by_role("button", name="Say what it shows").press("Enter")
                page.get_by_role("menuitem", name=name, exact=True).press("Enter")
                expect(page.get_by_text(f"{name.lower()}: read")).to_be_visible(timeout=30_000)
            expect(page.get_by_text("Registered by the outline of the lit area").first).to_be_visible()
            found = [
                one for one in (Run.objects.get(pk=run.pk).result or {})["findings"] if one["kind"] == "dead_pixel"
            ]
            self.assertEqual(len(found), 1)
            self.assertLess(float(np.hypot(found[0]["x"] - 200, found[0]["y"] - 150)), 1.5)

    def test_pictures_from_a_stick_are_measured_as_our_own_page_is(self) -> None:
        rng = np.random.default_rng(33)
        with self.page() as page:
            run = self.inspection(page, "Pictures from a stick")
            with page.expect_download() as download:
                page.get_by_role("link", name="Patterns as ZIP").last.press("Enter")
            with zipfile.ZipFile(download.value.path()) as pictures:
                files = {one["id"]: one["file"] for one in json.loads(pictures.read("manifest.json"))["patterns"]}
                # as the gallery shows them, one to one
                shown = {
                    name: np.asarray(Image.open(io.BytesIO(pictures.read(files[name]))).convert("RGB"))
                    for name in ("white", "black-dim")
                }
            for name, picture in shown.items():
                camera = random_camera(rng, 1600, 1200)
                shot = photograph(emit(DEVICE, picture), camera, random_pose(PANEL, camera, rng), rng)
                page.get_by_label("Photos", exact=True).first.set_input_files(
                    {"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": shot.data}
                )
                expect(page.get_by_text(f"{name}: read")).to_be_visible(timeout=30_000)
            expect(page.get_by_role("list", name="Findings").get_by_text("dead pixel")).to_be_visible()
            self.assertGreater((Run.objects.get(pk=run.pk).result or {})["proven"]["pixels"], 0.9)

    def test_a_trail_on_the_device_s_own_screen_is_photographed_and_its_gaps_are_marked(self) -> None:
        with self.page() as page:
            self.inspection(page, "Only its own screens", "720x1280")
            page.get_by_role("group", name="What is proven").get_by_role("button", name="Touch").press("Enter")
            page.get_by_role("button", name="It cannot open our page: mark by eye").press("Enter")
            section = page.get_by_role("region", name="Touch by eye")
            dark = trail_shot(531, (0.5, 0.0, 1.0, 1.0), dark=True)
            for name, shot in (("dark", dark), ("white", trail_shot(511, (0.5, 0.0, 1.0, 1.0)))):
                section.locator("input[type=file]").set_input_files(
                    {"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": shot.data}
                )
                if name == "dark":
                    expect(section.get_by_role("alert")).to_contain_text("four sides were not found")
                    section.get_by_role("button", name="Give the corners").press("Enter")
                    expect(page.get_by_role("dialog").get_by_role("slider")).to_have_count(4)
                    page.get_by_role("dialog").get_by_role("button", name="Leave it").press("Enter")
            expect(section.get_by_role("status")).to_contain_text("They stop side by side at")
            self.assert_accessible(page, "a photo of a trail")
            section.get_by_role("button", name="Mark these places").press("Enter")
            section.get_by_role("button", name=re.compile("^Keep")).press("Enter")
            expect(section.get_by_text("The right half does not answer.")).to_be_visible()
            page.reload()
            expect(section.get_by_text("The right half does not answer.")).to_be_visible()
            station(page, "Isolate")
            expect(page.get_by_text(re.compile("Touch by eye as received: The right half"))).to_be_visible()

    def test_a_screen_that_shows_nothing_is_answered_at_isolate_and_proves_nothing(self) -> None:
        with self.page() as page:
            run = self.inspection(page, "Nothing")
            expect(page.get_by_text("Nothing of the panel itself")).to_be_visible()
            page.get_by_role("button", name="Answer at Isolate").press("Enter")
            expect(page).to_have_url(re.compile("/isolate"))
            card = page.get_by_role("region", name="Next step")
            card.get_by_role("button", name=re.compile("^Black")).press("Enter")
            expect(card.get_by_role("heading", name="What is wrong at first look?")).to_have_count(0)
            station(page, "Inspect")
            rng = np.random.default_rng(34)
            camera = random_camera(rng, 1600, 1200)
            dark = photograph(
                emit(DEVICE, np.zeros((400, 640, 3), np.uint8)) * 0, camera, random_pose(PANEL, camera, rng), rng
            )
            page.get_by_label("Photos", exact=True).first.set_input_files(
                {"name": "dark.jpg", "mimeType": "image/jpeg", "buffer": dark.data}
            )
            expect(page.get_by_text("The photo is almost black").first).to_be_visible(timeout=30_000)
            result = Run.objects.get(pk=run.pk).result or {}
            self.assertEqual((result["findings"], result["proven"]["pixels"]), ([], 0))
            self.assertEqual(result["verdict"]["result"], "not_proven")
