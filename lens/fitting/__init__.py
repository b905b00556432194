"""Procedures of fitting a panel: gates, cautions, and what must be proven before the next step."""

from lens.fitting.gates import Build, Gate, builds, check_gate, get_build

__all__ = ["Build", "Gate", "builds", "check_gate", "get_build"]
