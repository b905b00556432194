"""Signing in under attack, and people whose access ends. Items of the OWASP cheat sheets are named beside the tests."""

import io
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import CommandError, call_command
from django.db import connection, connections
from django.test import Client, TestCase, TransactionTestCase, override_settings
from django.utils import timezone

from server.accounts.policy import roles_of
from server.bench.management.commands import person as command
from server.inspections.models import Access
from tests.server.helpers import Bench, person


def try_in(name: str, password: str, address: str = "192.0.2.1", **headers: str) -> int:
    body = {"username": name, "password": password}
    return Client().post("/api/session", body, "application/json", REMOTE_ADDR=address, headers=headers).status_code


class Throttled(TransactionTestCase):
    """OWASP, Authentication Cheat Sheet: Account Lockout; Protect Against Automated Attacks."""

    def test_a_stranger_elsewhere_locks_nobody_out(self) -> None:
        person("tech")
        tries = [try_in("tech", "no", "192.0.2.66") for _ in range(settings.AXES_FAILURE_LIMIT + 3)]
        self.assertEqual((tries[0], tries[-1]), (401, 429))
        self.assertEqual(
            try_in("tech", "long-enough-1", "192.0.2.66"), 429, "not even with the right password, from there"
        )
        self.assertEqual(try_in("tech", "long-enough-1", "192.0.2.1"), 200)

    def test_an_address_that_tries_many_names_is_stopped(self) -> None:
        person("tech")
        tries = [try_in(f"name-{number}", "no") for number in range(settings.MOST_FAILURES_AN_ADDRESS + 2)]
        self.assertEqual((set(tries[:-3]), tries[-1]), ({401}, 429))
        self.assertEqual(try_in("tech", "long-enough-1"), 429)
        self.assertEqual(try_in("tech", "long-enough-1", "192.0.2.2"), 200)

    def test_waiting_helps_and_trying_meanwhile_does_not_prolong_it(self) -> None:
        person("tech")
        for _ in range(settings.AXES_FAILURE_LIMIT + 3):
            try_in("tech", "no")
        AccessAttempt.objects.update(attempt_time=timezone.now() - settings.AXES_COOLOFF_TIME - timedelta(seconds=1))
        self.assertEqual(try_in("tech", "long-enough-1"), 200)

    def test_who_gets_it_right_begins_anew(self) -> None:
        person("tech")
        for _ in range(3):
            for _ in range(settings.AXES_FAILURE_LIMIT - 1):
                self.assertEqual(try_in("tech", "no"), 401)
            self.assertEqual(try_in("tech", "long-enough-1"), 200)

    def test_parallel_tries_are_counted_too(self) -> None:
        person("tech")

        def one(_: int) -> int:
            try:
                return try_in("tech", "no")
            finally:
                connections.close_all()

        with ThreadPoolExecutor(8) as pool:
            answers = list(pool.map(one, range(60)))
        self.assertLessEqual(answers.count(401), settings.AXES_FAILURE_LIMIT + 8)
        self.assertEqual(try_in("tech", "no"), 429)

    def test_a_forwarded_address_is_not_believed(self) -> None:
        person("tech")
        for number in range(settings.AXES_FAILURE_LIMIT + 1):
            try_in("tech", "no", **{"X-Forwarded-For": f"203.0.113.{number}"})
        self.assertEqual(try_in("tech", "long-enough-1"), 429)


class Storage(TestCase):
    def test_passwords_are_stored_as_the_cheat_sheet_says(self) -> None:
        """OWASP, Password Storage Cheat Sheet: Argon2id, 19 MiB, t = 2, p = 1; old hashes are upgraded at sign-in."""
        user = person("tech")
        self.assertIn("argon2id$v=19$m=19456,t=2,p=1$", user.password)
        User.objects.filter(pk=user.pk).update(
            password="pbkdf2_sha256$1000$salt$7KIXqSYPFXwQXfHzOmMSlBrVXBOiuMZy4Rb8uTmpP7Q="
        )
        user.refresh_from_db()
        from django.contrib.auth.hashers import PBKDF2PasswordHasher

        old = PBKDF2PasswordHasher().encode("long-enough-1", "salt", 1000)
        User.objects.filter(pk=user.pk).update(password=old)
        self.assertEqual(try_in("tech", "long-enough-1"), 200)
        user.refresh_from_db()
        self.assertTrue(user.password.startswith("argon2$"))

    def test_weak_passwords_are_refused_with_the_reason(self) -> None:
        """OWASP, Authentication Cheat Sheet: Implement Proper Password Strength Controls."""
        lead = Bench(person("boss", "lead"))
        for weak, words in (
            ("short", "too short"),
            ("1234567890123", "entirely numeric"),
            ("password123456", ""),
            ("ada-lovelace-1", "similar"),
        ):
            status, told = lead.call("POST", "/people", {"name": "ada-lovelace", "password": weak})
            if words:
                self.assertEqual((status, told["type"]), (422, "/problems/weak-password"), weak)
                self.assertIn(words, told["detail"])

    def test_signing_in_asks_for_the_csrf_token(self) -> None:
        """OWASP, Cross-Site Request Forgery Prevention Cheat Sheet: Login CSRF."""
        person("tech")
        strict = Client(enforce_csrf_checks=True)
        body = {"username": "tech", "password": "long-enough-1"}
        self.assertEqual(strict.post("/api/session", body, "application/json").status_code, 403)
        strict.get("/jobs")
        token = strict.cookies["csrftoken"].value
        self.assertEqual(
            strict.post("/api/session", body, "application/json", headers={"X-CSRFToken": token}).status_code, 200
        )

    def test_the_session_has_a_new_key_after_signing_in(self) -> None:
        """OWASP, Session Management Cheat Sheet: Renew the Session ID After Any Privilege Level Change; Cookies: HttpOnly, SameSite."""
        person("tech")
        client = Client()
        client.cookies["sessionid"] = "planted"
        client.post("/api/session", {"username": "tech", "password": "long-enough-1"}, "application/json")
        cookie = client.cookies["sessionid"]
        self.assertNotEqual(cookie.value, "planted")
        self.assertEqual((bool(cookie["httponly"]), cookie["samesite"]), (True, "Lax"))


class People(TransactionTestCase):
    def setUp(self) -> None:
        self.lead, self.tech = Bench(person("boss", "lead")), Bench(person("tech"))
        self.user = User.objects.get(username="tech")
        self.job = self.tech.new_job()
        self.run_id = self.tech.ok("POST", f"/jobs/{self.job['id']}/runs/inspect")["id"]
        self.code = self.tech.ok("POST", f"/runs/{self.run_id}/access", {"kind": "snap"})["url"].rsplit("/", 1)[1]

    def snap(self) -> int:
        return Client().get(f"/s/{self.code}/state").status_code

    def heard(self, act: Any) -> str:
        """What the live link is told while something is done."""
        with connection.cursor() as cursor:
            cursor.execute("listen clear_lens")
        act()
        connection.ensure_connection()
        told = " ".join(notice.payload for notice in connection.connection.notifies(timeout=1, stop_after=10))
        with connection.cursor() as cursor:
            cursor.execute("unlisten clear_lens")
        return told

    def test_disabling_ends_sessions_codes_and_streams(self) -> None:
        self.assertEqual(self.snap(), 200)
        told = self.heard(lambda: self.lead.ok("PATCH", f"/people/{self.user.pk}", {"active": False}))
        self.assertIn(f'"user": [{self.user.pk}]', told)
        self.assertEqual((self.snap(), self.tech.call("GET", "/jobs")[0]), (410, 401))
        self.assertEqual(try_in("tech", "long-enough-1"), 401)
        self.lead.ok("PATCH", f"/people/{self.user.pk}", {"active": True})
        self.assertEqual((self.snap(), self.tech.call("GET", "/jobs")[0]), (410, 401), "what was ended stays ended")
        self.assertEqual(try_in("tech", "long-enough-1"), 200)

    def test_a_code_ends_with_its_makers_role(self) -> None:
        self.user.groups.clear()
        self.assertEqual(self.snap(), 410)

    def test_a_new_password_ends_what_the_old_one_opened(self) -> None:
        self.lead.ok("PATCH", f"/people/{self.user.pk}", {"password": "another-one-2"})
        self.assertEqual((self.snap(), self.tech.call("GET", "/jobs")[0]), (410, 401))
        self.assertEqual((try_in("tech", "long-enough-1"), try_in("tech", "another-one-2")), (401, 200))

    def test_ones_own_password(self) -> None:
        other = Bench(self.user)
        self.assertEqual(self.tech.call("POST", "/me/password", {"old": "wrong-one-1", "new": "another-one-2"})[0], 422)
        self.tech.ok("POST", "/me/password", {"old": "long-enough-1", "new": "another-one-2"})
        self.assertEqual((self.tech.call("GET", "/jobs")[0], other.call("GET", "/jobs")[0]), (200, 401))

    def test_only_leads_and_never_without_a_lead(self) -> None:
        for method, path, body in (
            ("GET", "/people", None),
            ("POST", "/people", {"name": "x", "password": "long-enough-3"}),
            ("PATCH", f"/people/{self.user.pk}", {}),
        ):
            self.assertEqual(self.tech.call(method, path, body)[0], 403, path)
        boss = User.objects.get(username="boss")
        for change in ({"active": False}, {"role": "technician"}):
            status, told = self.lead.call("PATCH", f"/people/{boss.pk}", change)
            self.assertEqual((status, told["type"]), (422, "/problems/last-lead"))
        added = self.lead.ok("POST", "/people", {"name": "second", "password": "long-enough-3", "role": "lead"})
        self.assertEqual(added["roles"], ["lead"])
        self.assertEqual(self.lead.call("POST", "/people", {"name": "second", "password": "long-enough-3"})[0], 422)
        self.lead.ok("PATCH", f"/people/{boss.pk}", {"role": "technician"})
        names = Bench(User.objects.get(username="second")).ok("GET", "/people")
        self.assertEqual(
            [(p["name"], p["roles"]) for p in names],
            [("boss", ["technician"]), ("second", ["lead"]), ("tech", ["technician"])],
        )

    def _command(self, *arguments: str, password: str = "") -> str:
        out = io.StringIO()
        original, command.sys.stdin = command.sys.stdin, io.StringIO(password + "\n")
        try:
            call_command("person", *arguments, stdout=out)
        finally:
            command.sys.stdin = original
        return out.getvalue()

    def test_the_command_keeps_a_lead_a_lead(self) -> None:
        self.assertIn("boss can sign in", self._command("boss", password="another-one-2"))
        self.assertEqual(roles_of(User.objects.get(username="boss")), ["lead"])
        self._command("tech", "--lead", password="another-one-3")
        self.assertEqual(roles_of(self.user), ["lead"])
        self.assertIn("cannot sign in any more", self._command("tech", "--disable"))
        self.assertEqual(self.snap(), 410)
        self.assertIn("can sign in", self._command("tech", "--enable"))
        for wrong, password in (("new", "short"), ("", "long-enough-1")):
            with self.assertRaises(CommandError):
                self._command(wrong, password=password)
        with self.assertRaisesRegex(CommandError, "needs a password"):
            self._command("nobody", "--disable")


class CodesThatEnd(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job()
        self.run_id = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/inspect")["id"]

    def make(self, kind: str = "glass", run_id: int | None = None) -> tuple[int, str]:
        told = self.bench.ok("POST", f"/runs/{run_id or self.run_id}/access", {"kind": kind})
        return told["id"], told["url"].rsplit("/", 1)[1]

    def opens(self, code: str, kind: str = "g") -> bool:
        return Client().get(f"/{kind}/{code}/state").status_code == 200

    def test_renewing_and_revoking(self) -> None:
        access, code = self.make()
        Access.objects.update(expires_at=timezone.now() + timedelta(minutes=1))
        self.assertEqual(self.bench.ok("GET", f"/runs/{self.run_id}/access")[0]["id"], access)
        self.assertNotIn(code, str(self.bench.ok("GET", f"/runs/{self.run_id}/access")), "a list gives no code away")
        self.bench.ok("POST", f"/access/{access}/renew")
        self.assertGreater(
            Access.objects.get().expires_at, timezone.now() + timedelta(hours=settings.CODE_LIFETIME_HOURS - 1)
        )
        self.bench.ok("DELETE", f"/access/{access}")
        self.bench.ok("DELETE", f"/access/{access}")
        self.assertFalse(self.opens(code))
        self.assertEqual(self.bench.call("POST", f"/access/{access}/renew")[0], 404)
        self.assertEqual(self.bench.ok("GET", f"/runs/{self.run_id}/access"), [])
        texts = [entry["text"] for entry in self.bench.ok("GET", f"/jobs/{self.job['id']}/record")]
        self.assertEqual(texts.count("Code for the device page revoked."), 1)

    def test_hand_over_ends_codes_but_those_of_a_retest(self) -> None:
        _, code = self.make()
        _, snap = self.make("snap")
        due = (timezone.localdate() + timedelta(days=3)).isoformat()
        self.bench.ok("POST", f"/jobs/{self.job['id']}/rechecks", {"due_on": due, "reason": "cure"})
        retest = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/recheck")["id"]
        _, later = self.make("snap", retest)
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over", {"because": "Handed back as it came."})
        self.assertEqual((self.opens(code), self.opens(snap, "s"), self.opens(later, "s")), (False, False, True))
        self.assertEqual(self.bench.call("POST", f"/runs/{self.run_id}/access", {"kind": "snap"})[0], 422)
        self.make("glass", retest)

    def test_a_closed_job_changes_in_nothing_but_its_retest(self) -> None:
        touch = self.bench.ok("POST", f"/runs/{self.run_id}/touch", {})["id"]
        due = (timezone.localdate() + timedelta(days=3)).isoformat()
        asked = self.bench.ok("POST", f"/jobs/{self.job['id']}/rechecks", {"due_on": due, "reason": "cure"})["id"]
        retest = self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/recheck")["id"]
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over", {"because": "Handed back as it came."})
        before = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        for path, body in (
            (f"/runs/{self.run_id}/pattern", {"pattern": "black"}),
            (f"/runs/{self.run_id}/set", {"pattern_set": "triage"}),
            (f"/runs/{self.run_id}/camera", {"row_time_us": 10}),
            (f"/touch/{touch}/command", {"do": "go"}),
            (f"/touch/{touch}/more", {"what": "free"}),
            (f"/touch/{touch}/end", None),
            (f"/runs/{self.run_id}/touch", {}),
            (f"/runs/{self.run_id}/analyse", None),
            (f"/jobs/{self.job['id']}/evidence", {"check": "light", "outcome": "yes"}),
        ):
            status, told = self.bench.call("POST", path, body)
            self.assertEqual((status, told["type"]), (422, "/problems/job-closed"), path)
        for path, body in (
            (f"/runs/{retest}/pattern", {"pattern": "black"}),
            (f"/runs/{retest}/set", {"pattern_set": "triage"}),
        ):
            self.assertLess(self.bench.call("POST", path, body)[0], 300, path)
        after = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        for told in (before, after):
            told["runs"] = [run for run in told["runs"] if run["stage"] != "recheck"]
        self.assertEqual({**before, "version": 0}, {**after, "version": 0})
        self.bench.ok("POST", f"/rechecks/{asked}/settle", {})
        self.assertEqual(self.bench.call("POST", f"/runs/{retest}/pattern", {"pattern": "white"})[0], 422)


@override_settings(OWN_CERTIFICATE=True)
class Headers(TestCase):
    """OWASP, HTTP Security Response Headers Cheat Sheet."""

    def test_every_answer_has_them(self) -> None:
        self.bench = Bench(person("tech"))
        for path in (
            "/jobs",
            "/api/me",
            "/api/jobs",
            "/api/nothing/here",
            "/g/aaaaaaaaaaaaa/state",
            "/s/x",
            "/static/icon.svg",
            "/static/none.js",
        ):
            answer = self.bench.client.get(path)
            wanted = {
                "X-Content-Type-Options": "nosniff",
                "Referrer-Policy": "same-origin",
                "Cross-Origin-Opener-Policy": "same-origin",
            }
            self.assertEqual({name: answer.headers.get(name) for name in wanted}, wanted, path)
            self.assertIn("frame-ancestors 'none'", answer["Content-Security-Policy"])

    def test_unknown_addresses_are_problems_and_no_pages(self) -> None:
        for path in ("/api", "/api/", "/api/nothing", "/g/", "/s/abc/def/ghi"):
            answer = self.client.get(path)
            self.assertEqual((answer.status_code, answer["Content-Type"]), (404, "application/problem+json"), path)

    def test_only_real_names_are_answered(self) -> None:
        answer = self.client.get("/jobs", headers={"Host": "evil.example"})
        self.assertEqual((answer.status_code, answer["Content-Type"]), (400, "application/problem+json"))

    def test_strict_transport_only_with_a_certificate_of_the_shops_own(self) -> None:
        self.assertNotIn("Strict-Transport-Security", self.client.get("/jobs", secure=True).headers)
        with override_settings(SECURE_HSTS_SECONDS=31_536_000):
            self.assertIn("max-age=31536000", Client().get("/jobs", secure=True)["Strict-Transport-Security"])
