"""Whether a step may be done now: what comes before it, the state it needs, its choice, its counts, and what must be proven for it."""

import re
from collections.abc import Mapping, Sequence

from lens.errors import BadInput
from lens.fitting.details import Running, left_words, waits_for_clock
from lens.fitting.fit_step import FitStep
from lens.fitting.procedures import Procedure, powers_up, procedures, standing, with_power
from lens.steps import Done, Step, blocked
from lens.tables import not_known

INSPECTION, PHOTO = "inspection:", "photo"
OWN_PREFIX = "own_"  # ids of procedures that a shop wrote itself begin so
OWN = re.compile(rf"{OWN_PREFIX}[a-z0-9_]{{1,30}}")


def procedure_for(build: str, device: str) -> Procedure | None:
    """The procedure of a build where a device of that kind may be built so; None where nobody said yet, or there is none."""
    procedure = procedures().get(build)
    return procedure if procedure is not None and device in procedure.devices else None


def check_build(build: str) -> str:
    """The build's id; empty where it is not known yet. Raises BadInput for one that is none; a shop's own may be any that begins as they do."""
    if build and build not in procedures() and not OWN.fullmatch(build):
        raise not_known("procedure for the build", build, procedures(), "unknown_build")
    return build


def inspection_of(step: Step) -> str | None:
    """The stage whose inspection a step asks for."""
    return next((one.removeprefix(INSPECTION) for one in step.evidence if one.startswith(INSPECTION)), None)


def check_step(
    procedure: Procedure,
    step_id: str,
    log: Sequence[Done],
    inspections: Mapping[str, str],
    choice: str = "",
    reason: str = "",
    unaccounted: int = 0,
    clocks: Sequence[Running] = (),
    photographed: bool = True,
) -> FitStep:
    """The step, when it may be done now.

    Parameters
    ----------
    inspections : verdicts (pass, fail, not_proven, or 'seen' by eye) by stage, of the inspections that were made
    choice : id of the step's choice, empty where it has none
    reason : why it is done although its inspection proves nothing; a failed one is never passed
    unaccounted : loose things that nobody can find
    clocks : that the log began
    photographed : a photo of this step is there, where it asks for one

    Raises
    ------
    BadInput
        with what is still missing.
    """
    known = procedure.graph.by_id
    if step_id not in known:
        raise not_known("step", step_id, known, "unknown_gate")
    step, where = (
        next(one for one in procedure.steps if one.id == step_id),
        standing(procedure, log, unaccounted=unaccounted),
    )
    waits = dict(where.blocked).get(step_id)
    if waits is None and step_id not in where.open:
        waits = blocked(with_power(procedure), step_id, log)  # it was done, or another way was chosen
    if waits:
        raise BadInput(f"'{step.title}' cannot be done yet. {waits}", "gate_order")
    held = waits_for_clock(step, powers_up(step), clocks)
    if held is not None:
        raise BadInput(
            f"'{step.title}' waits: {held.clock.title.lower()}, {left_words(held.left_s)} left.", "gate_clock"
        )
    stage = inspection_of(step)
    if stage is not None:
        _check_inspection(step, inspections.get(stage), reason)
    if PHOTO in step.evidence and not photographed and not reason.strip():
        raise BadInput(
            f"'{step.title}' asks for a photo first. Or say why there is none: the report will tell.", "gate_photo"
        )
    if step.choices and choice not in step.choices:
        raise BadInput(f"'{step.title}' asks for a choice: {', '.join(step.choices.values())}.", "gate_choice")
    return step


def _check_inspection(step: Step, verdict: str | None, reason: str) -> None:
    if verdict == "fail":
        raise BadInput(
            f"'{step.title}' is not passed: the new panel fails its inspection, in picture or touch. Return it with this evidence, or put "
            "another one in.",
            "gate_failed",
        )
    if reason.strip() or verdict in ("pass", "seen"):
        return
    if verdict is None:
        raise BadInput(
            f"'{step.title}' needs its inspection: photograph the new panel with the pattern set, and draw over its touch, or look at it by eye. "
            "Or say why you go on without: the report will tell.",
            "gate_inspection",
        )
    raise BadInput(
        f"'{step.title}': not all of the new panel is proven. Show what is missing, or say why you go on: the report will tell.",
        "gate_not_proven",
    )
