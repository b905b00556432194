"""What is left of a job as pieces of work with the waiting between them, from the procedure that it follows."""

from collections.abc import Sequence

from lens.fitting import POWERED, Procedure, with_power
from lens.planning.day import Piece
from lens.steps import Done, order


def pieces_left(procedure: Procedure, log: Sequence[Done], part_here: bool = True) -> tuple[Piece, ...]:
    """The steps that are left, in the order of the procedure, cut where something must pass by itself; a piece is named after its first step.

    Without the part only what needs none of it is left for now, up to the first step that does. What only keeps the power off, a solvent that
    dries, cuts nothing: other steps fill it. Of a step whose waiting depends on a choice that was not made yet the first choice counts, as in an
    estimate. Raises BadInput where no step is open although some are left.
    """
    known = {step.id: step for step in procedure.steps}
    pieces: list[Piece] = []
    title, minutes, steps = "", 0.0, 0
    for done in order(with_power(procedure), log=log):
        if done.step == POWERED:
            continue
        step = known[done.step]
        if step.needs_part and not part_here:
            break
        clock = step.clocks.get(done.choice or "") or step.clocks.get("")
        holds = clock.minutes if clock is not None and clock.blocks == "next" else 0.0
        title, minutes, steps = title or step.title, minutes + step.minutes, steps + 1
        if wait := max(step.wait_minutes, holds):
            pieces.append(Piece(title=_named(title, steps), minutes=minutes, wait_minutes=wait))
            title, minutes, steps = "", 0.0, 0
    if title:
        pieces.append(Piece(title=_named(title, steps), minutes=minutes))
    return tuple(pieces)


def _named(first: str, steps: int) -> str:
    return f"{first} and on" if steps > 1 else first
