"""What the kernel unpacks into memory before it starts the first program: a cpio archive of the 'newc' kind, packed.

Format: initramfs buffer format of the kernel's documentation (from memory): a header of 110 characters, name and content each padded to 4 bytes.
"""

import gzip
from collections.abc import Mapping

MODE_FOLDER, MODE_PROGRAM, MODE_FILE, MODE_CONSOLE = 0o040755, 0o100755, 0o100644, 0o020600


def _padded(data: bytes) -> bytes:
    return data + b"\0" * (-len(data) % 4)


def _entry(number: int, name: str, mode: int, content: bytes, device: tuple[int, int]) -> bytes:
    told = name.encode() + b"\0"
    fields = (number, mode, 0, 0, 1, 0, len(content), 0, 0, *device, len(told), 0)
    head = b"070701" + "".join(f"{field:08X}" for field in fields).encode()
    return _padded(head + told) + _padded(content)


def memory_disk(programs: Mapping[str, bytes], files: Mapping[str, bytes]) -> bytes:
    """The packed archive: paths without a leading slash to contents; folders and /dev/console come by themselves."""
    folders = {"dev"}
    for path in (*programs, *files):
        parts = path.split("/")[:-1]
        folders.update("/".join(parts[: depth + 1]) for depth in range(len(parts)))
    entries: list[tuple[str, int, bytes, tuple[int, int]]] = [
        (folder, MODE_FOLDER, b"", (0, 0)) for folder in sorted(folders)
    ]
    entries.append(("dev/console", MODE_CONSOLE, b"", (5, 1)))
    entries += [(path, MODE_PROGRAM, content, (0, 0)) for path, content in sorted(programs.items())]
    entries += [(path, MODE_FILE, content, (0, 0)) for path, content in sorted(files.items())]
    entries.append(("TRAILER!!!", 0, b"", (0, 0)))
    made = (
        _entry(number, path, mode, content, device) for number, (path, mode, content, device) in enumerate(entries, 1)
    )
    return gzip.compress(b"".join(made), 1, mtime=0)
