"""Classes and verdicts against the table of ISO 9241-307 (from memory, after ISO 13406-2)."""

from unittest import TestCase

from lens.acceptance import Proven, class_table, get_class, judge, scaled
from lens.errors import BadInput
from lens.faults import clusters
from lens.panel import make_panel
from lens.records import Finding

MEGAPIXEL = make_panel(1250, 800)  # exactly one million pixels
SEEN = Proven(pixels=0.99, subpixels=0.99)


def fault(kind: str, x: float, y: float = 10, channel: str | None = None) -> Finding:
    return Finding.model_validate({"kind": kind, "x": x, "y": y, "w": 1, "h": 1, "contrast": -1, "confidence": 0.99, "channel": channel})


def many(kind: str, count: int, start: int = 0) -> list[Finding]:
    return [fault(kind, 20.0 * (start + i)) for i in range(count)]


class ClassTable(TestCase):
    def test_limits_per_million_pixels(self) -> None:
        rows = {i: (c.type_1, c.type_2, c.clusters_12, c.clusters_3) for i, c in class_table().classes.items()}
        self.assertEqual(rows, {
            "class-0": (0, 0, 0, 0), "class-I": (1, 1, 0, 0), "class-II": (2, 2, 0, 2), "class-III": (5, 15, 0, 5), "class-IV": (50, 150, 5, 50)})

    def test_type_3_pairs_of_the_table_are_on_the_edge(self) -> None:
        pairs = {
            "class-I": [(2, 1), (1, 3), (0, 5)], "class-II": [(5 - n, 2 * n) for n in range(6)],
            "class-III": [(50 - n, 2 * n) for n in range(51)],
        }
        for name, allowed in pairs.items():
            for on, off in allowed:
                self.assertEqual(self._type_3(name, on, off), "pass", (name, on, off))
                self.assertEqual(self._type_3(name, on + 1, off), "fail", (name, on + 1, off))
                self.assertEqual(self._type_3(name, on, off + 1), "fail", (name, on, off + 1))

    def _type_3(self, name: str, on: int, off: int) -> str:
        verdict = judge(MEGAPIXEL, many("bright_subpixel", on) + many("dark_subpixel", off, 200), SEEN, name)
        return next(c.result for c in verdict.criteria if c.id == "type_3")

    def test_scaling_and_its_rounding(self) -> None:
        full_hd, small = make_panel(1920, 1080), make_panel(320, 240)
        self.assertEqual([scaled(n, full_hd) for n in (1, 2, 5, 10)], [2, 4, 10, 20])  # floor(n x 2.0736)
        self.assertEqual([scaled(n, small) for n in (1, 2, 5)], [1, 2, 5])

    def test_an_unknown_class_is_refused_with_the_nearest(self) -> None:
        with self.assertRaisesRegex(BadInput, "Did you mean 'class-II'"):
            get_class("class-2II")


class Verdicts(TestCase):
    def test_pass_fail_not_proven(self) -> None:
        self.assertEqual(judge(MEGAPIXEL, many("dead_pixel", 2), SEEN, "class-II").result, "pass")
        self.assertEqual(judge(MEGAPIXEL, many("dead_pixel", 3), SEEN, "class-II").result, "fail")
        self.assertEqual(judge(MEGAPIXEL, [], Proven(pixels=0.97, subpixels=0.97), "class-II").result, "not_proven")
        self.assertEqual(judge(MEGAPIXEL, many("dead_pixel", 3), Proven(pixels=0.1, subpixels=0.1), "class-II").result, "fail")

    def test_coarse_photos_prove_pixels_but_not_subpixels(self) -> None:
        verdict = judge(MEGAPIXEL, [], Proven(pixels=0.99, subpixels=0.2), "class-II")
        results = {c.id: c.result for c in verdict.criteria}
        self.assertEqual((results["type_2"], results["type_3"], verdict.result), ("pass", "not_proven", "not_proven"))

    def test_a_dead_pixel_is_one_type_2_and_never_three_type_3(self) -> None:
        values = {c.id: c.value for c in judge(MEGAPIXEL, many("dead_pixel", 1), SEEN, "class-II").criteria}
        self.assertEqual((values["type_2"], values["type_3"]), (1, 0))

    def test_lines_fail_and_dust_does_not_count(self) -> None:
        self.assertEqual(judge(MEGAPIXEL, [fault("line", 5)], SEEN, "class-IV").result, "fail")
        self.assertEqual(judge(MEGAPIXEL, [fault("dust", 5), fault("camera", 50)], SEEN, "class-0").result, "pass")


class Clusters(TestCase):
    def test_blocks_of_five_slide(self) -> None:
        self.assertEqual(len(clusters([fault("dead_pixel", 0, 0), fault("dead_pixel", 4, 4)])), 1)
        self.assertEqual(len(clusters([fault("dead_pixel", 0, 0), fault("dead_pixel", 5, 0)])), 0)
        self.assertEqual(len(clusters([fault("dead_pixel", 3, 0), fault("dead_pixel", 0, 4)])), 1)

    def test_two_subpixels_of_one_pixel_are_no_cluster(self) -> None:
        self.assertEqual(clusters([fault("dark_subpixel", 1, 1, "red"), fault("dark_subpixel", 1, 1, "blue")]), [])

    def test_kinds_of_clusters_are_counted_apart(self) -> None:
        faults = [fault("dead_pixel", 0), fault("dead_pixel", 2), fault("dark_subpixel", 300), fault("bright_subpixel", 302)]
        values = {c.id: c.value for c in judge(MEGAPIXEL, [*faults, *clusters(faults)], SEEN, "class-II").criteria}
        self.assertEqual((values["clusters_12"], values["clusters_3"]), (1, 1))
