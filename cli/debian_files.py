"""Files out of Debian's packages, fetched and unpacked without installing anything: what a stick that starts a machine is made of."""

import os
import re
import shutil
import subprocess
import tempfile
from pathlib import Path

from lens.errors import BadInput
from lens.stick import SystemFiles, module_name

CACHE = Path(__file__).resolve().parents[1] / "var" / "stick"
KERNEL = "linux-image-amd64"
PACKAGES = ("shim-signed:amd64", "grub-efi-amd64-signed:amd64", "busybox-static:amd64", "mtools")
NEEDED = "A stick is made from Debian's packages; that needs a Debian machine of the kind amd64 with its package lists"


def _told(command: list[str], cwd: Path) -> str:
    try:
        done = subprocess.run(
            command, cwd=cwd, capture_output=True, text=True, errors="replace", env={**os.environ, "LC_ALL": "C"}
        )
    except FileNotFoundError:
        raise BadInput(f"{NEEDED}: there is no '{command[0]}' here.", "no_debian") from None
    if done.returncode:
        reason = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
        raise BadInput(f"{NEEDED} and the network: {reason} Run 'sudo apt-get update', then try again.", "no_debian")
    return done.stdout


def _kernel_package(folder: Path) -> str:
    """The package of the present kernel, which the general one stands for."""
    depends = _told(["apt-cache", "depends", f"{KERNEL}:amd64"], folder)
    found = re.search(r"Depends: (linux-image-\S+)", depends)
    if not found:
        raise BadInput(
            f"{NEEDED}: '{KERNEL}' is not among them. Run 'sudo apt-get update', then try again.", "no_debian"
        )
    return found[1] if ":" in found[1] else f"{found[1]}:amd64"


def _fetch(into: Path, renew: bool) -> None:
    into.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=into.parent) as folder:  # a cut-off download is no unpacked system
        part = Path(folder)
        if os.geteuid() == 0 and not list(Path("/var/lib/apt/lists").glob("*_Packages*")):
            _told(["apt-get", "update"], part)
        _told(["apt-get", "download", *PACKAGES, _kernel_package(part)], part)
        for package in sorted(part.glob("*.deb")):
            _told(["dpkg-deb", "-x", str(package), str(part / "system")], part)
        if renew:
            shutil.rmtree(into, ignore_errors=True)
        if not into.exists():  # another command may have been quicker
            (part / "system").rename(into)


def debian_system(renew: bool = False) -> Path:
    """The folder of the unpacked packages, about 420 MB, fetched once (75 MB) and anew with ``renew``; raises BadInput where that cannot be."""
    system = CACHE / "system"
    try:
        if renew or not system.exists():
            _fetch(system, renew)
    except OSError as error:
        raise BadInput(f"Cannot unpack Debian's packages into '{CACHE}': {error.strerror}.", "no_file") from error
    return system


def _one(system: Path, pattern: str) -> bytes:
    found = sorted(system.glob(pattern))
    if not found:
        raise BadInput(f"Debian's packages hold no '{pattern}'. Fetch them again: add --renew.", "no_debian")
    return found[-1].read_bytes()


def system_files(system: Path) -> SystemFiles:
    """What the stick needs of them."""
    return SystemFiles(
        shim=_one(system, "usr/lib/shim/shimx64.efi.signed"),
        loader=_one(system, "usr/lib/grub/x86_64-efi-signed/grubx64.efi.signed"),
        kernel=_one(system, "boot/vmlinuz-*"),
        commands=_one(system, "bin/busybox"),
        modules={module_name(file.name): file for file in system.glob("lib/modules/*/kernel/drivers/**/*.ko")},
    )


def fat_tool(system: Path, name: str) -> list[str]:
    """The command line of one of the tools that write into an image of a FAT file system."""
    return [str(system / "usr/bin/mtools"), "-c", name]
