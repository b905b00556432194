"""The external screen of a job: a size of its own, patterns and photos of that size, and what it says to the diagnosis."""

import numpy as np
from django.test import override_settings

from lens.panel import Panel, make_panel
from lens.patterns import get_pattern, render
from lens.simulate import Camera, DeviceFault, FaultyPanel, emit, photograph, random_pose
from server.inspections.models import Run
from tests.server.helpers import InspectionCase, fixed, photo, work

COLUMN = (DeviceFault(kind="dark_column", x=320, y=0),)


def shot(panel: Panel, run: Run, pattern: str, faults: tuple[DeviceFault, ...], seed: int) -> bytes:
    rng = np.random.default_rng(seed)
    camera = Camera(width=1500, height=1125)
    light = emit(FaultyPanel(panel=panel, faults=faults), render(panel, get_pattern(pattern), run.run_code))
    return photograph(light, camera, random_pose(panel, camera, rng), rng).data


class ExternalScreen(InspectionCase):
    def external(self) -> Run:
        return fixed(self.bench.ok("POST", f"/jobs/{self.job['id']}/runs/external")["id"])

    def test_its_size_is_its_own(self) -> None:
        run = self.external()
        told = self.bench.ok("POST", f"/runs/{run.pk}/screen", {"width": 800, "height": 500})
        self.assertEqual(told["screen"], {"width": 800, "height": 500})
        self.assertIn("800x500", self.bench.client.get(f"/api/runs/{run.pk}/patterns.zip")["Content-Disposition"])
        code = self.bench.ok("POST", f"/runs/{run.pk}/access", {"kind": "glass"})["url"].rsplit("/", 1)[1]
        self.assertEqual(self.client.get(f"/g/{code}/state").json()["panel"], {"width": 800, "height": 500})
        for path, body, words in (
            (f"/runs/{self.run.pk}/screen", {"width": 800, "height": 500}, "at Intake"),
            (f"/runs/{run.pk}/screen", {"width": 80, "height": 50}, "outside what can be tested"),
        ):
            status, refused = self.bench.call("POST", path, body)
            self.assertEqual(status, 422)
            self.assertIn(words, refused["detail"])

    def test_the_same_line_outside_clears_the_panel(self) -> None:
        run, panel = self.external(), make_panel(800, 500)
        self.bench.ok("POST", f"/runs/{run.pk}/screen", {"width": 800, "height": 500})
        run.refresh_from_db()
        for number, name in enumerate(("white", "grey50")):
            self.bench.send(self.run.pk, photo(self.run, name, COLUMN, seed=number), f"in-{name}")
            self.bench.send(
                run.pk,
                shot(panel, run, name, (DeviceFault(kind="dark_column", x=400, y=0),), number + 5),
                f"out-{name}",
            )
        work()
        told = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.assertEqual((told["witness"]["outcome"], len(told["witness"]["same"])), ("same_fault", 1))
        self.assertIn(told["diagnosis"]["causes"][0]["id"], ("graphics", "software"))
        self.assertTrue(any("Same fault there" in words for words in told["diagnosis"]["causes"][0]["for_"]))
        self.assertEqual(self.bench.call("POST", f"/runs/{run.pk}/screen", {"width": 640, "height": 400})[0], 422)

    @override_settings(DEMO=True)
    def test_a_frame_of_the_simulated_capture_device_is_a_witness(self) -> None:
        run = self.external()
        for number, name in enumerate(("white", "grey50")):
            self.bench.send(self.run.pk, photo(self.run, name, COLUMN, seed=number), f"in-{name}")
        for _ in range(2):
            self.assertEqual(self.bench.call("POST", f"/runs/{run.pk}/simulate/frame")[0], 204)
        work()
        told = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.assertEqual((told["witness"]["outcome"], run.photos.count()), ("clean", 1))
        self.assertEqual([p["report"]["pattern"] for p in self.bench.ok("GET", f"/runs/{run.pk}")["photos"]], ["frame"])

    def test_a_clean_one_points_to_the_panel(self) -> None:
        run = self.external()
        for number, name in enumerate(("white", "grey50")):
            self.bench.send(self.run.pk, photo(self.run, name, COLUMN, seed=number), f"in-{name}")
            self.bench.send(run.pk, photo(run, name, (), seed=number + 5), f"out-{name}")
        work()
        told = self.bench.ok("GET", f"/jobs/{self.job['id']}")
        self.assertEqual(told["witness"]["outcome"], "clean")
        self.assertLess(next(c["p"] for c in told["diagnosis"]["causes"] if c["id"] == "graphics"), 0.03)
