"""The core of Clear Lens: every rule and computation of the job, with no web, database or clock in it."""

CORE_VERSION = "0.1.0"
