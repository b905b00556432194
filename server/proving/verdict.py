"""The verdict of the device as it is handed over: what was measured, the functions, what still runs, what was passed without proof.

Every screen, list, gate, report and file shows this one; nothing else joins a verdict.
"""

from django.utils import timezone

from lens.fitting import ISOLATED, StepNotes, inspection_of, left_words
from lens.progress import JobVerdict, Seen, Told, VerdictPart, stage_verdict
from lens.proving import AskedFunction, functions_asked, functions_told
from lens.records.verdict import Outcome
from server.fitting.actions import clocks_of, rows_of
from server.fitting.following import base_build, procedure_of
from server.handchecks.actions import eye_verdict_at, function_answers, touch_seen_at
from server.jobs.models import Job
from server.verdicts import measured_verdict, seen_of, touch_wanted
from server.verdicts.look import JobLook


def functions_of(job: Job) -> tuple[AskedFunction, ...]:
    """The functions that were touched on this device; none before it was opened."""
    procedure = procedure_of(job)
    if procedure is None:
        return ()
    known = {step.id: step for step in procedure.steps}
    done = [row for row in rows_of(job) if row.gate in known]
    if not any(ISOLATED in known[row.gate].requires for row in done):
        return ()
    fates = {name: fate for row in done for name, fate in StepNotes.model_validate(row.details).parts.items()}
    return functions_asked(base_build(job), fates, (job.chosen_offer.grade or None) if job.chosen_offer else None)


def curing(job: Job) -> list[str]:
    """Adhesive that still cures, in words."""
    procedure = procedure_of(job)
    if procedure is None:
        return []
    clocks = clocks_of(procedure, rows_of(job), timezone.now())
    return [
        f"{one.clock.title}: {left_words(one.left_s)} left{'' if one.known else ', hours not known'}."
        for one in clocks
        if one.clock.blocks == "hand_over" and one.left_s > 0
    ]


def passed_without_proof(job: Job) -> list[str]:
    """Steps that ask for a measurement and were passed by eye, or by a word."""
    procedure = procedure_of(job)
    known = procedure.graph.by_id if procedure is not None else {}
    told = []
    for row in rows_of(job):
        if row.gate in known and inspection_of(known[row.gate]) is not None:
            if row.reason:
                told.append(f"{known[row.gate].title} was passed without proof by {row.by.username}: {row.reason}.")
            elif row.details.get("by_eye"):
                told.append(f"{known[row.gate].title} was looked at by eye by {row.by.username}, not measured.")
    return told


def _by_eye(job: Job) -> list[VerdictPart]:
    """The closed device as looked at by eye: what is bad fails it, whatever was measured; what is good proves no class, and says so."""
    touch = touch_wanted(job, seen_of(job))
    found = eye_verdict_at(job, "closed", touch)
    if found is None:
        return []
    text = {
        "seen": "Looked at by eye: good, not measured.",
        "fail": "Looked at by eye: not in order.",
        "not_proven": "Looked at by eye: not all of it could be told.",
    }[found]
    dragged = touch_seen_at(job, "closed")
    if dragged is not None and dragged.told:
        text = f"{text} Touch: {' '.join(dragged.told)}"
    # good by eye adds nothing to what was measured, and stands for it nowhere: the missing measurement is told beside it
    result: Outcome = "fail" if found == "fail" else "pass" if found == "seen" else "not_proven"
    return [VerdictPart(part="eye", stage="closed", result=result, text=text, grade="seen")]


def panel_verdict(look: JobLook) -> JobVerdict:
    """Of a panel that is looked at by itself: its one inspection."""
    seen = seen_of(look.job)
    return stage_verdict("inspect", seen.get("inspect", Seen()), touch_wanted(look.job, seen))


def verdict_of(look: JobLook) -> JobVerdict:
    """The one verdict of a job, reckoned once a request."""
    if "verdict" not in look.kept:
        job = look.job
        if job.subject == "panel":
            return panel_verdict(look)
        told = functions_told(functions_of(job), function_answers(job), "closed")
        clocks = [] if job.closed_at else curing(job)
        conditions = [*told.conditions, *clocks, *passed_without_proof(job)]
        parts = [*told.parts, *_by_eye(job)]
        look.kept["verdict"] = measured_verdict(look, Told(parts, told.missing, conditions))
    verdict: JobVerdict = look.kept["verdict"]
    return verdict
