"""Where a database cluster lies: in var/ where user postgres can get to it, else in a private folder of the system's temporary storage."""

import json
import os
import pwd
import secrets
import stat
from pathlib import Path

from launcher.instance import write_safely
from launcher.paths import ROOT, VAR
from launcher.prepare import NotPrepared

MAX_SOCKET_PATH = 90
ELSEWHERE = Path("/var/tmp")


def as_postgres() -> bool:
    """PostgreSQL refuses to run as root, so as root it belongs to user postgres."""
    return os.geteuid() == 0


def owner_ids() -> tuple[int, int]:
    if as_postgres():
        account = pwd.getpwnam("postgres")
        return account.pw_uid, account.pw_gid
    return os.geteuid(), os.getegid()


def _fits(folder: Path) -> bool:
    passable = all(parent.stat().st_mode & stat.S_IXOTH for parent in VAR.parents)
    return (passable or not as_postgres()) and len(str(folder / "sock" / ".s.PGSQL.65535")) <= MAX_SOCKET_PATH


def check_private(folder: Path) -> None:
    """Raises NotPrepared unless it is a real folder of our own: others may write into a shared temporary folder, links too."""
    told = folder.lstat()
    if (
        stat.S_ISLNK(told.st_mode)
        or not stat.S_ISDIR(told.st_mode)
        or told.st_uid not in (os.geteuid(), owner_ids()[0])
        or told.st_mode & 0o022
    ):
        raise NotPrepared(
            f"{folder} is not a private folder of this user, so no database is kept there. Look who made it, and move it away."
        )


def place_of(name: str) -> Path:
    """The cluster's folder, as written down at its making; a new place, written down, where there was none.

    Raises NotPrepared when the folder that was written down is gone, or belongs to another tree that is still there.
    """
    note = VAR / f"{name}.place"
    if note.exists():
        folder = Path(json.loads(note.read_text())["folder"])
        if not folder.is_absolute():
            return VAR / folder
        if not folder.parent.exists():
            raise NotPrepared(
                f"The database of {VAR} was kept in {folder}, and that folder is gone. Bring it back from a backup (./clear-lens restore FILE after "
                f"moving {note} away), or move {note} away to begin with an empty database."
            )
        check_private(folder.parent)
        _check_ours(folder.parent, name)
        return folder
    folder = VAR / name
    if (folder / "data" / "PG_VERSION").exists() or _fits(folder):
        write_safely(note, json.dumps({"folder": name}))
        return folder
    return _elsewhere(name, note)


def _elsewhere(name: str, note: Path) -> Path:
    import hashlib  # only needed to find what earlier versions made

    earlier = ELSEWHERE / f"clear-lens-{os.geteuid()}-{hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]}"
    home = (
        earlier
        if (earlier / name / "data" / "PG_VERSION").exists()
        else ELSEWHERE / f"clear-lens-{secrets.token_hex(8)}"
    )
    if home is not earlier:
        home.mkdir(mode=0o700)  # refused where the name exists, whatever it is
        home.chmod(0o711)
    check_private(home)
    write_safely(home / "owner.json", json.dumps({"var": str(VAR)}))
    write_safely(note, json.dumps({"folder": str(home / name)}))
    return home / name


def _check_ours(home: Path, name: str) -> None:
    """A tree that was moved keeps its database; one that was copied must not take the first one's."""
    try:
        var = Path(json.loads((home / "owner.json").read_text())["var"])
    except (OSError, ValueError, KeyError):
        return
    if var == VAR:
        return
    if (var / f"{name}.place").exists():
        raise NotPrepared(
            f"{VAR} is a copy: the database in {home} belongs to {var}. Start there, or move {VAR / name}.place and {VAR / name}.secrets.json "
            "away to begin with an empty database here, and bring data over with ./clear-lens backup and restore."
        )
    write_safely(home / "owner.json", json.dumps({"var": str(VAR)}))
