"""A meter in a job: typed, from its file, simulated; held to the panel on record."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, override_settings

from server.jobs.models import Job
from server.parts.models import PanelModel
from tests.server.helpers import Bench, person
from tests.server.test_jobs import SPEC


class Meter(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.path = f"/jobs/{self.bench.new_job()['id']}"

    def outcome(self) -> list[str]:
        return [
            e["outcome"]
            for e in self.bench.ok("GET", self.path)["evidence"]
            if e["check"] == "luminance" and not e["withdrawn"]
        ]

    def test_a_typed_figure_is_held_to_the_panel_on_record(self) -> None:
        told = self.bench.ok("POST", f"{self.path}/luminance", {"cd_m2": 200})
        self.assertEqual(
            (told["readings"]["nominal_cd_m2"], told["readings"]["nominal_on_record"], self.outcome()),
            (250, False, ["nominal"]),
        )
        spec = SPEC.model_copy(update={"luminance_cd_m2": 400})
        Job.objects.update(
            wanted_panel=PanelModel.objects.create(name="A", maker="M", spec=spec.model_dump(mode="json"))
        )
        told = self.bench.ok("POST", f"{self.path}/luminance", {"cd_m2": 200})
        self.assertEqual((told["readings"]["nominal_cd_m2"], self.outcome()), (400, ["low"]))
        status, refused = self.bench.call("POST", f"{self.path}/luminance", {"cd_m2": -4})
        self.assertEqual(status, 422)
        self.assertIn("0 to 20000", refused["detail"])

    def test_a_file_and_its_faults(self) -> None:
        good, old = b"name,Y\nwhite,50\nblack,0.1\n", b"name,Y\rwhite,50\rblack,0.1\r"
        for data, status in ((good, 200), (old, 200), (b"name,Y\nwhite,bright\n", 422), (b"", 422)):
            answer = self.bench.client.post(f"/api{self.path}/readings", {"file": SimpleUploadedFile("m.csv", data)})
            self.assertEqual(answer.status_code, status)
        self.assertEqual(self.outcome(), ["very_low"])
        self.assertEqual(
            Bench(person("stranger", role=None)).call("POST", f"{self.path}/luminance", {"cd_m2": 1})[0], 403
        )

    @override_settings(DEMO=True)
    def test_the_simulated_meter_writes_a_file(self) -> None:
        Job.objects.update(simulated={"original": [], "brightness": 0.12})
        self.assertEqual(self.bench.call("POST", f"{self.path}/simulate/meter")[0], 204)
        self.assertEqual(self.outcome(), ["very_low"])
