"""The instance that runs from a folder: one at a time, its processes by number *and* start, what happened to it."""

import fcntl
import json
import os
import signal
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from launcher.paths import VAR
from launcher.prepare import NotPrepared
from server.common.processes import is_alive, started_ticks

FILE = VAR / "instance.json"
LOCK = VAR / "instance.lock"
MOST_EVENTS = 50
STOP_WITHIN_S = 40.0
LEFTOVERS_WITHIN_S = (
    1.5  # they lost their launcher and are ending already; what a worker has in its hands is taken up again
)


def make_private(folder: Path, passable: bool = False) -> None:
    """A folder for its owner alone; ``passable`` where user postgres must get through it to its own."""
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o711 if passable else 0o700)


def write_safely(path: Path, text: str) -> None:
    """The whole text under its name and on the disk, readable by its owner only."""
    temporary = path.with_name(f".{path.name}.new")
    with os.fdopen(os.open(temporary, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as out:
        out.write(text)
        out.flush()
        os.fsync(out.fileno())
    os.replace(temporary, path)


def mark(pid: int) -> dict[str, int]:
    """A process as it is written down."""
    return {"pid": pid, "ticks": started_ticks(pid) or 0}


def _alive(marked: dict[str, int] | None) -> bool:
    return bool(marked) and is_alive(marked["pid"], marked["ticks"])  # type: ignore[index]


class Instance:
    """What this launcher writes down while it runs."""

    def __init__(self) -> None:
        make_private(VAR, passable=os.geteuid() == 0)
        self._lock = os.open(LOCK, os.O_RDWR | os.O_CREAT, 0o600)
        self.told: dict[str, Any] = {"launcher": mark(os.getpid()), "events": _read().get("events", [])}

    def take(self) -> None:
        """Be the only one; raises NotPrepared when another launcher runs from this folder."""
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise NotPrepared(_already()) from None

    def say(self, **facts: Any) -> None:
        self.told.update(facts)
        try:
            write_safely(FILE, json.dumps(self.told, indent=1))
        except OSError as error:  # a full disk must not end the launcher
            print(f"Could not write {FILE}: {error.strerror}.", flush=True)

    def event(self, what: str, text: str) -> None:
        """Write down that something happened, for the log and for the bench."""
        stamp = time.strftime("%Y-%m-%dT%H:%M:%S%z")
        print(f"{stamp} {text}", flush=True)
        self.say(events=[*self.told["events"], {"at": stamp, "what": what, "text": text}][-MOST_EVENTS:])

    def gone(self) -> None:
        """It ended in good order: what happened is kept, the rest is not true any more."""
        self.told = {"events": self.told["events"]}
        self.say()


def _read() -> dict[str, Any]:
    try:
        return dict(json.loads(FILE.read_text()))
    except (OSError, ValueError):
        return {}


def running() -> dict[str, Any] | None:
    """What the running instance wrote down, None when none runs."""
    told = _read()
    return told if _alive(told.get("launcher")) else None


def _already() -> str:
    told = running() or {}
    where = f"at {told['url']}" if told.get("url") else "and is starting"
    pid = told.get("launcher", {}).get("pid", "?")
    return f"Clear Lens is already running from this folder {where} (process {pid}). Stop it with ./clear-lens stop."


def environment() -> dict[str, str]:
    """The environment of the running instance, or nothing where the database was named by hand."""
    if "CLEAR_LENS_DB_PORT" in os.environ:
        return {}
    told = running()
    if told is None or "environment" not in told:
        raise NotPrepared(
            "No instance runs from this folder. Start one with ./clear-lens run, or say where its database is: "
            "CLEAR_LENS_DB_HOST, _PORT, _NAME, _USER, _PASSWORD and CLEAR_LENS_MEDIA."
        )
    return dict(told["environment"])


def end_all(marked: Sequence[dict[str, int]], within_s: float) -> None:
    """End these very processes, politely first."""
    for number in (signal.SIGTERM, signal.SIGKILL):
        for one in marked:
            if _alive(one):
                try:
                    os.kill(one["pid"], number)
                except ProcessLookupError:
                    continue
        end = time.monotonic() + within_s
        while time.monotonic() < end and any(_alive(one) for one in marked):
            time.sleep(0.05)


def end_leftovers() -> list[str]:
    """End what a launcher that was killed left behind, by number and start, never by name; the names of what was ended."""
    told = _read()
    if _alive(told.get("launcher")) and told["launcher"]["pid"] != os.getpid():
        return []
    left = {name: one for name, one in told.get("children", {}).items() if _alive(one)}
    end_all(list(left.values()), LEFTOVERS_WITHIN_S)
    return sorted(left)


def stop() -> bool:
    """Stop the instance of this folder; False when none runs. Raises NotPrepared when it does not end."""
    told = running()
    if told is None:
        return False
    os.kill(told["launcher"]["pid"], signal.SIGTERM)
    end = time.monotonic() + STOP_WITHIN_S
    while _alive(told["launcher"]):
        if time.monotonic() > end:
            raise NotPrepared(
                f"Clear Lens (process {told['launcher']['pid']}) did not stop within {STOP_WITHIN_S:.0f} s. See {VAR}."
            )
        time.sleep(0.1)
    return True
