"""Under what a stage was looked at: said once, changed when it changes, in the record."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404

from lens.records import STAGES, StageConditions
from server.accounts.policy import require
from server.inspections.growing import lock_stage
from server.inspections.models import Run
from server.jobs.actions import Person
from server.jobs.record import write

WORDS: dict[str, dict[Any, str]] = {
    "film": {"on": "film on", "off": "film off"},
    "bezel": {"on": "bezel on", "off": "bezel off"},
    "panel": {"loose": "panel loose", "mounted": "panel in its place"},
    "hand": {"bare": "bare finger", "glove": "thin glove", "over_film": "finger over the film"},
    "mains": {True: "on mains", False: "on battery"},
    "room": {"dark": "dark room", "dim": "dim room", "bright": "bright room"},
}


def words_of(told: StageConditions) -> list[str]:
    """What was said, in a few words each."""
    said = [WORDS[name][value] for name, value in told.model_dump().items() if name in WORDS and value is not None]
    if told.battery_percent is not None:
        said.append(f"{told.battery_percent} % of charge")
    return said


@transaction.atomic
def set_conditions(user: Person, run_id: int, told: StageConditions) -> Run:
    """Say under what a stage is looked at; what was said before stays in the record."""
    person = require(user, "job.change")
    run = get_object_or_404(Run.objects.select_related("job"), pk=run_id)
    job = lock_stage(run.job_id, run.stage)
    content = told.model_dump(mode="json", exclude_none=True)
    if content == run.conditions:
        return run
    run.conditions = content
    run.save(update_fields=["conditions"])
    said = ", ".join(words_of(told)) or "not said"
    write(
        job,
        person.username,
        "conditions",
        f"Conditions ({STAGES[run.stage].title}): {said}.",
        run=run.pk,
        conditions=content,
        facets=("pictures", "comparisons"),
    )
    return run
