"""Productions and who works on them."""

from __future__ import annotations

from typing import Literal, cast

from django.contrib.auth import get_user_model
from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from hame.errors import BadEdit
from server.productions.access import need, role_in
from server.productions.models import Membership, Production, Role

router = Router(tags=["productions"])
RoleName = Literal["guest", "animator", "lead"]


class ProductionOut(Schema):
    id: int
    name: str
    role: RoleName


class ProductionIn(Schema):
    name: str = Field(min_length=1, max_length=100)


class MemberOut(Schema):
    username: str
    name: str
    role: RoleName


class MemberIn(Schema):
    username: str
    role: RoleName


def _me(request: HttpRequest) -> int:
    return int(request.user.pk or 0)


def _named(role: str) -> RoleName:
    return cast(RoleName, role)


@router.get("/productions", response=list[ProductionOut])
def list_productions(request: HttpRequest) -> list[ProductionOut]:
    found = Membership.objects.filter(user_id=_me(request)).select_related("production").order_by("production__name")
    return [ProductionOut(id=m.production_id, name=m.production.name, role=_named(m.role)) for m in found]


@router.post("/productions", response=ProductionOut)
def make_production(request: HttpRequest, given: ProductionIn) -> ProductionOut:
    with transaction.atomic():
        production = Production.objects.create(name=given.name.strip())
        Membership.objects.create(production=production, user_id=_me(request), role=Role.LEAD)
    return ProductionOut(id=production.pk, name=production.name, role="lead")


@router.get("/productions/{production_id}/members", response=list[MemberOut])
def list_members(request: HttpRequest, production_id: int) -> list[MemberOut]:
    role_in(request.user, production_id)
    found = Membership.objects.filter(production_id=production_id).select_related("user").order_by("user__username")
    return [
        MemberOut(
            username=m.user.get_username(), name=m.user.get_full_name() or m.user.get_username(), role=_named(m.role)
        )
        for m in found
    ]


@router.put("/productions/{production_id}/members", response=list[MemberOut])
def set_member(request: HttpRequest, production_id: int, given: MemberIn) -> list[MemberOut]:
    """Adds a person by account name, or changes their role."""
    need(request.user, production_id, Role.LEAD)
    user = get_user_model().objects.filter(username=given.username).first()
    if user is None:
        raise BadEdit(f"there is no account called {given.username}")
    if user.pk == _me(request) and given.role != "lead":
        raise BadEdit("you cannot give up the lead yourself; another lead can take it from you")
    Membership.objects.update_or_create(production_id=production_id, user=user, defaults={"role": given.role})
    return list_members(request, production_id)


@router.delete("/productions/{production_id}/members/{username}", response=list[MemberOut])
def remove_member(request: HttpRequest, production_id: int, username: str) -> list[MemberOut]:
    need(request.user, production_id, Role.LEAD)
    if username == request.user.get_username():
        raise BadEdit("you cannot remove yourself; another lead can")
    Membership.objects.filter(production_id=production_id, user__username=username).delete()
    return list_members(request, production_id)
