"""What a run of photos came to enters the job's record."""

from lens.records import STAGES
from server.inspections.core_adapter import stored_result
from server.inspections.models import Run
from server.jobs import judged
from server.profiles.actions import find_profile, profile_hash, version_of


def enter(run: Run) -> None:
    """Chain the run's stored verdict. Call it in the transaction that stores it, the job locked."""
    result = stored_result(run)
    if result is None:
        return
    profile = find_profile(run.job.profile)
    photos = list(run.photos.filter(removed=False).values_list("sha256", flat=True))
    judged.enter(
        run.job,
        run.stage,
        "picture",
        result["verdict"]["result"],
        f"{STAGES[run.stage].title}, picture by {profile.title}",
        result,
        profile=profile.id,
        profile_version=version_of(profile.id),
        profile_sha256=profile_hash(profile),
        photos=len(photos),
        photos_sha256=judged.photos_digest(photos),
    )
