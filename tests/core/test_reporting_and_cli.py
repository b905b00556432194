"""The chain of hashes, and the command line's contract: exit codes, JSON by schema, one clear line for bad input."""

import copy
import csv
import hashlib
import io
import json
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

import jsonschema

from cli.__main__ import main
from lens.records import Finding
from lens.reporting import chain, findings_csv, verify_report
from tests.core.sets import shots

ENTRIES = [{"kind": "created", "text": "Taken in."}, {"kind": "photo", "text": "é"}, {"kind": "handed_over", "text": "x", "data": {"n": 1.5}}]


def run(*arguments: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = main(list(arguments))
    return code, out.getvalue(), err.getvalue()


class Chain(TestCase):
    def test_a_link_is_sha256_over_the_hash_before_and_the_content(self) -> None:
        first = chain(ENTRIES)[0]["hash"]
        self.assertEqual(first, hashlib.sha256(("0" * 64 + '{"kind":"created","text":"Taken in."}').encode()).hexdigest())

    def test_every_change_breaks_it_at_its_place(self) -> None:
        linked = chain(ENTRIES)
        self.assertTrue(verify_report({"entries": linked}).holds)
        for index in range(len(linked)):
            changed = copy.deepcopy(linked)
            changed[index]["text"] += "!"
            self.assertEqual(verify_report({"entries": changed}).broken_at, index)
        self.assertEqual(verify_report({"entries": linked[1:]}).broken_at, 0)

    def test_csv_is_read_back(self) -> None:
        finding = Finding(kind="dead_pixel", x=1, y=2, w=1, h=1, contrast=-1, confidence=0.9, patterns=("white", "red"), reasons=('Dark, "x".',))
        rows = list(csv.DictReader(io.StringIO(findings_csv([finding]))))
        self.assertEqual((rows[0]["x_px"], rows[0]["patterns"], rows[0]["reasons"]), ("1.0", "white red", 'Dark, "x".'))


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
        code, out, _ = run("inspect", "--panel", "800x500", "--photo", f"white={self.folder / 'white.jpg'}", "--profile", "class-IV")
        self.assertEqual((code, json.loads(out)["verdict"]["result"]), (3, "not_proven"))

    def test_bad_input_is_one_line_and_exit_2(self) -> None:
        (self.folder / "text.jpg").write_text("no photo")
        white = str(self.folder / "white.jpg")
        cases = (
            ("inspect", "--panel", "800x500", "--photo", str(self.folder / "text.jpg")), ("inspect", "--panel", "banana", "--photo", white),
            ("inspect", "--panel", "800x500", "--photo", str(self.folder / "none.jpg")),
            ("inspect", "--panel", "800x500", "--photo", white, "--profile", "class-X"),
            ("inspect", "--panel", "800x500", "--photo", f"white={white}", "--corners", "white=1,2,3"),
            ("inspect", "--panel", "800x500", "--photo", f"rde={white}"), ("patterns", "--panel", "800x500", "--out", white),
            ("verify", white), ("diagnose", "--device", "tablet", "--evidence", white),
        )
        for arguments in cases:
            code, _, err = run(*arguments)
            self.assertEqual(code, 2, arguments)
            self.assertEqual(err.count("\n"), 1, err)

    def test_patterns_and_simulate_write_what_they_say(self) -> None:
        self.assertEqual(run("patterns", "--panel", "640x400", "--out", str(self.folder / "p"))[0], 0)
        self.assertTrue({"white.png", "registration.png", "manifest.json"} <= {p.name for p in (self.folder / "p").iterdir()})
        own = self.folder / "own.yaml"
        own.write_text("title: Night shift\npatterns: [black, ladder]\n")
        self.assertEqual(run("patterns", "--panel", "640x400", "--out", str(self.folder / "o"), "--set", str(own))[0], 0)
        self.assertEqual({p.name for p in (self.folder / "o").iterdir()}, {"black.png", "ladder.png", "manifest.json"})
        self.assertEqual(run("patterns", "--panel", "640x400", "--out", str(self.folder / "all"))[0], 0)
        ids = {one["id"] for one in json.loads((self.folder / "all" / "manifest.json").read_text())["patterns"]}
        self.assertLessEqual({"white", "black", "red", "green", "blue", "grey50", "registration"}, ids, "ids once shipped stay exportable")
        self.assertEqual(run("simulate", "--panel", "640x400", "--faults", "2", "--set", "triage", "--out", str(self.folder / "s"))[0], 0)
        self.assertEqual(len(json.loads((self.folder / "s" / "truth.json").read_text())["faults"]), 2)

    def test_diagnose_and_verify(self) -> None:
        evidence = self.folder / "evidence.json"
        evidence.write_text(json.dumps({"items": [{"check": "light", "outcome": "no", "source": "seen"}]}))
        code, out, _ = run("diagnose", "--device", "clamshell", "--evidence", str(evidence))
        told = json.loads(out)
        self.assertEqual(code, 0)
        self.assertTrue(all(0 <= c["p"] <= 1 for c in told["causes"]))  # each by itself or with another: they need not add up to 1
        self.assertGreater(sum(c["p"] for c in told["causes"]), 0.9)
        self.assertTrue({"id", "p", "for", "against"} <= set(told["causes"][0]))
        report = self.folder / "report.json"
        report.write_text(json.dumps({"entries": chain(ENTRIES)}))
        self.assertEqual(run("verify", str(report))[0], 0)
        report.write_text(json.dumps({"entries": chain(ENTRIES)[::-1]}))
        self.assertEqual(run("verify", str(report))[0], 1)
