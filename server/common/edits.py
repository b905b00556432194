"""Rows that several people edit: each change says which version it was read at."""

from typing import TypeVar

from django.db.models import Model
from django.shortcuts import get_object_or_404

from server.common.errors import Conflict

M = TypeVar("M", bound=Model)


def row_to_change(model: type[M], pk: int | None, version: int, what: str) -> M:
    """The stored row, locked for this transaction; a new one of version 0 without a number. Raises Conflict where it changed since ``version``, and
    Http404 where there is none."""
    if pk is None:
        return model(version=0)
    row = get_object_or_404(model._default_manager.select_for_update(), pk=pk)
    if getattr(row, "version", 0) != version:
        raise Conflict(f"Somebody else changed {what} meanwhile. Look at what is stored now, then enter yours again.")
    return row
