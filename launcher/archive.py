"""Backups: one archive (tar) with the database's dump, then the photos, then a manifest of every file's SHA-256.

The dump is one snapshot of the database; photos are written before they are named in it and never change, so what the dump names is in the store
when the store is read after it.
"""

import contextlib
import hashlib
import io
import json
import os
import subprocess
import sys
import tarfile
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from launcher.database import binary
from launcher.instance import make_private
from launcher.paths import VAR
from launcher.prepare import NotPrepared

FORMAT = 1
HEAD, DUMP, MANIFEST = "clear-lens-backup.json", "database.dump", "manifest.json"
SHOP_KEY = "shop.key"  # signs the reports; without it those of a restored shop would be signed by a stranger
PIECE = 1024 * 1024


class NoBackup(Exception):
    """A file that is no backup, or a damaged one; the message says where it breaks."""


class Progress:
    """A line that is written over on a terminal, and nothing in a log."""

    def __init__(self, what: str, total: int) -> None:
        self.what, self.total, self.done, self._said = what, max(total, 1), 0, 0.0

    def add(self, count: int) -> None:
        self.done += count
        if sys.stderr.isatty() and time.monotonic() - self._said > 0.2:
            self._said = time.monotonic()
            print(f"\r{self.what}: {min(self.done / self.total, 1):4.0%}", end="", file=sys.stderr, flush=True)

    def end(self) -> None:
        if sys.stderr.isatty():
            print(f"\r{self.what}: 100%", file=sys.stderr, flush=True)


class _Hashed:
    """A reader that hashes what passes."""

    def __init__(self, file: IO[bytes], progress: Progress) -> None:
        self.file, self.progress, self.digest = file, progress, hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        data = self.file.read(size)
        self.digest.update(data)
        self.progress.add(len(data))
        return data


def _add(tar: tarfile.TarFile, name: str, file: IO[bytes], size: int, progress: Progress) -> dict[str, Any]:
    told = tarfile.TarInfo(name)
    told.size, told.mtime, told.mode = size, int(time.time()), 0o600
    hashed = _Hashed(file, progress)
    tar.addfile(told, hashed)  # type: ignore[arg-type]  # it only reads
    return {"sha256": hashed.digest.hexdigest(), "size": size}


def database_environment(env: dict[str, str]) -> dict[str, str]:
    """For PostgreSQL's own programs, from what the server's settings read."""
    names = {
        "PGHOST": "HOST",
        "PGPORT": "PORT",
        "PGDATABASE": "NAME",
        "PGUSER": "USER",
        "PGPASSWORD": "PASSWORD",
        "PGSSLMODE": "SSLMODE",
        "PGSSLROOTCERT": "SSLROOTCERT",
    }
    told = {name: env[f"CLEAR_LENS_DB_{key}"] for name, key in names.items() if env.get(f"CLEAR_LENS_DB_{key}")}
    return {**os.environ, **told, "PGCONNECT_TIMEOUT": "10"}


def _photos(media: Path) -> list[Path]:
    return sorted(file for file in media.glob("photos/*/*") if file.is_file() and not file.name.startswith("."))


def write_backup(target: Path, env: dict[str, str]) -> str:
    """Write a backup of a running instance; the sentence that says what is in it. Raises NotPrepared; then there is no file of that name."""
    media = Path(env["CLEAR_LENS_MEDIA"])
    make_private(VAR, passable=os.geteuid() == 0)
    part = target.with_name(f".{target.name}.part")
    with tempfile.TemporaryDirectory(dir=VAR, prefix="backup-") as folder:
        dump = Path(folder) / DUMP
        done = subprocess.run(
            [binary("pg_dump"), "-Fc", "-Z", "3", "-f", str(dump)],
            env=database_environment(env),
            capture_output=True,
            text=True,
        )
        if done.returncode:
            raise NotPrepared(f"The database could not be copied: {done.stderr.strip()[-400:]}")
        named = _named_photos(env)
        photos = _photos(media)
        total = dump.stat().st_size + sum(photo.stat().st_size for photo in photos)
        progress = Progress("Backing up", total)
        try:
            with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
                count, broken = _write(out, dump, photos, media, progress)
                out.flush()
                os.fsync(out.fileno())
            os.replace(part, target)
        except OSError as error:
            with contextlib.suppress(OSError):
                part.unlink()
            raise NotPrepared(f"The backup could not be written to {target}: {error.strerror}.") from None
    progress.end()
    if env.get("CLEAR_LENS_S3_BUCKET"):
        return f"Backed up the database. The photos are in the bucket {env['CLEAR_LENS_S3_BUCKET']}, which is backed up by its own means."
    missing = len(named - {photo.name for photo in photos})
    trouble = f" {missing} photos of the record are missing from the store." if missing else ""
    trouble += f" {broken} photos in the store are damaged." if broken else ""
    return f"Backed up the database and {count} photos, {target.stat().st_size / 2**20:.1f} MB.{trouble}"


def _named_photos(env: dict[str, str]) -> set[str]:
    asked = "select distinct sha256 from inspections_photo"
    done = subprocess.run(
        [binary("psql"), "-XqtA", "-c", asked], env=database_environment(env), capture_output=True, text=True
    )
    return set(done.stdout.split()) if done.returncode == 0 else set()


def _write(out: IO[bytes], dump: Path, photos: list[Path], media: Path, progress: Progress) -> tuple[int, int]:
    manifest, broken = {}, 0
    with tarfile.open(fileobj=out, mode="w", format=tarfile.GNU_FORMAT) as tar:
        head = json.dumps(
            {"format": FORMAT, "made_at": time.strftime("%Y-%m-%dT%H:%M:%S%z"), "photos": len(photos)}
        ).encode()
        manifest[HEAD] = _add(tar, HEAD, io.BytesIO(head), len(head), progress)
        with dump.open("rb") as file:
            manifest[DUMP] = _add(tar, DUMP, file, dump.stat().st_size, progress)
        key = VAR / SHOP_KEY
        if key.exists():
            with key.open("rb") as file:
                manifest[SHOP_KEY] = _add(tar, SHOP_KEY, file, key.stat().st_size, progress)
        for photo in photos:
            name = str(photo.relative_to(media))
            with photo.open("rb") as file:
                manifest[name] = _add(tar, name, file, os.fstat(file.fileno()).st_size, progress)
            broken += manifest[name]["sha256"] != photo.name
        text = json.dumps({"format": FORMAT, "files": manifest}).encode()
        _add(tar, MANIFEST, io.BytesIO(text), len(text), progress)
    return len(photos), broken


def _members(file: IO[bytes]) -> Iterator[tuple[str, IO[bytes]]]:
    try:
        with tarfile.open(fileobj=file, mode="r|") as tar:
            for member in tar:
                name = member.name
                if not member.isfile() or name.startswith("/") or ".." in Path(name).parts:
                    raise NoBackup(f"It holds '{name}', which no backup holds.")
                content = tar.extractfile(member)
                assert content is not None
                yield name, content
    except (tarfile.TarError, EOFError, OSError) as error:
        raise NoBackup(f"It is cut short or damaged: {error}.") from None


def read_backup(path: Path, keep_in: Path | None = None) -> dict[str, Any]:
    """Read all of a backup and check every hash; with ``keep_in``, put its files there. Its head; raises NoBackup."""
    try:
        file = path.open("rb")
    except OSError as error:
        raise NoBackup(f"Cannot read '{path}': {error.strerror}.") from None
    try:
        return _read_all(file, path.stat().st_size, keep_in)
    except (tarfile.TarError, EOFError) as error:
        raise NoBackup(f"It is cut short or damaged: {error}.") from None


def _read_all(file: IO[bytes], size: int, keep_in: Path | None) -> dict[str, Any]:
    progress = Progress("Checking" if keep_in is None else "Restoring", size)
    seen: dict[str, dict[str, Any]] = {}
    head: dict[str, Any] | None = None
    manifest: dict[str, Any] | None = None
    with file:
        for name, content in _members(file):
            hashed = _Hashed(content, progress)
            if name in (HEAD, MANIFEST):
                told = _json(hashed.read(), name)
                if name == HEAD:
                    head = told
                    _check_format(head)
                else:
                    manifest = told["files"]
            elif head is None:
                raise NoBackup("It is no backup of Clear Lens.")
            else:
                _pass_on(hashed, None if keep_in is None else keep_in / name)
            seen[name] = {"sha256": hashed.digest.hexdigest(), "size": content.tell()}
    progress.end()
    if head is None:
        raise NoBackup("It is no backup of Clear Lens.")
    if manifest is None:
        raise NoBackup("It is cut short: its manifest is missing.")
    seen.pop(MANIFEST)
    for name in sorted({*manifest, *seen}):
        if manifest.get(name) != seen.get(name):
            why = "missing" if name not in seen else "not in the manifest" if name not in manifest else "damaged"
            raise NoBackup(f"'{name}' in it is {why}.")
    return {**head, "photos": sum(name.startswith("photos/") for name in seen)}


def _json(data: bytes, name: str) -> dict[str, Any]:
    try:
        return dict(json.loads(data))
    except (ValueError, TypeError):
        raise NoBackup(f"'{name}' in it cannot be read.") from None


def _check_format(head: dict[str, Any]) -> None:
    if not isinstance(head.get("format"), int):
        raise NoBackup("It is no backup of Clear Lens.")
    if head["format"] > FORMAT:
        raise NoBackup(
            f"It was made by a newer version (format {head['format']}, this one reads up to {FORMAT}). Update Clear Lens first."
        )


def _pass_on(content: _Hashed, target: Path | None) -> None:
    if target is None:
        while content.read(PIECE):
            pass
        return
    target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    with os.fdopen(os.open(target, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
        while piece := content.read(PIECE):
            out.write(piece)
        out.flush()
        os.fsync(out.fileno())
