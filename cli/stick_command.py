"""./clear-lens stick: the image of a stick that starts a laptop by itself and shows the patterns pixel for pixel."""

import argparse
import os
import subprocess
import tempfile
from pathlib import Path

from cli.debian_files import debian_system, fat_tool, system_files
from cli.patterns_command import chosen_set
from lens.errors import BadInput
from lens.panel import parse_panel
from lens.patterns import MAX_RUN_CODE
from lens.stick import SECTOR, START, first_sector, stick_files

MIB = 1 << 20
# FAT of 32 bits, which firmware must read, begins at 65,525 clusters: 33 MiB at one sector each
SMALLEST_MIB = 48
STEP_S = range(2, 601)


def add_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--panel", required=True, help="native resolution of the laptop's panel, e.g. 1920x1080")
    parser.add_argument("--out", required=True, help="the image; write it to a whole stick, not to a partition of it")
    parser.add_argument("--set", default="standard", help="as for patterns; standard without")
    parser.add_argument("--inspection", type=int, default=0, help="its number, which its Inspect page tells")
    parser.add_argument("--seconds", type=int, default=20, help="a picture stays that long when no key is pressed")
    parser.add_argument("--renew", action="store_true", help="fetch Debian's packages again (75 MB)")


def write_image(out: Path, files: dict[str, bytes], system: Path) -> int:
    """The image with one FAT partition that holds ``files`` (path to content); returns its size in bytes."""
    held = sum(len(content) + 4096 for content in files.values())
    size = max(SMALLEST_MIB, held * 21 // (20 * MIB) + 8) * MIB
    partition = ["-i", f"{out}@@{START * SECTOR}"]
    with out.open("wb") as image:
        image.write(first_sector(size))
        image.truncate(size)
    with tempfile.TemporaryDirectory() as folder:
        for path, content in files.items():
            file = Path(folder) / path
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_bytes(content)
        tops = sorted(str(top) for top in Path(folder).iterdir())
        geometry = f"-F -T {size // SECTOR - START} -h 255 -s 63 -H {START} -v CLEARLENS ::"
        for name, options in (("mformat", geometry.split()), ("mcopy", ["-s", "-Q", *tops, "::"])):
            done = subprocess.run(
                [*fat_tool(system, name), *partition, *options],
                capture_output=True,
                text=True,
                errors="replace",
                env={**os.environ, "MTOOLS_SKIP_CHECK": "1"},
            )
            if done.returncode:
                raise BadInput(f"Cannot write '{out}': {done.stderr.strip() or name}.", "no_file")
    return size


def run(options: argparse.Namespace) -> int:
    panel, chosen = parse_panel(options.panel), chosen_set(options.set)
    if options.seconds not in STEP_S:
        raise BadInput(f"--seconds goes from {STEP_S[0]} to {STEP_S[-1]}.")
    if not 0 <= options.inspection <= MAX_RUN_CODE:
        raise BadInput(f"--inspection goes from 0 to {MAX_RUN_CODE}; the Inspect page tells it.")
    out = Path(options.out)
    if out.is_block_device():
        raise BadInput(f"'{out}' is a device. Write the image to a file first, then copy the file to the stick.")
    system = debian_system(options.renew)
    files = stick_files(panel, chosen, options.inspection, options.seconds, system_files(system))
    try:
        size = write_image(out, files, system)
    except OSError as error:
        raise BadInput(f"Cannot write '{out}': {error.strerror}.", "no_file") from error
    print(
        f"{out}: {size // MIB} MiB, for a panel of {panel.width} x {panel.height}. It starts laptops with UEFI (x86-64)."
    )
    print("Write it to a whole stick; all that is on the stick is lost. Then start the laptop from the stick.")
    return 0
