"""A private PostgreSQL cluster on a free loopback port."""

import glob
import hashlib
import os
import pwd
import secrets
import shutil
import socket
import stat
import subprocess
import time
from pathlib import Path

from launcher.paths import ROOT, VAR
from launcher.prepare import NotPrepared

USER, DATABASE = "app", "clear_lens"
MAX_SOCKET_PATH = 90


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


class Cluster:
    """One cluster in one folder; PostgreSQL refuses to run as root, so as root it belongs to user postgres."""

    def __init__(self, name: str = "pg") -> None:
        self.as_postgres = os.geteuid() == 0
        self.folder = self._place(name)
        self.secret_file = VAR / f"{name}.secret"
        self.port = 0
        self.password = ""

    def _place(self, name: str) -> Path:
        folder = VAR / name
        passable = all(parent.stat().st_mode & stat.S_IXOTH for parent in (ROOT, *ROOT.parents))
        if (self.as_postgres and not passable) or len(str(folder / "sock" / ".s.PGSQL.65535")) > MAX_SOCKET_PATH:
            tag = hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]
            return Path("/var/tmp") / f"clear-lens-{os.geteuid()}-{tag}" / name
        return folder

    @staticmethod
    def _bin(tool: str) -> str:
        found = sorted(glob.glob(f"/usr/lib/postgresql/*/bin/{tool}"), key=lambda p: int(p.split("/")[4].split(".")[0]))
        if not found:
            raise NotPrepared("PostgreSQL is not installed: sudo apt-get install -y postgresql")
        return found[-1]

    def _as_owner(self, command: list[str]) -> subprocess.CompletedProcess[str]:
        # not on every root's PATH
        runuser = shutil.which("runuser") or "/usr/sbin/runuser"
        prefix = [runuser, "-u", "postgres", "--"] if self.as_postgres else []
        # the server inherits our pipes, so output goes to a file and not to a pipe that would never close
        with (VAR / "pg-tools.log").open("a+") as out:
            done = subprocess.run([*prefix, *command], cwd="/", stdin=subprocess.DEVNULL, stdout=out, stderr=subprocess.STDOUT)
        return subprocess.CompletedProcess(done.args, done.returncode)

    def start(self) -> None:
        """Make the cluster if it is new, start it, make the database. Raises NotPrepared with the log's end."""
        VAR.mkdir(exist_ok=True)
        for folder in (self.folder, self.folder / "sock"):
            folder.mkdir(parents=True, exist_ok=True)
            folder.chmod(0o700)
            if self.as_postgres:
                account = pwd.getpwnam("postgres")
                os.chown(folder, account.pw_uid, account.pw_gid)
        data = self.folder / "data"
        if not (data / "PG_VERSION").exists() or not self.secret_file.exists():
            self._initialise(data)
        self.password = self.secret_file.read_text().strip()
        self._clear_stale_pid(data)
        self.port = free_port(54330)
        log = self.folder / "pg.log"
        options = f"-p {self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories={self.folder / 'sock'}"
        done = self._as_owner([self._bin("pg_ctl"), "-D", str(data), "-w", "-t", "60", "-l", str(log), "-o", options, "start"])
        if done.returncode:
            tail = log.read_text(errors="replace").splitlines()[-10:] if log.exists() else []
            raise NotPrepared("\n".join(["The database did not start. The end of its log:", *tail]))
        self._create_database()

    def _initialise(self, data: Path) -> None:
        shutil.rmtree(data, ignore_errors=True)
        password = secrets.token_urlsafe(24)
        handed = self.folder / "pw"
        handed.write_text(password)
        handed.chmod(0o600)
        if self.as_postgres:
            account = pwd.getpwnam("postgres")
            os.chown(handed, account.pw_uid, account.pw_gid)
        done = self._as_owner([
            self._bin("initdb"), "-D", str(data), "-U", USER, "--auth=scram-sha-256", f"--pwfile={handed}", "-E", "UTF8", "--locale=C.UTF-8"])
        handed.unlink()
        if done.returncode:
            raise NotPrepared(f"The database could not be made in {data}; see {VAR / 'pg-tools.log'}.")
        self.secret_file.touch(mode=0o600)
        self.secret_file.write_text(password)

    def _clear_stale_pid(self, data: Path) -> None:
        """After a hard kill the old server may still be going down; one that lives on belongs to another instance."""
        pid_file = data / "postmaster.pid"
        for _ in range(100):
            if not pid_file.exists():
                return
            pid = int(pid_file.read_text().split()[0])
            name = Path(f"/proc/{pid}/comm")
            if not name.exists() or "postgres" not in name.read_text():
                return
            time.sleep(0.1)
        raise NotPrepared(f"Clear Lens is already running from this folder (database process {pid}). Stop it with Ctrl-C in its terminal.")

    def _create_database(self) -> None:
        env = {**os.environ, "PGPASSWORD": self.password}
        base = [self._bin("psql"), "-h", "127.0.0.1", "-p", str(self.port), "-U", USER, "-d", "postgres", "-tAc"]
        there = subprocess.run([*base, f"select 1 from pg_database where datname = '{DATABASE}'"], env=env, capture_output=True, text=True)
        if there.stdout.strip() != "1":
            subprocess.run([*base, f"create database {DATABASE}"], env=env, check=True, capture_output=True)

    def stop(self) -> None:
        self._as_owner([self._bin("pg_ctl"), "-D", str(self.folder / "data"), "-m", "fast", "-w", "-t", "20", "stop"])

    @property
    def environment(self) -> dict[str, str]:
        """What the server's settings read."""
        return {
            "CLEAR_LENS_DB_HOST": "127.0.0.1", "CLEAR_LENS_DB_PORT": str(self.port), "CLEAR_LENS_DB_NAME": DATABASE,
            "CLEAR_LENS_DB_USER": USER, "CLEAR_LENS_DB_PASSWORD": self.password,
        }
