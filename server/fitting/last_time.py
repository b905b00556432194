"""What the last closed job of the same device met: the next one begins where it ended."""

from lens.fitting import Procedure, StepNotes, notes_words
from server.fitting.models import FitNote, GatePassed
from server.jobs.models import Job


def last_job_of(job: Job) -> Job | None:
    """The latest closed job of the device whose display was taken out in the same way."""
    if job.device_id is None:
        return None
    before = Job.objects.filter(device_id=job.device_id, build=job.build, closed_at__isnull=False).exclude(pk=job.pk)
    return before.filter(gates__isnull=False).order_by("-closed_at").distinct().first()


def told_by_step(last: Job, procedure: Procedure) -> dict[str, list[str]]:
    """By step, what was met there last time, in words."""
    told: dict[str, list[str]] = {}
    steps = {step.id: step for step in procedure.steps}
    for row in GatePassed.objects.filter(job=last, taken_back=False):
        step = steps.get(row.gate)
        if step is None:
            continue
        words = [f"{count} {group.replace('_', ' ')} screws" for group, count in row.counts.items() if count]
        if row.choice in step.choices and step.id != "fate":
            words.append(step.choices[row.choice].lower())
        words += notes_words(StepNotes.model_validate(row.details))
        if row.reason:
            words.append(row.reason)
        if words:
            told[row.gate] = words
    return told


def photos_by_step(last: Job) -> dict[str, list[int]]:
    """Photos of the last job by the step at which they were taken."""
    told: dict[str, list[int]] = {}
    shown = FitNote.objects.filter(job=last, taken_back=False, photo__removed=False)
    for step, photo_id in shown.values_list("step", "photo_id"):
        if photo_id is not None:
            told.setdefault(step, []).append(photo_id)
    return told
