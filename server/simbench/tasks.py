"""The simulated camera shoots in the background, one photo after the other, as a person would."""

from collections.abc import Sequence

from procrastinate.contrib.django import app

from lens.errors import BadInput
from lens.patterns import SETS
from server.inspections.actions import add_photo
from server.inspections.models import Run
from server.simbench.device import shoot

WHO = "simulated camera"


@app.task(name="simulate_photos")
def simulate_photos(run_id: int, patterns: Sequence[str], take: int) -> None:
    """Shoot each pattern once; taken up again after a crash, photos that are there already are not stored twice."""
    run = Run.objects.select_related("job").get(pk=run_id)
    for pattern in patterns:
        key = f"simulated-{take}-{pattern}"
        if run.photos.filter(client_key=key).exists():
            continue
        data = shoot(run, pattern, seed=1000 * take + SETS["thorough"].index(pattern))
        try:
            add_photo(run, WHO, data, f"{pattern}.jpg", key)
        except BadInput:
            return  # the job was closed, or its set is full
