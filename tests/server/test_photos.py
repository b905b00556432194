"""Photos: once each, analysed in the background, corrected, removed, and safe from killed workers."""

import io
from typing import Any
from unittest import mock

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import override_settings
from django.utils import timezone
from PIL import ExifTags, Image

from lens.patterns import get_pattern, render
from lens.simulate import Camera, Dimming, FaultyPanel, emit, photograph, photograph_flat, random_pose
from lens.simulate.phone import photograph_by_phone, random_phone
from server.inspections import core_adapter, storage, tasks
from server.inspections.models import Access, Photo, Run
from server.inspections.storage import load
from server.jobs.models import Entry
from tests.server.helpers import PANEL, Bench, InspectionCase, person, photo, work


class Photos(InspectionCase):
    def told(self) -> dict:
        return dict(self.bench.ok("GET", f"/runs/{self.run.pk}"))

    def test_a_photo_becomes_a_finding(self) -> None:
        for name in ("white", "black"):
            self.assertEqual(self.bench.send(self.run.pk, photo(self.run, name), f"k-{name}").status_code, 201)
        work()
        told = self.told()
        self.assertEqual([p["report"]["pattern"] for p in told["photos"]], ["white", "black"])
        self.assertEqual([(f["kind"], f["x"], f["y"]) for f in told["result"]["findings"]], [("dead_pixel", 200, 150)])
        self.assertEqual(told["status"], "done")
        job = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.assertTrue(
            any("Single pixel faults" in words for cause in job["diagnosis"]["causes"] for words in cause["for_"])
        )

    def test_a_frame_of_the_live_picture_is_judged_and_kept_nowhere(self) -> None:
        told = self.bench.ok("POST", f"/runs/{self.run.pk}/access", {"kind": "snap"})
        code = told["url"].rsplit("/", 1)[1]

        def send(data: bytes, query: str = "?still=3.1") -> tuple[int, dict[str, Any]]:
            answer = self.client.post(f"/s/{code}/frame{query}", data, content_type="image/jpeg")
            return answer.status_code, answer.json()

        good = photo(self.run, "white")
        status, judged = send(good)
        self.assertEqual((status, judged["sign"], judged["pattern"], len(judged["corners"])), (200, "good", "white", 4))
        self.assertEqual(send(photo(self.run, "black"))[1]["sign"], "other_pattern")
        self.assertEqual(self.client.get(f"/s/{code}/state").json()["patterns"][0], "white")
        noise = io.BytesIO()
        Image.fromarray(np.random.default_rng(1).integers(0, 255, (1200, 1601, 3), np.uint8)).save(noise, "PNG")
        huge = io.BytesIO()
        Image.new("RGB", (9000, 9000)).save(huge, "PNG")
        self.assertLess(len(huge.getvalue()), 800_000, "small as a file")
        with mock.patch("server.inspections.guiding.decode_frame") as unpacked:
            self.assertEqual(send(huge.getvalue())[0], 422)
        unpacked.assert_not_called()
        for data, query in (
            *((b"", "?still=1"), (b"text", "?still=1"), (good[:2000], "?still=1"), (noise.getvalue(), "?still=1")),
            *((good, "?still=nan"), (good, "?still=-1"), (good, "?still=1e9"), (good, "?still=x")),
        ):
            status, refused = send(data, query)
            self.assertEqual(status, 422, (data[:9], query))
            self.assertNotIn("Traceback", refused["detail"])
        self.assertEqual(Photo.objects.count(), 0)
        Access.objects.update(revoked_at=timezone.now())
        self.assertEqual(send(good)[0], 410)

    def test_what_is_known_so_far_is_shown_while_others_are_read_and_enters_no_record(self) -> None:
        for name in ("white", "black", "red"):
            self.bench.send(self.run.pk, photo(self.run, name), f"k-{name}")
        seen: list[tuple[int, list[str], int]] = []
        read_one = tasks._read_one

        def watched(photo: Photo, run: Run) -> None:
            told = self.told()
            verdicts = Entry.objects.filter(text__contains="picture by").count()
            seen.append(
                (len((told["result"] or {"findings": []})["findings"]), [p["status"] for p in told["photos"]], verdicts)
            )
            read_one(photo, run)

        with (
            mock.patch.object(tasks, "INTERIM_S", 0.0),
            mock.patch.object(tasks, "INTERIM_SHARE", 0.0),
            mock.patch.object(tasks, "_read_one", watched),
        ):
            work()
        self.assertEqual(
            seen,
            [
                (0, ["queued", "queued", "queued"], 0),
                (1, ["read", "queued", "queued"], 0),
                (1, ["read", "read", "queued"], 0),
            ],
        )
        told = self.told()
        self.assertEqual((told["status"], [p["status"] for p in told["photos"]]), ("done", ["read"] * 3))

    def test_a_long_set_is_not_given_up_for_having_been_shown_on_the_way(self) -> None:
        """What is fused on the way and ends no process counts as no try, however often."""
        for name in ("white", "black", "red", "green", "blue", "grey50", "registration"):
            self.bench.send(self.run.pk, photo(self.run, name), f"k-{name}")
        with (
            mock.patch.object(tasks, "INTERIM_S", 0.0),
            mock.patch.object(tasks, "INTERIM_SHARE", 0.0),
            mock.patch("server.common.queue.TRY_COUNTS_EVERY_S", 0),
        ):
            work()
        self.assertEqual((self.told()["status"], Run.objects.get(pk=self.run.pk).tries), ("done", 0))

    def test_the_same_key_stores_one_photo(self) -> None:
        data = photo(self.run, "white")
        statuses = [self.bench.send(self.run.pk, data, "same").status_code for _ in range(3)]
        self.assertEqual((statuses, Photo.objects.count()), ([201, 200, 200], 1))
        work()
        with connection.cursor() as cursor:
            cursor.execute("select count(*) from procrastinate_jobs where task_name = 'analyse_run'")
            self.assertEqual(cursor.fetchone()[0], 1)

    def test_the_hand_camera_sends_by_code_and_only_photos(self) -> None:
        code = self.bench.ok("POST", f"/runs/{self.run.pk}/access", {"kind": "snap"})["url"].rsplit("/", 1)[1]
        good = SimpleUploadedFile("a.jpg", photo(self.run, "white"))
        self.assertEqual(
            self.client.post(f"/s/{code}/photos", {"photo": good}, headers={"Idempotency-Key": "x"}).status_code, 201
        )
        for data, words in ((b"", "empty|No photo"), (b"text" * 100, "not a photo")):
            answer = self.client.post(
                f"/s/{code}/photos", {"photo": SimpleUploadedFile("b.jpg", data)}, headers={"Idempotency-Key": "y"}
            )
            self.assertEqual(answer.status_code, 422)
            self.assertRegex(answer.json()["detail"], words)
        self.assertEqual(self.client.post(f"/s/{code}/photos", {}, headers={"Idempotency-Key": "z"}).status_code, 422)
        work()
        self.assertEqual([p["status"] for p in self.client.get(f"/s/{code}/state").json()["photos"]], ["read"])

    def test_a_photo_that_the_core_stumbles_over_is_said_and_spoils_no_other(self) -> None:
        good, read_file = photo(self.run, "white"), core_adapter.read_file
        self.bench.send(self.run.pk, photo(self.run, "black", seed=77), "bad")
        self.bench.send(self.run.pk, good, "good")

        def stumbling(panel: Any, file: Any, run_code: int) -> Any:
            if file.data != load(Photo.objects.get(client_key="good").sha256):
                raise ZeroDivisionError
            return read_file(panel, file, run_code)

        with mock.patch.object(core_adapter, "read_file", stumbling), self.assertLogs("clear_lens.photos", "ERROR"):
            work()
        told = self.told()
        self.assertEqual([p["status"] for p in told["photos"]], ["refused", "read"])
        self.assertIn("an error of the program", told["photos"][0]["report"]["problems"][0]["message"])
        self.assertEqual(told["status"], "done")

    def test_an_error_while_judging_is_said_and_can_be_tried_again(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white", seed=91), "one")  # that no other test has had read before
        # while the file is fetched, while the set is judged, while the result is stored
        for place, name in ((storage, "load"), (core_adapter, "inspect_reads"), (tasks, "_store")):
            with mock.patch.object(place, name, side_effect=ZeroDivisionError):
                tasks.enqueue(self.run)
                work()
            self.assertEqual(self.told()["status"], "failed", name)
        viewer = Bench(person("looker", None))
        self.assertEqual(viewer.call("POST", f"/runs/{self.run.pk}/analyse")[0], 403)
        self.assertEqual(self.bench.ok("POST", f"/runs/{self.run.pk}/analyse")["status"], "queued")
        work()
        self.assertEqual(self.told()["status"], "done")

    def test_location_is_gone_before_anything_is_stored(self) -> None:
        image = Image.open(io.BytesIO(photo(self.run, "white")))
        exif = image.getexif()
        exif.get_ifd(ExifTags.IFD.GPSInfo)[2] = (47.0, 1.0, 2.0)
        buffer = io.BytesIO()
        image.save(buffer, "JPEG", exif=exif, quality=92)
        self.bench.send(self.run.pk, buffer.getvalue(), "gps")
        stored = Image.open(io.BytesIO(load(Photo.objects.get().sha256)))
        self.assertEqual(dict(stored.getexif().get_ifd(ExifTags.IFD.GPSInfo)), {})

    def test_a_raw_photo_is_stored_without_its_owner_and_shown_in_its_colours(self) -> None:
        rng = np.random.default_rng(9)
        phone = random_phone(rng, 1600, 1200)
        light = emit(FaultyPanel(panel=PANEL), render(PANEL, get_pattern("white"), self.run.run_code))
        pose = random_pose(PANEL, phone.camera, rng, fill=0.85)
        shot, _ = photograph_by_phone(light, phone, pose, rng, raw=True)
        self.assertEqual(self.bench.send(self.run.pk, shot.data, "raw").status_code, 201)
        work()
        one = Photo.objects.get()
        self.assertEqual(one.report["pattern"], "white")
        self.assertEqual(one.status, "read")
        view = self.bench.client.get(f"/api/photos/{one.pk}/image?size=view")
        self.assertEqual(view["X-Photo-Width"], "1600")
        middle = np.asarray(Image.open(io.BytesIO(view.content)).convert("RGB"))[500:700, 700:900].mean((0, 1))
        self.assertLess(np.ptp(middle) / middle.mean(), 0.12, "white looks white, not as green as the sensor sees it")
        for data in (shot.data[: len(shot.data) // 3], shot.data[:300]):
            answer = self.bench.send(self.run.pk, data, f"cut-{len(data)}")
            if answer.status_code == 201:  # what is whole in its head is found out by who reads it
                work()
                self.assertEqual(Photo.objects.get(pk=answer.json()["id"]).status, "refused")
            else:
                self.assertEqual(answer.status_code, 422)
                self.assertIn("Send", answer.json()["detail"])

    def test_another_jobs_photo_is_refused_with_the_reason(self) -> None:
        other = self.bench.ok("POST", f"/jobs/{self.bench.new_job()['id']}/runs/inspect")
        self.bench.send(self.run.pk, photo(Run.objects.get(pk=other["id"]), "white"), "foreign")
        work()
        only = self.told()["photos"][0]
        self.assertEqual((only["status"], only["report"]["problems"][0]["code"]), ("refused", "wrong_run"))
        self.assertEqual(self.told()["result"]["verdict"]["result"], "not_proven")

    def test_a_white_wall_filed_as_flat_field_narrows_the_uniformity(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "white")
        self.bench.send(self.run.pk, photograph_flat(Camera(width=1200, height=900), np.random.default_rng(2)), "wall")
        work()
        before = self.told()
        wall = before["photos"][1]
        self.assertEqual((wall["status"], wall["report"]["problems"][0]["code"]), ("refused", "no_markers"))
        self.bench.ok("PATCH", f"/photos/{wall['id']}", {"pattern": "flat"})
        work()
        after = self.told()
        self.assertEqual((after["photos"][1]["status"], after["photos"][1]["report"]["pattern"]), ("read", "flat"))
        self.assertLess(
            after["result"]["uniformity"]["uncertainty"], 0.5 * before["result"]["uniformity"]["uncertainty"]
        )
        self.assertEqual(self.bench.call("PATCH", f"/photos/{wall['id']}", {"pattern": "flatt"})[0], 422)

    def test_a_photo_filed_as_the_reference_panel_is_compared_with(self) -> None:
        other = self.bench.ok("POST", f"/jobs/{self.bench.new_job()['id']}/runs/inspect")
        self.bench.send(self.run.pk, photo(self.run, "white"), "own")
        self.bench.send(self.run.pk, photo(Run.objects.get(pk=other["id"]), "white", faults=(), seed=4), "good")
        work()
        refused = self.told()["photos"][1]
        self.assertEqual(refused["report"]["problems"][0]["code"], "wrong_run")
        self.bench.ok("PATCH", f"/photos/{refused['id']}", {"pattern": "reference"})
        work()
        told = self.told()
        self.assertEqual((told["photos"][1]["status"], told["photos"][1]["report"]["pattern"]), ("read", "reference"))
        self.assertAlmostEqual(told["result"]["reference"]["light_ratio"], 1.0, delta=0.1)
        self.bench.ok("PATCH", f"/photos/{refused['id']}", {"pattern": ""})
        work()
        self.assertIsNone(self.told()["result"]["reference"])

    def test_the_cameras_row_time_turns_bars_into_a_frequency(self) -> None:
        camera, rng = Camera(width=1500, height=1125, exposure_s=1 / 4000, row_time_us=10), np.random.default_rng(8)
        device = FaultyPanel(panel=PANEL, dimming=Dimming(hz=1000, depth=0.6))
        for name in ("white", "grey50"):
            light = emit(device, render(PANEL, get_pattern(name), self.run.run_code))
            self.bench.send(
                self.run.pk,
                photograph(light, camera, random_pose(PANEL, camera, rng), rng, 1.0, device.dimming).data,
                name,
            )
        work()

        def frequency() -> list[float | None]:
            return [f["frequency_hz"] for f in self.told()["result"]["findings"] if f["kind"] == "flicker"]

        self.assertEqual(frequency(), [None])
        self.assertEqual(self.bench.call("POST", f"/runs/{self.run.pk}/camera", {"row_time_us": 5000})[0], 422)
        self.bench.ok("POST", f"/runs/{self.run.pk}/camera", {"row_time_us": 10})
        work()
        self.assertAlmostEqual(frequency()[0] or 0, 1000, delta=50)
        self.bench.ok("POST", f"/runs/{self.run.pk}/camera", {"row_time_us": None})
        work()
        self.assertEqual(frequency(), [None])

    def test_a_lamps_light_tells_the_row_time_and_the_jobs_other_runs_know_it(self) -> None:
        camera = Camera(width=1500, height=1125, exposure_s=1 / 500, row_time_us=12)
        data = photograph_flat(camera, np.random.default_rng(1), 0.2, Dimming(hz=300, depth=0.4))

        def learn(sent: bytes, hz: str) -> Any:
            return self.bench.client.post(
                f"/api/runs/{self.run.pk}/camera/lamp", {"file": SimpleUploadedFile("lamp.jpg", sent), "hz": hz}
            )

        steady = photograph_flat(camera, np.random.default_rng(1))
        for sent, hz in ((b"no photo", "300"), (data, "0"), (data, "nan"), (data, "many"), (steady, "300")):
            self.assertEqual(learn(sent, hz).status_code, 422)
        self.assertAlmostEqual(learn(data, "300").json()["row_time_us"], 12, delta=0.2)
        line = next(
            entry
            for entry in self.bench.ok("GET", f"/jobs/{self.run.job_id}/record")[::-1]
            if entry["kind"] == "row_time"
        )
        self.assertIn("of a lamp that pulses 300 times a second", line["text"])
        other = self.bench.ok("POST", f"/jobs/{self.run.job_id}/runs/dry_fit")
        self.assertAlmostEqual(other["row_time_us"], 12, delta=0.2)
        with override_settings(DEMO=True):
            self.assertEqual(self.bench.call("POST", f"/runs/{other['id']}/simulate/lamp")[0], 204)
        self.assertAlmostEqual(Run.objects.get(pk=other["id"]).row_time_us or 0, 10, delta=0.2)
        path, body = f"/api/runs/{self.run.pk}/camera/lamp", {"file": SimpleUploadedFile("lamp.jpg", data), "hz": "300"}
        answer = Bench(person("looker", None)).client.post(path, body)
        self.assertEqual(answer.status_code, 403)

    def test_corners_by_hand_and_taking_out(self) -> None:
        blank = io.BytesIO()
        Image.new("RGB", (1200, 900), (190, 190, 190)).save(blank, "JPEG")
        self.bench.send(self.run.pk, blank.getvalue(), "blank")
        work()
        only = self.told()["photos"][0]
        self.assertEqual((only["status"], only["report"]["problems"][0]["code"]), ("refused", "no_markers"))
        corners = [[100, 100], [1100, 100], [1100, 725], [100, 725]]
        self.assertEqual(
            self.bench.call("PATCH", f"/photos/{only['id']}", {"pattern": "white", "corners": corners[:3]})[0], 422
        )
        self.bench.ok("PATCH", f"/photos/{only['id']}", {"pattern": "white", "corners": corners})
        work()
        self.assertEqual(self.told()["photos"][0]["status"], "read")
        self.bench.ok("PATCH", f"/photos/{only['id']}", {"removed": True})
        work()
        self.assertIsNone(self.told()["result"])
        self.bench.ok("PATCH", f"/photos/{only['id']}", {"removed": False})
        work()
        self.assertIsNotNone(self.told()["result"])

    def test_another_accepted_class_is_judged_at_once(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        work()
        before = self.told()["result"]["verdict"]
        self.assertEqual((before["profile"], before["result"]), ("class-II", "not_proven"))
        job = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        told = self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "profile": "class-0"})
        after = told["runs"][0]["result"]["verdict"]
        self.assertEqual((after["profile"], after["result"], self.told()["status"]), ("class-0", "fail", "done"))

    def test_other_changes_leave_the_verdict_alone(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        work()
        job = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.bench.ok("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "owner": "Ridge hall"})
        self.assertEqual(self.told()["status"], "done")
        status, told = self.bench.call("PATCH", f"/jobs/{job['id']}", {"version": job["version"], "panel_width": 800})
        self.assertEqual((status, told["type"]), (422, "/problems/photos-exist"))

    def test_the_view_of_a_photo_is_reduced_and_upright(self) -> None:
        self.bench.send(self.run.pk, photo(self.run, "white"), "k")
        answer = self.bench.client.get(f"/api/photos/{Photo.objects.get().pk}/image?size=thumb")
        self.assertEqual((answer["X-Photo-Width"], Image.open(io.BytesIO(answer.content)).size), ("1500", (320, 240)))

    def test_patterns_leave_as_a_zip_that_carries_the_run(self) -> None:
        answer = self.bench.client.get(f"/api/runs/{self.run.pk}/patterns.zip")
        self.assertEqual(answer["Content-Type"], "application/zip")
        self.assertIn("640x400.zip", answer["Content-Disposition"])
