"""EDID against Debian's edid-decode on blocks of every kind, and what damaged ones say."""

import re
import shutil
import subprocess
from unittest import TestCase

import numpy as np

from lens.edid import Edid, compare_edids, compare_with_panel, read_edid
from lens.errors import BadInput
from lens.panel import make_panel
from lens.simulate import EdidPanel, cta_block, display_id_block, edid_of

GOOD = edid_of(EdidPanel())


def random_panel(seed: int) -> EdidPanel:
    """A panel of any size and age."""
    rng = np.random.default_rng(seed)
    width, height = (int(rng.integers(300, 2000)) * 2 for _ in range(2))
    blank = (int(rng.integers(60, 400)), int(rng.integers(10, 120)))
    clock = int(np.clip((width + blank[0]) * (height + blank[1]) * rng.uniform(30, 75) / 10_000, 1500, 65535))
    return EdidPanel(
        maker="".join(chr(65 + int(n)) for n in rng.integers(0, 26, 3)),
        product=int(rng.integers(1, 65535)),
        serial=int(rng.integers(0, 2**31)),
        week=int(rng.integers(1, 53)),
        year=int(rng.integers(2008, 2026)),
        minor=int(rng.choice([3, 4])),
        depth_code=int(rng.integers(1, 6)),
        interface_code=int(rng.choice([1, 2, 5])),
        width=width,
        height=height,
        blank=blank,
        clock_10khz=clock,
        size_mm=(int(rng.integers(60, 900)), int(rng.integers(60, 600))),
        gamma=float(rng.integers(180, 260)) / 100,
        colours=tuple(int(n) for n in rng.integers(40, 700, 8)),
        name=f"N{seed}",
        texts=("TEXT" + "x" * int(rng.integers(0, 8)),),
    )


def found(pattern: str, text: str) -> list[str]:
    match = re.search(pattern, text)
    return list(match.groups()) if match else []


class AgainstTheReference(TestCase):
    def test_thirty_blocks_as_edid_decode_reads_them(self) -> None:
        self.assertIsNotNone(shutil.which("edid-decode"), "Debian's edid-decode is installed by the test command")
        for seed in range(30):
            extensions = [block for n, block in enumerate((cta_block(), display_id_block())) if seed >> n & 1]
            data = edid_of(random_panel(seed), extensions)
            told = read_edid(data)
            text = subprocess.run(["edid-decode", "-"], input=data, capture_output=True, check=False).stdout.decode()
            with self.subTest(seed=seed):
                self.assertEqual(found(r"Manufacturer: (\w+)", text), [told.manufacturer_id])
                self.assertEqual(found(r"Model: (\d+)", text), [str(told.product_code)])
                self.assertEqual(found(r"Serial Number: (\d+)", text), [str(told.serial)] if told.serial else [])
                self.assertEqual(found(r"Made in: week (\d+) of (\d+)", text), [str(told.week), str(told.year)])
                self.assertEqual(found(r"Version & Revision: (\S+)", text), [told.version])
                self.assertEqual(
                    found(r"Bits per primary color channel: (\d+)", text),
                    [str(told.bits_per_colour)] if told.bits_per_colour else [],
                )
                self.assertEqual(found(r"Gamma: (\S+)", text), [f"{told.gamma:.2f}"])
                for name, (x, y) in told.chromaticity.items():
                    reference = [float(part) for part in found(rf"{name.capitalize()}\s*: (\S+), (\S+)", text)]
                    np.testing.assert_allclose([x, y], reference, atol=1.01e-4)  # the reference cuts, we round
                assert told.preferred is not None and told.size_mm is not None
                line = found(r"DTD 1:\s+(\d+)x(\d+)\s+([\d.]+) Hz.*?([\d.]+) MHz \((\d+) mm x (\d+) mm\)", text)
                self.assertEqual(
                    [int(n) for n in (*line[:2], *line[4:])],
                    [told.preferred.width, told.preferred.height, *told.size_mm],
                )
                self.assertAlmostEqual(float(line[2]), told.preferred.refresh_hz, delta=0.001)
                self.assertEqual(round(float(line[3]) * 1000), told.preferred.pixel_clock_khz)
                self.assertEqual(
                    tuple(re.findall(r"(?:Display Product Name|Alphanumeric Data String): '([^']*)'", text)), told.names
                )
                self.assertEqual(len(re.findall(r"Block [1-9], ", text)), told.extensions)
                self.assertEqual(
                    [one.name for one in told.extension_blocks],
                    re.findall(r"Block \d, (CTA-861|DisplayID) Extension", text),
                )
                self.assertTrue(told.checksum_ok)
                self.assertEqual("DisplayPort interface" in text, told.interface == "DisplayPort")


class Formats(TestCase):
    def test_hex_text_in_every_usual_layout(self) -> None:
        digits = GOOD.hex()
        pairs = [digits[n : n + 2] for n in range(0, len(digits), 2)]
        lines = [" ".join(pairs[n : n + 16]) for n in range(0, 128, 16)]
        for text in (
            digits,
            " ".join(pairs),
            ",".join(f"0x{pair}" for pair in pairs),
            "\r\n".join(lines).upper(),
            "\n".join(f"{16 * n:04x}: {line}" for n, line in enumerate(lines)),
            "\n\t\t" + "\n\t\t".join(lines) + "\n",
        ):
            self.assertEqual(read_edid(text.encode()), read_edid(GOOD))

    def test_worked_letters_and_chromaticities(self) -> None:
        # VESA E-EDID (from memory): 'ABC' is 00001 00010 00011, 0x0443; ten bits of 0x3FF are 1023/1024
        data = bytearray(GOOD)
        data[8:10] = bytes([0x04, 0x43])
        data[25:35] = b"\xff" * 10
        told = read_edid(bytes(data))
        self.assertEqual(told.manufacturer_id, "ABC")
        self.assertEqual(set(told.chromaticity.values()), {(0.999, 0.999)})


class Damaged(TestCase):
    def test_a_wrong_byte_is_said_and_the_rest_is_read(self) -> None:
        data = bytearray(GOOD)
        data[100] ^= 0x10
        told = read_edid(bytes(data))
        self.assertFalse(told.checksum_ok)
        self.assertRegex(told.problems[0], "checksum is 0x.. and should be 0x..")
        self.assertEqual(told.preferred, read_edid(GOOD).preferred)
        self.assertEqual(read_edid(GOOD[:1] + b"\xfe" + GOOD[2:]).manufacturer_id, "QZX")

    def test_cut_ones_and_missing_extensions(self) -> None:
        for data, words in (
            (GOOD[:100], "Only 100 of 128"),
            (edid_of(EdidPanel(), [cta_block()])[:128], "1 extension blocks, and 0"),
            (edid_of(EdidPanel(), [cta_block()])[:200], "checksum of extension 1"),
        ):
            told = read_edid(data)
            self.assertFalse(told.checksum_ok)
            self.assertIn(words, " ".join(told.problems))
            self.assertEqual(told.manufacturer_id, "QZX")

    def test_what_is_no_edid_is_refused(self) -> None:
        rng = np.random.default_rng(1)
        for data, words in (
            (b"", "no EDID"),
            (bytes(128), "no EDID"),
            (rng.bytes(256), "no EDID"),
            (bytes(16 * 2**20), "at most 32768"),
            (b"hello there", "neither its bytes nor hex"),
            (GOOD[:20], "cut short"),
            (b"00ff" * 64, "no EDID"),
            (b"\xff\xd8\xff\xe0" + rng.bytes(500), "no EDID"),
            (b"abc", "neither"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_edid(data)

    def test_any_bytes_are_decoded_or_refused(self) -> None:
        rng = np.random.default_rng(2)
        for _ in range(300):
            data = bytearray(GOOD + cta_block())
            for at in rng.integers(8, 256, 30):
                data[at] = int(rng.integers(256))
            self.assertIsInstance(read_edid(bytes(data[: int(rng.integers(40, 257))])), Edid)


class Compared(TestCase):
    def test_with_the_panel_on_record(self) -> None:
        told = read_edid(GOOD)
        self.assertEqual(compare_with_panel(told, make_panel(1920, 1080, 14.0)), ())
        self.assertEqual(compare_with_panel(told, make_panel(1920, 1080)), ())
        self.assertEqual(len(compare_with_panel(told, make_panel(1366, 768, 15.6))), 2)

    def test_with_a_replacements(self) -> None:
        one = read_edid(GOOD)
        self.assertEqual(compare_edids(one, one), ())
        changed = EdidPanel(
            product=7, width=1366, height=768, depth_code=1, size_mm=(344, 193), colours=(600, *EdidPanel().colours[1:])
        )
        other = read_edid(edid_of(changed))
        told = {difference.what.split(":")[0]: difference.serious for difference in compare_edids(one, other)}
        self.assertEqual(
            told,
            {
                "Maker and product": False,
                "Resolution": True,
                "Refresh": False,
                "Size": True,
                "Bits a colour": False,
                "Chromaticity of red differs.": False,
            },
        )
