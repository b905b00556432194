"""A stick that starts a laptop by itself and shows the patterns pixel for pixel, for machines that nobody can log in to."""

from lens.stick.contents import KEYBOARD_MODULES, SystemFiles, module_name, modules_in_order, stick_files
from lens.stick.partition import SECTOR, START, first_sector

__all__ = [
    "KEYBOARD_MODULES",
    "SECTOR",
    "START",
    "SystemFiles",
    "first_sector",
    "module_name",
    "modules_in_order",
    "stick_files",
]
