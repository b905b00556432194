"""EDID: what a panel says of itself."""

from lens.edid.compare import Difference, compare_edids, compare_with_panel
from lens.edid.decode import Edid, Extension, Preferred, read_edid

__all__ = ["Difference", "Edid", "Extension", "Preferred", "compare_edids", "compare_with_panel", "read_edid"]
