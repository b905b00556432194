"""Acceptance profiles: read by all, written by leads; jobs that use a changed one are judged anew."""

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router, Schema, Status

from lens.acceptance import Profile
from lens.records.touch_limits import LimitId
from lens.touch import TouchLimit, touch_limits
from server.accounts.doors import lead_profiles
from server.inspections.actions import judge_open_jobs
from server.profiles import actions
from server.profiles.history import PastVersion, history_of
from server.touch.models import TouchSession
from server.touch.tasks import judge_anew

router = Router(tags=["profiles"])


class ProfileOut(Schema):
    """``version`` is 0 for the built-in ones, which cannot be changed."""

    profile: Profile
    version: int
    changed_by: str


class ProfileIn(Schema):
    profile: Profile
    version: int = 0


@router.get("/profiles", response=list[ProfileOut], operation_id="listProfiles")
def list_profiles(request: HttpRequest) -> list[ProfileOut]:
    return [
        ProfileOut(
            profile=profile, version=own.version if own else 0, changed_by=own.changed_by.username if own else ""
        )
        for profile, own in actions.offered_profiles()
    ]


@router.get("/profiles/touch-limits", response=dict[LimitId, TouchLimit], operation_id="touchLimits")
def shipped_touch_limits(request: HttpRequest) -> dict[LimitId, TouchLimit]:
    """What holds of a touch surface where a profile sets nothing else, each with its reason."""
    return dict(touch_limits().limits)


@router.get("/profiles/by-hash/{sha256}", response=Profile, operation_id="profileByHash")
def profile_by_hash(request: HttpRequest, sha256: str) -> Profile:
    """The profile as it was when a verdict of a record named it."""
    profile = actions.profile_by_hash(sha256)
    if profile is None:
        raise Http404
    return profile


@router.get("/profiles/{profile_id}/history", response=list[PastVersion], operation_id="profileHistory")
def profile_history(request: HttpRequest, profile_id: str) -> list[PastVersion]:
    """What was changed of a profile of the shop's own, by whom and when; the latest first."""
    return history_of(f"profile:{profile_id}")


@router.put("/profiles/{profile_id}", auth=lead_profiles, response=ProfileOut, operation_id="saveProfile")
def save_profile(request: HttpRequest, profile_id: str, body: ProfileIn) -> ProfileOut:
    profile = body.profile.model_copy(update={"id": profile_id})
    with transaction.atomic():
        before = actions.own_touch_limits(profile_id)
        stored = actions.save_profile(request.user, profile, body.version)
        judge_open_jobs(profile_id)
        if before != profile.touch:
            judge_anew(TouchSession.objects.filter(run__job__profile=profile_id, run__job__closed_at__isnull=True))
    return ProfileOut(profile=profile, version=stored.version, changed_by=stored.changed_by.username)


@router.delete("/profiles/{profile_id}", auth=lead_profiles, response={204: None}, operation_id="retireProfile")
def retire_profile(request: HttpRequest, profile_id: str) -> Status[None]:
    actions.retire_profile(request.user, profile_id)
    return Status(204, None)
