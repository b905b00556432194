"""Which command does what."""

import os
import sys

from launcher import paths
from launcher.prepare import EXTRAS, NotPrepared, add_extra, extras_added, prepare_python

USAGE = """\
./clear-lens COMMAND [options]

Start and keep
  demo [--port N] [--lan] [--tls]  install what is missing, start with demo data, print the address
  run  [--port N] [--lan] [--tls]  the same without demo data; --help for certificates, names, proxies, more workers
  stop | status               of the instance that runs from this folder
  service                     a systemd unit, to start with the machine
  worker                      one more worker for photo analysis
  person NAME [--lead] [--technician] [--disable] [--enable]    add a person, set a password, end a person's access
  backup FILE | verify-backup FILE | restore FILE [--into FOLDER]
  export-job N FILE | import-job FILE    one job with its photos and its record, as a file
  new-secret                  a new secret for a database whose secret file was lost
  extra [reader]              add what is optional; without a name, what there is
  release VERSION             gather changes/ into the changelog, with the version and its date
  test [core|server|launcher|browser|web]   every check, or one part of them

Compute (each has --help; JSON out)
  patterns    test patterns as PNG files with a manifest
  stick       a stick that starts a laptop by itself and shows the patterns
  inspect     photos of a panel to findings and a verdict
  edid        what a panel says of itself, from its EDID
  touch       a touch session to dead zones, phantoms and a verdict
  simulate    photo sets, or a touch session, of a simulated faulty panel
  diagnose    evidence to ranked causes and the next check
  verify      does the hash chain of a report hold?
  schema      JSON Schema of every result
  benchmark   accuracy, speed and reliability, as ratios to a floor measured in the same run

Exit codes: 0 pass or done, 1 the verdict is fail or the command failed, 3 not proven, 2 bad input.
"""
INTO_INSTANCE = ("worker", "person", "export-job", "import-job")
KEEPING = ("stop", "status", "service", "backup", "restore", "verify-backup", "new-secret")


def main(arguments: list[str]) -> int:
    """Run a command; returns the exit code."""
    # BLAS threads of several processes spin against each other on small matrices; the core brings its own two threads
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    os.environ.setdefault("OMP_NUM_THREADS", "1")
    if not arguments or arguments[0] in ("-h", "--help", "help"):
        print(USAGE, end="")
        return 0
    command, rest = arguments[0], arguments[1:]
    try:
        if command in ("demo", "run"):
            from launcher import serve  # each command loads what it needs

            return serve.main(command, rest)
        if command in INTO_INSTANCE:
            from launcher import serve

            serve.into_instance(command.replace("-", "_"), rest)
        if command in KEEPING:
            from launcher import keeping

            return keeping.main(command, rest)
        if command == "extra":
            return extra(rest)
        if command == "test":
            from launcher import checks

            return checks.main(rest)
        if command == "release":
            from launcher import release

            return release.main(rest)
        prepare_python(testing=command == "benchmark")  # it compares with reference libraries
    except NotPrepared as problem:
        print(problem, file=sys.stderr)
        return 1 if command in KEEPING else 2
    except KeyboardInterrupt:
        return 130
    except PermissionError as problem:
        print(
            f"{problem.filename or 'A file'} belongs to another user. Run this as that user, or move the folder away.",
            file=sys.stderr,
        )
        return 2
    except BrokenPipeError:  # whoever read it has enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except OSError as problem:
        print(
            f"{problem.strerror or problem}{': ' + str(problem.filename) if problem.filename else ''}.", file=sys.stderr
        )
        return 1
    # the caller's folder stays the working folder: file names are the caller's
    environment = {
        **os.environ,
        "PYTHONPATH": os.pathsep.join(filter(None, (str(paths.ROOT), os.environ.get("PYTHONPATH")))),
    }
    return os.execve(paths.PYTHON, [str(paths.PYTHON), "-m", "cli", command, *rest], environment)


def extra(names: list[str]) -> int:
    """Add what is optional, or say what there is."""
    for name in names:
        if name not in EXTRAS:
            print(f"There is no extra '{name}'. There is: {', '.join(EXTRAS)}.", file=sys.stderr)
            return 2
    for name in names:
        add_extra(name)
    added = extras_added()
    for name, (_, words) in EXTRAS.items():
        print(f"{name}  {'added' if name in added else 'not added'}: {words}")
    if names:
        print("Start Clear Lens again to use it.")
    return 0
