"""Small helpers for reasons in words."""

from collections.abc import Sequence


def listed(names: Sequence[str]) -> str:
    """Names in words: a, b and c."""
    return ", ".join(names[:-1]) + " and " + names[-1] if len(names) > 1 else "".join(names)
