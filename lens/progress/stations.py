"""How far a job is: for each station what is known, and the one best next thing, as pure rules of plain facts."""

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from lens.progress.verdict import JobVerdict
from lens.records import StationId, StationState, StationStatus, stations_of

SURE_CAUSE = 0.7  # from here on Isolate has an answer, if not the last word
SUREST = 0.99  # no cause is told as certain
OF_VERDICT: Mapping[str, StationStatus] = {"pass": "done", "fail": "failed", "not_proven": "not_proven"}


class StationTold(NamedTuple):
    """What a station says of itself."""

    state: StationStatus
    known: str
    next: str


NOTHING_TOLD = StationTold("open", "", "")


def intake(complaint: str, resolution: str, profile: str) -> StationTold:
    """Taken in once the complaint is written down."""
    known = f"{resolution}, {profile}."
    if complaint.strip():
        return StationTold("done", known, "")
    return StationTold("active", known, "Write down the complaint in the owner's words.")


def isolate(answered: int, best: str, p: float, stop: str, first_step: str) -> StationTold:
    """``best`` and ``p`` are the likeliest cause; ``stop`` says why no further check pays, empty while one does."""
    if answered == 0:
        return StationTold("open", "No check answered yet.", first_step)
    state: StationStatus = "done" if stop or p > SURE_CAUSE else "active"
    return StationTold(state, f"{best}, {min(p, SUREST):.0%}.", stop or f"Next: {first_step}")


def measured(verdict: JobVerdict | None, known: str, step: str) -> StationTold:
    """By a verdict; ``known`` and ``step`` where nothing was measured yet."""
    if verdict is None or not verdict.measured:
        return StationTold("open", known, step)
    return StationTold(OF_VERDICT[verdict.result], " ".join(verdict.findings), verdict.next)


def match(in_device: str, chosen: str) -> StationTold:
    """Names of the panel in the device and of the one to be fitted, empty where nobody said."""
    if not in_device:
        return StationTold("open", "Panel not identified yet.", "Identify the panel by the label on its back.")
    if not chosen:
        return StationTold("active", f"In the device: {in_device}.", "Choose an offer that fits.")
    return StationTold("done", f"Chosen: {chosen}.", "")


def fit(gates: Sequence[tuple[str, bool]] | None) -> StationTold:
    """Titles of the procedure's steps, and whether each was done; None where nobody said yet how the display is built in."""
    if gates is None:
        return StationTold("open", "Nobody said yet how it is built in.", "Say how the display is built in.")
    ahead = [title for title, passed in gates if not passed]
    if not ahead:
        return StationTold("done", "All steps done.", "")
    done = len(gates) - len(ahead)
    return StationTold("active" if done else "open", f"{done} of {len(gates)} steps done.", f"Next: {ahead[0]}.")


def hand_over(closed: bool) -> StationTold:
    if closed:
        return StationTold("done", "Handed over.", "")
    return StationTold("open", "Not handed over.", "Read the report, then hand over.")


def grade(decided: str, measured: bool) -> StationTold:
    """``decided``: in words what becomes of the panel, empty while nobody said."""
    if decided:
        return StationTold("done", decided, "")
    return StationTold("open", "Not decided.", "Say what becomes of it." if measured else "Measure it first.")


def station_states(
    told: Mapping[str, StationTold], skipped: Collection[str], subject: str = "device"
) -> tuple[StationState, ...]:
    """The stations that it passes, in order; a skipped one says so, and one of which nobody tells anything is open."""
    out = []
    for station in stations_of(subject):
        state, known, step = told.get(station.id, NOTHING_TOLD)
        if station.id in skipped:
            state, known, step = "skipped", "Skipped.", ""
        out.append(StationState(id=station.id, title=station.title, state=state, known=known, next=step))
    return tuple(out)


def reached(states: Sequence[StationState], closed: bool) -> StationId:
    """How far the job is: the last station at which anything happened, or the one after it when that is done."""
    if closed:
        return states[-1].id
    begun = [n for n, one in enumerate(states) if one.state not in ("open", "skipped")]
    at = begun[-1] if begun else 0
    # what is wrong with the panel as received is known then, and the job goes on
    if states[at].state in ("done", "skipped") or (states[at].id, states[at].state) == ("inspect", "failed"):
        ahead = [n for n in range(at + 1, len(states)) if states[n].state != "skipped"]
        at = ahead[0] if ahead else at
    return states[at].id
