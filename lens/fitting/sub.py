"""A sub-procedure taken into the one that a job follows: moving a touch controller in the middle of fitting a display."""

from lens.errors import BadInput
from lens.fitting.fit_step import FitStep
from lens.fitting.gates import OWN
from lens.fitting.procedures import Procedure, get_procedure, procedures
from lens.tables import not_known

PREFIX = "sub_"
# what both have: the course of the main procedure does it, so the sub-procedure's own is left out
SHARED = ("make_safe", "plug", "dry_fit")


def subs_for(procedure: Procedure) -> tuple[Procedure, ...]:
    """The sub-procedures that may be taken into one and are not in it yet."""
    known = procedure.graph.by_id
    return tuple(
        one
        for one in procedures().values()
        if one.part_of
        and (procedure.id in one.part_of or (OWN.fullmatch(procedure.id) and set(procedure.devices) & set(one.devices)))
        and one.id not in procedure.subs
        and all(name in known for name in SHARED)
    )


def with_sub(procedure: Procedure, name: str) -> Procedure:
    """The procedure with the sub-procedure's own steps before its plug. Where a choice of them says stop, the display is not plugged in.

    Raises BadInput for one that is no part of this build, or is in it already.
    """
    allowed = {one.id: one for one in subs_for(procedure)}
    if name not in allowed:
        raise not_known(f"sub-procedure of '{procedure.title}'", name, allowed, "unknown_sub")
    sub = get_procedure(name)
    own = {step.id: f"{PREFIX}{step.id}" for step in sub.steps if step.id not in SHARED}
    steps: list[FitStep] = []
    for step in sub.steps:
        if step.id in own:
            needs = tuple(own.get(one, one) for one in step.needs if one in own)
            when = {own[one]: choices for one, choices in step.when.items() if one in own}
            steps.append(step.model_copy(update={"id": own[step.id], "needs": needs, "when": when}))
    plug = next(step for step in sub.steps if step.id == "plug")
    stops = {own[one]: choices for one, choices in plug.when.items() if one in own}
    before = tuple(own[one] for one in plug.needs if one in own)
    woven: list[FitStep] = []
    for step in procedure.steps:
        if step.id == "plug":
            woven += steps
            step = step.model_copy(update={"needs": (*step.needs, *before), "when": {**step.when, **stops}})
        woven.append(step)
    return procedure.model_copy(update={"steps": tuple(woven), "subs": (*procedure.subs, name)})


def without_subs(procedure: Procedure) -> Procedure:
    """As it was before sub-procedures were taken in."""
    if not procedure.subs:
        raise BadInput("No sub-procedure is under way.", "no_sub")
    own = {step.id for step in procedure.steps if step.id.startswith(PREFIX)}
    steps = [
        step.model_copy(
            update={
                "needs": tuple(one for one in step.needs if one not in own),
                "when": {one: choices for one, choices in step.when.items() if one not in own},
            }
        )
        for step in procedure.steps
        if step.id not in own
    ]
    return procedure.model_copy(update={"steps": tuple(steps), "subs": ()})
