"""The chain of hashes, and the command line's contract: exit codes, JSON by schema, one clear line for bad input."""

import base64
import copy
import csv
import hashlib
import io
import json
import tempfile
from collections.abc import Iterator
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from typing import Any
from unittest import TestCase

import jsonschema

from cli.__main__ import main
from lens.records import Finding
from lens.reporting import chain, check_chain, closed, findings_csv, fingerprint, new_key, public_of, verify_report
from tests.core.sets import shots

FACTS = {
    "job": {"number": 4, "owner": "Ridge lodge"},
    "verdict": "fail",
    "inspections": {"closed": {"w": 2.5, "kinds": ["line", "dust"]}},
    "touch": None,
    "ok": False,
}
ENTRIES = [
    {"kind": "created", "text": "Taken in."},
    {"kind": "photo", "text": "é"},
    {"kind": "handed_over", "text": "x", "data": {"n": 1.5}},
]


def run(*arguments: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = main(list(arguments))
    return code, out.getvalue(), err.getvalue()


class Chain(TestCase):
    def test_a_link_is_sha256_over_the_hash_before_and_the_content(self) -> None:
        first = chain(ENTRIES)[0]["hash"]
        self.assertEqual(
            first, hashlib.sha256(("0" * 64 + '{"kind":"created","text":"Taken in."}').encode()).hexdigest()
        )

    def test_every_change_breaks_it_at_its_place(self) -> None:
        linked = chain(ENTRIES)
        self.assertTrue(check_chain(linked).holds)
        for index in range(len(linked)):
            changed = copy.deepcopy(linked)
            changed[index]["text"] += "!"
            self.assertEqual(check_chain(changed).broken_at, index)
        self.assertEqual(check_chain(linked[1:]).broken_at, 0)

    def test_csv_is_read_back(self) -> None:
        finding = Finding(
            kind="dead_pixel",
            x=1,
            y=2,
            w=1,
            h=1,
            contrast=-1,
            confidence=0.9,
            patterns=("white", "red"),
            reasons=('Dark, "x".',),
        )
        rows = list(csv.DictReader(io.StringIO(findings_csv([finding]))))
        self.assertEqual((rows[0]["x_px"], rows[0]["patterns"], rows[0]["reasons"]), ("1.0", "white red", 'Dark, "x".'))


def leaves(value: object, path: tuple[object, ...] = ()) -> Iterator[tuple[object, ...]]:
    """Paths to everything in a JSON document that holds nothing else."""
    inside = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in inside:
        yield from leaves(part, (*path, key))
    if not isinstance(value, dict | list):
        yield path


def at(document: Any, path: tuple[object, ...]) -> Any:
    for key in path:
        document = document[key]
    return document


class Signed(TestCase):
    def setUp(self) -> None:
        self.key = new_key()
        self.known = [public_of(self.key)]
        self.report = json.loads(json.dumps(closed(FACTS, chain(ENTRIES), "2026-01-05T10:00:00Z", self.key)))

    def test_every_leaf_that_is_changed_is_found_and_its_place_named(self) -> None:
        self.assertEqual(verify_report(self.report, self.known).result, "holds")
        count = 0
        for path in leaves(self.report):
            changed = copy.deepcopy(self.report)
            value = at(changed, path)
            at(changed, path[:-1])[path[-1]] = value + 1 if isinstance(value, int | float) else f"{value}x"
            found = verify_report(changed, self.known)
            self.assertEqual(found.result, "broken", path)
            where = (
                "signature"
                if path[0] == "signature"
                else ".".join(str(part) for part in (path[:2] if path[0] == "entries" else path))
            )
            self.assertEqual(found.place, where)
            count += 1
        self.assertGreater(count, 25)

    def test_cut_reordered_added_and_computed_anew(self) -> None:
        entries, facts = self.report["entries"], {key: self.report[key] for key in FACTS}
        for changed, place in (
            ({**self.report, "entries": entries[:-1]}, "head.entries"),
            ({**self.report, "entries": entries[:2]}, "head.entries"),
            ({**self.report, "entries": [entries[1], entries[0], *entries[2:]]}, "entries.0"),
            ({**self.report, "more": 1}, "more"),
            ({key: value for key, value in self.report.items() if key != "verdict"}, "verdict"),
            ({key: value for key, value in self.report.items() if key != "signature"}, "signature"),
            (
                {
                    **closed({**facts, "verdict": "pass"}, chain(ENTRIES), "2026-01-05T10:00:00Z", new_key()),
                    "signature": self.report["signature"],
                },
                "signature",
            ),
        ):
            found = verify_report(changed, self.known)
            self.assertEqual(found.result, "broken", place)
            self.assertIn(found.place, (place, "entries"))
        # computed anew and signed by somebody: whole, but not by this shop
        forged = closed({**facts, "verdict": "pass"}, chain(ENTRIES), "2026-01-05T10:00:00Z", new_key())
        self.assertEqual(verify_report(forged, self.known).result, "unknown")

    def test_the_signature_is_rfc_8032s(self) -> None:
        # RFC 8032, section 7.1, test 2 (from memory): secret, public key and the signature of the one byte 0x72
        secret = bytes.fromhex("4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb")
        public = bytes.fromhex("3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c")
        self.assertEqual(base64.b64decode(public_of(base64.b64encode(secret).decode())), public)


class CommandLine(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name, shot in shots().items():
            (self.folder / f"{name}.jpg").write_bytes(shot.data)

    def test_inspect_follows_its_schema_and_exit_codes(self) -> None:
        photos = [part for name in shots() for part in ("--photo", str(self.folder / f"{name}.jpg"))]
        code, out, _ = run("inspect", "--panel", "800x500", *photos)
        self.assertEqual(code, 1)
        result = json.loads(out)
        schema = json.loads(run("schema")[1])
        jsonschema.validate(result, schema["inspection"])
        self.assertEqual(result["verdict"]["result"], "fail")
        code, out, _ = run(
            "inspect", "--panel", "800x500", "--photo", f"white={self.folder / 'white.jpg'}", "--profile", "class-IV"
        )
        self.assertEqual((code, json.loads(out)["verdict"]["result"]), (3, "not_proven"))

    def test_bad_input_is_one_line_and_exit_2(self) -> None:
        (self.folder / "text.jpg").write_text("no photo")
        white = str(self.folder / "white.jpg")
        cases = (
            ("inspect", "--panel", "800x500", "--photo", str(self.folder / "text.jpg")),
            ("inspect", "--panel", "banana", "--photo", white),
            ("inspect", "--panel", "800x500", "--photo", str(self.folder / "none.jpg")),
            ("inspect", "--panel", "800x500", "--photo", white, "--profile", "class-X"),
            ("inspect", "--panel", "800x500", "--photo", f"white={white}", "--corners", "white=1,2,3"),
            ("inspect", "--panel", "800x500", "--photo", f"rde={white}"),
            ("patterns", "--panel", "800x500", "--out", white),
            ("verify", white),
            ("diagnose", "--device", "tablet", "--evidence", white),
        )
        for arguments in cases:
            code, _, err = run(*arguments)
            self.assertEqual(code, 2, arguments)
            self.assertEqual(err.count("\n"), 1, err)

    def test_patterns_and_simulate_write_what_they_say(self) -> None:
        self.assertEqual(run("patterns", "--panel", "640x400", "--out", str(self.folder / "p"))[0], 0)
        self.assertTrue(
            {"white.png", "registration.png", "manifest.json"} <= {p.name for p in (self.folder / "p").iterdir()}
        )
        own = self.folder / "own.yaml"
        own.write_text("title: Night shift\npatterns: [black, ladder]\n")
        self.assertEqual(
            run("patterns", "--panel", "640x400", "--out", str(self.folder / "o"), "--set", str(own))[0], 0
        )
        self.assertEqual({p.name for p in (self.folder / "o").iterdir()}, {"black.png", "ladder.png", "manifest.json"})
        self.assertEqual(run("patterns", "--panel", "640x400", "--out", str(self.folder / "all"))[0], 0)
        ids = {one["id"] for one in json.loads((self.folder / "all" / "manifest.json").read_text())["patterns"]}
        self.assertLessEqual(
            {"white", "black", "red", "green", "blue", "grey50", "registration"},
            ids,
            "ids once shipped stay exportable",
        )
        self.assertEqual(
            run("simulate", "--panel", "640x400", "--faults", "2", "--set", "triage", "--out", str(self.folder / "s"))[
                0
            ],
            0,
        )
        self.assertEqual(len(json.loads((self.folder / "s" / "truth.json").read_text())["faults"]), 2)

    def test_diagnose_and_verify(self) -> None:
        evidence = self.folder / "evidence.json"
        evidence.write_text(json.dumps({"items": [{"check": "light", "outcome": "no", "source": "seen"}]}))
        code, out, _ = run("diagnose", "--device", "clamshell", "--evidence", str(evidence))
        told = json.loads(out)
        self.assertEqual(code, 0)
        self.assertTrue(
            all(0 <= c["p"] <= 1 for c in told["causes"])
        )  # each by itself or with another: they need not add up to 1
        self.assertGreater(sum(c["p"] for c in told["causes"]), 0.9)
        self.assertTrue({"id", "p", "for", "against"} <= set(told["causes"][0]))
        report = self.folder / "report.json"
        key, stranger = new_key(), self.folder / "shop.pub"
        stranger.write_text(public_of(key))
        report.write_text(json.dumps(closed(FACTS, chain(ENTRIES), "2026-01-05", key)))
        self.assertEqual(run("verify", str(report), "--key", str(stranger))[0], 0)
        code, out, _ = run("verify", str(report))  # this installation has another key
        self.assertEqual((code, fingerprint(public_of(key)) in out), (3, True))
        report.write_text(json.dumps({"entries": chain(ENTRIES)}))
        self.assertEqual(run("verify", str(report))[0], 3)
        report.write_text(json.dumps({"entries": chain(ENTRIES)[::-1]}))
        self.assertEqual(run("verify", str(report))[0], 1)
        stranger.write_text("no key")
        self.assertEqual(run("verify", str(report), "--key", str(stranger))[0], 2)


class MatchCommand(TestCase):
    def test_two_specifications_to_a_match_with_its_exit_code(self) -> None:
        wanted = {"width": 1366, "height": 768, "outline_mm": [320.4, 188.1], "thickness_mm": 3.2, "mounting": "ears"}
        wanted |= {"connector_pins": 30, "connector_family": "narrow", "connector_side": "right", "signal": "eDP"}
        wanted |= {"lanes": 1, "touch": False, "finish": "matt"}
        with tempfile.TemporaryDirectory() as folder:

            def file(name: str, content: object) -> str:
                path = Path(folder) / name
                path.write_text(content if isinstance(content, str) else json.dumps(content))
                return str(path)

            ours = file("wanted.json", wanted)
            for change, result, code in (
                ({}, "fits", 0),
                ({"finish": "glossy"}, "fits_with_consequences", 0),
                ({"connector_side": None}, "ask", 3),
                ({"signal": "LVDS"}, "stop", 1),
            ):
                told = run("match", "--wanted", ours, "--offered", file("offered.json", {**wanted, **change}))
                self.assertEqual((told[0], json.loads(told[1])["result"]), (code, result), told[2])
            for content, words in (
                ({**wanted, "conector_pins": 30}, "Did you mean 'connector_pins'"),
                ({**wanted, "thickness_mm": "thick"}, "thickness_mm"),
                ("{", "no YAML"),
                ("[1]", "match"),
            ):
                code, out, err = run("match", "--wanted", ours, "--offered", file("bad.json", content))
                self.assertEqual((code, out, err.count("\n")), (2, "", 1), err)
                self.assertIn(words if words != "match" else "valid", err)
            self.assertEqual(run("match", "--wanted", ours, "--offered", ours, "--school", "luck")[0], 2)
