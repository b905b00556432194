"""The first sector of the stick: one partition that UEFI takes for its own (UEFI specification 2.10, 5.2 and 13.3.1, from memory)."""

import struct

SECTOR = 512
START = 2048  # 1 MiB, where partitions begin by common practice
KIND_EFI = 0xEF
# cylinder, head and sector of what lies beyond their range; firmware goes by the sector's number
BEYOND = b"\xfe\xff\xff"


def first_sector(image_bytes: int) -> bytes:
    """A master boot record whose one partition reaches from 1 MiB to the end; raises ValueError when nothing is left for it."""
    sectors = image_bytes // SECTOR - START
    if sectors <= 0:
        raise ValueError("a stick needs more than 1 MiB")
    entry = struct.pack("<B3sB3sII", 0x80, BEYOND, KIND_EFI, BEYOND, START, sectors)
    return b"\0" * 440 + struct.pack("<IH", 0x434C5354, 0) + entry + b"\0" * 48 + b"\x55\xaa"
