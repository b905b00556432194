"""Starting the whole: database, web server, worker."""

import argparse
import os
import signal
import socket
import subprocess
import time
from pathlib import Path
from types import FrameType

from launcher import disk, instance, keeping, remote
from launcher.bring_over import bring_over, is_earlier
from launcher.database import Cluster, free_port
from launcher.instance import Instance
from launcher.paths import PYTHON, ROOT, VAR
from launcher.prepare import NotPrepared, digest_of, prepare_all, prepare_python, say
from launcher.supervise import Child, Supervisor, die_with_parent, health_answers
from launcher.tls import Names, certificate_for

WEB_STARTS_WITHIN_S = 90.0


class Stopped(BaseException):
    """Somebody asked this launcher to end while it was still starting."""


def _arguments(command: str, rest: list[str]) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog=f"./clear-lens {command}")
    parser.add_argument("--port", type=int, default=8600, help="web port; another free one is taken when it is in use")
    parser.add_argument(
        "--lan", action="store_true", help="listen beyond this machine and put its network address into the QR codes"
    )
    parser.add_argument(
        "--tls",
        action="store_true",
        help="serve over TLS with a self-signed certificate (cameras and wake locks need it)",
    )
    parser.add_argument("--cert", metavar="FILE", help="a certificate of the shop's own, PEM; with --key FILE")
    parser.add_argument("--key", metavar="FILE", help="the private key of --cert, PEM")
    parser.add_argument(
        "--name",
        action="append",
        default=[],
        metavar="HOST",
        help="a further name or address under which this bench is reached",
    )
    parser.add_argument(
        "--proxy", metavar="ADDRESS", help="the address of a reverse proxy whose X-Forwarded-For is believed"
    )
    parser.add_argument(
        "--workers", type=int, default=1, help="analysing processes; 0 where other machines do all of it"
    )
    parser.add_argument(
        "--database-listen",
        metavar="ADDRESS",
        help="let workers and web servers of other machines reach the database at this address, over TLS",
    )
    remote.add_options(parser)
    return parser.parse_args(rest)


def _lan_address() -> str:
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # TEST-NET: nothing is sent, the system only picks the way out
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def manage(env: dict[str, str], *arguments: str) -> None:
    done = subprocess.run([str(PYTHON), "-m", "server.manage", *arguments], cwd=ROOT, env=env)
    if done.returncode:
        raise NotPrepared(f"'{' '.join(arguments)}' failed; see above.")


def main(command: str, rest: list[str]) -> int:
    """demo and run."""
    options = _arguments(command, rest)
    prepare_all()
    here = Instance()
    here.take()
    supervisor: Supervisor | None = None
    loading: subprocess.Popen[bytes] | None = None
    stopped = False

    def asked(number: int, frame: FrameType | None) -> None:
        # a second or third signal changes nothing: what is being stopped is stopped in order
        nonlocal stopped
        if supervisor is not None:
            supervisor.stopping.set()
        elif not stopped:
            stopped = True
            raise Stopped

    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        # also where a shell started this in the background and has SIGINT ignored; nohup's ignored SIGHUP stays
        if number != signal.SIGHUP or signal.getsignal(number) != signal.SIG_IGN:
            signal.signal(number, asked)
    left = instance.end_leftovers()
    if left:
        say(f"Ended what an earlier start left behind: {', '.join(left)}.")
    elsewhere = remote.environment(options)
    cluster: Cluster | remote.RemoteDatabase = Cluster() if not options.database else remote.RemoteDatabase(elsewhere)
    try:
        if keeping.UNFINISHED.exists():
            raise NotPrepared(
                f"A restore into {VAR} did not finish. Run ./clear-lens restore FILE again, or move {VAR} away."
            )
        if isinstance(cluster, Cluster):
            if is_earlier(cluster):
                bring_over(cluster)
            if options.database_listen:
                cluster.serves = _database_certificate(options.database_listen)
        full = disk.free_bytes(VAR) < disk.READ_ONLY_BYTES
        if full and disk.drop_ballast():
            say("The disk is full: the reserve was given up.")
        cluster.start(read_only=full and cluster.exists())
        host, port = (_lan_address() if options.lan else "127.0.0.1"), free_port(options.port)
        env, listen, url = _environment(command, options, {**cluster.environment, **elsewhere}, host, port)
        here.say(
            url=url,
            environment={name: value for name, value in env.items() if name.startswith("CLEAR_LENS_")},
            launched=time.time(),
        )
        if not full:
            _prepare_database(command, cluster, env)
            disk.load_ballast()
        supervisor = Supervisor(here, cluster, url, read_only=full)
        _start_children(supervisor, options, env, listen)
        if command == "demo":
            say("Sign in as  lead / lens-demo  or  bench / lens-demo")
            load = [str(PYTHON), "-m", "server.manage", "load_demo"]
            loading = subprocess.Popen(load, cwd=ROOT, env=env, start_new_session=True, preexec_fn=die_with_parent)
        else:
            say("Add a first person with: ./clear-lens person NAME --lead  (in another terminal)")
        if options.lan:
            say("Listening on the local network: anyone there can reach the sign-in page.")
        say("Stop with Ctrl-C, or with ./clear-lens stop.")
        if isinstance(cluster, Cluster):
            supervisor.chores.append((keeping.LOOK_S, keeping.Nightly(here, env).look))
            if options.database_listen:
                say(
                    f"For other machines: ./clear-lens worker --database '{_join(cluster, options.database_listen)}' --store FOLDER"
                )
        supervisor.run()
        say("\nStopping")
        return 0
    except Stopped:
        say("\nStopping")
        return 0
    finally:
        if loading is not None:
            loading.terminate()
            loading.wait()
        if supervisor is not None:
            supervisor.stop()
        if cluster.port:
            cluster.stop()
        here.gone()


def _database_certificate(address: str) -> tuple[Path, Path, str]:
    """Certificate, key and address of a database that other machines may reach."""
    key, certificate, _ = certificate_for(Names.of_this_machine(address), None, None, "database")
    return certificate, key, address


def _join(cluster: Cluster, address: str) -> str:
    """The database's address for another machine, which needs the certificate beside it."""
    told = cluster.environment
    return (
        f"postgresql://{told['CLEAR_LENS_DB_USER']}:{told['CLEAR_LENS_DB_PASSWORD']}@{address}:{cluster.port}/{told['CLEAR_LENS_DB_NAME']}"
        f"?sslmode=verify-full&sslrootcert={VAR / 'tls' / 'database.crt'}"
    )


def _environment(
    command: str, options: argparse.Namespace, places: dict[str, str], host: str, port: int
) -> tuple[dict[str, str], list[str], str]:
    """What the children are told, how the web server listens, and the address."""
    secure = options.tls or bool(options.cert)
    names = Names.of_this_machine(host, options.name)
    url = f"{'https' if secure else 'http'}://{names.shown}:{port}"
    listen = ["--host", "0.0.0.0" if options.lan else "127.0.0.1", "--port", str(port)]
    fingerprint = ""
    if secure:
        key, certificate, fingerprint = certificate_for(names, options.cert, options.key)
        listen += ["--ssl-keyfile", str(key), "--ssl-certfile", str(certificate)]
        say(f"Fingerprint of the certificate (SHA-256), to compare on the phone:\n  {fingerprint}")
    if options.proxy:
        listen += ["--proxy-headers", "--forwarded-allow-ips", options.proxy]
    else:
        listen += ["--no-proxy-headers"]
    env = {
        **os.environ,
        "CLEAR_LENS_VAR": str(VAR),
        "CLEAR_LENS_MEDIA": os.environ.get("CLEAR_LENS_MEDIA", str(VAR / "media")),
        **places,
        "CLEAR_LENS_PUBLIC_URL": url,
        "CLEAR_LENS_HOSTS": ",".join(names.all),
        "CLEAR_LENS_LAN": "1" if options.lan else "",
        "CLEAR_LENS_TLS": "1" if secure else "",
        "CLEAR_LENS_OWN_CERT": "1" if options.cert else "",
        "CLEAR_LENS_FINGERPRINT": fingerprint,
        "CLEAR_LENS_DEMO": "1" if command == "demo" else "",
        "PYTHONUNBUFFERED": "1",
    }
    instance.make_private(Path(env["CLEAR_LENS_MEDIA"]))
    return env, listen, url


def _start_children(
    supervisor: Supervisor, options: argparse.Namespace, env: dict[str, str], listen: list[str]
) -> None:
    web = [
        str(PYTHON),
        "-m",
        "uvicorn",
        "server.config.asgi:application",
        *listen,
        "--timeout-graceful-shutdown",
        "2",
        "--log-level",
        "warning",
        "--no-server-header",
    ]
    # threads that each keep memory of their own would cost some 50 MB after a few thousand requests (mallopt(3), M_ARENA_MAX)
    supervisor.add(Child("web", web, {**env, "MALLOC_ARENA_MAX": "2"}, VAR / "web.log"))
    for number in range(max(0, options.workers)):
        supervisor.add(Child("worker" if number == 0 else f"worker {number + 1}", WORKER, env, VAR / "worker.log"))
    end = time.monotonic() + WEB_STARTS_WITHIN_S
    first = supervisor.children[0]
    while not health_answers(supervisor.url, 2.0):
        if (first.process is not None and first.process.poll() is not None) or time.monotonic() > end:
            tail = first.log.read_text(errors="replace").splitlines()[-8:]
            raise NotPrepared("\n".join([f"The web server does not start. The end of {first.log}:", *tail]))
        time.sleep(0.1)
    say(f"\nClear Lens is running at {supervisor.url}")


WORKER = [str(PYTHON), "-m", "server.manage", "work"]


def _prepare_database(command: str, cluster: Cluster | remote.RemoteDatabase, env: dict[str, str]) -> None:
    """Migrate and fill, unless this cluster has seen these very migrations and this world: that saves seconds at each start."""
    seen = VAR / f"{cluster.name}.prepared-{command}"
    digest = digest_of(
        [*(ROOT / "server").glob("*/migrations/*.py"), ROOT / "demo" / "world.yaml", ROOT / "requirements.lock"]
    )
    if isinstance(cluster, Cluster):  # this very cluster: another one may have taken its place since
        made = (cluster.data / "PG_VERSION").stat()
        digest += f" {made.st_ino} {made.st_mtime_ns}"
    if cluster.remote or not seen.exists() or seen.read_text() != digest:
        manage({**env, "CLEAR_LENS_PATIENT": "1"}, "prepare_database")
        instance.write_safely(seen, digest)


def into_instance(command: str, rest: list[str]) -> None:
    """worker, person and others that work beside the running instance, or for one on another machine: becomes that process."""
    named: dict[str, str] = {}
    if command == "worker":
        parser = argparse.ArgumentParser(prog="./clear-lens worker")
        remote.add_options(parser)
        options = parser.parse_args(rest)
        named = remote.environment(options)
        if options.database and not options.store:
            raise NotPrepared(
                "A worker for another machine's database needs --store as well: the photos' folder or bucket."
            )
    prepare_python()
    environment = {
        **os.environ,
        **(named if "CLEAR_LENS_DB_HOST" in named else {**instance.environment(), **named}),
        "PYTHONPATH": str(ROOT),
    }
    os.umask(0o077)
    arguments = WORKER[1:] if command == "worker" else ["-m", "server.manage", command, *rest]
    os.execve(PYTHON, [str(PYTHON), *arguments], environment)
