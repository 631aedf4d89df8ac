"""Who may see and change what. Everything belongs to a production; what is not shared looks as if it were not there."""

from __future__ import annotations

from typing import Any

from django.db.models import F, Manager, Model, QuerySet
from django.http import Http404

from server.errors import Refused
from server.productions.models import Membership, Role

_RANK = {Role.GUEST: 0, Role.ANIMATOR: 1, Role.LEAD: 2}


def role_in(user: Any, production_id: int) -> Role:
    """The person's role; raises Http404 for who is no member."""
    found = (
        Membership.objects.filter(production_id=production_id, user_id=user.pk).values_list("role", flat=True).first()
    )
    if found is None:
        raise Http404
    return Role(found)


def need(user: Any, production_id: int, role: Role) -> Role:
    """The person's role if it is at least ``role``; raises :class:`Refused` with the reason otherwise."""
    has = role_in(user, production_id)
    _refuse_less(has, role)
    return has


def _refuse_less(has: Role, role: Role) -> None:
    if _RANK[has] < _RANK[role]:
        raise Refused(f"You are a {has.label} in this production; this takes {_article(role)}. Ask its lead.")


def shared_as(user: Any, role: Role, objects: Manager[Any] | QuerySet[Any], production: str, **where: Any) -> Any:
    """:func:`shared` and :func:`need` in one look-up; raises as both do."""
    mine = {f"{production}__memberships__user": user.pk}  # one at most, so that the role below is that one's
    found = list(objects.filter(**mine, **where).annotate(mine_as=F(f"{production}__memberships__role"))[:1])
    if not found:
        raise Http404
    _refuse_less(Role(found[0].mine_as), role)
    return found[0]


def shared(user: Any, objects: Manager[Any] | QuerySet[Any], production: str, **where: Any) -> Any:
    """The one object ``where`` says, if it belongs to a production of the person; raises Http404 otherwise.

    ``production`` is the path of the lookup from the object to its production.
    """
    found: Model | None = objects.filter(**{f"{production}__memberships__user": user.pk}, **where).first()
    if found is None:
        raise Http404
    return found


def _article(role: Role) -> str:
    return f"an {role.label}" if role == Role.ANIMATOR else f"a {role.label}"
