"""What beginnings of part numbers tell: the shop's own table."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.errors import BadInput
from lens.matching import normal_number
from server.accounts.policy import require
from server.common.edits import row_to_change
from server.jobs.actions import Person
from server.parts.models import LabelCode
from server.profiles.actions import keep_version

SHORTEST, LONGEST = 2, 20
FIELDS = ("code", "maker", "controller", "trouble")


def code_of(part_number: str) -> LabelCode | None:
    """The longest code that a part number begins with."""
    normal = normal_number(part_number)
    begins = [normal[:length] for length in range(SHORTEST, min(len(normal), LONGEST) + 1)]
    found = LabelCode.objects.filter(normal__in=begins)
    return max(found, key=lambda code: len(code.normal), default=None)


@transaction.atomic
def save_code(user: Person, code_id: int | None, values: dict[str, Any], version: int = 0) -> LabelCode:
    """Add a code, or change one that was read at ``version``. Raises Conflict when it changed since, BadInput for one that is too short, that tells
    nothing or is there already."""
    person = require(user, "job.change")
    normal = normal_number(str(values["code"]))
    if not SHORTEST <= len(normal) <= LONGEST:
        raise BadInput(f"Give {SHORTEST} to {LONGEST} letters or digits that part numbers begin with.", "label_code")
    if not any(str(values[name]).strip() for name in FIELDS[1:]):
        raise BadInput("Say what the code tells: maker, controller or known trouble.", "label_code")
    same = LabelCode.objects.filter(normal=normal).exclude(pk=code_id or 0).first()
    if same is not None:
        raise BadInput(f"'{same.code}' is in the table already. Change it there.", "label_code_known")
    row = row_to_change(LabelCode, code_id, version, "this code")
    for name in FIELDS:
        setattr(row, name, str(values[name]).strip())
    row.version += 1
    row.save()
    keep_version(f"code:{row.pk}", row.version, {name: getattr(row, name) for name in FIELDS}, person)
    return row


@transaction.atomic
def delete_code(user: Person, code_id: int) -> None:
    """Take a code out of the table; what it said is kept in the history."""
    require(user, "job.change")
    get_object_or_404(LabelCode, pk=code_id).delete()
