"""The simulated camera shoots in the background, one photo after the other, as a person would."""

from collections.abc import Sequence

from procrastinate.contrib.django import app

from lens.errors import BadInput
from lens.patterns import PATTERNS
from server.inspections.actions import add_photo
from server.inspections.models import Run
from server.simbench.device import shoot_run

WHO = "simulated camera"


@app.task(name="simulate_photos")
def simulate_photos(run_id: int, patterns: Sequence[str], take: int) -> None:
    """Shoot the first pattern, then queue the others, so that the worker reads each photo before it shoots the next."""
    if patterns and shoot_one(run_id, patterns[0], take) and len(patterns) > 1:
        simulate_photos.defer(run_id=run_id, patterns=list(patterns[1:]), take=take)


def shoot_one(run_id: int, pattern: str, take: int) -> bool:
    """One photo as a hand camera would send it; taken up again after a crash it is not stored twice. False when it was not taken."""
    run = Run.objects.select_related("job").get(pk=run_id)
    key = f"simulated-{take}-{pattern}"
    if run.photos.filter(client_key=key).exists():
        return True
    # who shoots a pattern once more does it from the side: what lies on the glass moves then
    data = shoot_run(run, pattern, seed=1000 * take + list(PATTERNS).index(pattern), from_side=take > 1)
    try:
        add_photo(run, WHO, data, f"{pattern}.jpg", key)
    except BadInput:
        return False  # the job was closed, or its set is full
    return True
