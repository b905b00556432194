"""Backups that restore, a database of the earlier layout that is brought over, certificates, units."""

import contextlib
import io
import json
import os
import re
import shutil
import ssl
import subprocess
import tarfile
import tempfile
import time
from pathlib import Path
from unittest import TestCase, mock

from benchmarks.shop import ROOT
from launcher import archive, bring_over, keeping, tls
from launcher.archive import NoBackup, read_backup
from launcher.database import free_port
from launcher.prepare import NotPrepared
from tests.launcher.helpers import ShopCase

OLD_LAYOUT = str(Path(__file__).parent / "old_layout.sh")


class Backups(ShopCase):
    def test_what_was_backed_up_is_restored_elsewhere(self) -> None:
        shop = self.shop(8730).start()
        shop.run("person", "Ada", "--lead", given="long-enough-1\n")
        photo = shop.folder / "media" / "photos" / "ab" / "ab"
        photo.parent.mkdir(parents=True)
        photo.write_bytes(b"x" * 3_000_000)
        elsewhere = tempfile.mkdtemp(dir=shop.folder.parent)
        done = shop.run("backup", "mine.tar", cwd=elsewhere)  # a relative name is the caller's
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("the database and 1 photos", done.stdout)
        file = Path(elsewhere) / "mine.tar"
        self.assertEqual(file.stat().st_mode & 0o077, 0)
        self.assertEqual(shop.run("verify-backup", str(file)).returncode, 0)
        refused = shop.run("restore", str(file))
        self.assertEqual(refused.returncode, 1)
        self.assertIn("already running", refused.stderr)
        shop.stop()
        refused = shop.run("restore", str(file))
        self.assertIn("writes over nothing", refused.stderr)
        self.assertEqual(refused.returncode, 1)
        other = self.shop(8731)
        done = shop.run("restore", str(file), "--into", str(other.folder))
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn(f"CLEAR_LENS_VAR={other.folder} ./clear-lens run", done.stdout)
        other.start()
        self.assertEqual((other.folder / "media" / "photos" / "ab" / "ab").read_bytes(), photo.read_bytes())
        self.assertIn("can sign in", other.run("person", "Ada", given="long-enough-1\n").stdout)
        self._interrupted(other, file)

    def _interrupted(self, other, file: Path) -> None:  # type: ignore[no-untyped-def]
        """A restore that was cut off is begun anew, and not run meanwhile."""
        other.stop()
        (other.folder / "restore-unfinished").write_text("x")
        refused = other.run("run")
        self.assertIn("did not finish", refused.stderr)
        self.assertEqual(other.run("restore", str(file)).returncode, 0)
        self.assertFalse((other.folder / "restore-unfinished").exists())

    def test_an_earlier_layout_is_brought_over_with_every_row(self) -> None:
        shop = self.shop(8732)
        subprocess.run(["sh", OLD_LAYOUT, str(shop.folder), str(free_port(54555))], check=True)
        shop.start()
        self.assertIn("Bringing the database of the earlier version over", shop.log())
        told = shop.told["environment"]
        where = ["-h", told["CLEAR_LENS_DB_HOST"], "-p", told["CLEAR_LENS_DB_PORT"], "-U", "app", "-d", "clear_lens"]
        sql = "select count(*), max(words) from kept; show data_checksums; select rolsuper from pg_roles where rolname = 'app'"
        done = subprocess.run(
            ["psql", "-XqtA", *where, "-c", sql],
            env={**os.environ, "PGPASSWORD": told["CLEAR_LENS_DB_PASSWORD"]},
            capture_output=True,
            text=True,
            check=True,
        )
        self.assertEqual(done.stdout.split("\n")[:3], ["1000|row 999", "on", "f"])
        self.assertTrue(list((shop.folder / "pg").glob("data-before-*")), "the old one is kept")
        # PostgreSQL's own checker finds nothing wrong with what was made
        checker = bring_over.binary("pg_amcheck")
        checked = subprocess.run(
            [
                checker,
                "--install-missing",
                "-h",
                "127.0.0.1",
                "-p",
                told["CLEAR_LENS_DB_PORT"],
                "-U",
                "postgres",
                "clear_lens",
            ],
            env={**os.environ, "PGPASSWORD": json.loads((shop.folder / "pg.secrets.json").read_text())["postgres"]},
            capture_output=True,
            text=True,
        )
        self.assertEqual((checked.returncode, checked.stdout), (0, ""), checked.stderr)

    def test_bringing_over_that_is_cut_off_is_put_back(self) -> None:
        shop = self.shop(8733)
        subprocess.run(["sh", OLD_LAYOUT, str(shop.folder), str(free_port(54556))], check=True)
        pg = shop.folder / "pg"
        kept = pg / "data-before-1"
        (pg / "data").rename(kept)  # as if it had been killed just then
        (shop.folder / "pg.bringing-over").write_text(str(kept))
        (shop.folder / "pg.secrets.json").write_text("{}")
        shop.start()
        self.assertIn("Done. The old database is kept", shop.log())


class Archives(TestCase):
    """The archive itself, without a database."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        media, dump = self.folder / "media", self.folder / "d"
        (media / "photos" / "aa").mkdir(parents=True)
        for number in range(3):
            (media / "photos" / "aa" / f"aa{number}").write_bytes(bytes([number]) * 1000)
        dump.write_bytes(b"dump" * 500)
        self.file = self.folder / "b.tar"
        with self.file.open("wb") as out:
            archive._write(out, dump, archive._photos(media), media, archive.Progress("", 1))

    def test_it_is_an_ordinary_tar_with_a_manifest_of_hashes(self) -> None:
        with tarfile.open(self.file) as tar:
            names = tar.getnames()
            manifest = json.load(tar.extractfile("manifest.json"))  # type: ignore[arg-type]
        self.assertEqual((names[0], names[1], names[-1]), ("clear-lens-backup.json", "database.dump", "manifest.json"))
        self.assertEqual(set(manifest["files"]), set(names) - {"manifest.json"})
        self.assertEqual(read_backup(self.file)["photos"], 3)

    def test_every_damage_is_found(self) -> None:
        whole = self.file.read_bytes()
        with tarfile.open(self.file) as tar:
            places = [(member.name, member.offset_data + member.size // 2) for member in tar]
        for name, at in places:
            self.file.write_bytes(whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :])
            with self.assertRaises(NoBackup, msg=name):
                read_backup(self.file)
        for length in (0, 10, 512, 3000, places[-1][1]):  # behind the manifest there is only padding
            self.file.write_bytes(whole[:length])
            with self.assertRaises(NoBackup, msg=str(length)):
                read_backup(self.file)

    def test_names_that_lead_elsewhere_and_newer_formats_are_refused(self) -> None:
        head = json.dumps({"format": archive.FORMAT + 1}).encode()
        for name, data, words in (
            ("../evil", b"x", "no backup holds"),
            ("/etc/evil", b"x", "no backup holds"),
            (archive.HEAD, head, "newer version"),
            (archive.HEAD, b"{}", "no backup of Clear Lens"),
            ("other.txt", b"x", "no backup of Clear Lens"),
        ):
            with tarfile.open(self.file, "w") as tar:
                told = tarfile.TarInfo(name)
                told.size = len(data)
                tar.addfile(told, io.BytesIO(data))
            with self.assertRaisesRegex(NoBackup, words):
                read_backup(self.file, self.folder / "out")
        self.assertFalse((self.folder / "evil").exists())


class Nights(TestCase):
    def test_a_night_that_passed_is_due_once(self) -> None:
        def at(text: str) -> time.struct_time:
            return time.strptime(text, "%Y-%m-%d %H:%M")

        last = time.mktime(at("2026-11-28 02:00"))
        self.assertFalse(keeping.is_due(at("2026-11-29 01:59"), last + 60))
        self.assertTrue(keeping.is_due(at("2026-11-29 02:00"), last + 60))
        self.assertTrue(
            keeping.is_due(at("2026-11-29 09:00"), last + 60), "a bench that slept is backed up after its next start"
        )
        self.assertFalse(keeping.is_due(at("2026-11-29 09:00"), time.mktime(at("2026-11-29 02:01"))))
        self.assertTrue(keeping.is_due(at("2026-11-29 09:00"), 0.0))

    def test_seven_days_and_four_weeks_are_kept(self) -> None:
        day, names = 86_400, []
        first = time.mktime(time.strptime("2026-01-05", "%Y-%m-%d"))  # a Monday
        for number in range(60):
            names.append(time.strftime(keeping.NAME, time.localtime(first + number * day + 7200)))
        kept = keeping.kept([*names, "clear-lens-mine.tar"])
        self.assertTrue(set(names[-7:]) <= kept)
        self.assertEqual(kept, set(names[-7:]) | {names[41], names[48]})

    def test_files_of_other_names_are_never_removed(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for number in range(30):
                (Path(folder) / time.strftime(keeping.NAME, time.localtime(1_790_000_000 + 86_400 * number))).touch()
            (Path(folder) / "clear-lens-before-the-move.tar").touch()
            keeping.prune(Path(folder))
            self.assertLessEqual(len(list(Path(folder).iterdir())), 12)
            self.assertTrue((Path(folder) / "clear-lens-before-the-move.tar").exists())


class Units(TestCase):
    def test_the_unit_is_one_that_systemd_takes(self) -> None:
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            keeping.main("service", [])
        text = out.getvalue()
        self.assertIn("/etc/systemd/system/clear-lens.service", text)
        checker = shutil.which("systemd-analyze")
        if checker is None:
            self.assertTrue(re.search(r"^ExecStart=/\S+ /\S+/clear-lens run$", text, re.M))
            return
        with tempfile.TemporaryDirectory() as folder:
            unit = Path(folder) / "clear-lens.service"
            unit.write_text(text)
            done = subprocess.run([checker, "verify", str(unit)], capture_output=True, text=True)
        self.assertEqual([line for line in done.stderr.splitlines() if "clear-lens.service" in line], [])


class Certificates(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(mock.patch.object(tls, "VAR", self.folder))

    def test_a_leaf_with_the_right_names_that_openssl_takes(self) -> None:
        names = tls.Names.of_this_machine("192.0.2.7", ["bench.example"])
        self.assertEqual(names.shown, "bench.example")
        key, certificate, fingerprint = tls.certificate_for(names, None, None)
        context = ssl.create_default_context(cafile=str(certificate))
        context.load_cert_chain(certificate, key)
        command = ["openssl", "x509", "-in", certificate, "-noout", "-text", "-fingerprint", "-sha256"]
        told = subprocess.run(command, capture_output=True, text=True).stdout
        for words in (
            "CA:FALSE",
            "TLS Web Server Authentication",
            "DNS:bench.example",
            "IP Address:192.0.2.7",
            "DNS:localhost",
            fingerprint,
        ):
            self.assertIn(words, told)
        self.assertEqual(tls.certificate_for(names, None, None)[2], fingerprint, "kept while it is good")
        other = tls.certificate_for(tls.Names.of_this_machine("192.0.2.8"), None, None)
        self.assertNotEqual(other[2], fingerprint, "made anew for a new address")
        self.assertEqual(key.stat().st_mode & 0o077, 0)

    def test_a_certificate_of_the_shops_own_needs_its_key(self) -> None:
        names = tls.Names.of_this_machine("127.0.0.1")
        with self.assertRaisesRegex(NotPrepared, "--key"):
            tls.certificate_for(names, "x.pem", None)
        with self.assertRaisesRegex(NotPrepared, "There is no file"):
            tls.certificate_for(names, "x.pem", str(ROOT / "nothing.pem"))
