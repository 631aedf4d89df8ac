"""Signing in and out."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, get_user_model, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.utils import check_csrf
from pydantic import Field

from server.errors import Refused, TooMany
from server.rights import leave, session_group

router = Router(tags=["session"])

DEMO_ACCOUNTS = {"isla": "Isla, animator", "tam": "Tam, guest who only looks"}


class Person(Schema):
    name: str
    username: str


class DemoAccount(Schema):
    username: str
    label: str


class Session(Schema):
    """Who is signed in (null: nobody) and which demo accounts can be had with one click."""

    person: Person | None
    demo: list[DemoAccount]
    csrf: str


class SignIn(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=1000)


class DemoSignIn(Schema):
    username: str


def _session(request: HttpRequest) -> Session:
    user = request.user
    person = Person(name=user.get_full_name() or user.get_username(), username=user.get_username()) \
        if user.is_authenticated else None  # fmt: skip
    accounts = [DemoAccount(username=u, label=label) for u, label in DEMO_ACCOUNTS.items()] if settings.DEMO else []
    return Session(person=person, demo=accounts, csrf=get_token(request))


def _from_our_page(request: HttpRequest) -> None:
    """Signing in has no session yet, so the check against forged requests is made here."""
    if check_csrf(request, lambda: None) is not None:
        raise Refused("This request did not come from Hame's own page. Reload the page and try again.")


@router.get("/session", response=Session, auth=None)
def session(request: HttpRequest) -> Session:
    return _session(request)


@router.post("/session", response=Session, auth=None)
def sign_in(request: HttpRequest, given: SignIn) -> Session:
    _from_our_page(request)
    user = authenticate(request, username=given.username, password=given.password)
    wait = getattr(request, "wait", 0)
    if wait:
        raise TooMany(f"Too many wrong tries. Wait {wait} second{'' if wait == 1 else 's'} and try again.", wait)
    if user is None:
        raise Refused("Name and password do not belong together.")
    login(request, user)
    return _session(request)


@router.post("/session/demo", response=Session, auth=None)
def demo_sign_in(request: HttpRequest, given: DemoSignIn) -> Session:
    _from_our_page(request)
    if not settings.DEMO or given.username not in DEMO_ACCOUNTS:
        raise Refused("Demo accounts are not open here.")
    login(request, get_user_model().objects.get(username=given.username))
    return _session(request)


@router.delete("/session", response=Session)
def sign_out(request: HttpRequest) -> Session:
    key = request.session.session_key
    logout(request)
    if key:
        leave(session_group(key))
    return _session(request)
