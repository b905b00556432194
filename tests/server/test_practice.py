"""The first job of the demo: one for each person, and a device that shows what its cause makes it show."""

from django.contrib.auth.models import User
from django.test import TestCase, override_settings

from lens.diagnosis import EvidenceItem, diagnose
from server.jobs.models import Job
from server.simbench.practice import shown_by
from server.simbench.world import load_catalogue, make_job, read_world
from tests.server.helpers import Bench, person


class Practice(TestCase):
    def setUp(self) -> None:
        load_catalogue(read_world())
        self.anna = person("anna")
        self.bench = Bench(self.anna)

    def test_only_the_demo_has_one(self) -> None:
        status, answer = self.bench.call("POST", "/practice", {})
        self.assertEqual(status, 422)
        self.assertIn("demo", answer["detail"])

    @override_settings(DEMO=True)
    def test_it_is_begun_once_and_gone_on_with(self) -> None:
        job_id = self.bench.ok("POST", "/practice", {})["job_id"]
        self.assertEqual(self.bench.ok("POST", "/practice", {})["job_id"], job_id)
        self.assertEqual(self.bench.ok("GET", "/practice"), {"job_id": job_id, "done": False})
        shown = self.bench.ok("GET", f"/jobs/{job_id}/practice")
        self.assertEqual((shown["practice"], shown["answers"]["external_output"]), (True, "clean"))
        other = Bench(person("berta")).ok("POST", "/practice", {})["job_id"]
        self.assertNotEqual(other, job_id)
        self.assertEqual(Job.objects.get(pk=other).assigned_to, User.objects.get(username="berta"))

    def test_of_another_job_it_says_nothing(self) -> None:
        job = make_job(self.anna, read_world()["jobs"][0])
        self.assertFalse(self.bench.ok("GET", f"/jobs/{job.pk}/practice")["practice"])

    def test_whoever_answers_what_the_device_shows_is_led_to_its_cause(self) -> None:
        told = read_world()["practice"]
        answers = shown_by(told["cause"], told["device_type"])
        items: list[EvidenceItem] = []
        for _ in range(8):
            result = diagnose(told["device_type"], items)
            check = next((step.id for step in result.plan if step.kind == "check"), None)
            if check is None:
                break
            items.append(EvidenceItem(check=check, outcome=answers[check]))
        self.assertEqual(result.causes[0].id, told["cause"], [(item.check, item.outcome) for item in items])
