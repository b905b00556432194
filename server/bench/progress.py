"""How far a job is: for each station what is known, and the one best next thing."""

from typing import Any

from lens.diagnosis import Diagnosis
from lens.fitting import get_build
from lens.inspecting import Comparison, compare
from lens.records import Inspection
from lens.touch import TouchComparison, TouchResult, compare_touch
from server.jobs.models import Job
from server.jobs.stations import STATIONS, StationState

WORDS = {"pass": "Passes", "fail": "Fails", "not_proven": "Not proven"}
STATE = {"pass": "done", "fail": "failed", "not_proven": "not_proven"}


TOUCHED = ("handset", "tablet")
ORDER = ("done", "not_proven", "failed")


def _verdict(result: Inspection | None, touch: TouchResult | None, open_next: str, touched: bool) -> tuple[str, str, str]:
    """Photos and touch together; the worse of the two decides."""
    known = f"Touch: {WORDS[touch.verdict].lower()}." if touch else ""
    if result is None:
        return ("open", "No photo yet.", open_next) if touch is None else (STATE[touch.verdict], known, open_next)
    verdict = result.verdict
    state = max(STATE[verdict.result], STATE[touch.verdict] if touch else "done", key=ORDER.index)
    step = "Draw over the touch surface." if touch is None and touched and verdict.result == "pass" else ""
    return state, f"{WORDS[verdict.result]} {verdict.profile}. {known}".strip(), step


def touch_comparison(job: Job, touched: dict[str, TouchResult]) -> TouchComparison | None:
    """The last stage whose touch was recorded against the one before it."""
    stages = [stage for stage in ("inspect", "dry_fit", "closed", "recheck") if stage in touched]
    return compare_touch(touched[stages[-2]], touched[stages[-1]]) if len(stages) > 1 else None


def comparison(results: dict[str, Inspection]) -> Comparison | None:
    """Dry fit against closed, when both were measured."""
    if "dry_fit" in results and "closed" in results:
        return compare(results["dry_fit"], results["closed"])
    return None


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
    gates = get_build(job.build).gates
    passed = {gate.gate for gate in job.gates.all()}
    ahead = next((gate for gate in gates if gate.id not in passed), None)
    if ahead is None:
        return "done", "All gates passed.", ""
    return ("active" if passed else "open"), f"{len(passed)} of {len(gates)} gates passed.", f"Next gate: {ahead.title}."


def _prove(results: dict[str, Inspection], touch: TouchResult | None, touched: bool) -> tuple[str, str, str]:
    change = comparison(results)
    if change is None:
        return _verdict(results.get("closed"), touch, "Photograph the closed device once more.", touched)
    told = {results["closed"].verdict.result, *([touch.verdict] if touch else [])}
    text = f"{change.text} Touch: {WORDS[touch.verdict].lower()}." if touch else change.text
    if change.result == "changed" or "fail" in told:
        return "failed", text, "Open again and look at what closing did."
    if change.result == "not_proven" or "not_proven" in told:
        return "not_proven", text, "Show what is not proven yet."
    return "done", text, "Draw over the touch surface." if touch is None and touched else ""


def stations(
    job: Job, answered: int, told: Diagnosis, results: dict[str, Inspection], touch: dict[str, TouchResult],
) -> list[StationState]:
    """All seven, in order."""
    touched = job.device_type in TOUCHED
    facts: dict[str, tuple[str, str, str]] = {
        "intake": ("done" if job.complaint else "active", f"{job.panel_width}x{job.panel_height}, {job.profile}.",
                   "" if job.complaint else "Write the complaint in the owner's words."),
        "isolate": _isolate(answered, told),
        "inspect": _verdict(results.get("inspect"), touch.get("inspect"), "Show the patterns and photograph them.", touched),
        "match": _match(job), "fit": _fit(job), "prove": _prove(results, touch.get("closed"), touched),
        "hand_over": ("done", "Handed over.", "") if job.closed_at else ("open", "Not handed over.", "Read the report, then hand over."),
    }
    out = []
    for station_id, title in STATIONS:
        state, known, step = facts[station_id]
        if station_id in job.skipped:
            state, known, step = "skipped", "Skipped.", ""
        content: dict[str, Any] = {"id": station_id, "title": title, "state": state, "known": known, "next": step}
        out.append(StationState.model_validate(content))
    return out
