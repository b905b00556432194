"""Who may do what: every endpoint, signed out, without a role, and with codes."""

import io
from datetime import timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone
from PIL import Image

from server.config.api import schema
from server.inspections.models import Access, Photo
from server.jobs.models import Entry
from tests.server.helpers import Bench, person

OPEN = {("get", "/api/health"), ("get", "/api/me"), ("post", "/api/session")}
NO_ROLE_NEEDED = {("delete", "/api/session")}


def _grey_jpeg() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (400, 300), "grey").save(out, "JPEG")
    return out.getvalue()


JPEG = _grey_jpeg()


class EveryEndpoint(TestCase):
    def test_signed_out_people_reach_nothing(self) -> None:
        for path, methods in schema()["paths"].items():
            for method in methods:
                if (method, path) in OPEN:
                    continue
                concrete = (
                    path.replace("{job_id}", "1")
                    .replace("{run_id}", "1")
                    .replace("{stage}", "inspect")
                    .replace("{photo_id}", "1")
                )
                concrete = (
                    concrete.replace("{evidence_id}", "1").replace("{gate_id}", "open").replace("{profile_id}", "own")
                )
                answer = self.client.generic(method.upper(), concrete, "{}", "application/json")
                self.assertEqual(answer.status_code, 401, f"{method} {path}")
                self.assertEqual(answer["Content-Type"], "application/problem+json")

    def test_people_without_a_role_reach_nothing(self) -> None:
        job = Bench(person("tech")).new_job()
        stranger = Bench(person("stranger", role=None))
        fields = {"title": "x", "device_type": "tablet", "panel_width": 640, "panel_height": 400}
        for method, path, body in (
            ("GET", "/jobs", None),
            ("GET", f"/jobs/{job['id']}", None),
            ("POST", "/jobs", fields),
            ("GET", "/vocabulary", None),
            ("GET", "/rates", None),
            ("POST", "/rates/reset", None),
            ("GET", f"/jobs/{job['id']}/report.pdf", None),
            ("POST", f"/jobs/{job['id']}/hand-over", None),
            ("POST", "/jobs/999999/hand-over", None),  # nor do they learn which jobs there are
        ):
            status, told = stranger.call(method, path, body)
            self.assertEqual(status, 403, path)
            self.assertIn("Ask the lead", told["detail"])

    def test_only_leads_reopen(self) -> None:
        bench, lead = Bench(person("tech")), Bench(person("boss", "lead"))
        job = bench.new_job()
        bench.ok("POST", f"/jobs/{job['id']}/hand-over", {"because": "Handed back as it came."})
        self.assertEqual(bench.call("POST", f"/jobs/{job['id']}/reopen", {"reason": "x"})[0], 403)
        self.assertIsNone(lead.ok("POST", f"/jobs/{job['id']}/reopen", {"reason": "owner came back"})["closed_at"])


class Codes(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job()
        self.run = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/inspect")

    def code(self, kind: str) -> str:
        return str(self.bench.ok("POST", f"/runs/{self.run['id']}/access", {"kind": kind})["url"].rsplit("/", 1)[1])

    def test_a_code_opens_its_kind_only(self) -> None:
        glass, snap = self.code("glass"), self.code("snap")
        self.assertEqual(self.client.get(f"/g/{glass}/state").json()["job"], "Counter laptop")
        self.assertEqual(self.client.get(f"/s/{snap}/state").json()["stage"], "As received")
        for wrong in (f"/g/{snap}/state", f"/s/{glass}/state", "/g/aaaaaaaaaaaaa/state", f"/g/{snap}/white.png"):
            self.assertEqual(self.client.get(wrong).status_code, 410, wrong)

    def test_an_expired_code_says_what_to_do(self) -> None:
        snap = self.code("snap")
        Access.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
        answer = self.client.get(f"/s/{snap}/state")
        self.assertEqual(answer.status_code, 410)
        self.assertIn("Open a new one from the bench", answer.json()["detail"])

    def test_codes_are_long_and_never_the_same(self) -> None:
        codes = {self.code("glass") for _ in range(20)}
        self.assertEqual(len(codes), 20)
        self.assertTrue(all(len(code) == 13 for code in codes))

    def test_the_glass_steps_and_reports(self) -> None:
        glass = self.code("glass")
        before = self.client.get(f"/g/{glass}/state").json()
        self.client.post(f"/g/{glass}/step", '{"move": 1}', "application/json")
        after = self.client.get(f"/g/{glass}/state").json()
        self.assertEqual(
            (before["pattern"], after["pattern"], after["step"]), ("white", "black-dim", before["step"] + 1)
        )
        report = '{"canvas_width": 640, "canvas_height": 400, "exact": true, "full_screen": true, "ratio": 1e99}'
        self.assertEqual(self.client.post(f"/g/{glass}/report", report, "application/json").status_code, 200)
        told = self.bench.ok("GET", f"/runs/{self.run['id']}")["glass"]
        self.assertEqual((told["canvas_width"], told["exact"], told["ratio"]), (640, True, None))
        for bad in ("[]", "not json", '{"a":"' + "x" * 5000 + '"}'):
            self.assertEqual(self.client.post(f"/g/{glass}/report", bad, "application/json").status_code, 422)

    def test_a_page_goes_on_at_the_next_stage_and_what_waited_goes_where_it_was_shot_for(self) -> None:
        glass, snap = self.code("glass"), self.code("snap")
        before = self.client.get(f"/g/{glass}/white.png").content
        self.client.post(f"/g/{glass}/report", '{"canvas_width": 640, "canvas_height": 400}', "application/json")
        later = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/dry_fit")["id"]
        listed = self.bench.ok("GET", f"/runs/{later}/access")
        self.assertEqual(
            {(one["kind"], one["stage"]) for one in listed}, {("glass", "As received"), ("snap", "As received")}
        )
        for one in listed:
            told = self.bench.ok("POST", f"/access/{one['id']}/move", {"run_id": later})
            self.assertIn(told["url"].rsplit("/", 1)[1], (glass, snap), "the same code")
        told = self.client.get(f"/g/{glass}/state").json()
        self.assertEqual((told["run"], told["stage"]), (later, "Dry fit"))
        self.assertNotEqual(
            self.client.get(f"/g/{glass}/white.png?run={later}").content, before, "the run's own markers"
        )
        self.assertIsNone(self.bench.ok("GET", f"/runs/{self.run['id']}")["glass"])
        self.assertIn("goes on at 'Dry fit'", Entry.objects.filter(kind="code").last().text)  # type: ignore[union-attr]
        for key, run in (("late", self.run["id"]), ("now", "")):
            photo = SimpleUploadedFile("a.jpg", JPEG, "image/jpeg")
            answer = self.client.post(
                f"/s/{snap}/photos", {"photo": photo, "run": run}, headers={"Idempotency-Key": key}
            )
            self.assertEqual(answer.status_code, 201, answer.content)
        stored = dict(Photo.objects.values_list("client_key", "run_id"))
        self.assertEqual(stored, {"late": self.run["id"], "now": later})

    def test_a_page_goes_on_within_its_job_and_its_device_only(self) -> None:
        self.code("glass")
        access = self.bench.ok("GET", f"/runs/{self.run['id']}/access")[0]["id"]
        other = self.bench.ok("POST", f"/jobs/{self.bench.new_job()['id']}/runs/inspect")["id"]
        outside = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/external")["id"]
        for run, words in ((other, "its own job"), (outside, "a page of its own")):
            status, told = self.bench.call("POST", f"/access/{access}/move", {"run_id": run})
            self.assertEqual(status, 422)
            self.assertIn(words, told["detail"])
        snap = self.code("snap")
        photo = SimpleUploadedFile("a.jpg", JPEG, "image/jpeg")
        answer = self.client.post(f"/s/{snap}/photos", {"photo": photo, "run": other}, headers={"Idempotency-Key": "x"})
        self.assertEqual(answer.status_code, 422, "a code reaches no other job")
        Access.objects.update(revoked_at=timezone.now())
        self.assertEqual(self.bench.call("POST", f"/access/{access}/move", {"run_id": self.run["id"]})[0], 404)

    def test_the_glass_gets_the_cores_own_png(self) -> None:
        answer = self.client.get(f"/g/{self.code('glass')}/red.png")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/png"))
        self.assertEqual(self.client.get(f"/g/{self.code('glass')}/rad.png").status_code, 404)


class Headers(TestCase):
    def test_a_strict_content_policy_with_a_fresh_nonce(self) -> None:
        first, second = (self.client.get("/jobs")["Content-Security-Policy"] for _ in range(2))
        self.assertIn("default-src 'none'", first)
        self.assertNotIn("unsafe-eval", first)
        self.assertNotEqual(first, second)

    def test_state_changes_need_the_csrf_token(self) -> None:
        from django.test import Client

        user = person("tech")
        client = Client(enforce_csrf_checks=True)
        client.force_login(user)
        self.assertEqual(client.post("/api/jobs", "{}", "application/json").status_code, 403)
