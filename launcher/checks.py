"""./clear-lens test: every check, or one part of them."""

import os
import re
import shutil
import subprocess
import sys
import time

from launcher.database import Cluster
from launcher.paths import BUILD, PYTHON, ROOT, VAR, VENV, WEB
from launcher.prepare import npm_environment, prepare_all, prepare_node_modules, prepare_python, say

PARTS = ("static", "core", "server", "launcher", "browser", "web")
# rules, tables and records: what needs no photo, no database and no browser
FAST = (
    *(
        "acceptance",
        "diagnosis_data",
        "geometry",
        "job_verdict",
        "light_lookup",
        "matching_and_fitting",
        "medians",
        "meter",
    ),
    *("registration_fit", "safe_advice", "stations", "steps", "tables", "touch_choice", "upgrade"),
)


class Tally:
    """Counts over all parts; a check without a count of its own counts as one."""

    def __init__(self) -> None:
        self.passed = self.failed = 0

    def add(self, name: str, code: int, output: str) -> None:
        count = 1
        ran = re.search(r"^Ran (\d+) tests?", output, re.M)
        vitest = re.search(r"Tests\s+(?:(\d+) failed \| )?(\d+) passed", output)
        broken = 0 if code == 0 else 1
        if ran:
            count = int(ran[1])
            told = re.search(r"FAILED \((.*)\)", output)
            if told:
                broken = (
                    sum(int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", told[1])) or 1
                )
            if count == 0 and code == 0:
                code, broken = 1, 1
        elif vitest:
            count = int(vitest[2]) + int(vitest[1] or 0)
            broken = int(vitest[1] or 0) or broken
        self.failed += broken
        self.passed += max(count - broken, 0)
        say(f"{'ok  ' if broken == 0 else 'FAIL'} {name}" + (f" ({count} tests)" if ran or vitest else ""))


def _run(tally: Tally, name: str, command: list[str], env: dict[str, str], cwd: str = str(ROOT)) -> None:
    started = time.monotonic()
    done = subprocess.run(
        command, cwd=cwd, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, errors="replace"
    )
    if done.returncode:
        print(done.stdout)
    elif name == "browser tests":
        print("\n".join(line for line in done.stdout.splitlines() if line.startswith("figure:")))
    tally.add(f"{name}, {time.monotonic() - started:.0f} s", done.returncode, done.stdout)


def main(rest: list[str]) -> int:
    """Exit 0 when everything passed; the last line is 'N passed, N failed'."""
    parts = [part for part in rest if not part.startswith("-")] or list(PARTS)
    unknown = [part for part in parts if part not in (*PARTS, "fast")]
    if unknown:
        print(f"There is no test part '{unknown[0]}': choose {', '.join(PARTS)}, or fast.", file=sys.stderr)
        return 2
    tally = Tally()
    env = {
        **os.environ,
        "PYTHONWARNINGS": "default",
        "DJANGO_SETTINGS_MODULE": "server.config.settings",
        "CLEAR_LENS_MEDIA": str(BUILD / "test-media"),
    }
    tools = VENV / "bin"
    if parts == ["core"]:
        prepare_python(testing=True)
        command = [str(PYTHON), "-m", "server.manage", "test", "tests.core", "--parallel", "2"]
        _run(tally, "core tests", command, {**env, "CLEAR_LENS_NO_DATABASE": "1"})
        return _close(tally)
    if parts == ["fast"]:
        prepare_python(testing=True)
        _run(tally, "ruff", [str(tools / "ruff"), "check", "."], env)
        _run(tally, "format", [str(tools / "ruff"), "format", "--check", "."], env)
        _run(tally, "import contracts", [str(tools / "lint-imports")], env)
        _run(tally, "types", [str(tools / "mypy")], env)
        names = [f"tests.core.test_{name}" for name in FAST]
        _run(tally, "pure rules", [str(PYTHON), "-m", "unittest", *names], {**env, "CLEAR_LENS_NO_DATABASE": "1"})
        return _close(tally)
    prepare_all(testing=True)
    if "static" in parts:
        _run(tally, "ruff", [str(tools / "ruff"), "check", "."], env)
        _run(tally, "format", [str(tools / "ruff"), "format", "--check", "."], env)
        _run(tally, "types", [str(tools / "mypy")], env)
        _run(tally, "import contracts", [str(tools / "lint-imports")], env)
    if "launcher" in parts:
        command = [str(PYTHON), "-m", "server.manage", "test", "tests.launcher", "--parallel", "2"]
        _run(tally, "launcher tests", command, {**env, "CLEAR_LENS_NO_DATABASE": "1"})
    if {"core", "server", "browser"} & set(parts):
        cluster = Cluster("pg-checks")
        cluster.start()
        try:
            django = {**env, **cluster.environment, "DJANGO_ALLOW_ASYNC_UNSAFE": "1"}
            for part in ("core", "server", "browser"):
                if part in parts:
                    # some browser tests measure times, which a second worker would spoil
                    workers = [] if part == "browser" else ["--parallel", "2"]
                    _run(
                        tally,
                        f"{part} tests",
                        [str(PYTHON), "-m", "server.manage", "test", f"tests.{part}", "--noinput", *workers],
                        django,
                    )
        finally:
            cluster.stop()
            _leave_nothing(cluster)
    if "web" in parts or "static" in parts:
        prepare_node_modules()
        npm, node_env = npm_environment()
        for name, script in (
            ("front-end types", "types"),
            ("front-end lint", "lint"),
            ("front-end format", "format:check"),
            ("types made from the API", "schema:check"),
            ("front-end tests", "test"),
        ):
            _run(tally, name, [*npm, "run", script], {**node_env, "CI": "true"}, cwd=str(WEB))
    return _close(tally)


def _leave_nothing(cluster: Cluster) -> None:
    """The tests' cluster lies in the system's temporary storage where var/ is closed to user postgres: it goes with the tests."""
    if not cluster.folder.is_relative_to(VAR):
        shutil.rmtree(cluster.folder.parent, ignore_errors=True)
        for note in (cluster.secret_file, VAR / f"{cluster.name}.place"):
            note.unlink(missing_ok=True)


def _close(tally: Tally) -> int:
    print(f"{tally.passed} passed, {tally.failed} failed", flush=True)
    return 1 if tally.failed else 0
