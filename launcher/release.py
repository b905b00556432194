"""./clear-lens release: gather the fragments of changes into the changelog and give the version its number and date."""

import re
import sys
from datetime import date
from pathlib import Path

from launcher.paths import ROOT

VERSION = re.compile(r"\d+\.\d+\.\d+")


class BadRelease(ValueError):
    """Why nothing was released, in a sentence."""


def gathered(changelog: str, fragments: dict[str, str], version: str, day: date) -> str:
    """The changelog with a chapter for this version, newest first, of the fragments in the order of their names.

    A fragment is one change: one or more list items ('- ...'), further lines indented by two spaces. Raises BadRelease for a version that is not
    later than the last, for none and for malformed fragments.
    """
    if not VERSION.fullmatch(version):
        raise BadRelease(f"'{version}' is no version: three numbers with dots are expected, such as 1.2.0.")
    last = re.search(r"^## (\S+),", changelog, re.M)
    if last and _numbers(version) <= _numbers(last[1]):
        raise BadRelease(f"{version} is not later than {last[1]}, the last one in the changelog.")
    if not fragments:
        raise BadRelease("Nothing to release: no fragment lies in changes/.")
    for name, text in fragments.items():
        if not text.startswith("- ") or any(line and not line.startswith(("- ", "  ")) for line in text.splitlines()):
            raise BadRelease(
                f"changes/{name} is no list of changes: each begins with '- ', further lines with two spaces."
            )
    head, _, rest = changelog.partition("\n\n")
    chapter = "\n".join(text.strip() for _, text in sorted(fragments.items()))
    return f"{head}\n\n## {version}, {day.isoformat()}\n\n{chapter}\n\n{rest}"


def _numbers(version: str) -> tuple[int, ...]:
    return tuple(int(part) for part in version.split("."))


def _with_version(file: Path, pattern: str, version: str) -> None:
    text = file.read_text()
    new, count = re.subn(pattern, rf"\g<1>{version}\g<2>", text, count=1, flags=re.M)
    if count != 1:
        raise BadRelease(f"{file.name} names no version where one is expected.")
    file.write_text(new)


def main(rest: list[str], root: Path = ROOT) -> int:
    """Exit 0 when released, 2 when it could not be, with the reason."""
    if len(rest) != 1 or rest[0].startswith("-"):
        print("./clear-lens release VERSION   gathers changes/*.md into CHANGELOG.md, today's date beside it")
        return 0 if rest in (["-h"], ["--help"]) else 2
    changelog = root / "CHANGELOG.md"
    files = sorted(file for file in (root / "changes").glob("*.md") if file.name != "README.md")
    try:
        text = gathered(changelog.read_text(), {file.name: file.read_text() for file in files}, rest[0], date.today())
        _with_version(root / "lens" / "version.py", r'^(PACKAGE_VERSION = ")[^"]+(")', rest[0])
        _with_version(root / "pyproject.toml", r'^(version = ")[^"]+(")', rest[0])
    except BadRelease as problem:
        print(problem, file=sys.stderr)
        return 2
    changelog.write_text(text)
    for file in files:
        file.unlink()
    print(f"{rest[0]}: {len(files)} changes gathered.")
    return 0
