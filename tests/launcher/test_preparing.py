"""The launcher: what it says when it cannot install, and how it avoids collisions."""

import socket
from types import SimpleNamespace
from unittest import TestCase, mock

from launcher import database, prepare
from launcher.checks import Tally
from launcher.prepare import NotPrepared, debian_packages

MISSING = {"postgresql": lambda: False, "fonts-dejavu-core": lambda: True}


class DebianPackages(TestCase):
    def test_an_ordinary_user_without_sudo_gets_the_one_line(self) -> None:
        with (
            mock.patch.object(prepare.os, "geteuid", return_value=1000),
            mock.patch.object(prepare.shutil, "which", return_value=None),
            self.assertRaisesRegex(NotPrepared, "sudo apt-get install -y --no-install-recommends postgresql$"),
        ):
            debian_packages(MISSING)

    def test_sudo_that_asks_for_a_password_is_not_used(self) -> None:
        refused = SimpleNamespace(returncode=1)
        with (
            mock.patch.object(prepare.os, "geteuid", return_value=1000),
            mock.patch.object(prepare.shutil, "which", return_value="/usr/bin/sudo"),
            mock.patch.object(prepare.subprocess, "run", return_value=refused),
            self.assertRaises(NotPrepared),
        ):
            debian_packages(MISSING)

    def test_what_is_optional_stops_nothing(self) -> None:
        said: list[str] = []
        with (
            mock.patch.object(prepare, "SERVE_PACKAGES", {}),
            mock.patch.object(prepare, "OPTIONAL_PACKAGES", {"tesseract-ocr": lambda: False}),
            mock.patch.object(prepare.os, "geteuid", return_value=1000),
            mock.patch.object(prepare.shutil, "which", return_value=None),
            mock.patch.object(prepare, "say", said.append),
            mock.patch.object(prepare, "prepare_python") as python,
            mock.patch.object(prepare, "build_web"),
        ):
            prepare.prepare_all()
        python.assert_called_once()
        self.assertIn("all else works", said[0])

    def test_nothing_missing_runs_nothing(self) -> None:
        with mock.patch.object(prepare.subprocess, "run", side_effect=AssertionError("nothing to run")):
            debian_packages({"postgresql": lambda: True})


class Ports(TestCase):
    def test_a_port_in_use_is_passed_over(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            self.assertNotEqual(database.free_port(port), port)

    def test_a_port_that_another_instance_takes_in_the_same_moment_is_left_to_it(self) -> None:
        cluster, taken = database.Cluster("pg-none"), 'could not bind IPv4 address "127.0.0.1": Address already in use'
        with (
            mock.patch.object(cluster, "end_leftover"),
            mock.patch.object(database, "free_port", side_effect=[50001, 50002]),
            mock.patch.object(cluster, "_launch_once", side_effect=[taken, None]),
        ):
            cluster.launch()
        self.assertEqual(cluster.port, 50002)
        with (
            mock.patch.object(cluster, "end_leftover"),
            mock.patch.object(cluster, "_launch_once", return_value="the disk is gone") as tried,
            self.assertRaisesRegex(NotPrepared, "the disk is gone"),
        ):
            cluster.launch()
        self.assertEqual(tried.call_count, 1)


class Counting(TestCase):
    def test_failures_of_every_runner_are_counted(self) -> None:
        with mock.patch("launcher.checks.say"):
            tally = Tally()
            tally.add("core", 0, "Ran 12 tests in 1s\n\nOK")
            tally.add("server", 1, "Ran 5 tests in 1s\n\nFAILED (failures=1, errors=2)")
            tally.add("vitest", 1, " Tests  2 failed | 11 passed (13)")
            tally.add("ruff", 0, "All checks passed!")
            tally.add("empty", 0, "Ran 0 tests in 0s")
        self.assertEqual((tally.passed, tally.failed), (12 + 2 + 11 + 1, 3 + 2 + 1))
