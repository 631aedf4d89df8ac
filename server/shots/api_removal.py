"""Deleting for good what was put away. Only a lead may, and is told first what goes along."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from hame.errors import BadEdit
from server.characters.models import Character
from server.productions.access import need, shared
from server.productions.models import Production, Role
from server.shots import removal
from server.shots.models import Shot, Take

router = Router(tags=["removal"])


class GoingOut(Schema):
    """What would go along."""

    words: list[str]


def _put_away(found: Take | Shot | Character | Production) -> None:
    if found.put_away_at is None:
        raise BadEdit("put it away first; only what was put away can be deleted for good")


def _take(request: HttpRequest, take_id: int) -> Take:
    found: Take = shared(request.user, Take.objects.select_related("shot"), "shot__production", pk=take_id)
    need(request.user, found.shot.production_id, Role.LEAD)
    return found


def _shot(request: HttpRequest, shot_id: int) -> Shot:
    found: Shot = shared(request.user, Shot.objects, "production", pk=shot_id)
    need(request.user, found.production_id, Role.LEAD)
    return found


def _character(request: HttpRequest, character_id: int) -> Character:
    found: Character = shared(request.user, Character.objects, "production", pk=character_id)
    need(request.user, found.production_id, Role.LEAD)
    return found


def _production(request: HttpRequest, production_id: int) -> Production:
    need(request.user, production_id, Role.LEAD)
    return Production.objects.get(pk=production_id)


@router.get("/takes/{take_id}/removal", response=GoingOut)
def take_going(request: HttpRequest, take_id: int) -> GoingOut:
    take = _take(request, take_id)
    return GoingOut(words=list(removal.of_takes(Take.objects.filter(pk=take.pk)).words))


@router.delete("/takes/{take_id}/removal", response={204: None})
def delete_take(request: HttpRequest, take_id: int) -> HttpResponse:
    take = _take(request, take_id)
    _put_away(take)
    removal.delete_takes(Take.objects.filter(pk=take.pk))
    return HttpResponse(status=204)


@router.get("/shots/{shot_id}/removal", response=GoingOut)
def shot_going(request: HttpRequest, shot_id: int) -> GoingOut:
    shot = _shot(request, shot_id)
    return GoingOut(words=list(removal.of_shots(Shot.objects.filter(pk=shot.pk)).words))


@router.delete("/shots/{shot_id}/removal", response={204: None})
def delete_shot(request: HttpRequest, shot_id: int) -> HttpResponse:
    shot = _shot(request, shot_id)
    _put_away(shot)
    removal.delete_shots(Shot.objects.filter(pk=shot.pk))
    return HttpResponse(status=204)


@router.get("/characters/{character_id}/removal", response=GoingOut)
def character_going(request: HttpRequest, character_id: int) -> GoingOut:
    return GoingOut(words=list(removal.of_character(_character(request, character_id)).words))


@router.delete("/characters/{character_id}/removal", response={204: None})
def delete_character(request: HttpRequest, character_id: int) -> HttpResponse:
    character = _character(request, character_id)
    _put_away(character)
    removal.delete_character(character)
    return HttpResponse(status=204)


@router.get("/productions/{production_id}/removal", response=GoingOut)
def production_going(request: HttpRequest, production_id: int) -> GoingOut:
    return GoingOut(words=list(removal.of_production(_production(request, production_id)).words))


@router.delete("/productions/{production_id}/removal", response={204: None})
def delete_production(request: HttpRequest, production_id: int) -> HttpResponse:
    production = _production(request, production_id)
    _put_away(production)
    removal.delete_production(production)
    return HttpResponse(status=204)
