"""Commands that keep an instance: backup, restore, stop, status, service; and the nightly backup."""

import argparse
import json
import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from launcher import archive, disk, instance
from launcher.archive import NoBackup, read_backup, write_backup
from launcher.database import DATABASE, USER, Cluster, binary
from launcher.instance import Instance, make_private, write_safely
from launcher.paths import PYTHON, ROOT, VAR
from launcher.places import as_postgres, owner_ids
from launcher.prepare import NotPrepared, prepare_python, say

BACKUPS = VAR / "backups"
LAST = BACKUPS / "last.json"
UNFINISHED = VAR / "restore-unfinished"
KEEP_DAYS, KEEP_WEEKS = 7, 4
LOOK_S = 60.0
HOUR = 2  # when nobody works; an instance that sleeps at night is backed up soon after its next start
SETTLED_S = 600.0
NAME = "clear-lens-%Y%m%d-%H%M%S.tar"


class Nightly:
    """Looks every minute whether the night's backup is due, and makes it in a thread."""

    def __init__(self, here: Instance, env: dict[str, str]) -> None:
        self.here, self.env = here, env
        self.since = time.monotonic()
        self.thread: threading.Thread | None = None

    def look(self) -> None:
        if (
            os.environ.get("CLEAR_LENS_NO_NIGHTLY")
            or time.monotonic() - self.since < SETTLED_S
            or (self.thread and self.thread.is_alive())
        ):
            return
        if is_due(time.localtime(), last_try()):
            self.thread = threading.Thread(target=self.make, daemon=True)
            self.thread.start()

    def make(self) -> None:
        make_private(BACKUPS)
        target = BACKUPS / time.strftime(NAME)
        told: dict[str, Any] = {"at": time.time(), "file": target.name}
        try:
            told |= {"ok": True, "text": write_backup(target, self.env)}
            prune(BACKUPS)
        except (NotPrepared, OSError) as reason:
            told |= {"ok": False, "text": str(reason)}
            self.here.event("backup_failed", f"The nightly backup failed: {reason}")
        write_safely(LAST, json.dumps(told))


def last_try() -> float:
    """When a nightly backup was last tried, seconds since 1970; 0 for never."""
    try:
        return float(json.loads(LAST.read_text())["at"])
    except (OSError, ValueError, KeyError, TypeError):
        return 0.0


def is_due(now: time.struct_time, last: float) -> bool:
    """Has ``HOUR`` o'clock passed since the last one? A clock that was set back makes none twice within an hour's doubt."""
    night = time.mktime((now.tm_year, now.tm_mon, now.tm_mday, HOUR, 0, 0, 0, 0, -1))
    if time.mktime(now) < night:
        night -= 86_400
    return last < night


def kept(names: list[str]) -> set[str]:
    """Of nightly backups by name: the newest of each of the last days that have one, and of each of the last weeks."""
    by_day: dict[str, str] = {}
    by_week: dict[str, str] = {}
    for name in sorted(names):
        try:
            made = time.strptime(name, NAME)
        except ValueError:
            continue
        by_day[time.strftime("%Y%m%d", made)] = name
        by_week[time.strftime("%G-%V", made)] = name
    return {*list(by_day.values())[-KEEP_DAYS:], *list(by_week.values())[-KEEP_WEEKS:]}


def prune(folder: Path) -> None:
    """Remove nightly backups that are not kept; files of other names stay."""
    names = [file.name for file in folder.glob("clear-lens-*.tar")]
    for name in names:
        try:
            time.strptime(name, NAME)
        except ValueError:
            continue
        if name not in kept(names):
            (folder / name).unlink(missing_ok=True)


def main(command: str, rest: list[str]) -> int:
    """backup, restore, verify-backup, stop, status, service, new-secret."""
    return {
        "backup": _backup,
        "restore": _restore,
        "verify-backup": _verify,
        "stop": _stop,
        "status": _status,
        "service": _service,
        "new-secret": _new_secret,
    }[command](rest)


def _parser(command: str, *arguments: str) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog=f"./clear-lens {command}")
    for name in arguments:
        parser.add_argument(name)
    return parser


def _backup(rest: list[str]) -> int:
    options = _parser("backup", "file").parse_args(rest)
    target = Path(options.file).absolute()
    if not target.parent.is_dir():
        raise NotPrepared(f"There is no folder {target.parent}.")
    say(write_backup(target, {**os.environ, **instance.environment()}))
    return 0


def _verify(rest: list[str]) -> int:
    options = _parser("verify-backup", "file").parse_args(rest)
    path = Path(options.file)
    try:
        head = read_backup(path)
        _check_dump(path)
    except NoBackup as reason:
        print(f"{path.name}: {reason}", file=sys.stderr)
        return 2 if not path.is_file() else 1
    say(f"{path.name} is whole: made {head['made_at']}, database and {head['photos']} photos.")
    return 0


def _check_dump(path: Path) -> None:
    """PostgreSQL's own program reads the dump's table of contents."""
    with tempfile.TemporaryDirectory() as folder:
        with path.open("rb") as file:
            for name, content in archive._members(file):
                if name == archive.DUMP:
                    with (Path(folder) / name).open("wb") as out:
                        shutil.copyfileobj(content, out)
                    break
        if subprocess.run(
            [binary("pg_restore"), "--list", str(Path(folder) / archive.DUMP)], capture_output=True
        ).returncode:
            raise NoBackup("PostgreSQL cannot read the database in it.")


def _restore(rest: list[str]) -> int:
    parser = _parser("restore", "file")
    parser.add_argument(
        "--into",
        metavar="FOLDER",
        help="an empty folder, beside what runs here; run it with CLEAR_LENS_VAR=FOLDER ./clear-lens run",
    )
    options = parser.parse_args(rest)
    path = Path(options.file).absolute()
    if options.into:
        folder = Path(options.into).absolute()
        environment = {**os.environ, "CLEAR_LENS_VAR": str(folder)}
        done = subprocess.run([sys.executable, str(ROOT / "clear-lens"), "restore", str(path)], env=environment)
        if done.returncode == 0:
            say(f"Start it with: CLEAR_LENS_VAR={folder} ./clear-lens run")
        return done.returncode
    prepare_python()
    try:
        head = read_backup(path)
    except NoBackup as reason:
        print(f"{path.name}: {reason} Nothing was changed.", file=sys.stderr)
        return 2 if not path.is_file() else 1
    here = Instance()
    here.take()
    cluster, media = Cluster(), Path(os.environ.get("CLEAR_LENS_MEDIA", VAR / "media"))
    there = cluster.secret_file.exists() or cluster.earlier_secret.exists() or (media.is_dir() and any(media.iterdir()))
    if there and not UNFINISHED.exists():
        raise NotPrepared(
            f"{VAR} holds data already, and a restore writes over nothing. Restore beside it with --into FOLDER, or move {VAR} away."
        )
    if UNFINISHED.exists():
        _clear_unfinished(cluster, media)
    _fill(path, cluster, media)
    say(f"Restored the backup of {head['made_at']}: database and {head['photos']} photos.")
    return 0


def _clear_unfinished(cluster: Cluster, media: Path) -> None:
    """What a restore that was cut off had begun; nothing else was ever there."""
    from launcher.places import place_of

    cluster.folder = place_of(cluster.name)
    if cluster.exists():
        cluster.end_leftover()
    shutil.rmtree(cluster.data, ignore_errors=True)
    shutil.rmtree(media / "photos", ignore_errors=True)
    cluster.secret_file.unlink(missing_ok=True)


def _fill(path: Path, cluster: Cluster, media: Path) -> None:
    write_safely(UNFINISHED, path.name)
    with tempfile.TemporaryDirectory(dir=VAR, prefix="restore-") as folder:
        read_backup(path, Path(folder))
        make_private(media)
        if (Path(folder) / "photos").exists():
            shutil.move(Path(folder) / "photos", media / "photos")
        _take_over_key(Path(folder) / archive.SHOP_KEY)
        dump = Path(folder) / archive.DUMP
        cluster.start()
        try:
            env = {
                **os.environ,
                **cluster.environment,
                "CLEAR_LENS_VAR": str(VAR),
                "CLEAR_LENS_MEDIA": str(media),
                "CLEAR_LENS_PATIENT": "1",
            }
            done = subprocess.run(
                [
                    binary("pg_restore"),
                    "-j2",
                    "--exit-on-error",
                    "--no-owner",
                    "--no-privileges",
                    "-d",
                    DATABASE,
                    "-U",
                    USER,
                    str(dump),
                ],
                env=archive.database_environment(env),
                capture_output=True,
                text=True,
            )
            if done.returncode:
                raise NotPrepared(f"The database could not be restored: {done.stderr.strip()[-400:]}")
            ready = subprocess.run(
                [str(PYTHON), "-m", "server.manage", "prepare_database"],
                cwd=ROOT,
                env=env,
                capture_output=True,
                text=True,
            )
            if ready.returncode:
                raise NotPrepared(f"The database could not be brought to this version: {ready.stderr.strip()[-400:]}")
        finally:
            cluster.stop()
    UNFINISHED.unlink()


def _take_over_key(key: Path) -> None:
    """The key of the shop that made the backup signs from now on; the public half of one that was here stays known."""
    own, public = VAR / archive.SHOP_KEY, VAR / "shop.pub"
    if not key.exists():
        return
    if public.exists() and own.exists() and own.read_bytes() != key.read_bytes():
        earlier = VAR / "shop-keys"
        earlier.mkdir(exist_ok=True, mode=0o700)
        public.rename(earlier / f"{time.strftime('%Y%m%d-%H%M%S')}.pub")
    write_safely(own, key.read_text())


def _stop(rest: list[str]) -> int:
    _parser("stop").parse_args(rest)
    if instance.stop():
        say("Stopped.")
        return 0
    left = instance.end_leftovers()
    cluster = Cluster()
    if cluster.secret_file.exists():
        from launcher.places import place_of

        cluster.folder = place_of(cluster.name)
        if cluster.exists() and cluster.server_pid() is not None:
            cluster.end_leftover()
            left.append("database")
    say(f"Ended what was left behind: {', '.join(left)}." if left else "Clear Lens does not run from this folder.")
    return 0 if left else 1


def _status(rest: list[str]) -> int:
    _parser("status").parse_args(rest)
    told = instance.running()
    if told is None:
        say("Clear Lens does not run from this folder.")
        return 1
    say(
        f"Running at {told.get('url', '(starting)')} since {time.strftime('%Y-%m-%d %H:%M:%S', time.localtime(told.get('launched', time.time())))}"
    )
    for name, one in sorted(told.get("children", {}).items()):
        again = told.get("restarts", {}).get(name, 0)
        say(f"  {name}: process {one['pid']}" + (f", restarted {again} times" if again else ""))
    if told.get("database"):
        say(
            f"  database: process {told['database']['pid']}"
            + (", read only: the disk is full" if told.get("read_only") else "")
        )
    say(f"  free on the disk: {disk.free_bytes(VAR) / 2**30:.1f} GB")
    try:
        last = json.loads(LAST.read_text())
        when, how = (
            time.strftime("%Y-%m-%d %H:%M", time.localtime(last["at"])),
            "done" if last["ok"] else f"FAILED: {last['text']}",
        )
        say(f"  last nightly backup: {when}, {how}")
    except (OSError, ValueError, KeyError):
        say("  last nightly backup: none yet")
    for event in told.get("events", [])[-5:]:
        say(f"  {event['at']} {event['text']}")
    return 0


UNIT = """\
# Save as /etc/systemd/system/clear-lens.service, then:
#   sudo systemctl daemon-reload && sudo systemctl enable --now clear-lens
# Options such as --lan or --cert go behind 'run'.
[Unit]
Description=Clear Lens, display repair bench
After=network-online.target
Wants=network-online.target

[Service]
Type=simple
User={user}
WorkingDirectory={root}
{var}ExecStart={python} {root}/clear-lens run
ExecStop={python} {root}/clear-lens stop
Restart=always
RestartSec=3
TimeoutStartSec=900
TimeoutStopSec=60
KillMode=mixed
UMask=0077

[Install]
WantedBy=multi-user.target
"""


def _service(rest: list[str]) -> int:
    _parser("service").parse_args(rest)
    import getpass

    var = f"Environment=CLEAR_LENS_VAR={VAR}\n" if os.environ.get("CLEAR_LENS_VAR") else ""
    print(UNIT.format(user=getpass.getuser(), root=ROOT, python=sys.executable, var=var), end="")
    return 0


def _new_secret(rest: list[str]) -> int:
    _parser("new-secret").parse_args(rest)
    Instance().take()
    make_private(VAR, passable=as_postgres())
    owner_ids()
    Cluster().new_secret()
    say("The database has a new secret; its data is as it was.")
    return 0
