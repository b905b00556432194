"""Signing in and out, and who one is."""

import time

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.core.cache import cache
from django.http import HttpRequest
from ninja import Router, Schema
from ninja.errors import HttpError

from server.accounts.policy import roles_of
from server.common import tickets

router = Router(tags=["session"])
MAX_TRIES, TRY_WINDOW_S = 10, 300


class SignIn(Schema):
    username: str
    password: str


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
        signed_in=user.is_authenticated, name=user.get_username(), roles=list(roles_of(user)) if user.is_authenticated else [],
        demo=settings.DEMO, lan=settings.LAN, tls=settings.TLS,
        fingerprint="" if settings.OWN_CERTIFICATE else settings.FINGERPRINT)


@router.get("/me", auth=None, response=Me, operation_id="getMe")
def me(request: HttpRequest) -> Me:
    return _me(request)


@router.post("/session", auth=None, response=Me, operation_id="signIn")
def sign_in(request: HttpRequest, body: SignIn) -> Me:
    key = f"tries:{request.META.get('REMOTE_ADDR')}:{body.username[:60]}"
    tries = cache.get(key, 0)
    if tries >= MAX_TRIES:
        raise HttpError(429, "Too many wrong tries. Wait five minutes, then try again.")
    user = authenticate(request, username=body.username, password=body.password)
    if user is None:
        cache.set(key, tries + 1, TRY_WINDOW_S)
        time.sleep(0.3)
        raise HttpError(401, "Name or password is wrong.")
    cache.delete(key)
    login(request, user)
    return _me(request)


@router.delete("/session", response=Me, operation_id="signOut")
def sign_out(request: HttpRequest) -> Me:
    if request.session.session_key:
        tickets.end(session=[tickets.session_digest(request.session.session_key)])
    logout(request)
    return _me(request)
