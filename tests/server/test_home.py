"""A link for the owner at home: made only where the shop is reached from outside, opens the device's page and the camera's and nothing else."""

import datetime as dt

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TransactionTestCase
from django.utils import timezone

from server.inspections.models import Access, Photo
from server.jobs.models import Entry
from server.shop.models import Shop
from server.touch.home import home_texts
from server.touch.models import TouchSession
from tests.server.helpers import JOB, Bench, person
from tests.server.test_access import JPEG

CRACKED = {"check": "first_look", "outcome": "glass", "source": "seen"}


class HomeLink(TransactionTestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("lead", "lead"))
        self.job = self.bench.new_job()["id"]
        self.run_id = self.bench.ok("POST", f"/jobs/{self.job}/runs/inspect")["id"]

    def made(self) -> Access:
        Shop.objects.update_or_create(pk=1, defaults={"public_address": "https://bench.example"})
        told = self.bench.ok("POST", f"/runs/{self.run_id}/access", {"kind": "home"})
        access = Access.objects.get(pk=told["id"])
        self.assertEqual(told["url"], f"https://bench.example/h/{access.code}")
        return access

    def test_without_a_public_address_it_says_where_one_is_entered(self) -> None:
        status, told = self.bench.call("POST", f"/runs/{self.run_id}/access", {"kind": "home"})
        self.assertEqual(status, 422)
        self.assertIn("public address", told["detail"])
        self.assertFalse(Access.objects.exists())

    def test_it_lives_for_days_and_opens_two_pages_only(self) -> None:
        access = self.made()
        self.assertGreater(access.expires_at, timezone.now() + dt.timedelta(days=2, hours=23))
        for path, status in (("g", 200), ("s", 200), ("f", 410)):
            self.assertEqual(self.client.get(f"/{path}/{access.code}/state").status_code, status, path)
        page = self.client.get(f"/h/{access.code}")
        self.assertContains(page, "swollen")
        self.assertContains(page, "bare finger")
        self.assertContains(page, f"https://bench.example/s/{access.code}")
        Access.objects.update(expires_at=timezone.now())
        gone = self.client.get(f"/h/{access.code}")
        self.assertContains(gone, "expired", status_code=410)
        self.assertNotContains(gone, JOB["title"], status_code=410)

    def test_the_owner_starts_the_touch_test_alone(self) -> None:
        access = self.made()
        answer = self.client.post(f"/h/{access.code}", {"drawn_with": "bare"})
        self.assertRedirects(answer, f"/g/{access.code}", fetch_redirect_response=False)
        session = TouchSession.objects.get()
        self.assertEqual((session.status, session.drawn_with), ("open", "bare"))
        self.assertEqual(self.client.get(f"/g/{access.code}/touch").json()["session"], session.pk)
        entry = Entry.objects.get(text__startswith="Touch session started")
        self.assertEqual(entry.who, "the owner at home")
        # twice, from two windows: the later one goes on, the earlier is done
        self.client.post(f"/h/{access.code}", {"drawn_with": "film"})
        self.assertEqual([one.status for one in TouchSession.objects.order_by("pk")], ["done", "open"])

    def test_cracked_glass_is_drawn_on_through_film_only(self) -> None:
        access = self.made()
        self.bench.ok("POST", f"/jobs/{self.job}/evidence", CRACKED)
        self.assertNotContains(self.client.get(f"/h/{access.code}"), "bare finger")
        refused = self.client.post(f"/h/{access.code}", {"drawn_with": "bare"})
        self.assertContains(refused, "cracked", status_code=422)
        self.assertFalse(TouchSession.objects.exists())

    def test_a_photo_says_that_the_owner_sent_it(self) -> None:
        access = self.made()
        answer = self.client.post(
            f"/s/{access.code}/photos",
            {"photo": SimpleUploadedFile("a.jpg", JPEG, "image/jpeg")},
            headers={"Idempotency-Key": "home-1"},
        )
        self.assertEqual(answer.status_code, 201)
        self.assertEqual(Photo.objects.get().sent_by, "the owner at home")

    def test_the_address_is_checked(self) -> None:
        shop = self.bench.ok("GET", "/shop")
        for address, wanted in (
            ("https://bench.example:8443", 200),
            ("", 200),
            ("bench.example", 422),
            ("https://bench.example/path", 422),
            ("javascript:alert(1)", 422),
        ):
            status, told = self.bench.call("PUT", "/shop", {**shop, "public_address": address})
            self.assertEqual(status, wanted, address)
            shop = told if status == 200 else shop

    def test_every_language_has_every_word(self) -> None:
        words = home_texts()
        self.assertEqual(
            {name: set(texts) for name, texts in words.items()}, {name: set(words["en"]) for name in words}
        )
