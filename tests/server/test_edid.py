"""An EDID in a job: filed, compared with the record, put down as measured evidence, and never by a stranger."""

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, override_settings

from lens.simulate import EdidPanel, edid_of
from server.jobs.models import Entry, Job
from tests.server.helpers import Bench, person

FITTING = EdidPanel(width=640, height=400, size_mm=(160, 100), clock_10khz=2064, blank=(160, 30))


class FiledEdid(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(diagonal_in=7.4)

    def send(self, data: bytes, name: str = "edid.bin") -> tuple[int, dict[str, Any]]:
        answer = self.bench.client.post(f"/api/jobs/{self.job['id']}/edid", {"file": SimpleUploadedFile(name, data)})
        told = answer.json()
        return answer.status_code, self.bench.whole(told) if answer.status_code == 200 else told

    def test_it_becomes_measured_evidence_and_differences(self) -> None:
        damaged = bytearray(edid_of(FITTING))
        damaged[99] ^= 1
        for data, outcome, differences in (
            (edid_of(FITTING), "right", 0),
            (edid_of(EdidPanel()), "other", 2),
            (bytes(damaged), "bad", 0),
            (edid_of(FITTING).hex().encode(), "right", 0),
        ):
            status, told = self.send(data)
            self.assertEqual(status, 200)
            standing = [e for e in told["evidence"] if e["check"] == "edid" and not e["withdrawn"]]
            self.assertEqual([(e["outcome"], e["source"]) for e in standing], [(outcome, "measured")])
            self.assertEqual(len(told["edid"]["differences"]), differences)
        self.assertEqual(told["edid"]["decoded"]["manufacturer_id"], "QZX")
        self.assertEqual(Entry.objects.filter(job_id=self.job["id"], kind="edid").count(), 4)

    def test_what_is_no_edid_is_refused_and_changes_nothing(self) -> None:
        for data, words in ((b"photo", "no EDID"), (bytes(300_000), "too large")):
            status, told = self.send(data)
            self.assertEqual(status, 422)
            self.assertIn(words, told["detail"])
        self.assertIsNone(Job.objects.get().edid)
        self.bench.ok("POST", f"/jobs/{self.job['id']}/hand-over", {"because": "Handed back as it came."})
        self.assertEqual(self.send(edid_of(FITTING))[0], 422)

    def test_a_replacement_is_held_to_the_panel_before_it(self) -> None:
        path = f"/api/jobs/{self.job['id']}/edid/replacement"

        def send(data: bytes) -> dict[str, Any]:
            answer = self.bench.client.post(path, {"file": SimpleUploadedFile("edid.bin", data)})
            self.assertEqual(answer.status_code, 200)
            return self.bench.whole(answer.json())

        self.assertEqual(
            len(send(edid_of(EdidPanel()))["replacement_edid"]["differences"]), 2
        )  # held to the record: size and resolution
        self.send(edid_of(FITTING))
        self.assertEqual(send(edid_of(FITTING))["replacement_edid"]["differences"], [])
        told = send(edid_of(FITTING.model_copy(update={"size_mm": (180, 112)})))
        self.assertEqual(told["replacement_edid"]["differences"], ["Size: 7.4 and 8.3 in."])
        self.assertEqual(
            [e["outcome"] for e in told["evidence"] if not e["withdrawn"]], ["right"]
        )  # of the panel's own EDID alone
        answer = self.bench.client.post(path, {"file": SimpleUploadedFile("edid.bin", b"photo")})
        self.assertEqual(answer.status_code, 422)

    def test_a_stranger_files_nothing(self) -> None:
        self.bench = Bench(person("stranger", role=None))
        self.assertEqual(self.send(edid_of(FITTING))[0], 403)

    @override_settings(DEMO=True)
    def test_the_simulated_panel_answers_through_the_same_door(self) -> None:
        path = f"/jobs/{self.job['id']}"
        self.bench.ok("POST", f"{path}/simulate/edid")
        self.assertEqual([e["outcome"] for e in self.bench.ok("GET", path)["evidence"]], ["right"])
        Job.objects.update(simulated={"original": [], "edid": {"flipped_byte": 96}})
        self.bench.ok("POST", f"{path}/simulate/edid")
        standing = [e["outcome"] for e in self.bench.ok("GET", path)["evidence"] if not e["withdrawn"]]
        self.assertEqual(standing, ["bad"])
