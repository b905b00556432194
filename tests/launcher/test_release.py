"""A version is made of the fragments of its changes."""

import shutil
import tempfile
from datetime import date
from pathlib import Path
from unittest import TestCase

from launcher import release
from launcher.paths import ROOT

LOG = "# Changes\n\n## 0.9.0, 2026-01-02\n\n- Old.\n"


class Release(TestCase):
    def test_fragments_become_a_chapter_above_the_last(self) -> None:
        text = release.gathered(LOG, {"b.md": "- Two\n  lines.\n", "a.md": "- One.\n"}, "0.10.0", date(2026, 2, 3))
        self.assertEqual(
            text, "# Changes\n\n## 0.10.0, 2026-02-03\n\n- One.\n- Two\n  lines.\n\n## 0.9.0, 2026-01-02\n\n- Old.\n"
        )

    def test_what_cannot_be_released_says_why(self) -> None:
        one = {"a.md": "- One.\n"}
        for fragments, version, word in (
            (one, "0.9.0", "not later"),
            (one, "1.0", "no version"),
            ({}, "1.0.0", "no fragment"),
            ({"a.md": "One.\n"}, "1.0.0", "no list"),
        ):
            with self.assertRaisesRegex(release.BadRelease, word):
                release.gathered(LOG, fragments, version, date(2026, 2, 3))

    def test_the_version_stands_in_the_code_and_the_fragments_are_gone(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            (root / "lens").mkdir()
            (root / "changes").mkdir()
            for name in ("lens/version.py", "pyproject.toml", "CHANGELOG.md", "changes/README.md"):
                shutil.copy(ROOT / name, root / name)
            (root / "changes" / "words.md").write_text("- Words.\n")
            self.assertEqual(release.main(["99.0.0"], root), 0)
            self.assertIn('PACKAGE_VERSION = "99.0.0"', (root / "lens/version.py").read_text())
            self.assertIn('version = "99.0.0"', (root / "pyproject.toml").read_text())
            self.assertIn("## 99.0.0, ", (root / "CHANGELOG.md").read_text())
            self.assertEqual([file.name for file in (root / "changes").iterdir()], ["README.md"])
            self.assertEqual(release.main(["99.0.0"], root), 2)
