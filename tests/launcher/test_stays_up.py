"""The launcher with real processes: who dies is restarted, who is killed leaves nothing in the way, nothing is ever deleted."""

import json
import os
import signal
import socket
import stat
import subprocess
import sys
import time
from pathlib import Path

from benchmarks.client import Caller, code, new_job
from benchmarks.shop import LAUNCHER, wait_for
from server.common.processes import started_ticks
from tests.launcher.helpers import ShopCase


class StaysUp(ShopCase):
    def test_a_week_in_the_life_of_a_launcher(self) -> None:
        shop = self.shop().start()
        self.assertEqual(shop.run("person", "Ada", "--lead", given="long-enough-1\n").returncode, 0)
        self._many_streams(shop)
        for name in ("worker", "web", "database"):
            before = shop.pid(name)
            shop.kill(name)
            shop.wait_until(
                lambda shop, before=before, name=name: shop.pid(name) != before and shop.up(), 30, f"{name} comes back"
            )
        texts = " ".join(event["text"] for event in shop.told["events"])
        for words in (
            "The analysing process ended by itself (signal 9)",
            "The web server ended by itself",
            "The database was gone",
        ):
            self.assertIn(words, texts)
        before = shop.pid("database")
        shop.kill("database", signal.SIGSTOP)  # it is there and says nothing
        shop.wait_until(lambda shop: shop.pid("database") != before and shop.up(), 60, "a deaf database is replaced")
        self._files_are_private(shop.folder)
        self._commands(shop)
        self._killed_launcher(shop)
        self._signals(shop)

    def _many_streams(self, shop) -> None:  # type: ignore[no-untyped-def]
        """Open live links cost no database connection: forty of them, where a process has twelve, stop nobody."""
        bench = Caller(shop.told["url"]).sign_in("Ada")
        _, run = new_job(bench, "Watched by many")
        glass = code(bench, run, "glass")
        count = "select count(*) from pg_stat_activity where datname = 'clear_lens'"
        before = int(shop.sql(count)[0][0])
        links = []
        for _ in range(40):
            link = socket.create_connection((bench.host, bench.port), 5)
            link.sendall(f"GET /g/{glass}/events HTTP/1.1\r\nHost: {bench.host}\r\n\r\n".encode())
            self.addCleanup(link.close)
            links.append(link)
        for link in links:
            link.settimeout(10)
            told = b""
            while b"hello" not in told:
                told += link.recv(4096)
        started = time.monotonic()
        for _ in range(20):
            bench.ok("GET", "/api/jobs")
        self.assertLess(time.monotonic() - started, 10)
        self.assertLessEqual(int(shop.sql(count)[0][0]), before + 12)

    def _files_are_private(self, folder: Path) -> None:
        for file in (
            folder / "pg.secrets.json",
            folder / "django.secret",
            folder / "instance.json",
            folder / "ballast",
            folder / "web.log",
        ):
            self.assertEqual(stat.S_IMODE(file.stat().st_mode) & 0o077, 0, file)
        self.assertEqual(stat.S_IMODE((folder / "media").stat().st_mode), 0o700)
        self.assertEqual(stat.S_IMODE(folder.stat().st_mode) & 0o066, 0)

    def _commands(self, shop) -> None:  # type: ignore[no-untyped-def]
        second = shop.run("run")
        self.assertEqual(second.returncode, 2)
        self.assertIn(f"already running from this folder at {shop.told['url']}", second.stderr)
        self.assertIn("./clear-lens stop", second.stderr)
        told = shop.run("status")
        self.assertEqual(told.returncode, 0)
        for words in (
            shop.told["url"],
            "worker: process",
            "free on the disk",
            "last nightly backup: none yet",
            "was restarted",
        ):
            self.assertIn(words, told.stdout)

    def _killed_launcher(self, shop) -> None:  # type: ignore[no-untyped-def]
        """No orphan blocks the next start."""
        web, database = shop.pid("web"), shop.pid("database")
        shop.kill("launcher")
        shop.process.wait()
        wait_for(lambda: started_ticks(web) is None, 10, "the web server ends with its launcher")
        self.assertEqual(shop.run("status").returncode, 1)
        shop.start()
        self.assertNotEqual(shop.pid("database"), database)
        answer = shop.run("person", "Ada", given="long-enough-2\n")
        self.assertEqual(answer.returncode, 0, answer.stderr)

    def _signals(self, shop) -> None:  # type: ignore[no-untyped-def]
        for number in (signal.SIGHUP, signal.SIGTERM, signal.SIGINT):
            shop.process.send_signal(number)
            time.sleep(0.05)
        self.assertEqual(shop.process.wait(40), 0)
        self.assertIn("Stopped.", shop.log())
        self.assertFalse((shop.folder / "pg" / "data" / "postmaster.pid").exists())
        self.assertEqual(shop.run("stop").returncode, 1)

    def test_a_launcher_that_is_told_to_stop_while_it_starts_leaves_nothing(self) -> None:
        shop = self.shop(8710)
        process = subprocess.Popen(
            [sys.executable, LAUNCHER, "run"], env=shop.env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
        )
        wait_for(lambda: (shop.folder / "pg").exists(), 30, "it begins")
        process.send_signal(signal.SIGTERM)
        process.communicate(timeout=40)
        self.assertEqual(process.returncode, 0)
        self.assertFalse((shop.folder / "pg" / "data" / "postmaster.pid").exists())


class NeverDeleted(ShopCase):
    def test_a_database_without_its_secret_is_refused_and_can_get_a_new_one(self) -> None:
        shop = self.shop(8720).start()
        shop.run("person", "Ada", given="long-enough-1\n")
        self.assertEqual(shop.run("stop").returncode, 0)
        secret = shop.folder / "pg.secrets.json"
        secret.rename(secret.with_suffix(".lost"))
        refused = shop.run("run")
        self.assertEqual(refused.returncode, 2)
        for words in (str(secret), "Nothing was changed", "new-secret"):
            self.assertIn(words, refused.stderr)
        self.assertTrue((shop.folder / "pg" / "data" / "PG_VERSION").exists())
        self.assertEqual(shop.run("new-secret").returncode, 0)
        shop.start()
        self.assertIn("Ada can sign in", shop.run("person", "Ada", given="long-enough-1\n").stdout)
        told = shop.told["environment"]
        self.assertEqual(self.sql(told, "select count(*) from auth_user"), "1")
        self.assertEqual(self.sql(told, "select rolsuper, rolcreatedb from pg_roles where rolname = 'app'"), "f|t")
        self.assertEqual(self.sql(told, "show data_checksums"), "on")
        self.assertEqual(
            self.sql(told, "select pg_get_userbyid(datdba) from pg_database where datname = 'clear_lens'"), "app"
        )
        self.assertEqual(self.sql(told, "create extension fuzzystrmatch; drop extension fuzzystrmatch; select 1"), "1")

    def test_a_database_that_was_moved_away_makes_room_for_an_empty_one(self) -> None:
        shop = self.shop(8723).start()
        shop.run("person", "Ada", given="long-enough-1\n")
        shop.run("stop")
        for name in ("pg", "pg.secrets.json"):
            (shop.folder / name).rename(shop.folder / f"{name}-away")
        shop.start()
        self.assertEqual(
            self.sql(shop.told["environment"], "select count(*) from auth_user"), "0", "new, and ready to work"
        )
        self.assertTrue((shop.folder / "pg-away" / "data" / "PG_VERSION").exists())

    def test_a_folder_that_is_no_database_is_not_touched(self) -> None:
        shop = self.shop(8721)
        data = shop.folder / "pg" / "data"
        data.mkdir(parents=True)
        (data / "precious").write_text("x")
        refused = shop.run("run")
        self.assertIn("not empty", refused.stderr)
        self.assertEqual((refused.returncode, (data / "precious").read_text()), (2, "x"))

    @staticmethod
    def sql(env: dict[str, str], text: str) -> str:
        where = [
            "-h",
            env["CLEAR_LENS_DB_HOST"],
            "-p",
            env["CLEAR_LENS_DB_PORT"],
            "-U",
            env["CLEAR_LENS_DB_USER"],
            "-d",
            env["CLEAR_LENS_DB_NAME"],
        ]
        done = subprocess.run(
            ["psql", "-XqtA", *where, "-c", text],
            env={**os.environ, "PGPASSWORD": env["CLEAR_LENS_DB_PASSWORD"]},
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout.strip()

    def test_a_tree_that_was_moved_finds_its_database_and_a_copy_does_not_take_it(self) -> None:
        shop = self.shop(8722)
        home = shop.folder.parent
        deep = (
            home / ("long-" * 12) / "var"
        )  # too long for a socket's name: the cluster goes to the system's temporary storage
        deep.parent.mkdir()
        deep.parent.chmod(0o711)
        shop.env["CLEAR_LENS_VAR"] = str(deep)
        shop.folder = deep
        shop.start()
        place = Path(json.loads((deep / "pg.place").read_text())["folder"])
        self.addCleanup(subprocess.run, ["rm", "-rf", str(place.parent)])
        self.assertFalse(place.is_relative_to(home))
        self.assertEqual(stat.S_IMODE(place.stat().st_mode), 0o700)
        shop.run("person", "Ada", given="long-enough-1\n")
        shop.run("stop")
        moved = home / ("moved-" * 11) / "var"
        deep.parent.rename(moved.parent)
        shop.env["CLEAR_LENS_VAR"], shop.folder = str(moved), moved
        shop.start()
        self.assertEqual(self.sql(shop.told["environment"], "select count(*) from auth_user"), "1")
        shop.run("stop")
        copy = home / ("copy-" * 12) / "var"
        subprocess.run(["cp", "-a", str(moved.parent), str(copy.parent)], check=True)
        shop.env["CLEAR_LENS_VAR"] = str(copy)
        refused = shop.run("run")
        self.assertIn(f"is a copy: the database in {place.parent} belongs to {moved}", refused.stderr)
        shop.env["CLEAR_LENS_VAR"] = str(moved)
        place.parent.rename(place.parent.with_suffix(".away"))
        refused = shop.run("run")
        self.assertIn("that folder is gone", refused.stderr)
        place.parent.symlink_to(place.parent.with_suffix(".away"))
        self.addCleanup(subprocess.run, ["rm", "-rf", str(place.parent.with_suffix(".away"))])
        self.assertIn("not a private folder", shop.run("run").stderr)
