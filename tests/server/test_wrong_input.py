"""Whatever comes: no 5xx, no traceback, one shape for every refusal; the API does what its schema says."""

import io
import json
import logging
import tempfile
import time
from pathlib import Path
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TestCase, override_settings
from PIL import Image

from benchmarks.mutations import PICTURES, Input, Place, inputs
from lens.errors import BadInput
from server.common import parsing
from server.common.files import DiskFull
from server.common.request_id import WithRequestId
from server.inspections import storage, stripping
from server.inspections.models import Photo
from tests.server.helpers import Bench, InspectionCase, person, photo

MUTATIONS, SEED = 350, 7  # the benchmark has other seeds
MOST_WORK_S, MOST_WAIT_S = 2.5, 15.0


def send(client: Client, told: Input) -> tuple[int, str]:
    headers = {name: text for name, text in told.headers.items() if name != "Content-Type"}
    path, _, query = told.path.partition("?")
    answer = client.generic(
        told.method, path, told.body, told.headers.get("Content-Type", ""), QUERY_STRING=query, headers=headers
    )
    return answer.status_code, answer.get("Content-Type", "")


class Mutated(InspectionCase):
    def test_nothing_answers_5xx_or_takes_long(self) -> None:
        lead = Bench(person("boss", "lead"))
        session = lead.ok("POST", f"/runs/{self.run.pk}/touch", {})["id"]
        codes = {
            kind: lead.ok("POST", f"/runs/{self.run.pk}/access", {"kind": kind})["url"].rsplit("/", 1)[1]
            for kind in ("glass", "snap")
        }
        lead.client.raise_request_exception = False
        wrong = []
        for told in inputs(Place(self.job["id"], self.run.pk, session, codes["glass"], codes["snap"]), MUTATIONS, SEED):
            started, worked = time.monotonic(), time.process_time()
            status, kind = send(lead.client, told)
            ours = told.method == "HEAD" or told.path.startswith("/static/") or kind == "application/problem+json"
            if told.path.startswith("/api/health"):
                continue  # 503: no worker runs here
            if status >= 500 or (status >= 400 and not ours):
                wrong.append((status, kind, told._replace(body=told.body[:200])))
            # what it computes counts on any machine; a stalled one may keep an answer waiting for some seconds more
            if time.process_time() - worked > MOST_WORK_S or time.monotonic() - started > MOST_WAIT_S:
                wrong.append((status, "slow", told._replace(body=told.body[:200])))
            if status == 401:
                lead.client.force_login(lead.user)
        self.assertEqual(wrong[:3], [], f"{len(wrong)} in all")


class Files(InspectionCase):
    def upload(self, data: bytes, name: str = "x.jpg", key: str = "k") -> tuple[int, dict[str, str]]:
        form = {"photo": SimpleUploadedFile(name, data)}
        answer = self.bench.client.post(f"/api/runs/{self.run.pk}/photos", form, headers={"Idempotency-Key": key})
        return answer.status_code, answer.json()

    def test_formats_that_are_not_accepted_are_not_even_parsed(self) -> None:
        from PIL import EpsImagePlugin

        with mock.patch.object(EpsImagePlugin.EpsImageFile, "_open", side_effect=AssertionError("parsed")):
            for kind in ("EPS", "GIF", "BMP", "ICO"):
                status, told = self.upload(PICTURES[kind])
                self.assertEqual((status, told["type"]), (422, "/problems/not-an-image"), kind)

    def test_accepted_formats_arrive_without_personal_data(self) -> None:
        for number, kind in enumerate(("PNG", "TIFF", "LZW", "WEBP", "HEIF", "JPEG")):
            self.assertEqual(self.upload(PICTURES[kind], key=f"k{number}")[0], 201, kind)
            stored = storage.load(Photo.objects.latest("id").sha256)
            self.assertEqual(Image.open(io.BytesIO(stored)).size, (400, 300), kind)

    def test_what_costs_too_much_is_refused_in_its_own_process(self) -> None:
        self.assertIn(self.upload(PICTURES["BOMB"])[1]["type"], ("/problems/too-many-pixels", "/problems/truncated"))
        with mock.patch.object(stripping, "TIME_S", 0.05):
            self.assertEqual(self.upload(PICTURES["PNG"])[1]["type"], "/problems/too-costly")
        with mock.patch.object(stripping, "MEMORY_BYTES", 60 * 1024**2):
            self.assertEqual(self.upload(PICTURES["PNG"])[1]["type"], "/problems/too-costly")
        with mock.patch.object(stripping, "WAIT_S", 0.05), stripping._one_at_a_time:
            status, told = self.upload(PICTURES["PNG"])
        self.assertEqual((status, told["type"]), (503, "/problems/busy"))
        self.assertEqual(self.upload(PICTURES["PNG"])[0], 201)

    def test_the_same_key_with_another_photo_is_a_conflict(self) -> None:
        first, second = photo(self.run, "white", seed=3), photo(self.run, "white", seed=4)
        self.assertEqual((self.upload(first)[0], self.upload(first)[0]), (201, 200))
        status, told = self.upload(second)
        self.assertEqual((status, told["type"], Photo.objects.count()), (409, "/problems/conflict", 1))

    def test_a_broken_file_is_healed_by_the_same_photo(self) -> None:
        data = photo(self.run, "white", seed=5)
        self.upload(data)
        sha256 = Photo.objects.get().sha256
        path = storage.default_storage.path(storage._name(sha256))
        for broken in (b"", storage.load(sha256)[:100], bytes(len(storage.load(sha256)))):
            with open(path, "wb") as file:
                file.write(broken)
            self.assertEqual(self.upload(data)[0], 200)
            self.assertEqual(storage.hashlib.sha256(storage.load(sha256)).hexdigest(), sha256)

    def test_a_full_disk_is_507_and_leaves_nothing(self) -> None:
        with (
            tempfile.TemporaryDirectory() as empty,
            override_settings(MEDIA_ROOT=Path(empty)),
        ):  # what is stored already needs no room
            data = photo(self.run, "white", seed=6)
            for place in ("server.common.files.os.fsync", "server.common.files.os.replace"):
                with mock.patch(place, side_effect=OSError(28, "No space left on device")):
                    status, told = self.upload(data, key=place)
                self.assertEqual((status, told.get("type")), (507, "/problems/disk-full"))
            with override_settings(LEAST_FREE_BYTES=2**62):
                self.assertEqual(self.upload(data, key="full")[0], 507)
            self.assertEqual(Photo.objects.count(), 0)
            self.assertEqual(list(Path(empty).rglob(".part-*")), [])
            self.assertEqual(self.upload(data, key="again")[0], 201)

    def test_names_are_only_names(self) -> None:
        data = photo(self.run, "white", seed=8)
        names = (("a\nb.jpg", "ab.jpg"), ("x" * 4000 + ".jpg", None), ("\u202e.jpg", "jpg"), ("c:\\d\\e.jpg", "e.jpg"))
        for number, (name, stored) in enumerate(names):
            self.assertEqual(self.upload(data, name, f"k{number}")[0], 201)
            kept = Photo.objects.latest("id").name
            self.assertTrue(kept == stored if stored else len(kept) <= 200, kept)


class Reading(TestCase):
    """The parser of bodies by itself."""

    def test_it_takes_ordinary_json_only(self) -> None:
        self.assertEqual(parsing.read_json(b'{"a": [1, 2.5, "x", null, true]}'), {"a": [1, 2.5, "x", None, True]})
        for body, code in (
            (b'{"a": NaN}', "not_a_number"),
            (b'{"a": -Infinity}', "not_a_number"),
            (b"{", "not_json"),
            (b"[" * 100_000, "not_json"),
            (b"[" * 50 + b"]" * 50, "too_deep"),
            (b'{"a": "\\u0000"}', "bad_text"),
            (b'{"\\u0000": 1}', "bad_text"),
            (b'["\\ud800"]', "bad_text"),
            (b"\xff", "not_json"),
            (b"", "not_json"),
        ):
            with self.assertRaises(BadInput) as told:
                parsing.read_json(body)
            self.assertEqual(told.exception.code, code, body[:20])


class Numbers(TestCase):
    def test_every_answer_has_a_number_that_its_log_lines_carry(self) -> None:
        bench = Bench(person("tech"))
        bench.client.raise_request_exception = False
        seen: list[logging.LogRecord] = []
        handler = logging.Handler()
        handler.addFilter(WithRequestId())
        handler.emit = seen.append  # type: ignore[method-assign]
        logging.getLogger("clear_lens").addHandler(handler)
        self.addCleanup(logging.getLogger("clear_lens").removeHandler, handler)
        with mock.patch("server.bench.list_api._page", side_effect=self.fault()):
            answer = bench.client.get("/api/jobs")
        self.assertRegex(answer["X-Request-ID"], "^[0-9a-f]{8}$")
        self.assertIn(answer["X-Request-ID"], {getattr(one, "request_id", "") for one in seen})
        self.assertNotEqual(bench.client.get("/api/me")["X-Request-ID"], answer["X-Request-ID"])

    @staticmethod
    def fault() -> Exception:
        return DiskFull(28, "full")


class Database(TestCase):
    def test_what_the_database_cannot_do_has_its_sentence(self) -> None:
        bench = Bench(person("tech"))
        bench.client.raise_request_exception = False
        wanted = (
            ("53100", 507, "disk-full"),
            ("25006", 507, "disk-full"),
            ("55P03", 503, "busy"),
            ("57014", 503, "database-away"),
        )
        for state, status, code in wanted:
            with (
                mock.patch("server.bench.list_api._page", side_effect=self.error(state)),
                self.assertLogs("clear_lens", "ERROR"),
            ):
                got, told = bench.call("GET", "/jobs")
            self.assertEqual((got, told["type"]), (status, f"/problems/{code}"))
        with (
            mock.patch("server.bench.list_api._page", side_effect=DiskFull(28, "full")),
            self.assertLogs("clear_lens", "ERROR"),
        ):
            self.assertEqual(bench.call("GET", "/jobs")[0], 507)
        with (
            mock.patch("server.common.pages.page", side_effect=RuntimeError("unforeseen")),
            self.assertLogs("clear_lens", "ERROR"),
        ):
            answer = bench.client.get("/jobs")
        self.assertEqual((answer.status_code, json.loads(answer.content)["type"]), (500, "/problems/unexpected"))

    @staticmethod
    def error(state: str) -> Exception:
        from django.db import OperationalError
        from psycopg import errors

        told = OperationalError("no")
        told.__cause__ = errors.lookup(state)("no")
        return told

    def test_nobody_waits_for_ever(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("select current_setting('lock_timeout'), current_setting('statement_timeout')")
            self.assertEqual(cursor.fetchone(), ("8s", "30s"))
