"""Touch that a person tried where nothing could be recorded: kept with its places, told as seen, weighed by the diagnosis, and in the verdict."""

from django.test import TestCase

from server.handchecks.models import HandCheck
from server.jobs.models import Entry
from server.reports.pdf import report_html
from tests.server.helpers import Bench, person

COLUMN = [[3, row] for row in range(20)]


class TouchByEye(TestCase):
    def setUp(self) -> None:
        self.bench = Bench(person("tech"))
        self.job = self.bench.new_job(device_type="handset", build="phone_front", panel_width=360, panel_height=800)
        self.path = f"/jobs/{self.job['id']}/proving"

    def mark(self, stage: str, cells: list[list[int]]) -> dict:
        told = self.bench.ok("POST", f"{self.path}/touch-by-eye/{stage}", {"cells": cells})
        return dict(next(one for one in told["eye"] if one["stage"] == stage))

    def share(self, cause: str) -> float:
        causes = self.bench.ok("GET", f"/jobs/{self.job['id']}/isolate")["diagnosis"]["causes"]
        return float(next((one["p"] for one in causes if one["id"] == cause), 0.0))

    def test_places_are_kept_told_and_weighed_as_seen(self) -> None:
        before = self.share("row_or_column_sense_line")
        told = self.mark("inspect", COLUMN)
        self.assertEqual((told["touch"]["columns"], told["touch"]["rows"], told["touch"]["tried"]), (9, 20, True))
        self.assertEqual(told["touch"]["told"], ["A column does not answer, 39 % from the left."])
        self.assertEqual(told["verdict"], "fail")
        self.assertGreater(self.share("row_or_column_sense_line"), max(0.4, 3 * before))
        entry = Entry.objects.filter(kind="hand_check").last()
        self.assertIn("A column does not answer", entry.text)  # type: ignore[union-attr]
        self.mark("inspect", COLUMN)
        self.assertEqual(HandCheck.objects.count(), 1, "the same answer twice is one")
        again = self.mark("inspect", [])
        self.assertEqual((again["touch"]["told"], again["touch"]["tried"]), ([], True))
        self.assertLess(self.share("row_or_column_sense_line"), before)
        self.assertEqual(HandCheck.objects.count(), 2, "what was said before is kept")

    def test_it_fails_the_closed_device_and_says_where(self) -> None:
        self.bench.look_by_eye(self.job["id"], "closed")
        self.mark("closed", COLUMN)
        verdict = self.bench.ok("GET", f"/jobs/{self.job['id']}")["verdict"]
        self.assertEqual((verdict["result"], verdict["parts"][-1]["grade"]), ("fail", "seen"))
        self.assertIn("Touch: A column does not answer, 39 % from the left.", verdict["parts"][-1]["text"])
        self.assertIn("A column does not answer", report_html(self.job["id"]))
        # a later word without places takes them back
        self.bench.ok("POST", f"{self.path}/eye/closed", {"aspect": "touch", "outcome": "cannot_tell"})
        eye = next(one for one in self.bench.ok("GET", self.path)["eye"] if one["stage"] == "closed")
        self.assertEqual((eye["touch"]["tried"], eye["touch"]["cells"]), (False, []))

    def test_wrong_places_and_stages_are_refused_in_words(self) -> None:
        for stage, cells in (("inspect", [[9, 0]]), ("inspect", [[0, -1]]), ("received", [[1, 1]]), ("nowhere", [])):
            status, told = self.bench.call("POST", f"{self.path}/touch-by-eye/{stage}", {"cells": cells})
            self.assertEqual(status, 422, (stage, cells))
            self.assertTrue(told["detail"])
        self.assertEqual(self.bench.call("POST", f"{self.path}/touch-by-eye/closed", {"cells": [[0, 0]] * 401})[0], 422)
        self.assertEqual(HandCheck.objects.count(), 0)

    def test_a_panel_whose_size_is_corrected_keeps_what_lies_on_it(self) -> None:
        self.mark("inspect", [[3, 1], [3, 19]])
        job = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        change = {"version": job["version"], "panel_width": 800, "panel_height": 360}
        self.bench.ok("PATCH", f"/jobs/{self.job['id']}", change)
        eye = next(one for one in self.bench.ok("GET", self.path)["eye"] if one["stage"] == "inspect")
        self.assertEqual((eye["touch"]["columns"], eye["touch"]["cells"]), (20, [[3, 1]]))

    def test_who_only_looks_on_marks_nothing(self) -> None:
        status, _ = Bench(person("guest", None)).call("POST", f"{self.path}/touch-by-eye/closed", {"cells": []})
        self.assertEqual(status, 403)
