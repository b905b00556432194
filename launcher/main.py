"""Which command does what."""

import os
import sys

from launcher import paths
from launcher.prepare import NotPrepared, prepare_python

USAGE = """\
./clear-lens COMMAND [options]

Start
  demo [--port N] [--lan] [--tls]  install what is missing, start with demo data, print the address
  run  [--port N] [--lan] [--tls]  the same without demo data
  worker                      one more worker for photo analysis
  person NAME [--lead]        add a person to the running instance, or set a new password
  test [core|server|browser|web]   every check, or one part of them

Compute (each has --help; JSON out)
  patterns    test patterns as PNG files with a manifest
  inspect     photos of a panel to findings and a verdict
  edid        what a panel says of itself, from its EDID
  touch       a touch session to dead zones, phantoms and a verdict
  simulate    photo sets, or a touch session, of a simulated faulty panel
  diagnose    evidence to ranked causes and the next check
  verify      does the hash chain of a report hold?
  schema      JSON Schema of every result
  benchmark   accuracy and speed, as ratios to a floor measured in the same run

Exit codes: 0 pass or done, 1 the verdict is fail, 3 not proven, 2 bad input.
"""
SERVER_COMMANDS = ("demo", "run", "worker", "person")


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
        if command in SERVER_COMMANDS:
            from launcher import serve  # only the server commands need it
            return serve.main(command, rest)
        if command == "test":
            from launcher import checks
            return checks.main(rest)
        prepare_python()
    except NotPrepared as problem:
        print(problem, file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    return os.execv(paths.PYTHON, [str(paths.PYTHON), "-m", "cli", command, *rest])
