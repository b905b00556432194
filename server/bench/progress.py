"""How far a job is: for each station what is known, and the one best next thing."""

from typing import Any

from lens.diagnosis import Diagnosis
from lens.fitting import procedure_for
from lens.progress import JobVerdict
from lens.records import STATIONS, StationState
from server.jobs.models import Job

STATE = {"pass": "done", "fail": "failed", "not_proven": "not_proven"}


def _of(verdict: JobVerdict | None, known: str, step: str) -> tuple[str, str, str]:
    """State, what is known and the next thing, by a verdict; the last two where nothing was measured."""
    if verdict is None or not verdict.measured:
        return "open", known, step
    return STATE[verdict.result], " ".join([verdict.text, *verdict.missing]), verdict.next


def _isolate(answered: int, told: Diagnosis) -> tuple[str, str, str]:
    if answered == 0:
        return "open", "Nothing answered yet.", told.plan[0].title
    best = told.causes[0]
    step = f"Next: {told.plan[0].title}" if not told.stop.advised else told.stop.reason
    return ("done" if told.stop.advised or best.p > 0.7 else "active"), f"{best.title}, {best.p:.0%}.", step


def _match(job: Job) -> tuple[str, str, str]:
    if job.wanted_panel is None:
        return "open", "Panel not named yet.", "Name the panel by the label on its back."
    if job.chosen_offer is None:
        return "active", f"In the device: {job.wanted_panel.name}.", "Choose an offer that fits."
    return "done", f"Chosen: {job.chosen_offer.panel.name}.", ""


def _fit(job: Job) -> tuple[str, str, str]:
    build = procedure_for(job.build, job.device_type)
    if build is None:
        return (
            "open",
            "No procedure for this device yet.",
            "Work by the maker's documents; Prove measures all the same.",
        )
    gates = build.gates
    passed = {gate.gate for gate in job.gates.all()}
    ahead = next((gate for gate in gates if gate.id not in passed), None)
    if ahead is None:
        return "done", "All gates passed.", ""
    return (
        ("active" if passed else "open"),
        f"{len(passed)} of {len(gates)} gates passed.",
        f"Next gate: {ahead.title}.",
    )


def stations(
    job: Job, answered: int, told: Diagnosis, verdict: JobVerdict, stages: dict[str, JobVerdict]
) -> list[StationState]:
    """All seven, in order."""
    facts: dict[str, tuple[str, str, str]] = {
        "intake": (
            "done" if job.complaint else "active",
            f"{job.panel_width}x{job.panel_height}, {job.profile}.",
            "" if job.complaint else "Write the complaint in the owner's words.",
        ),
        "isolate": _isolate(answered, told),
        "inspect": _of(stages.get("inspect"), "No photo yet.", "Show the patterns and photograph them."),
        "match": _match(job),
        "fit": _fit(job),
        "prove": _of(verdict, "No photo yet.", verdict.next),
        "hand_over": ("done", "Handed over.", "")
        if job.closed_at
        else ("open", "Not handed over.", "Read the report, then hand over."),
    }
    out = []
    for station_id, station in STATIONS.items():
        state, known, step = facts[station_id]
        if station_id in job.skipped:
            state, known, step = "skipped", "Skipped.", ""
        content: dict[str, Any] = {
            "id": station_id,
            "title": station.title,
            "state": state,
            "known": known,
            "next": step,
        }
        out.append(StationState.model_validate(content))
    return out
