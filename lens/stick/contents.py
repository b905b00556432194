"""What lies on the stick: start menu, kernel, memory disk, and the patterns as pictures for machines that only show files."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from lens.panel import Panel
from lens.patterns import PatternSet, numbered_files
from lens.stick.frames import colour_frames, pattern_frames
from lens.stick.memory_disk import memory_disk

# keyboards on USB and on I2C (most laptops have theirs on PS/2, which is in the kernel); what they need comes with them
KEYBOARD_MODULES = (
    *("xhci_pci", "ehci_pci", "usbhid", "hid_generic"),
    *("intel_lpss_pci", "intel_lpss_acpi", "i2c_designware_platform", "i2c_hid_acpi"),
    *("pinctrl_sunrisepoint", "pinctrl_cannonlake", "pinctrl_icelake", "pinctrl_tigerlake", "pinctrl_alderlake"),
)
_MENU = """\
set timeout=2
set gfxmode={width}x{height},auto
set gfxpayload=keep
terminal_output gfxterm
menuentry "Clear Lens test patterns, {width} x {height}" {{
  echo "Starting. If this text stays for a minute, this machine gives no frame buffer:"
  echo "take its built-in colours or self test."
  linux /clear-lens/kernel loglevel=1 vt.global_cursor_default=0 video=efifb:{width}x{height}
  initrd /clear-lens/memory-disk
}}
"""


@dataclass(frozen=True)
class SystemFiles:
    """Files of the system that starts the machine: signed loaders, the kernel, one program with all commands, modules by name."""

    shim: bytes
    loader: bytes
    kernel: bytes
    commands: bytes
    modules: Mapping[str, Path]


def module_name(file_name: str) -> str:
    """As the kernel calls it: ``i2c-hid.ko`` is ``i2c_hid``."""
    return file_name.removesuffix(".ko").replace("-", "_")


def modules_in_order(modules: Mapping[str, Path], wanted: tuple[str, ...] = KEYBOARD_MODULES) -> list[str]:
    """Names of the wanted modules and of what they depend on, each after what it needs; without those that this kernel lacks
    (built in, or of another make)."""
    order: list[str] = []

    def add(name: str, above: tuple[str, ...] = ()) -> None:
        if name in order or name in above or name not in modules:
            return
        told = re.search(rb"\0depends=([^\0]*)\0", modules[name].read_bytes())
        for needed in told[1].decode().split(",") if told else []:
            add(module_name(needed), (*above, name))
        order.append(name)

    for name in wanted:
        add(name)
    return order


def stick_files(panel: Panel, chosen: PatternSet, run: int, step_s: int, system: SystemFiles) -> dict[str, bytes]:
    """Path on the stick to content. ``step_s``: seconds a picture when no key is pressed."""
    order = modules_in_order(system.modules)
    facts = f"WIDTH={panel.width}\nHEIGHT={panel.height}\nSTEP_S={step_s}\n"
    here = Path(__file__).parent
    files = {
        "facts": facts.encode(),
        "pad_rows.sh": (here / "pad_rows.sh").read_bytes(),
        "modules/order": "".join(f"{name}\n" for name in order).encode(),
        **{f"modules/{name}": system.modules[name].read_bytes() for name in order},
        **{f"patterns/{name}": data for name, data in pattern_frames(panel, chosen, run)},
        **{f"colours/{name}": data for name, data in colour_frames()},
    }
    programs = {"bin/busybox": system.commands, "init": (here / "init.sh").read_bytes()}
    menu = _MENU.format(width=panel.width, height=panel.height).encode()
    return {
        "EFI/BOOT/BOOTX64.EFI": system.shim,
        "EFI/BOOT/grubx64.efi": system.loader,
        # where the signed loader looks for its menu
        "EFI/debian/grub.cfg": menu,
        "clear-lens/kernel": system.kernel,
        "clear-lens/memory-disk": memory_disk(programs, files),
        **{f"patterns/{name}": data for name, data in numbered_files(panel, chosen, run)},
    }
