"""Which process is which: a number alone may have been given to another one since, so its start is kept beside it."""

from functools import cache
from pathlib import Path


def started_ticks(pid: int) -> int | None:
    """When a process of this machine started, in ticks since boot (proc(5), field 22 of stat); None when it is not there or only a
    corpse that nobody has collected."""
    try:
        text = Path(f"/proc/{pid}/stat").read_text(errors="replace")
    except OSError:
        return None
    fields = text.rpartition(")")[2].split()  # the name before it may hold spaces and brackets
    return None if fields[0] in ("Z", "X") else int(fields[19])


def is_alive(pid: int, ticks: int) -> bool:
    """Does this very process still run?"""
    return started_ticks(pid) == ticks


@cache
def machine() -> str:
    """This boot of this machine, and the space in which its process numbers count."""
    try:
        boot = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
        space = Path("/proc/self/ns/pid").readlink()
    except OSError:
        return ""
    return f"{boot} {space}"
