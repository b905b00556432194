"""EDID base blocks 1.3 and 1.4 and the headers of their extensions (VESA E-EDID A2, from memory), decoded as far as they go."""

import math
import re

from pydantic import Field

from lens.errors import BadInput
from lens.records.base import Record

BLOCK = 128
HEADER = bytes([0, 255, 255, 255, 255, 255, 255, 0])
WRONG_HEADER_BYTES = 2  # a bad link flips a bit or two; more, and it is something else
LEAST_BYTES, MOST_BYTES = 36, 256 * BLOCK
DESCRIPTORS = (54, 72, 90, 108)
DEPTHS = {1: 6, 2: 8, 3: 10, 4: 12, 5: 14, 6: 16}
INTERFACES = {1: "DVI", 2: "HDMI a", 3: "HDMI b", 4: "MDDI", 5: "DisplayPort"}
EXTENSIONS = {
    0x02: "CTA-861",
    0x10: "VTB",
    0x40: "DI",
    0x50: "LS",
    0x60: "DPVL",
    0x70: "DisplayID",
    0xF0: "block map",
    0xFF: "maker's own",
}
TEXTS = (0xFC, 0xFE, 0xFF)  # display descriptors that hold text: name, any text, serial
_HOW = "Save it from the running system as a binary file or as hex text."


class Preferred(Record):
    """The first detailed timing: the panel's own resolution."""

    width: int
    height: int
    refresh_hz: float
    pixel_clock_khz: int


class Extension(Record):
    """The header of an extension block."""

    tag: int
    name: str
    revision: int
    checksum_ok: bool


class Edid(Record):
    manufacturer_id: str = Field(description="three letters; '?' for what is no letter")
    product_code: int
    serial: int | None
    week: int | None
    year: int | None
    version: str
    digital: bool
    bits_per_colour: int | None
    interface: str | None
    size_in: float | None = Field(description="diagonal, inches")
    size_mm: tuple[int, int] | None
    gamma: float | None
    chromaticity: dict[str, tuple[float, float]] = Field(description="CIE 1931 x, y of red, green, blue and white")
    preferred: Preferred | None
    names: tuple[str, ...] = Field(description="texts of the descriptors")
    checksum_ok: bool = Field(description="all blocks are there and right")
    extensions: int
    extension_blocks: tuple[Extension, ...] = ()
    problems: tuple[str, ...] = ()


def _bytes_of(data: bytes) -> bytes:
    """The bytes of a binary file or of hex text in any of the usual layouts."""
    if data[1:7] == HEADER[1:7] or any(byte > 126 or (byte < 32 and byte not in (9, 10, 13)) for byte in data[:256]):
        return data
    text = data.decode("ascii", "replace")
    # lines may begin with an offset and a colon, as dumps write them
    digits = re.sub(r"0x|[\s,:;]", "", re.sub(r"(?m)^\s*[0-9a-fA-F]{2,8}:\s", "", text))
    if not digits or re.fullmatch(r"[0-9a-fA-F]*", digits) is None or len(digits) % 2:
        raise BadInput(f"This is no EDID: neither its bytes nor hex text. {_HOW}", "no_edid")
    return bytes.fromhex(digits)


def read_edid(data: bytes) -> Edid:
    """Decode an EDID; what is damaged is told in ``problems`` and by ``checksum_ok``.

    Raises
    ------
    BadInput
        for what is no EDID at all, or too short to say anything.
    """
    if len(data) > 8 * MOST_BYTES:
        raise BadInput(f"The file has {len(data)} bytes; an EDID has at most {MOST_BYTES}. {_HOW}", "no_edid")
    raw = _bytes_of(data)
    wrong = sum(a != b for a, b in zip(raw, HEADER, strict=False))
    if len(raw) < len(HEADER) or wrong > WRONG_HEADER_BYTES:
        raise BadInput(f"This is no EDID: it does not begin as one. {_HOW}", "no_edid")
    if len(raw) < LEAST_BYTES:
        raise BadInput(f"The EDID is cut short: {len(raw)} bytes, of at least {BLOCK}. {_HOW}", "edid_short")
    if len(raw) > MOST_BYTES:
        raise BadInput(f"The file has {len(raw)} bytes; an EDID has at most {MOST_BYTES}. {_HOW}", "no_edid")
    problems = []
    if wrong:
        problems.append(f"{wrong} of the first eight bytes {'is' if wrong == 1 else 'are'} wrong: look at the link.")
    if len(raw) < BLOCK:
        problems.append(f"Only {len(raw)} of {BLOCK} bytes are there; the rest is taken as empty.")
    base = raw.ljust(BLOCK, b"\0")[:BLOCK]
    sound = len(raw) >= BLOCK and sum(base) % 256 == 0
    if len(raw) >= BLOCK and not sound:
        problems.append(
            f"The checksum is 0x{base[127]:02x} and should be 0x{-sum(base[:127]) % 256:02x}: at least one byte is wrong."
        )
    extensions = tuple(_extension(raw[at : at + BLOCK]) for at in range(BLOCK, len(raw), BLOCK))
    if len(raw) >= BLOCK and len(extensions) != base[126]:
        problems.append(
            f"It speaks of {base[126]} extension blocks, and {len(extensions)} {'is' if len(extensions) == 1 else 'are'} there."
        )
    problems += [
        f"The checksum of extension {n + 1} ({one.name}) is wrong."
        for n, one in enumerate(extensions)
        if not one.checksum_ok
    ]
    return _decoded(
        base,
        sound and not wrong and len(extensions) == base[126] and all(one.checksum_ok for one in extensions),
        extensions,
        problems,
    )


def _decoded(base: bytes, checksum_ok: bool, extensions: tuple[Extension, ...], problems: list[str]) -> Edid:
    digital, minor = bool(base[20] & 0x80), base[19]
    timings = [timing for at in DESCRIPTORS if (timing := _timing(base[at : at + 18])) is not None]
    size_mm = next((size for _, size in timings[:1] if size), None)
    if size_mm is None and base[21] and base[22]:
        size_mm = (base[21] * 10, base[22] * 10)
    new = digital and base[18] == 1 and minor >= 4
    serial = int.from_bytes(base[12:16], "little")
    return Edid(
        manufacturer_id=_letters(base[8:10]),
        product_code=int.from_bytes(base[10:12], "little"),
        serial=serial or None,
        week=base[16] if 1 <= base[16] <= 54 else None,
        year=1990 + base[17] if base[17] else None,
        version=f"{base[18]}.{minor}",
        digital=digital,
        bits_per_colour=DEPTHS.get(base[20] >> 4 & 7) if new else None,
        interface=INTERFACES.get(base[20] & 15) if new else None,
        size_in=round(math.hypot(*size_mm) / 25.4, 1) if size_mm else None,
        size_mm=size_mm,
        gamma=None if base[23] == 255 else round((base[23] + 100) / 100, 2),
        chromaticity=_chromaticity(base),
        preferred=timings[0][0] if timings else None,
        names=tuple(text for at in DESCRIPTORS if (text := _text(base[at : at + 18]))),
        checksum_ok=checksum_ok,
        extensions=base[126],
        extension_blocks=extensions,
        problems=tuple(problems),
    )


def _letters(two: bytes) -> str:
    """Three letters of five bits each, A being 1."""
    word = int.from_bytes(two, "big")
    codes = [word >> 10 & 31, word >> 5 & 31, word & 31]
    return "".join(chr(64 + code) if 1 <= code <= 26 else "?" for code in codes)


def _chromaticity(base: bytes) -> dict[str, tuple[float, float]]:
    """Ten bits each: the low two of all are packed into bytes 25 and 26."""
    low = base[25] << 8 | base[26]
    values = [round((base[27 + n] << 2 | low >> (14 - 2 * n) & 3) / 1024, 4) for n in range(8)]
    return {name: (values[2 * n], values[2 * n + 1]) for n, name in enumerate(("red", "green", "blue", "white"))}


def _timing(part: bytes) -> tuple[Preferred, tuple[int, int] | None] | None:
    """A detailed timing and its picture's size in mm; None for any other descriptor."""
    clock = int.from_bytes(part[:2], "little")
    width, blank = part[2] | (part[4] >> 4) << 8, part[3] | (part[4] & 15) << 8
    height, rest = part[5] | (part[7] >> 4) << 8, part[6] | (part[7] & 15) << 8
    if not clock or not width or not height:
        return None
    size = (part[12] | (part[14] >> 4) << 8, part[13] | (part[14] & 15) << 8)
    fields = 2 if part[17] & 0x80 else 1  # an interlaced picture's lines are counted a field
    hz = clock * 10_000 / ((width + blank) * (height + rest))
    told = Preferred(width=width, height=height * fields, refresh_hz=round(hz, 3), pixel_clock_khz=clock * 10)
    return told, size if min(size) else None


def _text(part: bytes) -> str:
    if part[:3] != b"\0\0\0" or part[3] not in TEXTS:
        return ""
    return "".join(chr(byte) for byte in part[5:].split(b"\n")[0] if 32 <= byte < 127).strip()


def _extension(block: bytes) -> Extension:
    tag = block[0]
    return Extension(
        tag=tag,
        name=EXTENSIONS.get(tag, "unknown"),
        revision=block[1] if len(block) > 1 else 0,
        checksum_ok=len(block) == BLOCK and sum(block) % 256 == 0,
    )
