"""A stick that starts a laptop: on an emulated machine with Secure Boot, what its screen shows equals the patterns, byte for byte."""

import gzip
import io
import os
import subprocess
import tempfile
import time
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest import TestCase

import numpy as np

from cli.__main__ import main
from cli.debian_files import debian_system
from lens.panel import parse_panel
from lens.patterns import get_set, patterns_of, render
from lens.stick import module_name, modules_in_order
from tests.launcher.machine import Machine

# firmware, loader and kernel on an emulated processor take 25 to 60 s, and three times that beside other work
STARTS_WITHIN_S = 300.0
FOLDER = Path(__file__).resolve().parents[2] / "lens" / "stick"


def stick(folder: str, panel: str, *more: str) -> tuple[int, str, Path]:
    """Exit code, what was said, and the image."""
    out, said = Path(folder) / "stick.img", io.StringIO()
    with redirect_stdout(said), redirect_stderr(said):
        code = main(["stick", "--panel", panel, "--out", str(out), *more])
    return code, said.getvalue(), out


class SecureBootTest(TestCase):
    def test_secure_boot_then_each_pattern_by_key(self) -> None:
        """1366 x 768: rows of 5,464 bytes. The loaders' signatures are checked by the firmware's own keys; the keyboard hangs on USB."""
        panel = parse_panel("1366x768")
        with tempfile.TemporaryDirectory() as folder:
            code, said, image = stick(folder, "1366x768", "--inspection", "7", "--seconds", "600")
            self.assertEqual(code, 0, said)
            patterns = [render(panel, pattern, 7) for pattern in patterns_of(get_set("standard"))]
            with Machine(image, Path(folder), 1366, 768, 16, usb_keyboard=True) as machine:
                end = time.monotonic() + STARTS_WITHIN_S
                while time.monotonic() < end and not machine.shows(patterns[0], 2):
                    machine.press("ret")  # ends the page of words as soon as there is one ...
                    time.sleep(0.5)
                    if any(np.array_equal(machine.picture(), pattern) for pattern in patterns[1:]):
                        machine.press(
                            "1"
                        )  # ... and may have been pressed too often: a slow machine takes several at once
                self.assertTrue(machine.shows(patterns[0], 1))
                self.assertIn("Secure Boot is enabled", (Path(folder) / "serial.txt").read_text(errors="replace"))
                for number, pattern in enumerate(patterns[1:], 2):
                    machine.press(" ")
                    self.assertTrue(machine.shows(pattern, 15), number)
                machine.press("backspace")
                self.assertTrue(machine.shows(patterns[-2], 15))
                machine.press("3")
                self.assertTrue(machine.shows(patterns[2], 15))
                machine.press("left")
                self.assertTrue(machine.shows(patterns[1], 15))
                machine.press("q")
                self.assertTrue(machine.ended(30))


class OtherMachinesTest(TestCase):
    def test_another_size_shows_plain_colours_by_itself(self) -> None:
        """The display's memory holds no 1920 x 1080: nothing is scaled and passed off as the pattern. Nobody presses a key."""
        with tempfile.TemporaryDirectory() as folder:
            code, said, image = stick(folder, "1920x1080", "--seconds", "4")
            self.assertEqual(code, 0, said)
            with Machine(image, Path(folder), 1280, 800, 4, usb_keyboard=False) as machine:
                white = np.full((800, 1280, 3), 255, np.uint8)
                self.assertTrue(machine.shows(white, STARTS_WITHIN_S))
                for colour in ((0, 0, 0), (255, 0, 0), (0, 255, 0), (0, 0, 255), (128, 128, 128)):
                    plain = np.broadcast_to(np.uint8(colour), white.shape)
                    self.assertTrue(machine.shows(plain, 20), colour)

    def test_no_frame_buffer_is_said(self) -> None:
        """A machine whose only output is a serial line."""
        with tempfile.TemporaryDirectory() as folder:
            code, said, image = stick(folder, "640x480")
            self.assertEqual(code, 0, said)
            system = debian_system()
            tools = [str(system / "usr/bin/mtools"), "-c", "mcopy", "-i", f"{image}@@1M"]
            subprocess.run([*tools, "::clear-lens/kernel", "::clear-lens/memory-disk", folder], check=True)
            serial = Path(folder) / "serial.txt"
            machine = subprocess.Popen(
                [
                    *(
                        "qemu-system-x86_64",
                        "-accel",
                        "tcg",
                        "-m",
                        "512",
                        "-display",
                        "none",
                        "-vga",
                        "none",
                        "-net",
                        "none",
                    ),
                    *(
                        "-kernel",
                        f"{folder}/kernel",
                        "-initrd",
                        f"{folder}/memory-disk",
                        "-append",
                        "quiet console=ttyS0",
                    ),
                    *("-serial", f"file:{serial}"),
                ]
            )
            try:
                serial.touch()
                end = time.monotonic() + STARTS_WITHIN_S
                while time.monotonic() < end and "built-in colours" not in serial.read_text(errors="replace"):
                    time.sleep(0.5)
            finally:
                machine.kill()
                machine.wait()
            self.assertIn("This machine gives no frame buffer", serial.read_text(errors="replace"))


class StickFilesTest(TestCase):
    def test_rows_longer_than_the_panels(self) -> None:
        rows = np.arange(3 * 8, dtype=np.uint8).reshape(3, 8)
        with tempfile.TemporaryDirectory() as folder:
            plain = Path(folder) / "plain"
            plain.mkdir()
            (plain / "01-white.gz").write_bytes(gzip.compress(rows.tobytes()))
            script = f". {FOLDER / 'pad_rows.sh'}; pad_rows {plain} {folder}/padded 8 12 3"
            subprocess.run(["sh", "-c", script], check=True)
            padded = gzip.decompress((Path(folder) / "padded" / "01-white.gz").read_bytes())
        self.assertEqual(padded, np.pad(rows, ((0, 0), (0, 4))).tobytes())

    def test_modules_come_after_what_they_need(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            modules = {}
            for name, needs in {"i2c-hid-acpi": "i2c-hid", "i2c-hid": "hid,i2c-core", "hid": ""}.items():
                file = Path(folder) / f"{name}.ko"
                file.write_bytes(
                    b"\x7fELF\0license=GPL\0depends=" + needs.encode() + b"\0name=" + name.encode() + b"\0"
                )
                modules[module_name(file.name)] = file
            self.assertEqual(
                modules_in_order(modules, ("i2c_hid_acpi", "not_in_this_kernel")), ["hid", "i2c_hid", "i2c_hid_acpi"]
            )

    def test_what_cannot_be_made_is_said(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(stick(folder, "1366x768", "--seconds", "0")[:2], (2, "--seconds goes from 2 to 600.\n"))
            code, said, _ = stick(folder, "1366x768", "--inspection", "99999999")
            self.assertEqual((code, said[:13]), (2, "--inspection "))
            self.assertEqual(stick(folder, "wide")[0], 2)
            code, said, _ = stick(f"{folder}/missing", "1366x768")
            self.assertEqual(code, 2)
            self.assertIn("Cannot write", said)
        path, os.environ["PATH"] = os.environ["PATH"], "/nowhere"
        try:
            with tempfile.TemporaryDirectory() as folder:
                code, said, _ = stick(folder, "1366x768", "--renew")
        finally:
            os.environ["PATH"] = path
        self.assertEqual(code, 2)
        self.assertIn("Debian", said)
