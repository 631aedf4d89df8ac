"""Productions and who works on them."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Literal, cast

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from hame.errors import BadEdit
from server.productions.access import need, role_in
from server.productions.models import Invitation, Membership, Production, Role
from server.rights import look_again, person_group
from server.rows import changing

router = Router(tags=["productions"])
MOST_ASKED = 200  # invitations of a production that wait
RoleName = Literal["guest", "animator", "lead"]


class ProductionOut(Schema):
    id: int
    name: str
    role: RoleName


class ProductionIn(Schema):
    name: str = Field(min_length=1, max_length=100)


class MemberOut(Schema):
    """A person of the production, or (``invited``) an account name that was asked in and has not come yet."""

    username: str
    name: str
    role: RoleName
    invited: bool = False


class MemberIn(Schema):
    username: str = Field(min_length=1, max_length=150)
    role: RoleName


class ProductionChange(Schema):
    name: str | None = Field(None, min_length=1, max_length=100)
    put_away: bool | None = None


class InvitationOut(Schema):
    id: int
    production: str
    role: RoleName
    by: str


def _me(request: HttpRequest) -> int:
    return int(request.user.pk or 0)


def _named(role: str) -> RoleName:
    return cast(RoleName, role)


@router.get("/productions", response=list[ProductionOut])
def list_productions(request: HttpRequest, away: bool = False) -> list[ProductionOut]:
    """The person's productions, or those of them that were put away."""
    found = (
        Membership.objects.filter(user_id=_me(request), production__put_away_at__isnull=not away)
        .select_related("production")
        .order_by("production__name")
    )
    return [_out(m.production, m.role) for m in found]


def _out(production: Production, role: str) -> ProductionOut:
    return ProductionOut(id=production.pk, name=production.name, role=_named(role))


@router.post("/productions", response=ProductionOut)
def make_production(request: HttpRequest, given: ProductionIn) -> ProductionOut:
    with transaction.atomic():
        production = Production.objects.create(name=given.name.strip())
        Membership.objects.create(production=production, user_id=_me(request), role=Role.LEAD)
    return _out(production, Role.LEAD)


@router.patch("/productions/{production_id}", response=ProductionOut)
def change_production(request: HttpRequest, production_id: int, given: ProductionChange) -> ProductionOut:
    """Renames a production, puts it away, or brings it back."""
    role = need(request.user, production_id, Role.ANIMATOR)
    with changing(Production(pk=production_id)) as now:
        if given.name is not None:
            now.name = given.name.strip()
        if given.put_away is not None:
            now.put_away_at = timezone.now() if given.put_away else None
    return _out(now, role)


@router.get("/productions/{production_id}/members", response=list[MemberOut])
def list_members(request: HttpRequest, production_id: int) -> list[MemberOut]:
    role = role_in(request.user, production_id)
    found = Membership.objects.filter(production_id=production_id).select_related("user").order_by("user__username")
    people = [
        MemberOut(
            username=m.user.get_username(), name=m.user.get_full_name() or m.user.get_username(), role=_named(m.role)
        )
        for m in found
    ]
    asked = Invitation.objects.filter(production_id=production_id).order_by("account") if role == Role.LEAD else []
    return people + [MemberOut(username=i.account, name="", role=_named(i.role), invited=True) for i in asked]


@router.put("/productions/{production_id}/members", response=list[MemberOut])
def set_member(request: HttpRequest, production_id: int, given: MemberIn) -> list[MemberOut]:
    """Asks a person in by account name, or changes the role of one who is in.

    Whoever has the account sees it and comes in; whether there is such an account is not told.
    """
    need(request.user, production_id, Role.LEAD)
    with _alone(production_id):
        member = _member(production_id, given.username)
        if member is None:
            if Invitation.objects.filter(production_id=production_id).count() >= MOST_ASKED:
                raise BadEdit(f"{MOST_ASKED} people are asked in already; take some invitations back first")
            Invitation.objects.update_or_create(
                production_id=production_id, account=one_spelling(given.username),
                defaults={"role": given.role, "by_id": _me(request)},
            )  # fmt: skip
        else:
            if member.user_id == _me(request) and given.role != "lead":
                raise BadEdit("you cannot give up the lead yourself; another lead can take it from you")
            member.role = given.role
            member.save(update_fields=["role"])
            _keep_a_lead(production_id)
    if member is not None:
        look_again(person_group(member.user_id))
    return list_members(request, production_id)


@router.delete("/productions/{production_id}/members/{username}", response=list[MemberOut])
def remove_member(request: HttpRequest, production_id: int, username: str) -> list[MemberOut]:
    """Takes a person out, or an invitation back."""
    need(request.user, production_id, Role.LEAD)
    with _alone(production_id):
        Invitation.objects.filter(production_id=production_id, account=one_spelling(username)).delete()
        member = _member(production_id, username)
        if member is not None:
            if member.user_id == _me(request):
                raise BadEdit("you cannot remove yourself; another lead can")
            member.delete()
            _keep_a_lead(production_id)
    if member is not None:
        look_again(person_group(member.user_id))
    return list_members(request, production_id)


@router.get("/invitations", response=list[InvitationOut])
def list_invitations(request: HttpRequest) -> list[InvitationOut]:
    """Productions that the person is asked into."""
    found = Invitation.objects.filter(account=one_spelling(request.user.get_username())).select_related(
        "production", "by"
    )
    return [
        InvitationOut(
            id=i.pk, production=i.production.name, role=_named(i.role),
            by=(i.by.get_full_name() or i.by.get_username()) if i.by else "",
        )
        for i in found
    ]  # fmt: skip


@router.post("/invitations/{invitation_id}", response=ProductionOut)
def come_in(request: HttpRequest, invitation_id: int) -> ProductionOut:
    found = _invitation(request, invitation_id)
    with transaction.atomic():
        member, _ = Membership.objects.get_or_create(
            production=found.production, user_id=_me(request), defaults={"role": found.role}
        )
        found.delete()
    return _out(found.production, member.role)


@router.delete("/invitations/{invitation_id}", response={204: None})
def stay_out(request: HttpRequest, invitation_id: int) -> HttpResponse:
    _invitation(request, invitation_id).delete()
    return HttpResponse(status=204)


def _invitation(request: HttpRequest, invitation_id: int) -> Invitation:
    mine = Invitation.objects.filter(account=one_spelling(request.user.get_username())).select_related("production")
    found = mine.filter(pk=invitation_id).first()
    if found is None:
        raise Http404
    return found


def one_spelling(username: str) -> str:
    """The one spelling of an account's name, in which invitations are kept."""
    return unicodedata.normalize("NFKC", username).strip().casefold()[:150]


def _member(production_id: int, username: str) -> Membership | None:
    """Who is in under a name, however it is spelt: the database's own comparison decides, as it does on signing in."""
    return Membership.objects.filter(production_id=production_id, user__username=username.strip()).first()


@contextmanager
def _alone(production_id: int) -> Iterator[None]:
    """One change of the people of a production at a time."""
    with transaction.atomic():
        Production.objects.select_for_update().get(pk=production_id)
        yield


def _keep_a_lead(production_id: int) -> None:
    if not Membership.objects.filter(production_id=production_id, role=Role.LEAD).exists():
        raise BadEdit("a production keeps one lead at least; make another person a lead first")
