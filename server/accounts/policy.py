"""Roles, and what each may do. One place decides; actions ask."""

from typing import Literal

from django.contrib.auth.models import AbstractBaseUser, AnonymousUser, Group, User
from django.core.exceptions import PermissionDenied

Role = Literal["technician", "lead"]
ROLES: tuple[Role, ...] = ("technician", "lead")
Deed = Literal[
    "job.view", "job.change", "job.hand_over", "job.reopen", "people.change", "profile.change", "gate.override"
]
ALLOWED: dict[Role, frozenset[Deed]] = {
    "technician": frozenset({"job.view", "job.change", "job.hand_over"}),
    "lead": frozenset(
        {"job.view", "job.change", "job.hand_over", "job.reopen", "people.change", "profile.change", "gate.override"}
    ),
}


def ensure_roles() -> None:
    """Make the groups that stand for the roles."""
    for role in ROLES:
        Group.objects.get_or_create(name=role)


def roles_of(user: User) -> list[Role]:
    names = set(user.groups.values_list("name", flat=True))
    return [role for role in ROLES if role in names]


def may(user: AbstractBaseUser | AnonymousUser, deed: Deed) -> bool:
    """Does one of the roles of an active person allow the deed?"""
    return isinstance(user, User) and user.is_active and any(deed in ALLOWED[role] for role in roles_of(user))


def require(user: AbstractBaseUser | AnonymousUser, deed: Deed) -> User:
    """The user, when one of the roles allows the deed; raises PermissionDenied otherwise."""
    if not isinstance(user, User) or not user.is_active:
        raise PermissionDenied("Sign in first.")
    if not may(user, deed):
        raise PermissionDenied(
            f"Your role may not do this ({deed.replace('.', ': ').replace('_', ' ')}). Ask the lead."
        )
    return user
