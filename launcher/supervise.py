"""Keeping database, web server and workers running: whoever dies or hangs is started again, and it is said."""

import contextlib
import ctypes
import os
import signal
import subprocess
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Sequence
from pathlib import Path

from launcher import disk
from launcher.database import Cluster
from launcher.instance import Instance, mark
from launcher.paths import ROOT, VAR
from launcher.prepare import NotPrepared, say
from launcher.remote import RemoteDatabase
from server.common.processes import started_ticks

LOOK_S = 0.2
WEB_STARTS_S = 30.0
ASK_DATABASE_S, ASK_WEB_S, ASK_DISK_S = 1.0, 5.0, 2.0
DEAF_DATABASE, DEAF_WEB = 3, 4  # questions without an answer, one after the other
STOP_AFTER_S = 8.0
FIRST_WAIT_S, LONGEST_WAIT_S = 0.3, 30.0
STEADY_S = 5.0  # who lived for so long is restarted at once; who dies at each start waits longer each time
PR_SET_PDEATHSIG = 1
WORDS = {"web": "The web server", "worker": "The analysing process"}


def die_with_parent() -> None:
    """In the child: end when the launcher is gone, however it went (prctl(2))."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


class Child:
    """One process, started again with growing patience."""

    def __init__(self, name: str, command: Sequence[str], env: dict[str, str], log: Path) -> None:
        self.name, self.command, self.env, self.log = name, list(command), env, log
        self.process: subprocess.Popen[bytes] | None = None
        self.restarts = 0
        self._wait_s, self.since, self._not_before = FIRST_WAIT_S, 0.0, 0.0

    def start(self) -> None:
        with self.log.open("ab") as out:
            os.fchmod(out.fileno(), 0o600)
            # own process groups: Ctrl-C reaches this launcher only, which then stops them in order
            self.process = subprocess.Popen(
                self.command,
                cwd=ROOT,
                env=self.env,
                start_new_session=True,
                stdin=subprocess.DEVNULL,
                stdout=out,
                stderr=out,
                preexec_fn=die_with_parent,
                umask=0o077,
            )
        self.since = time.monotonic()

    @property
    def marked(self) -> dict[str, int] | None:
        return mark(self.process.pid) if self.process is not None and self.process.poll() is None else None

    def look(self) -> str | None:
        """Start it again when it is gone and its time has come; says why it was started."""
        if self.process is None:
            return None
        code = self.process.poll()
        now = time.monotonic()
        if code is None:
            return None
        if self._not_before == 0.0:
            if now - self.since > STEADY_S:
                self._wait_s = FIRST_WAIT_S
            self._not_before = now + self._wait_s
            self._wait_s = min(2 * self._wait_s, LONGEST_WAIT_S)
        if now < self._not_before:
            return None
        self._not_before = 0.0
        self.restarts += 1
        self.start()
        how = f"signal {-code}" if code < 0 else f"exit {code}"
        return f"{WORDS.get(self.name.partition(' ')[0], self.name)} ended by itself ({how}) and was restarted."

    def end(self, number: int = signal.SIGTERM) -> None:
        if self.process is not None and self.process.poll() is None:
            with contextlib.suppress(ProcessLookupError):
                self.process.send_signal(number)

    def wait(self, until: float) -> None:
        if self.process is None:
            return
        try:
            self.process.wait(max(0.1, until - time.monotonic()))
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


def health_answers(url: str, timeout_s: float = 5.0) -> bool:
    """Does the web server answer at all, well or not?"""
    try:
        urllib.request.urlopen(f"{url}/api/health", timeout=timeout_s).close()
    except urllib.error.HTTPError:
        return True
    except urllib.error.URLError as error:
        return "CERTIFICATE_VERIFY_FAILED" in str(error)
    except OSError:
        return False
    return True


class Supervisor:
    """Looks after one cluster and its children until told to stop."""

    def __init__(
        self, instance: Instance, cluster: Cluster | RemoteDatabase, url: str, read_only: bool = False
    ) -> None:
        self.instance, self.cluster, self.url = instance, cluster, url
        self.children: list[Child] = []
        self.stopping = threading.Event()
        self.chores: list[tuple[float, Callable[[], None]]] = []
        self._deaf = {"database": 0, "web": 0}
        self._read_only = read_only
        self._postmaster: int | None = None

    def add(self, child: Child) -> None:
        child.start()
        self.children.append(child)
        self._note()

    def _note(self) -> None:
        marked = {child.name: child.marked for child in self.children}
        database = self.cluster.server_pid()
        self.instance.say(
            children={name: one for name, one in marked.items() if one},
            database=mark(database) if database else None,
            restarts={child.name: child.restarts for child in self.children},
            read_only=self._read_only,
        )

    def run(self) -> None:
        """Until somebody stops it."""
        self._postmaster = self.cluster.server_pid()
        self._note()
        threading.Thread(target=self._ask_web, daemon=True).start()
        due = [time.monotonic() + every for every, _ in self.chores]
        asked_database = asked_disk = time.monotonic()
        while not self.stopping.wait(LOOK_S):
            for child in self.children:
                why = child.look()
                if why:
                    self.instance.event(f"{child.name.partition(' ')[0]}_restarted", why)
                    self._note()
            now = time.monotonic()
            if isinstance(self.cluster, Cluster):
                if now - asked_database >= ASK_DATABASE_S or self._is_gone():
                    asked_database = now
                    self._look_at_database(self.cluster)
                if now - asked_disk >= ASK_DISK_S:
                    asked_disk = now
                    self._look_at_disk(self.cluster)
            for number, (every, chore) in enumerate(self.chores):
                if now >= due[number]:
                    due[number] = now + every
                    chore()

    def _is_gone(self) -> bool:
        return self._postmaster is None or started_ticks(self._postmaster) is None

    def _look_at_database(self, cluster: Cluster) -> None:
        if not self._is_gone():
            self._deaf["database"] = 0 if cluster.answers() else self._deaf["database"] + 1
            if self._deaf["database"] < DEAF_DATABASE:
                return
        why = "was gone" if self._is_gone() else "did not answer"
        self._deaf["database"] = 0
        if self._start_database(cluster):
            self.instance.event("database_restarted", f"The database {why} and was restarted.")

    def _start_database(self, cluster: Cluster) -> bool:
        port = cluster.port
        try:
            if not self._is_gone():
                cluster.end_hard()
            cluster.launch(self._read_only)
        except NotPrepared as reason:
            self._postmaster = cluster.server_pid()
            if disk.free_bytes(cluster.folder) < disk.READ_ONLY_BYTES and not self._read_only:
                disk.drop_ballast()
                self._read_only = True
            self.instance.event("database_failed", f"The database could not be started: {str(reason).splitlines()[-1]}")
            self.stopping.wait(2.0)
            return False
        self._postmaster = cluster.server_pid()
        if cluster.port != port:  # somebody took the port meanwhile: everybody is told the new one
            for child in self.children:
                child.env.update(cluster.environment)
                child.end()
        self._note()
        return True

    def _look_at_disk(self, cluster: Cluster) -> None:
        try:
            free = min(disk.free_bytes(cluster.folder), disk.free_bytes(VAR))
        except OSError:
            return
        if not self._read_only and free < disk.READ_ONLY_BYTES:
            disk.drop_ballast()
            self._set_read_only(cluster, True)
            self.instance.event(
                "disk_full",
                "The disk is full: the bench can be read, but nothing new is stored until there is room on it.",
            )
        elif self._read_only and free > disk.WRITE_AGAIN_BYTES:
            self._set_read_only(cluster, False)
            self.instance.event("disk_room", "There is room on the disk again: the bench stores what is new.")
        elif not self._read_only:
            disk.load_ballast()

    def _set_read_only(self, cluster: Cluster, on: bool) -> None:
        """For new transactions of the application; its open ones end by themselves."""
        self._read_only = on
        with contextlib.suppress(NotPrepared):
            cluster.stop()
        self._postmaster = None
        self._start_database(cluster)
        self._note()

    def _ask_web(self) -> None:
        """In a thread of its own, since a question may wait for long. A web server that is deaf is ended, and so started again."""
        while not self.stopping.wait(ASK_WEB_S):
            web = next((child for child in self.children if child.name == "web"), None)
            if web is None or web.marked is None or time.monotonic() - web.since < WEB_STARTS_S:
                self._deaf["web"] = 0
                continue
            self._deaf["web"] = 0 if health_answers(self.url) else self._deaf["web"] + 1
            if self._deaf["web"] >= DEAF_WEB:
                self._deaf["web"] = 0
                web.end(signal.SIGKILL)

    def stop(self) -> None:
        """Everything in order: who works, then who stores."""
        for child in self.children:
            child.end()
        until = time.monotonic() + STOP_AFTER_S
        for child in self.children:
            child.wait(until)
        say("Stopped.")
