"""Classes and verdicts against the table of ISO 9241-307 (from memory, after ISO 13406-2)."""

from unittest import TestCase

from lens.acceptance import (
    Measured,
    Profile,
    Ruling,
    class_table,
    decided,
    for_dry_fit,
    get_class,
    get_profile,
    judge,
    read_profile,
    scaled,
)
from lens.errors import BadInput
from lens.panel import make_panel
from lens.records import Colour, Criterion, Decision, Finding, Proven, Uniformity, Verdict, clusters

MEGAPIXEL = make_panel(1250, 800)  # exactly one million pixels
SEEN = Proven(pixels=0.99, subpixels=0.99)
EVEN = Uniformity(ratio=0.9, uncertainty=0.02, points=(), ratio_of_five=0.9, ratio_of_thirteen=0.9)


def fault(kind: str, x: float, y: float = 10, channel: str | None = None) -> Finding:
    return Finding.model_validate(
        {"kind": kind, "x": x, "y": y, "w": 1, "h": 1, "contrast": -1, "confidence": 0.99, "channel": channel}
    )


def many(kind: str, count: int, start: int = 0) -> list[Finding]:
    return [fault(kind, 20.0 * (start + i)) for i in range(count)]


def judged(findings: list[Finding], name: str = "class-II", proven: Proven = SEEN) -> Verdict:
    return judge(MEGAPIXEL, Measured(findings, proven, EVEN), get_profile(name))


class ClassTable(TestCase):
    def test_limits_per_million_pixels(self) -> None:
        rows = {i: (c.type_1, c.type_2, c.clusters_12, c.clusters_3) for i, c in class_table().classes.items()}
        self.assertEqual(
            rows,
            {
                "class-0": (0, 0, 0, 0),
                "class-I": (1, 1, 0, 0),
                "class-II": (2, 2, 0, 2),
                "class-III": (5, 15, 0, 5),
                "class-IV": (50, 150, 5, 50),
            },
        )

    def test_type_3_pairs_of_the_table_are_on_the_edge(self) -> None:
        pairs = {
            "class-I": [(2, 1), (1, 3), (0, 5)],
            "class-II": [(5 - n, 2 * n) for n in range(6)],
            "class-III": [(50 - n, 2 * n) for n in range(51)],
        }
        for name, allowed in pairs.items():
            for on, off in allowed:
                self.assertEqual(self._type_3(name, on, off), "pass", (name, on, off))
                self.assertEqual(self._type_3(name, on + 1, off), "fail", (name, on + 1, off))
                self.assertEqual(self._type_3(name, on, off + 1), "fail", (name, on, off + 1))

    def _type_3(self, name: str, on: int, off: int) -> str:
        verdict = judged(many("bright_subpixel", on) + many("dark_subpixel", off, 200), name)
        return next(c.result for c in verdict.criteria if c.id == "type_3")

    def test_scaling_and_its_rounding(self) -> None:
        full_hd, small = make_panel(1920, 1080), make_panel(320, 240)
        self.assertEqual([scaled(n, full_hd) for n in (1, 2, 5, 10)], [2, 4, 10, 20])  # floor(n x 2.0736)
        self.assertEqual([scaled(n, small) for n in (1, 2, 5)], [1, 2, 5])

    def test_an_unknown_class_is_refused_with_the_nearest(self) -> None:
        with self.assertRaisesRegex(BadInput, "Did you mean 'class-II'"):
            get_class("class-2II")


class Verdicts(TestCase):
    def test_nothing_is_proven_of_dark_areas_where_no_photo_tells_the_light(self) -> None:
        verdict = judge(MEGAPIXEL, Measured([], SEEN), get_profile("class-II"))
        self.assertEqual({c.id: c.result for c in verdict.criteria if c.result != "pass"}, {"areas": "not_proven"})
        self.assertEqual(verdict.result, "not_proven")

    def test_pass_fail_not_proven(self) -> None:
        self.assertEqual(judged(many("dead_pixel", 2), "class-II").result, "pass")
        self.assertEqual(judged(many("dead_pixel", 3), "class-II").result, "fail")
        self.assertEqual(judged([], proven=Proven(pixels=0.97, subpixels=0.97)).result, "not_proven")
        self.assertEqual(judged(many("dead_pixel", 3), proven=Proven(pixels=0.1, subpixels=0.1)).result, "fail")

    def test_coarse_photos_prove_pixels_but_not_subpixels(self) -> None:
        verdict = judged([], proven=Proven(pixels=0.99, subpixels=0.2))
        results = {c.id: c.result for c in verdict.criteria}
        self.assertEqual((results["type_2"], results["type_3"], verdict.result), ("pass", "not_proven", "not_proven"))

    def test_a_dead_pixel_is_one_type_2_and_never_three_type_3(self) -> None:
        values = {c.id: c.value for c in judged(many("dead_pixel", 1), "class-II").criteria}
        self.assertEqual((values["type_2"], values["type_3"]), (1, 0))

    def test_lines_fail_and_dust_does_not_count(self) -> None:
        self.assertEqual(judged([fault("line", 5)], "class-IV").result, "fail")
        self.assertEqual(judged([fault("dust", 5), fault("camera", 50)], "class-0").result, "pass")


class Clusters(TestCase):
    def test_blocks_of_five_slide(self) -> None:
        self.assertEqual(len(clusters([fault("dead_pixel", 0, 0), fault("dead_pixel", 4, 4)])), 1)
        self.assertEqual(len(clusters([fault("dead_pixel", 0, 0), fault("dead_pixel", 5, 0)])), 0)
        self.assertEqual(len(clusters([fault("dead_pixel", 3, 0), fault("dead_pixel", 0, 4)])), 1)

    def test_two_subpixels_of_one_pixel_are_no_cluster(self) -> None:
        self.assertEqual(clusters([fault("dark_subpixel", 1, 1, "red"), fault("dark_subpixel", 1, 1, "blue")]), [])

    def test_kinds_of_clusters_are_counted_apart(self) -> None:
        faults = [
            fault("dead_pixel", 0),
            fault("dead_pixel", 2),
            fault("dark_subpixel", 300),
            fault("bright_subpixel", 302),
        ]
        values = {c.id: c.value for c in judged([*faults, *clusters(faults)], "class-II").criteria}
        self.assertEqual((values["clusters_12"], values["clusters_3"]), (1, 1))


PANEL = make_panel(1920, 1200, 14.0)  # pitch 25.4 x 14 / 2264 = 0.157 mm


def demand(profile: dict[str, object], measured: Measured, criterion_id: str) -> Criterion:
    verdict = judge(PANEL, measured, read_profile({"id": "own", "title": "Own", **profile}))
    return next(c for c in verdict.criteria if c.id == criterion_id)


class OwnProfiles(TestCase):
    def test_a_figure_decides_only_when_its_whole_interval_lies_on_one_side(self) -> None:
        for ratio, wanted in (
            (0.85, "pass"),
            (0.80, "pass"),
            (0.78, "not_proven"),
            (0.72, "not_proven"),
            (0.69, "fail"),
        ):
            told = Uniformity(ratio=ratio, uncertainty=0.05, points=())
            self.assertEqual(
                demand({"uniformity_min": 0.75}, Measured([], SEEN, told), "uniformity").result, wanted, ratio
            )

    def test_the_points_that_the_profile_counts(self) -> None:
        told = Uniformity(ratio=0.78, uncertainty=0.01, points=(), ratio_of_five=0.85, ratio_of_thirteen=0.70)
        for count, wanted in ((5, "pass"), (9, "fail"), (13, "fail")):
            one = demand({"uniformity_min": 0.8, "uniformity_points": count}, Measured([], SEEN, told), "uniformity")
            self.assertEqual(one.result, wanted)
            self.assertIn(f"{count} points", one.text)
        self.assertEqual(Uniformity(ratio=0.78, uncertainty=0.01, points=()).of(5), 0.78)

    def test_what_was_not_measured_is_not_proven(self) -> None:
        for limit, name in (
            ("uniformity_min", "uniformity"),
            ("delta_uv_max", "colour"),
            ("gamma_off_max", "gamma"),
            ("grey_delta_uv_max", "greys"),
            ("mura_semu_max", "mura"),
            ("bleed_max", "bleed"),
        ):
            self.assertEqual(demand({limit: 0.1}, Measured([], SEEN), name).result, "not_proven")

    def test_colour_mura_and_bleed_against_their_limits(self) -> None:
        even = Uniformity(ratio=0.9, uncertainty=0.01, points=())
        colour = Colour(max_delta_uv=0.008, max_delta_e00=2.0, uncertainty=0.001)
        marks = [
            fault("mura", 500).model_copy(update={"w": 80, "h": 80, "contrast": -0.04, "semu": 3.0}),
            fault("bleed", 5).model_copy(update={"contrast": 0.02}),
        ]
        told = Measured(marks, SEEN, even, colour, frozenset({"black"}))
        limits = (
            ("delta_uv_max", "colour", 0.01, 0.005),
            ("mura_semu_max", "mura", 4.0, 2.0),
            ("bleed_max", "bleed", 0.03, 0.01),
        )
        for limit, name, loose, tight in limits:
            self.assertEqual(
                [demand({limit: value}, told, name).result for value in (loose, tight)], ["pass", "fail"], name
            )

    def test_dot_rules_by_place_distance_and_size(self) -> None:
        # 100 px of 0.157 mm are 15.7 mm
        dots = [fault("dead_pixel", 960, 600), fault("dead_pixel", 1055, 600), fault("bright_pixel", 20, 20)]
        rules = [
            {"title": "a", "kinds": ["dead_pixel", "bright_pixel"], "limit": 3},
            {"title": "b", "kinds": ["dead_pixel"], "limit": 1, "where": "middle"},
            {"title": "c", "kinds": ["dead_pixel", "bright_pixel"], "limit": 0, "where": "outer"},
            {"title": "d", "kinds": ["dead_pixel"], "limit": 0, "closer_than_mm": 15},
            {"title": "e", "kinds": ["dead_pixel"], "limit": 0, "closer_than_mm": 14},
            {"title": "f", "kinds": ["dead_pixel"], "limit": 0, "larger_than_mm": 1.0},
        ]
        told = Measured(dots, SEEN)
        self.assertEqual([demand({"rules": rules}, told, f"rule_{n}").value for n in range(1, 7)], [3, 2, 1, 1, 0, 0])

    def test_what_the_middle_is_belongs_to_the_profile(self) -> None:
        told = Measured([fault("dead_pixel", 1300, 600)], SEEN)  # 0.18 of the width beside the middle
        rule = {"title": "a", "kinds": ["dead_pixel"], "limit": 0, "where": "middle"}
        for share, count in ((None, 1), (0.5, 1), (1 / 3, 0)):  # a quarter of the area, a ninth
            profile = {"rules": [rule], **({} if share is None else {"middle_share": share})}
            self.assertEqual(demand(profile, told, "rule_1").value, count, share)

    def test_two_stuck_subpixels_of_a_pixel_are_one_dot(self) -> None:
        told = Measured([fault("dark_subpixel", 9, 9, "red"), fault("dark_subpixel", 9, 9, "blue")], SEEN)
        self.assertEqual(
            demand({"rules": [{"title": "a", "kinds": ["dark_subpixel"], "limit": 0}]}, told, "rule_1").value, 1
        )

    def test_a_rule_in_millimetres_needs_the_diagonal(self) -> None:
        profile = read_profile(
            {
                "id": "own",
                "title": "Own",
                "rules": [{"title": "a", "kinds": ["dead_pixel"], "limit": 0, "closer_than_mm": 15}],
            }
        )
        criterion = judge(MEGAPIXEL, Measured([], SEEN), profile).criteria[0]
        self.assertEqual(criterion.result, "not_proven")
        self.assertIn("diagonal", criterion.text)

    def test_bad_profiles_are_refused_by_their_field(self) -> None:
        bad: tuple[tuple[dict[str, object], str], ...] = (
            ({}, "a pixel class, a rule or a limit"),
            ({"pixels": "class-9"}, "no pixel-fault class"),
            ({"uniformity_min": 7}, "uniformity_min"),
            ({"bleed": 1}, "bleed"),
        )
        for content, words in bad:
            with self.assertRaisesRegex(BadInput, words):
                read_profile({"id": "own", "title": "Own", **content})
        with self.assertRaises(BadInput):
            read_profile(["not", "a", "profile"])


def ruling(about: Finding, verdict: str, becomes: str | None = None) -> Ruling:
    decision = Decision.model_validate(
        {
            "verdict": verdict,
            "by": "mira",
            "reason": "looked",
            "measured_kind": about.kind,
            "measured_channel": about.channel,
        }
    )
    return Ruling.model_validate(
        {**about.model_dump(include={"kind", "channel", "x", "y", "w", "h"}), "decision": decision, "becomes": becomes}
    )


class Decisions(TestCase):
    profile: Profile = get_profile("class-0")

    def judge(self, findings: tuple[Finding, ...]) -> Verdict:
        return judge(MEGAPIXEL, Measured(findings, SEEN, EVEN), self.profile)

    def test_a_rejected_finding_stays_in_sight_and_does_not_count(self) -> None:
        found = [fault("dead_pixel", 100), fault("dead_pixel", 102)]
        told = decided([*found, *clusters(found)], [ruling(f, "rejected") for f in found])
        self.assertEqual([f.counts for f in told], [False, False])  # and no cluster of rejected ones
        verdict = self.judge(told)
        self.assertEqual(verdict.result, "pass")
        self.assertIn("2 rejected by hand", next(c.text for c in verdict.criteria if c.id == "type_2"))

    def test_a_corrected_finding_counts_as_what_it_is_and_remembers_what_was_measured(self) -> None:
        told = decided([fault("dust", 100)], [ruling(fault("dust", 100), "corrected", "dead_pixel")])
        self.assertEqual((told[0].kind, told[0].decision and told[0].decision.measured_kind), ("dead_pixel", "dust"))
        self.assertEqual(self.judge(told).result, "fail")
        self.assertEqual(decided(told, [])[0], fault("dust", 100))  # taken back, the measurement stands again

    def test_a_decision_holds_when_the_set_is_measured_again_a_little_elsewhere(self) -> None:
        rules = [ruling(fault("dead_pixel", 100), "rejected")]
        self.assertFalse(decided([fault("dead_pixel", 101, 11)], rules)[0].counts)
        self.assertTrue(decided([fault("dead_pixel", 110, 11)], rules)[0].counts)
        self.assertTrue(decided([fault("line", 101, 11)], rules)[0].counts)

    def test_the_last_decision_stands(self) -> None:
        about = fault("dead_pixel", 100)
        self.assertTrue(decided([about], [ruling(about, "rejected"), ruling(about, "accepted")])[0].counts)


class DryFit(TestCase):
    def test_the_short_profile_judges_what_three_photos_can_show(self) -> None:
        coarse = Proven(pixels=0.96, subpixels=0.5)
        for name, demanded in (("class-II", "pass"), ("grade-b", "pass")):
            short = for_dry_fit(get_profile(name))
            told = judge(MEGAPIXEL, Measured([], coarse, EVEN, patterns=frozenset({"black-dim"})), short)
            self.assertEqual(told.result, demanded, name)
            self.assertEqual(judge(MEGAPIXEL, Measured([], coarse, EVEN), get_profile(name)).result, "not_proven")
        # what it sees still fails it
        short = for_dry_fit(get_profile("class-II"))
        self.assertEqual(judge(MEGAPIXEL, Measured(many("dead_pixel", 5), coarse, EVEN), short).result, "fail")
        dots = for_dry_fit(get_profile("supplier-dots"))
        self.assertTrue(all(not kind.endswith("subpixel") for rule in dots.rules for kind in rule.kinds))
