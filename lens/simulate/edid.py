"""EDID blocks of simulated panels, written byte by byte; the simulator shares no code with the reader."""

import struct
from collections.abc import Sequence

from lens.records.base import Record


class EdidPanel(Record):
    """What a simulated panel says of itself. Lengths in mm, ``clock_10khz`` of the pixel, chromaticities as ten-bit numbers."""

    maker: str = "QZX"  # registered by nobody, as far as we know
    product: int = 0x1401
    serial: int = 0
    week: int = 12
    year: int = 2024
    minor: int = 4
    depth_code: int = 2
    interface_code: int = 5
    width: int = 1920
    height: int = 1080
    blank: tuple[int, int] = (160, 45)
    clock_10khz: int = 14040
    size_mm: tuple[int, int] = (309, 174)
    gamma: float = 2.2
    colours: tuple[int, ...] = (655, 338, 307, 614, 154, 61, 320, 337)
    name: str = "PASS 14H"
    texts: tuple[str, ...] = ("FIRNGRAT",)


def _summed(block: bytearray) -> bytes:
    block[127] = (256 - sum(block[:127])) % 256
    return bytes(block)


def edid_of(panel: EdidPanel, extensions: Sequence[bytes] = ()) -> bytes:
    """The base block and its extensions, checksums right."""
    block = bytearray(128)
    block[0:8] = b"\x00" + b"\xff" * 6 + b"\x00"
    a, b, c = (ord(letter) - ord("A") + 1 for letter in panel.maker)
    block[8:10] = struct.pack(">H", a * 1024 + b * 32 + c)
    block[10:12], block[12:16] = struct.pack("<H", panel.product), struct.pack("<I", panel.serial)
    block[16:20] = bytes([panel.week, panel.year - 1990, 1, panel.minor])
    block[20] = 128 + (panel.depth_code * 16 + panel.interface_code if panel.minor >= 4 else 0)
    features = 0x02 if panel.minor >= 4 else 0x0A
    block[21:25] = bytes(
        [round(panel.size_mm[0] / 10), round(panel.size_mm[1] / 10), round(panel.gamma * 100) - 100, features]
    )
    for n, value in enumerate(panel.colours):
        block[25 + n // 4] += (value % 4) * 4 ** (3 - n % 4)
        block[27 + n] = value // 4
    block[38:54] = b"\x01" * 16
    block[54:72] = _timing(panel)
    rest = [(0xFC, panel.name), *((0xFE, text) for text in panel.texts)]
    for at, (tag, text) in zip((72, 90, 108), rest, strict=False):
        block[at : at + 5] = bytes([0, 0, 0, tag, 0])
        block[at + 5 : at + 18] = (text.encode() + b"\n")[:13].ljust(13, b" ")
    for at in (72, 90, 108)[len(rest) :]:
        block[at : at + 18] = bytes([0, 0, 0, 0x10]) + bytes(14)
    block[126] = len(extensions)
    return _summed(block) + b"".join(extensions)


def _timing(panel: EdidPanel) -> bytes:
    across, down = panel.blank
    return bytes(
        [
            panel.clock_10khz % 256,
            panel.clock_10khz // 256,
            panel.width % 256,
            across % 256,
            panel.width // 256 * 16 + across // 256,
            panel.height % 256,
            down % 256,
            panel.height // 256 * 16 + down // 256,
            48,
            32,
            0x35,
            0,
            panel.size_mm[0] % 256,
            panel.size_mm[1] % 256,
            panel.size_mm[0] // 256 * 16 + panel.size_mm[1] // 256,
            0,
            0,
            0x1A,
        ]
    )


def cta_block() -> bytes:
    """An extension of the kind that televisions carry, without data."""
    block = bytearray(128)
    block[0:4] = bytes([0x02, 0x03, 0x04, 0x00])
    return _summed(block)


def display_id_block() -> bytes:
    """An extension in the newer format, empty; its own checksum stands before the block's."""
    block = bytearray(128)
    block[0:5] = bytes([0x70, 0x13, 0x79, 0x03, 0x00])
    block[126] = (256 - sum(block[1:126])) % 256
    return _summed(block)
