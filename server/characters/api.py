"""Bringing characters in and mapping their joints."""

from __future__ import annotations

import numpy as np
from django.conf import settings
from django.http import FileResponse, HttpRequest
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile

from hame.character import bodyplan
from hame.character.skin import Skin
from hame.errors import BadFile
from server.characters import store
from server.characters.models import Character
from server.productions.access import need, role_in, shared
from server.productions.models import Role

router = Router(tags=["characters"])


class CharacterOut(Schema):
    id: int
    name: str
    version: int
    joints: int
    triangles: int
    height: float
    controls: int
    notes: list[str]


class SkeletonOut(Schema):
    names: list[str]
    parents: list[int]
    places: list[list[float]]


class CharacterDetail(CharacterOut):
    production_id: int
    can_change: bool
    skeleton: SkeletonOut
    roles: dict[str, str]
    found_by: dict[str, str]


class PlanIn(Schema):
    roles: dict[str, str]


class Problems(Schema):
    """What is wrong with a body plan, by role; empty when a rig can be built."""

    problems: dict[str, str]


def _out(character: Character) -> CharacterOut:
    version = character.current
    found = store.read(version)
    return CharacterOut(
        id=character.pk, name=character.name, version=version.number, joints=len(found.skeleton),
        triangles=found.skin.triangle_count, height=_height(found.skin),
        controls=len(store.rig(version).controls), notes=version.notes,
    )  # fmt: skip


def _height(skin: Skin) -> float:
    """From the lowest to the highest point of the surface, metres."""
    heights = np.concatenate([patch.points[:, 1] for patch in skin.patches])
    return float(np.ptp(heights))


def _character(request: HttpRequest, character_id: int) -> Character:
    character: Character = shared(request.user, Character.objects, "production", pk=character_id)
    return character


@router.get("/productions/{production_id}/characters", response=list[CharacterOut])
def list_characters(request: HttpRequest, production_id: int) -> list[CharacterOut]:
    role_in(request.user, production_id)
    return [_out(c) for c in Character.objects.filter(production_id=production_id).order_by("name")]


@router.post("/productions/{production_id}/characters", response=CharacterOut)
def bring_in(request: HttpRequest, production_id: int, file: File[UploadedFile], name: Form[str] = "") -> CharacterOut:
    """Brings a skinned .glb in; a file that cannot be used is refused and nothing is stored."""
    need(request.user, production_id, Role.ANIMATOR)
    if (file.size or 0) > settings.UPLOAD_LIMIT:
        raise BadFile(f"the file is larger than {settings.UPLOAD_LIMIT // 1024**2} MB")
    title = (name.strip() or (file.name or "character").rsplit(".", 1)[0])[:100]
    return _out(store.bring_in(production_id, title, file.read(), request.user))


@router.get("/characters/{character_id}", response=CharacterDetail)
def character(request: HttpRequest, character_id: int) -> CharacterDetail:
    found = _character(request, character_id)
    version, role = found.current, role_in(request.user, found.production_id)
    skeleton = store.read(version).skeleton
    plan = bodyplan.from_json(version.plan)
    return CharacterDetail(
        **_out(found).dict(), production_id=found.production_id, can_change=role != Role.GUEST,
        skeleton=SkeletonOut(names=list(skeleton.names), parents=list(skeleton.parents), places=skeleton.places.tolist()),
        roles=dict(plan.roles), found_by=dict(plan.found_by),
    )  # fmt: skip


@router.post("/characters/{character_id}/plan/check", response=Problems)
def check_plan(request: HttpRequest, character_id: int, given: PlanIn) -> Problems:
    """Says what is wrong with a body plan without storing it."""
    found = _character(request, character_id)
    skeleton = store.read(found.current).skeleton
    return Problems(problems=bodyplan.problems(bodyplan.BodyPlan(given.roles), skeleton))


@router.put("/characters/{character_id}/plan", response=CharacterOut)
def set_plan(request: HttpRequest, character_id: int, given: PlanIn) -> CharacterOut:
    found = _character(request, character_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    store.change_plan(found, given.roles)
    return _out(found)


@router.get("/characters/{character_id}/mesh.glb", include_in_schema=False)
def mesh(request: HttpRequest, character_id: int) -> FileResponse:
    version = _character(request, character_id).current
    return FileResponse(version.mesh.open("rb"), content_type="model/gltf-binary")
