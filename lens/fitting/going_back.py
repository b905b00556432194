"""What going back to a step means: what is taken back with it, and what must be tested again afterwards."""

from collections.abc import Sequence

from lens.fitting.gates import inspection_of
from lens.fitting.procedures import POWERED, Procedure
from lens.records.base import Record
from lens.steps import Done, undo

CONNECTED = "connected"  # the state that a plug brings about
CLOSED_AGAIN = "The closed device"


class GoingBack(Record):
    """``takes``: titles of the steps that are taken back too, in that order; ``tests``: what has to be tested again."""

    takes: tuple[str, ...]
    tests: tuple[str, ...]


def going_back(procedure: Procedure, step_id: str, log: Sequence[Done], closed_seen: bool) -> GoingBack:
    """Of a step that was done.

    Parameters
    ----------
    closed_seen : the closed device was looked at already; whatever is opened again is looked at once more

    Raises
    ------
    BadInput
        for a step that was not done.
    """
    known = procedure.graph.by_id
    names = undo(procedure.graph, step_id, [one for one in log if one.step != POWERED])
    tests = [
        f"{known[name].title}: {known[name].proof}"
        for name in names
        if known[name].proof and CONNECTED in known[name].sets
    ]
    tests += [known[name].title for name in names if inspection_of(known[name])]
    if closed_seen:
        tests.append(CLOSED_AGAIN)
    return GoingBack(takes=tuple(known[name].title for name in names if name != step_id), tests=tuple(tests))
