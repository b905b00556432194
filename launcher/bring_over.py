"""A cluster of an earlier layout (superuser 'app', no checksums) is brought over by dump and restore; the old one is kept beside it."""

import os
import subprocess
import time
from pathlib import Path

from launcher.database import DATABASE, USER, Cluster, binary
from launcher.instance import write_safely
from launcher.paths import VAR
from launcher.places import place_of
from launcher.prepare import NotPrepared, say

COUNTS = (
    "select string_agg(format('%s=%s', relname, n_live), ',' order by relname) from (select relname, (xpath('/row/c/text()', query_to_xml("
    "format('select count(*) as c from public.%I', relname), false, true, '')))[1]::text as n_live from pg_class where relkind = 'r' and "
    "relnamespace = 'public'::regnamespace) t"
)


def is_earlier(cluster: Cluster) -> bool:
    """Was this cluster made by an earlier version? One that was half brought over when the launcher was killed is put back first."""
    note = _note(cluster)
    if note.exists():
        cluster.folder = place_of(cluster.name)
        _put_back(cluster, Path(note.read_text()))
        note.unlink()
    return cluster.earlier_secret.exists() and not cluster.secret_file.exists()


def _note(cluster: Cluster) -> Path:
    return VAR / f"{cluster.name}.bringing-over"


def _put_back(cluster: Cluster, kept: Path) -> None:
    """The old cluster takes its name again."""
    if not kept.exists():
        return
    cluster.end_leftover()
    if cluster.exists():
        os.rename(cluster.data, cluster.folder / f"data-failed-{time.time_ns()}")
    os.rename(kept, cluster.data)
    cluster.secret_file.unlink(missing_ok=True)


def bring_over(cluster: Cluster) -> None:
    """Dump, make anew, restore, compare the number of rows of every table; only then does the new one take the old one's name.

    Whatever fails leaves the old cluster as it was.
    """
    cluster.folder = place_of(cluster.name)
    if not cluster.exists():
        raise NotPrepared(
            f"The secret {cluster.earlier_secret} of a database is there, but no database in {cluster.data}. Bring it back, or move the secret away "
            "to begin with an empty one."
        )
    say("Bringing the database of the earlier version over (once)")
    dump = VAR / "bring-over.dump"
    password = cluster.earlier_secret.read_text().strip()
    cluster.passwords = {"postgres": password, USER: password}
    cluster.launch()
    old = {**os.environ, "PGPASSWORD": password}
    where = ["-h", "127.0.0.1", "-p", str(cluster.port), "-U", USER, "-d", DATABASE]
    try:
        there = _run(
            [
                binary("psql"),
                "-XqtA",
                *where[:-1],
                "postgres",
                "-c",
                f"select 1 from pg_database where datname = '{DATABASE}'",
            ],
            old,
        )
        before = _run([binary("psql"), "-XqtA", *where, "-c", COUNTS], old) if there else ""
        if there:
            _run([binary("pg_dump"), "-Fc", "-f", str(dump), *where], old)
    finally:
        cluster.stop()
    kept = cluster.folder / f"data-before-{time.strftime('%Y%m%d-%H%M%S')}"
    write_safely(_note(cluster), str(kept))
    os.rename(cluster.data, kept)
    try:
        cluster.start()
        if there:
            new = {**os.environ, "PGPASSWORD": cluster.passwords[USER]}
            where[3] = str(cluster.port)
            _run([binary("pg_restore"), "--exit-on-error", "--no-owner", "--no-privileges", *where, str(dump)], new)
            after = _run([binary("psql"), "-XqtA", *where, "-c", COUNTS], new)
            if before != after:
                raise NotPrepared("The database that was brought over does not have the rows of the old one.")
    except BaseException:
        _put_back(cluster, kept)
        _note(cluster).unlink(missing_ok=True)
        raise
    cluster.stop()
    os.rename(cluster.earlier_secret, cluster.earlier_secret.with_name(f"{cluster.earlier_secret.name}-before"))
    _note(cluster).unlink()
    dump.unlink(missing_ok=True)
    say(f"Done. The old database is kept in {kept}; remove it when all is well.")


def _run(command: list[str], env: dict[str, str]) -> str:
    done = subprocess.run(command, env=env, capture_output=True, text=True)
    if done.returncode:
        raise NotPrepared(
            f"{os.path.basename(command[0])} failed: {done.stderr.strip()[-500:]}. The old database is as it was."
        )
    return done.stdout.strip()
