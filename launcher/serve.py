"""Starting and stopping the whole: database, web server, worker."""

import argparse
import os
import signal
import socket
import subprocess
import time
import urllib.error
import urllib.request

from launcher.database import Cluster, free_port
from launcher.paths import PYTHON, ROOT, VAR
from launcher.prepare import NotPrepared, digest_of, prepare_all, prepare_python, say
from launcher.tls import make_certificate

STOP_AFTER_S = 8
INSTANCE = VAR / "instance.env"


def _arguments(command: str, rest: list[str]) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog=f"./clear-lens {command}")
    parser.add_argument("--port", type=int, default=8600, help="web port; another free one is taken when it is in use")
    parser.add_argument("--lan", action="store_true", help="listen beyond this machine and put its network address into the QR codes")
    parser.add_argument("--tls", action="store_true", help="serve over TLS with a self-signed certificate (cameras and wake locks need it)")
    return parser.parse_args(rest)


def _lan_address() -> str:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # TEST-NET: nothing is sent, the system only picks the way out
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def _running_instance() -> dict[str, str]:
    """The environment of the instance that runs from this folder, or what was set by hand."""
    if "CLEAR_LENS_DB_PORT" in os.environ:
        return {}
    if not INSTANCE.exists():
        raise NotPrepared(
            "No instance runs from this folder. Start one with ./clear-lens run, or say where its database is: "
            "CLEAR_LENS_DB_HOST, _PORT, _NAME, _USER, _PASSWORD and CLEAR_LENS_MEDIA.")
    lines = [line.removeprefix("export ").partition("=") for line in INSTANCE.read_text().splitlines()]
    return {name: value.strip("'") for name, _, value in lines}


def _manage(env: dict[str, str], *arguments: str) -> None:
    done = subprocess.run([str(PYTHON), "-m", "server.manage", *arguments], cwd=ROOT, env=env)
    if done.returncode:
        raise NotPrepared(f"'{' '.join(arguments)}' failed; see above.")


def _interrupt(*_: object) -> None:
    """A polite kill ends everything as Ctrl-C does."""
    raise KeyboardInterrupt


def _answers(url: str) -> bool:
    try:
        urllib.request.urlopen(f"{url}/api/health", timeout=1)
        return True
    except urllib.error.URLError as error:
        return "CERTIFICATE_VERIFY_FAILED" in str(error)
    except OSError:
        return False


def _stop(processes: list[subprocess.Popen[bytes]]) -> None:
    for process in processes:
        if process.poll() is None:
            process.send_signal(signal.SIGTERM)
    end = time.monotonic() + STOP_AFTER_S
    for process in processes:
        try:
            process.wait(max(0.1, end - time.monotonic()))
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def _worker_command() -> list[str]:
    return [str(PYTHON), "-m", "server.manage", "work"]


def main(command: str, rest: list[str]) -> int:
    """demo, run, worker and person."""
    if command in ("worker", "person"):
        prepare_python()
        environment = {**os.environ, **_running_instance()}
        os.chdir(ROOT)
        person = [str(PYTHON), "-m", "server.manage", "person", *rest]
        os.execve(PYTHON, _worker_command() if command == "worker" else person, environment)
    signal.signal(signal.SIGTERM, _interrupt)
    signal.signal(signal.SIGINT, _interrupt)  # also where a shell started this in the background and has it ignored
    options = _arguments(command, rest)
    prepare_all()
    cluster = Cluster()
    processes: list[subprocess.Popen[bytes]] = []
    try:
        cluster.start()
        return _serve(command, options, cluster, processes)
    except KeyboardInterrupt:
        say("\nStopping")
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        _stop(processes)
        if cluster.port:
            cluster.stop()
            INSTANCE.unlink(missing_ok=True)


def _prepare_database(command: str, cluster: Cluster, env: dict[str, str]) -> None:
    """Migrate and fill, unless this cluster has seen these very migrations and this world: that saves seconds at each start."""
    seen = cluster.folder / f"prepared-{command}"
    digest = digest_of([*(ROOT / "server").glob("*/migrations/*.py"), ROOT / "demo" / "world.yaml", ROOT / "requirements.lock"])
    if not seen.exists() or seen.read_text() != digest:
        _manage(env, "prepare_database")
        seen.write_text(digest)


def _serve(command: str, options: argparse.Namespace, cluster: Cluster, processes: list[subprocess.Popen[bytes]]) -> int:
    host = _lan_address() if options.lan else "127.0.0.1"
    port = free_port(options.port)
    url = f"{'https' if options.tls else 'http'}://{host}:{port}"
    env = {
        **os.environ, **cluster.environment, "CLEAR_LENS_MEDIA": str(VAR / "media"), "CLEAR_LENS_PUBLIC_URL": url,
        "CLEAR_LENS_LAN": "1" if options.lan else "", "CLEAR_LENS_TLS": "1" if options.tls else "", "PYTHONUNBUFFERED": "1",
        "CLEAR_LENS_DEMO": "1" if command == "demo" else "",
    }
    names = [name for name in env if name.startswith("CLEAR_LENS_")]
    INSTANCE.touch(mode=0o600)
    INSTANCE.write_text("".join(f"export {name}='{env[name]}'\n" for name in names))
    _prepare_database(command, cluster, env)
    listen = ["--host", "0.0.0.0" if options.lan else "127.0.0.1", "--port", str(port)]
    if options.tls:
        key, certificate = make_certificate(host)
        listen += ["--ssl-keyfile", str(key), "--ssl-certfile", str(certificate)]
    web = [str(PYTHON), "-m", "uvicorn", "server.config.asgi:application", *listen, "--timeout-graceful-shutdown", "2",
           "--log-level", "warning", "--no-server-header"]
    # own process groups: Ctrl-C reaches this launcher only, which then stops them in order
    processes.append(subprocess.Popen(web, cwd=ROOT, env=env, start_new_session=True))
    with (VAR / "worker.log").open("ab") as log:
        processes.append(subprocess.Popen(
            _worker_command(), cwd=ROOT, env=env, start_new_session=True, stdout=subprocess.DEVNULL, stderr=log))
    while not _answers(url):
        if processes[0].poll() is not None:
            raise NotPrepared("The web server stopped; see above.")
        time.sleep(0.1)
    say(f"\nClear Lens is running at {url}")
    if command == "demo":
        say("Sign in as  lead / lens-demo  or  bench / lens-demo")
        processes.append(subprocess.Popen([str(PYTHON), "-m", "server.manage", "load_demo"], cwd=ROOT, env=env, start_new_session=True))
    else:
        say("Add a first person with: ./clear-lens person NAME --lead  (in another terminal)")
    if options.lan:
        say("Listening on the local network: anyone there can reach the sign-in page.")
    say("Stop with Ctrl-C.")
    while True:
        time.sleep(0.5)
        for process in processes[:2]:
            if process.poll() is not None:
                say(f"A process stopped by itself (exit {process.returncode}); stopping the rest. See {VAR / 'worker.log'}.")
                return 1
