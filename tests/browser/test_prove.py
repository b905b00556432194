"""A phone proved by hand and handed over, and the same phone coming back."""

import re
import tempfile
import wave
from pathlib import Path

import numpy as np
from django.contrib.auth.models import User
from django.utils import timezone
from playwright.sync_api import expect

from lens.proving import TONES_HZ
from server.inspections.models import Run
from server.jobs.models import Job
from server.parts.models import Offer, PanelModel
from server.parts.suppliers import supplier_called
from server.purchasing.models import ARRIVED, Order, OrderLine
from tests.browser.live import ARGUMENTS, CHROMIUM, Served
from tests.browser.steps import shoot_whole_set, station, take_in
from tests.server.helpers import JOB, Bench


class Phone(Served):
    def test_functions_conditions_hand_over_and_a_comeback(self) -> None:
        fields = {
            **JOB,
            "device_type": "handset",
            "build": "phone_front",
            "title": "Guide phone",
            "serial_printed": "GP-778812",
        }
        tech = User.objects.get(username="tech")
        job = Job.objects.create(**fields, profile="class-II", created_by=tech)
        Bench(tech).work_to(job.pk, "frame_ready", by_eye=True)
        with self.page(viewport={"width": 360, "height": 780}) as page:
            page.goto(f"{self.url}/jobs/{job.pk}/prove?part=functions")
            functions = page.get_by_role("region", name="Functions")
            rows = functions.get_by_role("listitem")
            expect(rows.first).to_be_visible()
            self.assert_accessible(page, "functions at 360 px")
            for row in rows.all():
                row.get_by_role("button", name="Works").click()
            expect(functions.get_by_text("All are answered.")).to_be_visible()
            verdict = page.get_by_role("region", name="Verdict of the job")
            expect(verdict.get_by_text("functions tested")).to_be_visible()
            expect(verdict.get_by_text("looked at by eye")).to_be_visible()
            ear = functions.get_by_role("listitem", name="Earpiece")
            ear.get_by_role("button", name="Does not").click()
            expect(verdict.get_by_text("Not working: earpiece.")).to_be_visible()
            expect(verdict.get_by_text("Fail", exact=True)).to_be_visible()
            page.reload()
            expect(ear.get_by_text("Does not work")).to_be_visible()
            page.get_by_role("button", name="Touch").click()
            page.get_by_role("button", name="Change").click()
            page.get_by_role("combobox", name="Film").click()
            page.get_by_role("option", name="Film on").click()
            expect(page.get_by_text("Conditions: Film on.")).to_be_visible()
            station(page, "Hand over")
            seals = page.get_by_role("region", name="Seals")
            seals.get_by_label("Where the seal is").fill("back, lower edge")
            seals.get_by_label("Its number").fill("0712")
            page.keyboard.press("Enter")
            expect(seals.get_by_text("0712")).to_be_visible()
            page.get_by_role("button", name="Hand over", exact=True).last.click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("What to know next time").fill("The earpiece flex hides under the frame.")
            dialog.get_by_label("Why").first.fill("The owner knows of the earpiece.")
            dialog.get_by_role("button", name="Hand over").click()
            expect(page.get_by_text(re.compile(r"^Handed over \w+ \d"))).to_be_visible()
        with self.page() as page:
            take_in(page, "The guide's phone again")
            page.get_by_label("Serial number printed").fill("gp 778812")
            page.get_by_label("Serial number printed").blur()
            before = page.get_by_role("region", name="It was here before")
            expect(before.get_by_role("link", name=f"Job {job.pk}, Guide phone")).to_be_visible()
            expect(before.get_by_text("not measured both times")).to_be_visible()
            before.get_by_role("button", name="Broken").click()
            expect(before.get_by_text("somebody opened it since")).to_be_visible()
            before.get_by_role("combobox", name="Charged to").click()
            page.get_by_role("option", name="The owner").click()
            before.get_by_role("button", name="Decide").click()
            expect(before.get_by_text(", decided.")).to_be_visible()
            self.assert_accessible(page, "a comeback at intake")


class OnTheDevice(Served):
    """A tone and a picture, from Chromium's own made-up microphone and camera."""

    def test_what_it_can_show_of_itself_is_measured(self) -> None:
        tech = User.objects.get(username="tech")
        fields = {**JOB, "device_type": "handset", "build": "phone_with_frame", "title": "Guide phone"}
        job = Job.objects.create(**fields, profile="class-II", created_by=tech)
        Bench(tech).work_to(job.pk, "plug", by_eye=True)
        rate, rng = 48_000, np.random.default_rng(2)
        at = np.arange(6 * rate) / rate
        # its owner's loudspeaker begins to sound about a second after the microphone opens, as the page does it
        heard = rng.normal(0, 0.002, len(at)) + (at > 1.0) * sum(0.1 * np.sin(2 * np.pi * hz * at) for hz in TONES_HZ)
        with tempfile.TemporaryDirectory() as folder:
            recording = Path(folder) / "room.wav"
            with wave.open(str(recording), "wb") as out:
                out.setparams((1, 2, rate, 0, "NONE", ""))
                out.writeframes((heard * 32767).astype("<i2").tobytes())
            made_up = [
                "--use-fake-ui-for-media-stream",
                "--use-fake-device-for-media-stream",
                f"--use-file-for-fake-audio-capture={recording}",
            ]
            with self.page() as page:
                page.goto(f"{self.url}/jobs/{job.pk}/prove?part=functions")
                page.get_by_role("button", name="Test on the device itself").click()
                link = page.get_by_role("dialog").get_by_role("link").first
                address = link.get_attribute("href") or ""
                device = self.playwright.chromium.launch(executable_path=CHROMIUM, args=[*ARGUMENTS, *made_up])
                try:
                    phone = device.new_page(viewport={"width": 360, "height": 740})
                    phone.goto(address)
                    self.assert_accessible(phone, "test of functions")
                    phone.get_by_role("button", name="Play a tone and listen").click()
                    expect(phone.get_by_text("Loudspeaker and microphone work")).to_be_visible()
                    phone.get_by_role("button", name="Look through the front camera").click()
                    expect(phone.get_by_text("The camera gives a picture")).to_be_visible()
                finally:
                    device.close()
                page.keyboard.press("Escape")
                row = page.get_by_role("region", name="Functions").get_by_role("listitem", name="Front camera")
                expect(row.get_by_text("Works, measured:")).to_be_visible()


class APanelThatCame(Served):
    def test_it_is_inspected_graded_and_claimed(self) -> None:
        spec = {"width": 640, "height": 400, "visible_mm": [200, 125]}
        panel = PanelModel.objects.create(name="K-1", maker="M", spec=spec)
        terms = {"price": 40, "shipping": 5, "delivery_days": 2, "warranty_months": 12, "doa_days": 14}
        offer = Offer.objects.create(panel=panel, supplier=supplier_called("Valley Parts"), **terms)
        day = timezone.localdate()
        order = Order.objects.create(supplier=offer.supplier, state=ARRIVED, ordered_on=day, arrived_on=day)
        line = OrderLine.objects.create(order=order, offer=offer, unit_price=40)
        with self.page() as page:
            page.goto(f"{self.url}/parts/orders?state=arrived")
            page.get_by_role("button", name="Inspect it").click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("Serial number").fill("VP-1")
            dialog.get_by_role("button", name="Begin").click()
            expect(page.get_by_text("Panel inspection")).to_be_visible()
            expect(page.get_by_role("navigation", name="Stations").get_by_role("button")).to_have_count(2)
            line_fault = {"kind": "dark_column", "x": 301, "y": 0}
            Job.objects.filter(subject="panel").update(simulated={"original": [line_fault]})
            page.keyboard.press("Escape")
            Run.objects.update(pattern_set="triage")
            page.reload()
            shoot_whole_set(page)
            page.keyboard.press("2")
            expect(
                page.get_by_role("region", name="Verdict of the job").get_by_text("Fail", exact=True)
            ).to_be_visible()
            expect(page.get_by_role("region", name="Classes").get_by_text("Class 0")).to_be_visible()
            self.assert_accessible(page, "grade")
            page.get_by_role("button", name="Claim packet").click()
            expect(page.get_by_role("link", name="Save")).to_be_visible()
            page.get_by_role("combobox", name="What becomes of it").click()
            page.get_by_role("option", name="Goes back to the supplier").click()
            page.get_by_role("button", name="Decide", exact=True).click()
            expect(page.get_by_role("region", name="Station").get_by_text("Goes back to the supplier.")).to_be_visible()
            line.refresh_from_db()
            self.assertEqual(line.outcome, "marked")
            page.goto(f"{self.url}/parts/incoming?state=all")
            expect(page.get_by_text("K-1 from Valley Parts")).to_be_visible()
            self.assert_accessible(page, "incoming")
