"""A private PostgreSQL cluster on a free loopback port. Made once, never deleted."""

import contextlib
import glob
import json
import os
import re
import secrets
import shutil
import signal
import socket
import struct
import subprocess
import time
from pathlib import Path

from launcher.instance import make_private, write_safely
from launcher.paths import VAR
from launcher.places import as_postgres, check_private, owner_ids, place_of
from launcher.prepare import NotPrepared
from server.common.processes import started_ticks

SUPERUSER, USER, DATABASE = "postgres", "app", "clear_lens"
SSL_REQUEST = struct.pack("!ii", 8, 80877103)  # PostgreSQL's protocol 3: answered with one letter before any sign-in
FIRST_PORT = 54330  # where nothing else is usual; any other serves as well
START_S = 90
KILLED_WITHIN_S = (
    10.0  # a killed process ends as soon as it is off the disk; asked to stop before that, it is waited for in vain
)


def free_port(preferred: int = 0) -> int:
    """A loopback port that nobody listens on, ``preferred`` if it is free."""
    for port in (preferred, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
                return int(probe.getsockname()[1])
            except OSError:
                continue
    raise NotPrepared("No free port was found on this machine.")


def binary(tool: str, version: str = "") -> str:
    """A program of PostgreSQL, of a version or else of the newest one that is installed."""
    found = sorted(
        glob.glob(f"/usr/lib/postgresql/{version or '*'}/bin/{tool}"), key=lambda p: int(p.split("/")[4].split(".")[0])
    )
    if not found and version:
        raise NotPrepared(
            f"The database was made by PostgreSQL {version}, which is not installed (any more): sudo apt-get install -y postgresql-{version}. "
            "To go on with a newer one, restore a backup into an empty place: ./clear-lens restore FILE --into FOLDER."
        )
    if not found:
        raise NotPrepared("PostgreSQL is not installed: sudo apt-get install -y postgresql")
    return found[-1]


def _as_postgres() -> list[str]:
    """What comes before a program that must run as the cluster's owner."""
    # not on every root's PATH
    return [shutil.which("runuser") or "/usr/sbin/runuser", "-u", "postgres", "--"] if as_postgres() else []


def children_of(pid: int) -> list[int]:
    """The processes that a process started (proc(5), field 4 of stat)."""
    found = []
    for file in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError, ValueError, IndexError):
            if int(file.read_text().rpartition(")")[2].split()[1]) == pid:
                found.append(int(file.parent.name))
    return found


class Cluster:
    """One cluster in one folder. ``serves`` names the certificate, key and addresses by which other machines may reach it over TLS."""

    remote = False

    def __init__(self, name: str = "pg") -> None:
        self.name = name
        self.secret_file = VAR / f"{name}.secrets.json"
        self.earlier_secret = (
            VAR / f"{name}.secret"
        )  # of clusters before this layout: the password of a superuser 'app'
        self.folder = VAR / name
        self.port = 0
        self.passwords: dict[str, str] = {}
        self.serves: tuple[Path, Path, str] | None = None

    @property
    def data(self) -> Path:
        return self.folder / "data"

    @property
    def log(self) -> Path:
        return self.folder / "pg.log"

    def version(self) -> str:
        return (self.data / "PG_VERSION").read_text().strip() if self.exists() else ""

    def exists(self) -> bool:
        return (self.data / "PG_VERSION").exists()

    def as_owner(self, command: list[str]) -> int:
        """Run a program as the cluster's owner; its output goes to a log."""
        # the server inherits our pipes, so output goes to a file and not to a pipe that would never close
        with (VAR / "pg-tools.log").open("a+") as out:
            return subprocess.run(
                [*_as_postgres(), *command], cwd="/", stdin=subprocess.DEVNULL, stdout=out, stderr=subprocess.STDOUT
            ).returncode

    def start(self, read_only: bool = False) -> None:
        """Make the cluster if it is new, start it, make role and database. Raises NotPrepared with the log's end."""
        make_private(VAR, passable=as_postgres())
        self.folder = place_of(self.name)
        self._own_folders()
        if not self.exists():
            self._initialise()
        self._read_secrets()
        self.launch(read_only)
        if not read_only:
            self._make_role_and_database()

    def _own_folders(self) -> None:
        for folder in (self.folder, self.folder / "sock"):
            if folder.is_symlink():
                raise NotPrepared(
                    f"{folder} is a link; the database is kept in a real folder only. Move the link away."
                )
            folder.mkdir(parents=True, exist_ok=True)
            os.chown(folder, *owner_ids())
            folder.chmod(0o700)
        check_private(self.folder)

    def _read_secrets(self) -> None:
        try:
            self.passwords = dict(json.loads(self.secret_file.read_text()))
        except FileNotFoundError:
            raise NotPrepared(
                f"The database in {self.data} is there, but its secret {self.secret_file} is missing. Nothing was changed. Put the file back from a "
                "copy, or run ./clear-lens new-secret, which makes a new one and keeps the data."
            ) from None
        except (OSError, ValueError) as error:
            raise NotPrepared(
                f"The database's secret {self.secret_file} cannot be read ({error}). Put it back, or run ./clear-lens new-secret."
            ) from None

    def _initialise(self) -> None:
        """initdb under another name, so that what is called data is whole or not there. A folder with anything in it is never touched."""
        if self.data.exists() and any(self.data.iterdir()):
            raise NotPrepared(
                f"{self.data} is no whole database and not empty. Look what it is, and move it away to begin with a new one."
            )
        passwords = {SUPERUSER: secrets.token_urlsafe(24), USER: secrets.token_urlsafe(24)}
        fresh = self.folder / f"data-{secrets.token_hex(4)}"
        handed = self.folder / f"pw-{secrets.token_hex(4)}"
        self._hand_over(handed, passwords[SUPERUSER])
        try:
            # data checksums (-k): a disk that lies is noticed; a superuser that is not the application's
            code = self.as_owner(
                [
                    binary("initdb"),
                    "-k",
                    "-D",
                    str(fresh),
                    "-U",
                    SUPERUSER,
                    "--auth=scram-sha-256",
                    f"--pwfile={handed}",
                    "-E",
                    "UTF8",
                    "--locale=C.UTF-8",
                ]
            )
        finally:
            handed.unlink(missing_ok=True)
        if code:
            raise NotPrepared(f"The database could not be made in {fresh}; see {VAR / 'pg-tools.log'}.")
        write_safely(self.secret_file, json.dumps(passwords))
        if self.data.exists():
            self.data.rmdir()
        os.rename(fresh, self.data)

    def _hand_over(self, path: Path, text: str) -> None:
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as out:
            out.write(text)
        os.chown(path, *owner_ids())

    def new_secret(self) -> None:
        """Give the roles new passwords, by PostgreSQL's single-user mode, which asks for none; the data stays."""
        self.folder = place_of(self.name)
        if not self.exists():
            raise NotPrepared(f"There is no database in {self.data}.")
        self.end_leftover()
        passwords = {SUPERUSER: secrets.token_urlsafe(24), USER: secrets.token_urlsafe(24)}
        statements = "".join(
            f"do $$ begin if exists (select from pg_roles where rolname = '{role}') then alter role {role} password '{word}'; end if; end $$;\n"
            for role, word in passwords.items()
        )
        command = [*_as_postgres(), binary("postgres", self.version()), "--single", "-D", str(self.data), "postgres"]
        done = subprocess.run(command, input=statements, text=True, capture_output=True, cwd="/")
        if done.returncode or "ERROR" in done.stderr:
            raise NotPrepared(f"The secret could not be changed: {done.stderr.strip().splitlines()[-1:]}")
        write_safely(self.secret_file, json.dumps(passwords))

    def launch(self, read_only: bool = False) -> None:
        """Start the server of a cluster that is there, on the same port as before where it is free."""
        self.end_leftover()
        for last in (False, False, True):
            self.port = free_port(self.port or FIRST_PORT)
            said = self._launch_once(read_only)
            if said is None:
                return
            if (
                last or "Address already in use" not in said
            ):  # another instance that starts in the same moment has taken it since
                raise NotPrepared(f"The database did not start. The end of its log:\n{said}")

    def _launch_once(self, read_only: bool) -> str | None:
        """None when it runs, else the end of what it said."""
        before = self.log.stat().st_size if self.log.exists() else 0
        listen, secure = "127.0.0.1", ""
        if self.serves is not None:
            listen, secure = f"127.0.0.1,{self.serves[2]}", self._serve_over_tls()
        options = (
            f"-p {self.port} -c listen_addresses={listen} -c unix_socket_directories={self.folder / 'sock'}{secure}"
        )
        if read_only:
            options += " -c default_transaction_read_only=on"
        code = self.as_owner(
            [
                binary("pg_ctl", self.version()),
                "-D",
                str(self.data),
                "-w",
                "-t",
                str(START_S),
                "-l",
                str(self.log),
                "-o",
                options,
                "start",
            ]
        )
        if not code:
            return None
        return (
            "\n".join(self.log.read_bytes()[before:].decode(errors="replace").splitlines()[-10:])
            if self.log.exists()
            else ""
        )

    def _serve_over_tls(self) -> str:
        """Lay certificate and key where PostgreSQL reads them, and let the application in from elsewhere over TLS only."""
        assert self.serves is not None
        for source, name in ((self.serves[0], "server.crt"), (self.serves[1], "server.key")):
            target = self.folder / name
            target.unlink(missing_ok=True)
            self._hand_over(target, source.read_text())
        rules = self.data / "pg_hba.conf"
        line = f"hostssl {DATABASE} {USER} all scram-sha-256"
        text = rules.read_text()
        if line not in text:
            rules.write_text(
                f"{text.rstrip()}\n# other machines of this shop, over TLS only\n{line}\n"
            )  # keeps its owner
        return f" -c ssl=on -c ssl_cert_file={self.folder / 'server.crt'} -c ssl_key_file={self.folder / 'server.key'}"

    def server_pid(self) -> int | None:
        """The server's process, None when it does not run."""
        try:
            pid = int((self.data / "postmaster.pid").read_text().split()[0])
            name = Path(f"/proc/{pid}/comm").read_text()
        except (OSError, ValueError, IndexError):
            return None
        return pid if "postgres" in name and self._serves_here(pid) else None

    def _corpse(self) -> bool:
        """The killed server's number is still taken until somebody collects it; a new one would refuse to start beside it."""
        try:
            pid = (self.data / "postmaster.pid").read_text().split()[0]
            return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] in ("Z", "X")
        except (OSError, IndexError):
            return False

    def _serves_here(self, pid: int) -> bool:
        """The number may have gone to the server of another cluster since: this one was started with our folder."""
        try:
            return str(self.data).encode() in Path(f"/proc/{pid}/cmdline").read_bytes()
        except OSError:
            return False

    def answers(self, timeout_s: float = 2.0) -> bool:
        """Does the server take a connection and say its letter?"""
        try:
            with socket.create_connection(("127.0.0.1", self.port), timeout_s) as asked:
                asked.settimeout(timeout_s)
                asked.sendall(SSL_REQUEST)
                return asked.recv(1) in (b"S", b"N")
        except OSError:
            return False

    def end_leftover(self) -> None:
        """Whoever holds the folder's lock owns its server: one that a killed launcher left is ended, however it stands."""
        if self.server_pid() is not None:
            self.stop()
        for _ in range(150):
            if self.server_pid() is None and not self._corpse():
                return
            time.sleep(0.1)
        raise NotPrepared(f"The database process {self.server_pid()} does not end. End it, then start again.")

    def run_sql(self, sql: str, database: str = "postgres") -> str:
        """As superuser; raises NotPrepared with what the database said."""
        done = subprocess.run(
            [binary("psql"), "-XqtA", "-v", "ON_ERROR_STOP=1", *self._where(SUPERUSER), "-d", database],
            input=sql,
            text=True,
            capture_output=True,
            env={**os.environ, "PGPASSWORD": self.passwords[SUPERUSER]},
        )
        if done.returncode:
            raise NotPrepared(f"The database refused: {done.stderr.strip()}")
        return done.stdout.strip()

    def _where(self, role: str) -> list[str]:
        return ["-h", "127.0.0.1", "-p", str(self.port), "-U", role]

    def _make_role_and_database(self) -> None:
        password = self.passwords[USER]
        if not re.fullmatch(r"[\w-]+", password):
            raise NotPrepared(
                f"The secret {self.secret_file} was changed by hand: passwords may have letters, digits, - and _ only."
            )
        there = self.run_sql(
            f"select 'role' from pg_roles where rolname = '{USER}' union all select 'database' from pg_database where datname = '{DATABASE}'"
        )
        if "role" not in there:
            # owns its database and may make test databases and trusted extensions, and no more
            self.run_sql(f"create role {USER} login nosuperuser createdb password '{password}'")
        if "database" not in there:
            self.run_sql(f"create database {DATABASE} owner {USER}")

    def stop(self, mode: str = "fast") -> None:
        if not self.exists():
            return
        self.as_owner([binary("pg_ctl", self.version()), "-D", str(self.data), "-m", mode, "-w", "-t", "20", "stop"])
        if self.server_pid() is not None:
            self.as_owner(
                [binary("pg_ctl", self.version()), "-D", str(self.data), "-m", "immediate", "-w", "-t", "10", "stop"]
            )

    def end_hard(self) -> None:
        """A server that does not answer is not asked: its log makes good what it was doing (PostgreSQL's crash recovery)."""
        pid = self.server_pid()
        if pid is None:
            return
        doomed = (
            pid,
            *children_of(pid),
        )  # the children too: a new server waits until the last of them has let the memory go
        for one in doomed:
            with contextlib.suppress(ProcessLookupError):
                os.kill(one, signal.SIGKILL)
        until = time.monotonic() + KILLED_WITHIN_S
        while any(started_ticks(one) is not None for one in doomed) and time.monotonic() < until:
            time.sleep(0.02)

    @property
    def environment(self) -> dict[str, str]:
        """What the server's settings read."""
        return {
            "CLEAR_LENS_DB_HOST": "127.0.0.1",
            "CLEAR_LENS_DB_PORT": str(self.port),
            "CLEAR_LENS_DB_NAME": DATABASE,
            "CLEAR_LENS_DB_USER": USER,
            "CLEAR_LENS_DB_PASSWORD": self.passwords[USER],
        }
