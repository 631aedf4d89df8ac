"""Bringing characters in and mapping their joints."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.utils import timezone
from ninja import File, Form, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from hame.character import bodyplan
from hame.character.face import BY_ROLE, ZONES, face_problems
from hame.character.squash import squashable
from hame.demo.shelf import THINGS, thing
from hame.errors import BadFile
from server.characters import store
from server.characters.body import BodyIn, BodyOut, body_out, set_body
from server.characters.files import mesh_of
from server.characters.groups import GroupsIn, GroupsOut, groups_out, set_groups
from server.characters.models import Character, CharacterVersion
from server.characters.reading import take_in, take_ours
from server.jobs.api import JobOut, job_out
from server.jobs.kinds import Asked, Progress, Result, job
from server.jobs.store import ask_for
from server.productions.access import need, role_in, shared
from server.productions.models import Role
from server.rows import changing

router = Router(tags=["characters"])


class CharacterOut(Schema):
    id: int
    name: str
    version: int
    joints: int
    triangles: int
    height: float
    controls: int
    problem: str
    notes: list[str]
    prop: bool


class SkeletonOut(Schema):
    names: list[str]
    parents: list[int]
    places: list[list[float]]


class CharacterDetail(CharacterOut):
    production_id: int
    can_change: bool
    skeleton: SkeletonOut
    facing: float
    roles: dict[str, str]
    found_by: dict[str, str]
    face: dict[str, ZoneOut]
    zones: list[str]
    shapes: list[str]
    squashable: bool


class ZoneOut(Schema):
    """What moves a zone of a face: joints and shapes by name."""

    joints: list[str] = Field(max_length=200)
    shapes: list[str] = Field(max_length=1000)


class PlanIn(Schema):
    """Roles of joints; ``turn``: degrees by which the figure is turned, seen from above against the clock; ``face``: by
    zone, what moves it, which stays without it."""

    roles: dict[str, str] = Field(max_length=2000)
    turn: float = Field(0.0, ge=-360, le=360)
    face: dict[str, ZoneOut] | None = Field(None, max_length=200)


class ShelfIn(Schema):
    name: str = Field(max_length=100)


class CharacterChange(Schema):
    name: str | None = Field(None, min_length=1, max_length=100)
    put_away: bool | None = None


class Problems(Schema):
    """What is wrong with a body plan, by role; empty when a rig can be built."""

    problems: dict[str, str]


def _out(character: Character, version: CharacterVersion | None = None) -> CharacterOut:
    version = version or character.current
    card = store.card(version)
    return CharacterOut(
        id=character.pk, name=character.name, version=version.number, joints=card.joints, triangles=card.triangles,
        height=card.height, controls=card.controls, problem=card.problem, notes=version.notes,
        prop="base" in version.plan["roles"],
    )  # fmt: skip


def _character(request: HttpRequest, character_id: int) -> Character:
    character: Character = shared(request.user, Character.objects, "production", pk=character_id)
    return character


@router.get("/productions/{production_id}/characters", response=list[CharacterOut])
def list_characters(request: HttpRequest, production_id: int, away: bool = False) -> list[CharacterOut]:
    """The characters, or those put away."""
    role_in(request.user, production_id)
    found = Character.objects.filter(production_id=production_id, put_away_at__isnull=not away).order_by("name")
    versions = {v.character_id: v for v in CharacterVersion.objects.filter(character__in=found).order_by("number")}
    return [_out(c, versions[c.pk]) for c in found]


@router.patch("/characters/{character_id}", response=CharacterOut)
def change_character(request: HttpRequest, character_id: int, given: CharacterChange) -> CharacterOut:
    """Renames a character, puts it away (shots that it plays in keep it), or brings it back."""
    found = _character(request, character_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    with changing(found) as now:
        if given.name is not None:
            now.name = given.name.strip()
        if given.put_away is not None:
            now.put_away_at = timezone.now() if given.put_away else None
    return _out(now)


@router.post("/productions/{production_id}/characters", response=CharacterOut)
def bring_in(
    request: HttpRequest, production_id: int, file: File[UploadedFile], name: Form[str] = "", prop: Form[bool] = False
) -> CharacterOut:
    """Brings a skinned .glb in, as a figure or a prop; a file that cannot be used is refused and nothing is stored."""
    need(request.user, production_id, Role.ANIMATOR)
    data, title = _bytes(file), _title(file, name, prop)
    return _out(store.bring_in(production_id, title, data, request.user, prop, file.name or ""))


@router.post("/productions/{production_id}/characters/jobs", response=JobOut)
def bring_in_away(
    request: HttpRequest, production_id: int, file: File[UploadedFile], name: Form[str] = "", prop: Form[bool] = False
) -> JobOut:
    """The same as a job, for large files: its outcome names the character."""
    need(request.user, production_id, Role.ANIMATOR)
    told = {"production": production_id, "name": _title(file, name, prop), "prop": prop, "file": file.name or ""}
    return job_out(ask_for(request.user, "bring in", f"Bring in {told['name']}", told, _bytes(file)))


@job("bring in")
def read_in(asked: Asked, progress: Progress) -> Result:
    """Reads a file that somebody brought, who has to be an animator of the production still."""
    told = asked.told
    need(asked.maker, told["production"], Role.ANIMATOR)
    progress(0.1, "reading the file")
    taken = take_in(told["name"], asked.given, told["prop"], told["file"])

    def keep() -> dict[str, Any]:
        made = store.keep(taken, told["production"], told["name"], asked.given, asked.maker, told["file"])
        return {"character": made.pk}

    return Result(keep=keep)


def _bytes(file: UploadedFile) -> bytes:
    if (file.size or 0) > settings.UPLOAD_LIMIT:
        raise BadFile(f"the file is larger than {settings.UPLOAD_LIMIT // 1024**2} MB")
    data: bytes = file.read()
    return data


def _title(file: UploadedFile, name: str, prop: bool) -> str:
    return (name.strip() or (file.name or "").rsplit(".", 1)[0].strip() or ("Prop" if prop else "Character"))[:100]


@router.post("/productions/{production_id}/shelf", response=CharacterOut)
def from_shelf(request: HttpRequest, production_id: int, given: ShelfIn) -> CharacterOut:
    """Takes a thing that ships with the application into a production, as a prop of its own there."""
    need(request.user, production_id, Role.ANIMATOR)
    file = thing(given.name)
    if file is None:
        raise BadFile(f"there is no {given.name} on the shelf; there are {', '.join(THINGS)}")
    data = file.read_bytes()
    return _out(store.keep(take_ours(given.name, data, True), production_id, given.name, data, request.user))


@router.get("/characters/{character_id}", response=CharacterDetail)
def character(request: HttpRequest, character_id: int) -> CharacterDetail:
    found = _character(request, character_id)
    version, role = found.current, role_in(request.user, found.production_id)
    skeleton = store.read(version).skeleton
    plan = bodyplan.from_json(version.plan)
    return CharacterDetail(
        **_out(found).dict(), production_id=found.production_id, can_change=role != Role.GUEST,
        skeleton=SkeletonOut(names=list(skeleton.names), parents=list(skeleton.parents),
            places=skeleton.places.tolist()),
        roles=dict(plan.roles), found_by=dict(plan.found_by), facing=plan.facing,
        face={name: ZoneOut(joints=list(zone.joints), shapes=list(zone.shapes)) for name, zone in plan.face.items()},
        zones=[zone for zone in ZONES if plan.shapes or zone not in BY_ROLE],
        shapes=[shape[0] for shape in plan.shapes], squashable=bool(squashable(plan)),
    )  # fmt: skip


@router.post("/characters/{character_id}/plan/check", response=Problems)
def check_plan(request: HttpRequest, character_id: int, given: PlanIn) -> Problems:
    """Says what is wrong with a body plan without storing it."""
    found = _character(request, character_id)
    skeleton = store.read(found.current).skeleton
    problems = bodyplan.problems(bodyplan.BodyPlan(given.roles), skeleton)
    if not problems and given.face is not None:
        shapes = bodyplan.from_json(found.current.plan).shapes
        problems = face_problems(bodyplan.BodyPlan(given.roles, shapes=shapes, face=_zones(given.face)), skeleton)
    return Problems(problems=problems)


@router.put("/characters/{character_id}/plan", response=CharacterOut)
def set_plan(request: HttpRequest, character_id: int, given: PlanIn) -> CharacterOut:
    found = _character(request, character_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    face = None if given.face is None else _zones(given.face)
    return _out(found, store.change_plan(found, given.roles, given.turn, face=face))


@router.post("/characters/{character_id}/squash", response=CharacterOut)
def squash(request: HttpRequest, character_id: int) -> CharacterOut:
    """Gives the eyes of a character shapes by which they are squashed, in a version of its own."""
    found = _character(request, character_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    return _out(found, store.add_squash(found))


def _zones(given: dict[str, ZoneOut]) -> dict[str, bodyplan.Zone]:
    """What moves each zone, without those that nothing does."""
    return {
        name: bodyplan.Zone(tuple(dict.fromkeys(zone.joints)), tuple(dict.fromkeys(zone.shapes)))
        for name, zone in given.items()
        if zone.joints or zone.shapes
    }


@router.get("/characters/{character_id}/body", response=BodyOut)
def body(request: HttpRequest, character_id: int) -> BodyOut:
    """How far its joints turn and what its parts weigh."""
    return body_out(_character(request, character_id))


@router.put("/characters/{character_id}/body", response=BodyOut)
def change_body(request: HttpRequest, character_id: int, given: BodyIn) -> BodyOut:
    """Sets ranges and masses that are not the usual; what is left out is usual again."""
    found = _character(request, character_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    set_body(found, given)
    return body_out(found)


@router.get("/characters/{character_id}/groups", response=GroupsOut)
def groups(request: HttpRequest, character_id: int) -> GroupsOut:
    """The groups of controls that it suggests to whoever poses it."""
    return groups_out(_character(request, character_id))


@router.put("/characters/{character_id}/groups", response=GroupsOut)
def change_groups(request: HttpRequest, character_id: int, given: GroupsIn) -> GroupsOut:
    found = _character(request, character_id)
    need(request.user, found.production_id, Role.ANIMATOR)
    set_groups(found, given)
    found.refresh_from_db()
    return groups_out(found)


@router.get("/characters/{character_id}/mesh.glb", include_in_schema=False)
def mesh(request: HttpRequest, character_id: int) -> HttpResponseBase:
    return mesh_of(request, _character(request, character_id).current)
