"""Everything that must be on the machine: Debian packages, the virtual environment, npm packages, the built front end."""

import glob
import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

from launcher.paths import BUILD, NODE_HOME, PYTHON, ROOT, VENV, WEB

SERVE_PACKAGES = {
    "postgresql": lambda: bool(glob.glob("/usr/lib/postgresql/*/bin/initdb")),
    "libpango-1.0-0": lambda: _library("libpango-1.0.so.0"),
    "libpangoft2-1.0-0": lambda: _library("libpangoft2-1.0.so.0"),
    "libharfbuzz-subset0": lambda: _library("libharfbuzz-subset.so.0"),
    "fonts-dejavu-core": lambda: Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf").exists(),
}
# without it codes on labels are read, and print is not: the bench starts all the same
OPTIONAL_PACKAGES = {"tesseract-ocr": lambda: shutil.which("tesseract") is not None}
TEST_PACKAGES = {
    "systemd": lambda: shutil.which("systemd-analyze") is not None,
    "openssl": lambda: shutil.which("openssl") is not None,
    "poppler-utils": lambda: shutil.which("pdfsig") is not None,
    "chromium": lambda: Path("/usr/bin/chromium").exists(),
    "edid-decode": lambda: shutil.which("edid-decode") is not None,
    "evemu-tools": lambda: shutil.which("evemu-play") is not None,
    "python3-evemu": lambda: Path("/usr/lib/python3/dist-packages/evemu").exists(),
    "qemu-system-x86": lambda: shutil.which("qemu-system-x86_64") is not None,
    "ovmf": lambda: Path("/usr/share/OVMF/OVMF_CODE_4M.ms.fd").exists(),
    "libinput-tools": lambda: Path("/usr/libexec/libinput/libinput-analyze-touch-down-state").exists(),
}
VENV_PACKAGES = {"python3-venv": lambda: _has_ensurepip()}


class NotPrepared(Exception):
    """The machine lacks something that cannot be installed from here; the message says what to do."""


def _library(name: str) -> bool:
    return bool(
        glob.glob(f"/usr/lib/*/{name}*") or glob.glob(f"/usr/lib/{name}*") or glob.glob(f"/usr/local/lib/{name}*")
    )


def _has_ensurepip() -> bool:
    return subprocess.run([sys.executable, "-c", "import ensurepip, venv"], capture_output=True).returncode == 0


def say(text: str) -> None:
    print(text, flush=True)


def _run(command: list[str], what: str, cwd: Path = ROOT, env: dict[str, str] | None = None) -> None:
    log = BUILD / "prepare.log"
    BUILD.mkdir(exist_ok=True)
    with log.open("ab") as out:
        code = subprocess.run(command, cwd=cwd, env=env, stdout=out, stderr=subprocess.STDOUT).returncode
    if code:
        tail = log.read_text(errors="replace").splitlines()[-12:]
        raise NotPrepared("\n".join([f"{what} failed. The end of {log}:", *tail]))


def debian_packages(wanted: dict[str, object]) -> None:
    """Install missing Debian packages as root or with sudo that asks no password, else say the one line that is needed."""
    missing = [name for name, there in wanted.items() if not there()]  # type: ignore[operator]
    if not missing:
        return
    line = f"apt-get install -y --no-install-recommends {' '.join(missing)}"
    if os.geteuid() == 0:
        prefix = []
    elif shutil.which("sudo") and subprocess.run(["sudo", "-n", "true"], capture_output=True).returncode == 0:
        prefix = ["sudo", "-n"]
    else:
        raise NotPrepared(f"Debian packages are missing. Install them once, then start again:\n  sudo {line}")
    if not shutil.which("apt-get"):
        raise NotPrepared(f"This machine has no apt-get. Install by its own means: {', '.join(missing)}.")
    say(f"Installing Debian packages: {', '.join(missing)}")
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    _run([*prefix, "apt-get", "update"], "Updating the package list", env=env)
    _run([*prefix, *line.split()], "Installing Debian packages", env=env)


def digest_of(files: Iterable[Path]) -> str:
    """Of contents, since a fresh clone gives every file a new time."""
    total = hashlib.sha256()
    for file in sorted(files):
        total.update(str(file.relative_to(ROOT)).encode())
        total.update(file.read_bytes())
    return total.hexdigest()


def _stamped(name: str, digest: str) -> bool:
    stamp = BUILD / "stamps" / name
    return stamp.exists() and stamp.read_text() == digest


def _stamp(name: str, digest: str) -> None:
    (BUILD / "stamps").mkdir(parents=True, exist_ok=True)
    (BUILD / "stamps" / name).write_text(digest)


# what may be added: its lock file, and what it brings
EXTRAS = {
    "reader": (
        "requirements-reader.lock",
        "a better reader of print on labels, about 250 MB; it needs 0.7 GB while it reads",
    )
}


def add_extra(name: str) -> None:
    """Install what is optional into the virtual environment."""
    lock = ROOT / EXTRAS[name][0]
    prepare_python()
    if not _stamped(f"extra-{name}", digest_of([lock])):
        _install(lock)
        _stamp(f"extra-{name}", digest_of([lock]))


def extras_added() -> list[str]:
    """Those that were installed from the lock files of this version."""
    return [name for name, (lock, _) in EXTRAS.items() if _stamped(f"extra-{name}", digest_of([ROOT / lock]))]


def prepare_python(testing: bool = False) -> None:
    """The virtual environment with the locked packages; what only tests and the benchmark need only for them."""
    for name, file in (
        ("python", "requirements.lock"),
        *((("python-dev", "requirements-dev.lock"),) if testing else ()),
    ):
        lock = ROOT / file
        digest = digest_of([lock])
        if not (PYTHON.exists() and _stamped(name, digest)):
            _install(lock)
            _stamp(name, digest)


def _install(lock: Path) -> None:
    if sys.version_info < (3, 11):  # noqa: UP036 - this runs before anything is installed
        raise NotPrepared(f"Python 3.11 or newer is needed, this is {sys.version.split()[0]}.")
    if not PYTHON.exists():
        debian_packages(VENV_PACKAGES)
        say("Making the virtual environment")
        _run([sys.executable, "-m", "venv", str(VENV)], "Making the virtual environment")
    say("Installing Python packages (a minute or two)")
    _run(
        [str(PYTHON), "-m", "pip", "install", "--disable-pip-version-check", "-r", str(lock)],
        "Installing Python packages",
    )


def npm_environment() -> tuple[list[str], dict[str, str]]:
    """The npm command and its environment, from the Node that came as a Python package."""
    node = NODE_HOME / "bin" / "node"
    npm = NODE_HOME / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js"
    return [str(node), str(npm)], {**os.environ, "PATH": f"{node.parent}{os.pathsep}{os.environ.get('PATH', '')}"}


def prepare_node_modules() -> None:
    digest = digest_of([WEB / "package-lock.json", WEB / "package.json"])
    if (WEB / "node_modules").exists() and _stamped("npm", digest):
        return
    npm, env = npm_environment()
    say("Installing npm packages")
    _run([*npm, "ci", "--no-audit", "--no-fund"], "Installing npm packages", cwd=WEB, env=env)
    _stamp("npm", digest)


def build_web() -> None:
    """Build the front end when its sources changed."""
    sources = [f for f in WEB.rglob("*") if f.is_file() and "node_modules" not in f.parts and "dist" not in f.parts]
    digest = digest_of([*sources, Path(__file__)])
    if (WEB / "dist" / "index.html").exists() and _stamped("web", digest):
        return
    prepare_node_modules()
    npm, env = npm_environment()
    say("Building the front end")
    _run([*npm, "run", "build"], "Building the front end", cwd=WEB, env=env)
    # beside each file its compressed twin, which is what slow lines get
    _run([str(PYTHON), "-m", "whitenoise.compress", "--quiet", str(WEB / "dist")], "Compressing the front end")
    _stamp("web", digest)


def prepare_all(testing: bool = False) -> None:
    """Whatever the server (and, for tests, the browser) needs."""
    debian_packages({**SERVE_PACKAGES, **({**TEST_PACKAGES, **OPTIONAL_PACKAGES} if testing else {})})
    try:
        debian_packages(dict(OPTIONAL_PACKAGES))
    except NotPrepared as lacking:
        say(f"Print on labels is not read until it is there; all else works.\n{lacking}")
    prepare_python(testing)
    build_web()
