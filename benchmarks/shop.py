"""A whole instance of its own, for measurements and tests: started by the launcher in a folder that is not the project's, as a shop would."""

import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
LAUNCHER = str(ROOT / "clear-lens")
STARTS_WITHIN_S = 120.0


def wait_for(what: Callable[[], Any], within_s: float, words: str) -> Any:
    """What it gives as soon as it is true."""
    end = time.monotonic() + within_s
    while time.monotonic() < end:
        told = what()
        if told:
            return told
        time.sleep(0.1)
    raise AssertionError(f"{words}: not within {within_s:g} s")


def _whole(body: bytes) -> dict[str, Any]:
    """What a refusal says; one that is no JSON as its text: a server that is just coming back may say so in words."""
    try:
        return dict(json.loads(body))
    except ValueError:
        return {"body": body[:400].decode(errors="replace")}


class Shop:
    """One instance in one folder."""

    def __init__(self, folder: Path, port: int = 8700) -> None:
        self.folder, self.port = folder, port
        left_out = ("CLEAR_LENS_", "DJANGO_")
        self.env = {name: value for name, value in os.environ.items() if not name.startswith(left_out)}
        self.env |= {"CLEAR_LENS_VAR": str(folder), "PYTHONWARNINGS": "ignore"}
        self.process: subprocess.Popen[str] | None = None

    @property
    def told(self) -> dict[str, Any]:
        try:
            return dict(json.loads((self.folder / "instance.json").read_text()))
        except (OSError, ValueError):
            return {}

    def pid(self, name: str) -> int:
        told = self.told
        return int((told.get(name) or told["children"][name])["pid"])

    def run(
        self, *arguments: str, cwd: str | None = None, given: str | None = None
    ) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, LAUNCHER, *arguments],
            env=self.env,
            cwd=cwd,
            capture_output=True,
            text=True,
            input=given,
            timeout=120,
        )

    def start(self, *options: str) -> "Shop":
        self.spawn(*options)
        wait_for(lambda: self.up() or self.process.poll() is not None, STARTS_WITHIN_S, "the instance starts")  # type: ignore[union-attr]
        if not self.up():
            raise AssertionError(self.log())
        return self

    def spawn(self, *options: str) -> None:
        """Run the launcher, and do not wait."""
        with self.folder.with_suffix(".log").open("a") as log:
            command = [sys.executable, LAUNCHER, "run", "--port", str(self.port), *options]
            self.process = subprocess.Popen(command, env=self.env, stdout=log, stderr=subprocess.STDOUT, text=True)

    def log(self) -> str:
        return self.folder.with_suffix(".log").read_text()

    def up(self) -> bool:
        """Does it say of itself that all is well?"""
        told = self.told
        launcher = told.get("launcher", {}).get("pid")
        return (
            self.process is not None and launcher == self.process.pid and "children" in told and self.health()[0] == 200
        )

    def health(self) -> tuple[int, dict[str, Any]]:
        try:
            with urllib.request.urlopen(
                f"{self.told.get('url', 'http://127.0.0.1:1')}/api/health", timeout=3
            ) as answer:
                return answer.status, json.load(answer)
        except urllib.error.HTTPError as error:
            return error.code, _whole(error.read())
        except OSError:
            return 0, {}

    def wait_until(self, what: Callable[["Shop"], Any], within_s: float, words: str) -> None:
        """As wait_for, of this shop; in vain, it says how the shop stands."""
        try:
            wait_for(lambda: what(self), within_s, words)
        except AssertionError as error:
            told = self.told
            last = "\n".join(f"{event['at']} {event['text']}" for event in told.get("events", [])[-12:])
            raise AssertionError(
                f"{error}\nhealth: {self.health()}\nprocesses: {told.get('children')}, database {told.get('database')}\n{last}\n"
                f"{self.log()[-2000:]}"
            ) from None

    def kill(self, name: str, number: int = signal.SIGKILL) -> None:
        os.kill(self.pid(name), number)

    def sql(self, text: str) -> list[list[str]]:
        """What the database says, read by PostgreSQL's own client, past the program."""
        told = self.told["environment"]
        names = {"PGHOST": "HOST", "PGPORT": "PORT", "PGUSER": "USER", "PGDATABASE": "NAME", "PGPASSWORD": "PASSWORD"}
        env = {**os.environ, **{name: told[f"CLEAR_LENS_DB_{key}"] for name, key in names.items()}}
        done = subprocess.run(
            ["psql", "-XqtA", "-F", "\t", "-c", text], env=env, capture_output=True, text=True, check=True
        )
        return [line.split("\t") for line in done.stdout.splitlines()]

    def stop(self) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            self.process.wait(40)
