"""Signing in and out, and who one is."""

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from ninja import Field, Router, Schema
from ninja.errors import HttpError
from ninja.utils import check_csrf

from server.accounts.doors import SignedIn
from server.accounts.policy import roles_of
from server.common import tickets

router = Router(tags=["session"])
MOST_PASSWORD = 200  # characters: hashing takes time, longer ones more


class SignIn(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=MOST_PASSWORD)


class Me(Schema):
    """Who is signed in, and how this instance runs."""

    signed_in: bool
    name: str
    roles: list[str]
    demo: bool
    lan: bool
    tls: bool
    fingerprint: str  # of the self-signed certificate, to compare on a phone


def _me(request: HttpRequest) -> Me:
    user = request.user
    return Me(
        signed_in=user.is_authenticated,
        name=user.get_username(),
        roles=list(roles_of(user)) if user.is_authenticated else [],
        demo=settings.DEMO,
        lan=settings.LAN,
        tls=settings.TLS,
        fingerprint="" if settings.OWN_CERTIFICATE else settings.FINGERPRINT,
    )


@router.get("/me", auth=None, response=Me, operation_id="getMe")
def me(request: HttpRequest) -> Me:
    return _me(request)


@router.post("/session", auth=None, response=Me, operation_id="signIn")
def sign_in(request: HttpRequest, body: SignIn) -> Me:
    """Runs in threads of its own (see server.config.asgi): hashing keeps nobody else waiting."""
    refused = check_csrf(request, sign_in)
    if refused is not None:
        raise HttpError(403, "This page was opened too long ago or elsewhere. Reload it, then sign in.")
    user = authenticate(request, username=body.username, password=body.password)
    if user is None:  # somebody who tried too often is told so by the throttle's middleware
        raise HttpError(401, "Name or password is wrong.")
    login(request, user)
    return _me(request)


@router.delete("/session", auth=SignedIn(), response=Me, operation_id="signOut")
def sign_out(request: HttpRequest) -> Me:
    if request.session.session_key:
        tickets.end(session=[tickets.session_digest(request.session.session_key)])
    logout(request)
    return _me(request)
