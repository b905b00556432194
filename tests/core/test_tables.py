"""Checked data, and the vocabulary that is told in one place only."""

import re
from pathlib import Path
from typing import get_args
from unittest import TestCase

from pydantic import Field

from lens.errors import BadInput, ModelInconsistent
from lens.records import KINDS, STATIONS, Finding, Kind, Record, related, with_ids
from lens.tables import laid_over, parse, shipped, table_digest, validated

ROOT = Path(__file__).parents[2]


class Limit(Record):
    most: float = Field(gt=0)
    unit: str = "mm"


class Table(Record):
    title: str
    limits: dict[str, Limit] = {}
    rows: tuple[Limit, ...] = ()


class Checked(TestCase):
    def test_every_fault_is_told_at_once_with_the_name_that_was_meant(self) -> None:
        content = {"titel": "A", "limits": {"gap": {"most": -1}}, "rows": [{"most": 1, "unti": "px"}]}
        with self.assertRaises(BadInput) as told:
            validated(Table, content, "The list")
        for words in (
            "titel: 'titel' is unknown. Did you mean 'title'?",
            "title: Field required",
            "limits.gap.most",
            "Did you mean 'unit'?",
        ):
            self.assertIn(words, told.exception.message)
        with self.assertRaisesRegex(BadInput, "and 4 more"):
            validated(Table, {"title": "A", "rows": [{"most": 0}] * 12}, "The list")

    def test_what_is_no_yaml_is_refused_with_its_line(self) -> None:
        bomb = "a: &a [x, x]\nb: &b [*a, *a]\nc: [*b, *b]\n"
        for text, words in (
            ("a: 1\nb: [", "line 2"),
            ("a: 1\nb: 2\na: 3\n", "line 3: 'a' is there twice"),
            (bomb, "line 2: aliases"),
            (b"\xff\xfe\x00a", "UTF-8"),
            ("[" * 5000, "no YAML"),
            ("!!python/object/apply:os.system [ls]", "no YAML"),
            ("x" * 300_000, "at most"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                parse(text, "The list")
        self.assertEqual(parse(b"\xef\xbb\xbfa: yes", "The list", plain_words=True), {"a": "yes"})

    def test_a_shops_values_are_laid_over_and_checked_like_the_shipped_ones(self) -> None:
        file = Path(self.enterContext(__import__("tempfile").TemporaryDirectory())) / "limits.yaml"
        file.write_text("title: A\nlimits: {gap: {most: 2}, jitter: {most: 1}}\n")
        own = shipped(Table, file, {"limits": {"gap": {"most": 3}}})
        self.assertEqual((own.limits["gap"].most, own.limits["jitter"].most), (3, 1))
        with self.assertRaisesRegex(ModelInconsistent, "limits.gap.most"):
            shipped(Table, file, {"limits": {"gap": {"most": 0}}})
        given = {"a": {"b": 1}}
        self.assertEqual(laid_over(given, {"a": {"c": 2}}), {"a": {"b": 1, "c": 2}})
        self.assertEqual(given, {"a": {"b": 1}})
        self.assertNotEqual(table_digest(own), table_digest(shipped(Table, file)))
        self.assertEqual(table_digest(Limit(most=1)), table_digest(Limit(unit="mm", most=1)))


def files_naming(words: tuple[str, ...], at_least: int) -> set[str]:
    """Sources that name so many of the words in quotes, or as keys of a list: each is a list of its own."""
    found = set()
    for folder, ending in (("lens", "py"), ("server", "py"), ("cli", "py"), ("web/src", "ts"), ("web/src", "tsx")):
        for file in (ROOT / folder).rglob(f"*.{ending}"):
            if "migrations" in file.parts or ".test." in file.name or file.name == "schema.d.ts":
                continue
            text = file.read_text(encoding="utf-8")
            named = sum(bool(re.search(rf"""["']{word}["']|^\s*{word}: [{{"]""", text, re.M)) for word in words)
            if named >= at_least:
                found.add(str(file.relative_to(ROOT)))
    return found


class Vocabulary(TestCase):
    def test_kinds_are_listed_in_one_place_and_made_from_it_for_the_front_end(self) -> None:
        self.assertEqual(files_naming(get_args(Kind), 12), {"lens/records/kinds.py", "web/src/pane/vocabulary.gen.ts"})

    def test_a_station_is_a_row_and_a_screen(self) -> None:
        expected = {"lens/records/stations.py", "web/src/pane/vocabulary.gen.ts", "web/src/bench/stations/registry.tsx"}
        self.assertEqual(files_naming(tuple(STATIONS), 5), expected)

    def test_the_marks_differ_and_say_dark_or_bright(self) -> None:
        self.assertEqual(len({facts.mark.path + str(facts.mark.filled) for facts in KINDS.values()}), len(KINDS))
        for facts in KINDS.values():
            if facts.of_panel and facts.family in ("pixel", "area") and facts.id.startswith(("dark", "dead", "bright")):
                self.assertEqual(facts.mark.filled, not facts.id.startswith("bright"), facts.id)
            self.assertEqual(facts.extended and facts.family != "line", facts.mark.area is not None, facts.id)

    def test_a_line_and_a_band_may_be_one_fault_a_dot_and_dust_not(self) -> None:
        self.assertTrue(related("line", "band") and related("dead_pixel", "dark_subpixel") and related("mura", "mura"))
        self.assertFalse(related("dead_pixel", "dust") or related("mura", "dark_zone") or related("line", "crack"))

    def test_ids_tell_findings_of_one_place_apart_and_outlive_a_decision(self) -> None:
        def dot(channel: str) -> Finding:
            return Finding.model_validate(
                {
                    "kind": "dark_subpixel",
                    "channel": channel,
                    "x": 9,
                    "y": 4,
                    "w": 1,
                    "h": 1,
                    "contrast": -0.3,
                    "confidence": 0.9,
                }
            )

        found = with_ids([dot("red"), dot("blue"), dot("red")])
        self.assertEqual(
            [one.id for one in found], ["dark_subpixel-red-9-4", "dark_subpixel-blue-9-4", "dark_subpixel-red-9-4-2"]
        )
        told = {"verdict": "corrected", "by": "A", "measured_kind": "dark_subpixel", "measured_channel": "red"}
        corrected = Finding.model_validate(
            {**dot("red").model_dump(), "kind": "dust", "channel": None, "decision": told}
        )
        self.assertEqual(with_ids([corrected])[0].id, found[0].id)
