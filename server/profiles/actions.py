"""Finding and changing acceptance profiles and house rules."""

from typing import Any

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.db import transaction

from lens.acceptance import Profile, built_in_profiles, get_profile, read_profile
from lens.errors import BadInput
from lens.house_rules import check_school, house_rules
from lens.records.touch_limits import LimitId
from lens.reporting import digest
from lens.tables import table_digest
from server.accounts.policy import require
from server.common.errors import Conflict
from server.profiles.models import HouseRule, KeptVersion, OwnProfile

Person = AbstractBaseUser | AnonymousUser


def find_profile(profile_id: str) -> Profile:
    """The shop's own profile of that name, else the built-in one; raises BadInput when there is none."""
    own = OwnProfile.objects.filter(slug=profile_id).first()
    return read_profile(own.content) if own else get_profile(profile_id)


def own_touch_limits(profile_id: str) -> dict[LimitId, float | None]:
    """Of the shop's own profile of that name, none where there is no such one yet."""
    own = OwnProfile.objects.filter(slug=profile_id).first()
    return dict(read_profile(own.content).touch) if own else {}


def profile_title(profile_id: str) -> str:
    """How people call a profile; the id itself where there is none of that name any more."""
    if profile_id in built_in_profiles():
        return built_in_profiles()[profile_id].title
    try:
        return find_profile(profile_id).title
    except BadInput:
        return profile_id


def offered_profiles() -> list[tuple[Profile, OwnProfile | None]]:
    """All profiles that a job may choose, the built-in ones first."""
    own = [(read_profile(one.content), one) for one in OwnProfile.objects.filter(retired=False)]
    return [*((profile, None) for profile in built_in_profiles().values()), *own]


@transaction.atomic
def save_profile(user: Person, profile: Profile, version: int) -> OwnProfile:
    """Write a profile; ``version`` is the one it was read at, 0 for a new one. Raises Conflict when it changed since."""
    person = require(user, "profile.change")
    if profile.id in built_in_profiles():
        raise BadInput(f"'{profile.id}' ships with Clear Lens. Give yours a name of its own.", "profile_taken")
    stored = OwnProfile.objects.select_for_update().filter(slug=profile.id).first()
    if (stored.version if stored else 0) != version:
        raise Conflict(
            f"Somebody else saved '{profile.id}' meanwhile. Look at what is stored now, then save yours under another name or again."
        )
    content = profile.model_dump(mode="json")
    if stored is None:
        stored = OwnProfile.objects.create(slug=profile.id, content=content, changed_by=person)
    else:
        stored.content, stored.changed_by, stored.version, stored.retired = content, person, version + 1, False
        stored.save()
    keep_version(f"profile:{profile.id}", stored.version, content, person, profile_hash(profile))
    return stored


def keep_version(what: str, version: int, content: dict[str, Any], person: Any, sha256: str = "") -> None:
    """Keep what a profile, a house rule or the shop said, beside what it says from now on."""
    KeptVersion.objects.create(
        what=what, version=version, content=content, sha256=sha256 or digest(content), made_by=person
    )


def profile_hash(profile: Profile) -> str:
    """What verdicts name a profile by: SHA-256 of all that it sets, so that a limit that comes with a later version does not change it."""
    return table_digest(profile)


def version_of(profile_id: str) -> int:
    """The version of the shop's own profile of that name; 0 of a built-in one."""
    return OwnProfile.objects.filter(slug=profile_id).values_list("version", flat=True).first() or 0


def profile_by_hash(sha256: str) -> Profile | None:
    """The profile that a verdict named by its hash, whatever it says today."""
    kept = KeptVersion.objects.filter(sha256=sha256, what__startswith="profile:").first()
    if kept is not None:
        return read_profile(kept.content)
    return next((one for one in built_in_profiles().values() if profile_hash(one) == sha256), None)


@transaction.atomic
def retire_profile(user: Person, profile_id: str) -> None:
    """Offer a profile no longer; jobs that have it keep it."""
    person = require(user, "profile.change")
    OwnProfile.objects.filter(slug=profile_id).update(retired=True, changed_by=person)


def rules_in_force() -> dict[str, str]:
    """Of every house rule the school that a job taken in now follows: the shop's, or the one that holds until a lead has chosen."""
    chosen = dict(HouseRule.objects.values_list("name", "value"))
    return {name: chosen.get(name, rule.default) for name, rule in house_rules().items()}


@transaction.atomic
def set_house_rule(user: Person, name: str, school: str) -> None:
    """Choose the shop's school; leads only. Raises BadInput for what is none."""
    person = require(user, "profile.change")
    value = check_school(name, school)
    before = HouseRule.objects.select_for_update().filter(name=name).first()
    if before is not None and before.value == value:
        return
    HouseRule.objects.update_or_create(name=name, defaults={"value": value, "changed_by": person})
    count = KeptVersion.objects.filter(what=f"rule:{name}").count()
    keep_version(f"rule:{name}", count + 1, {"value": value}, person)
