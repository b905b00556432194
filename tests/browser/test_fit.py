"""Every way in which a display is built in, walked through its screens; and what goes wrong on the way."""

import datetime as dt
import io
import re
import time

from django.contrib.auth.models import User
from django.db.models import F
from django.utils import timezone
from PIL import Image
from playwright.sync_api import expect

from lens.fitting import builds_for, procedures
from server.fitting.models import GatePassed
from server.inspections.models import Run
from server.jobs.models import Job
from tests.browser.live import Served
from tests.browser.steps import note, station, work_to
from tests.server.helpers import JOB, Bench

WANTED_S = 20.0  # printed, as every time that hangs on what else the machine does
DEVICES = ("clamshell", "handset", "tablet", "all_in_one")


def hours_pass() -> None:
    GatePassed.objects.update(at=F("at") - dt.timedelta(hours=48))


class FitCase(Served):
    def job(self, device: str, build: str = "") -> Job:
        fields = {**JOB, "device_type": device, "build": build, "title": build or device}
        return Job.objects.create(**fields, created_by=User.objects.get(username="tech"))


class Builds(FitCase):
    def walk(self, builds: list[tuple[str, str]]) -> None:
        took: list[float] = []
        with self.page() as page:
            for device, build in builds:
                job = self.job(device, build)
                began = time.monotonic()
                page.goto(f"{self.url}/jobs/{job.pk}/fit")
                expect(page.get_by_text(procedures()[build].title).first).to_be_visible()
                work_to(page, "", hours_pass)
                took.append(time.monotonic() - began)
                self.assertIsNone(Job.objects.get(pk=job.pk).closed_at)
        print(
            f"figure: builds walked through their screens, mean {sum(took) / len(took):.1f} s, longest {max(took):.1f} s (wanted {WANTED_S:.0f})"
        )

    def test_laptops(self) -> None:
        self.walk([("clamshell", one.id) for one in builds_for("clamshell")])

    def test_phones_tablets_and_mains_powered_sets(self) -> None:
        self.walk([(device, one.id) for device in DEVICES[1:] for one in builds_for(device)])


class Phone(FitCase):
    def test_a_few_answers_a_lost_screw_an_override_and_a_cure_clock_over_a_reload(self) -> None:
        job = self.job("handset")
        with self.page() as page:
            page.goto(f"{self.url}/jobs/{job.pk}/fit")
            page.get_by_role("button", name="The display alone").click()
            page.get_by_role("button", name="On the board in front of the battery").click()
            page.get_by_role("button", name="Phone, opened from the front").click()
            self.assert_accessible(page, "fit with its drawing")
            expect(page.get_by_text("earpiece and sensors, 3 mm")).to_be_visible()
            work_to(page, "Dry fit")
            page.get_by_role("button", name="Something is lost").click()
            page.get_by_role("button", name="Nobody finds them").click()
            expect(page.get_by_text("No power before each is found.")).to_be_visible()
            page.get_by_role("region", name="Dry fit").get_by_role("button").first.click()
            expect(page.get_by_text("a loose screw on a board is a short")).to_be_visible()
            expect(page.get_by_role("button", name=re.compile("^Done: dry fit"))).to_have_count(0)
            page.get_by_role("button", name="All found").click()
            expect(page.get_by_role("button", name="Done: dry fit")).to_be_disabled()
            work_to(page, "Press and cure", hours_pass)
            cure = page.get_by_role("region", name="Press and cure")
            cure.get_by_label("Liquid - clamped and cured").check()
            cure.get_by_label("Hours by its data sheet").fill("4")
            cure.get_by_role("button", name=re.compile("^Done: ")).click()
            clocks = page.get_by_role("status", name="Clocks")
            expect(clocks.get_by_text(re.compile("adhesive cures, (4 h 0|3 h 59) min left"))).to_be_visible()
            page.reload()
            expect(clocks.get_by_text("adhesive cures")).to_be_visible()
            station(page, "Hand over")
            page.get_by_role("button", name="Hand over", exact=True).click()
            dialog = page.get_by_role("dialog")
            expect(dialog.get_by_text(re.compile("^Adhesive cures: "))).to_be_visible()
            expect(dialog.get_by_role("button", name="Hand over")).to_be_disabled()


class Strips(FitCase):
    def test_a_snapped_strip_and_back_to_the_start(self) -> None:
        job = self.job("clamshell", "stretch_strips")
        with self.page() as page:
            page.goto(f"{self.url}/jobs/{job.pk}/fit")
            work_to(page, "Pull the strips")
            strips = page.get_by_role("region", name="Pull the strips")
            expect(strips.get_by_text("A strip that snaps - stop.")).to_be_visible()
            strips.get_by_label("One snapped").check()
            strips.get_by_role("button", name=re.compile("^Done: ")).click()
            strips.get_by_role("button", name=re.compile("^Done: ")).wait_for(state="detached")
            expect(page.get_by_role("button", name="Done: get the rest of the strip out")).to_be_visible()
            work_to(page, "Unplug the old panel")
            page.get_by_role("region", name="Base cover off").get_by_role("button").first.click()
            expect(page.get_by_text("It takes back too: ")).to_contain_text("get the rest of the strip out")
            page.get_by_role("button", name="Go back here").click()
            expect(page.get_by_role("button", name="Done: base cover off")).to_be_visible()
            expect(page.get_by_text("No screws are out.")).to_be_visible()


class HandsFree(FitCase):
    def test_by_keys_beside_the_device_at_360_px(self) -> None:
        job = self.job("clamshell", "ears")
        with self.page() as page:
            page.set_viewport_size({"width": 360, "height": 740})
            page.goto(f"{self.url}/jobs/{job.pk}/fit")
            expect(page.get_by_role("button", name="One step a screen")).to_be_visible()
            page.keyboard.press("g")
            dialog = page.get_by_role("dialog")
            expect(dialog.get_by_role("heading", name="Decide about the old display")).to_be_visible()
            dialog.get_by_label("Goes to recycling").check()
            page.keyboard.press("Space")
            expect(dialog.get_by_role("heading", name="Make safe")).to_be_visible()
            dialog.get_by_role("button", name="Hold it: start 15 s").click()
            expect(dialog.get_by_text("Held for 15 s.")).to_be_visible(timeout=20_000)
            dialog.get_by_label("Battery out or unplugged").check()
            page.keyboard.press("Space")
            expect(dialog.get_by_role("heading", name="Bezel screws out")).to_be_visible()
            self.assert_accessible(page, "one step a screen")
            page.keyboard.press("ArrowRight")
            expect(dialog.get_by_role("heading", name="Bezel off")).to_be_visible()
            page.keyboard.press("ArrowLeft")
            note(page, dialog)
            page.get_by_role("heading", name="Bezel screws out").click()
            page.keyboard.press("Space")
            expect(dialog.get_by_role("heading", name="Bezel off")).to_be_visible()
            wide = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, 360)
            row = GatePassed.objects.get(job=job, gate="make_safe")
            self.assertEqual((row.details["held_s"], row.reason), (15, ""))
            self.assertLess(timezone.now() - row.at, dt.timedelta(minutes=5))


class Marks(FitCase):
    def test_screws_on_a_photo_by_keys_and_a_place_for_no_pick(self) -> None:
        job = self.job("clamshell", "ears")
        picture = io.BytesIO()
        Image.new("RGB", (800, 500), (40, 60, 50)).save(picture, "JPEG")
        with self.page() as page:
            page.goto(f"{self.url}/jobs/{job.pk}/fit")
            page.get_by_label("Photo at this step").first.set_input_files(
                {"name": "open.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()}
            )
            expect(page.get_by_role("button", name="Photo 1")).to_be_visible()
            # what the phone sends belongs to no step until somebody says so
            run = Run.objects.get(job=job, stage="bench")
            other = picture.getvalue() + b"\0"
            Bench(User.objects.get(username="tech")).send(run.pk, other, "from the phone")
            page.get_by_role("button", name="It belongs to this step").click()
            page.get_by_role("button", name="It belongs to this step").wait_for(state="detached")
            page.get_by_role("button", name="Photo 1").click()
            page.get_by_label("Mark where they sit").click()
            page.get_by_role("option", name="Front screws").click()
            page.get_by_role("application").focus()
            for keys in (["ArrowUp"] * 3, ["ArrowRight"] * 4):
                for key in keys:
                    page.keyboard.press(key)
                page.keyboard.press("Enter")
            expect(page.get_by_text("Marked on this device's photo.")).to_be_visible()
            expect(page.locator("g[data-group=front]")).to_have_count(2)
            self.assert_accessible(page, "screws on a photo")
            page.reload()
            expect(page.locator("g[data-group=front]")).to_have_count(
                0
            )  # they are places of the photo, not of the drawing
            page.get_by_role("button", name="Photo 1").click()
            expect(page.locator("g[data-group=front]")).to_have_count(2)
            page.get_by_role("button", name="No pick here").click()
            page.get_by_label("Depth, mm").fill("12")
            expect(page.get_by_role("button", name="Note it")).to_be_disabled()
            page.get_by_label("What lies there").fill("camera ribbon")
            page.get_by_role("button", name="Note it").click()
            expect(
                page.get_by_text("Keep-out found on this device: camera ribbon, bottom edge, 12 mm deep")
            ).to_be_visible()
