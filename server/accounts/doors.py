"""Who may use an operation of the API is said where it is declared, and asked before anything of the request is read."""

from typing import Any

from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja.security import SessionAuth

from server.accounts.policy import Deed, require


class Door(SessionAuth):
    """Lets in who is signed in and has a role that allows the deed: 401 for a stranger, 403 for anybody else."""

    def __init__(self, deed: Deed) -> None:
        super().__init__()
        self.deed = deed

    def authenticate(self, request: HttpRequest, key: str | None) -> Any | None:
        if not isinstance(request.user, User) or not request.user.is_active:
            return None
        return require(request.user, self.deed)


class SignedIn(SessionAuth):
    """Lets in whoever is signed in, with a role or without."""


look = Door("job.view")  # what every operation asks that says nothing of its own
hand_over = Door("job.hand_over")
reopen = Door("job.reopen")
lead_people = Door("people.change")
lead_profiles = Door("profile.change")
