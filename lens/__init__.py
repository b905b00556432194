"""The core of Clear Lens: every rule and computation of the job, with no web, database or clock in it."""

from lens.version import core_version

__all__ = ["core_version"]
