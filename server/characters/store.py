"""Characters read once per process and kept: skeletons, skins and compiled rigs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from typing import Any

import orjson
from django.core.files.base import ContentFile
from django.db import transaction

from hame.character import bodyplan
from hame.character.build import build_rig
from hame.character.bulks import with_bulks
from hame.character.face import check_face, outline_of, placed, still_there
from hame.character.free import can_be_free, check_free
from hame.character.rig import Rig
from hame.character.soles import with_outlines, with_soles
from hame.character.squash import with_squash
from hame.character.volumes import with_centres, with_masses
from hame.errors import BadFile, BadPlan
from hame.formats.gltf_read import Character as Read
from hame.formats.gltf_read import read_character
from hame.formats.kinds import suffix_of
from hame.intake.intake import Card, card_of, prop_plan, turned_by_hand, written
from server.characters.models import Character, CharacterVersion
from server.characters.reading import Taken, take_in

Freed = Mapping[str, Mapping[str, tuple[float, float]]]


@lru_cache(maxsize=64)
def _read(version_id: int) -> Read:
    with CharacterVersion.objects.get(pk=version_id).mesh.open("rb") as file:
        return read_character(file.read())


def read(version: CharacterVersion) -> Read:
    """Skeleton and skin of a version."""
    return _read(version.pk)


@lru_cache(maxsize=64)
def _rig(version_id: int, plan: bytes) -> Rig:
    found = _read(version_id)
    return build_rig(found.skeleton, _completed(orjson.loads(plan), found))


def _completed(plan: dict[str, Any], found: Read) -> bodyplan.BodyPlan:
    """A stored plan with what was not measured yet when it was made. Nothing that poses rest on is changed."""
    known = bodyplan.from_json(plan)
    if "bulks" not in plan:
        known = with_bulks(known, found.skeleton, found.skin)
    if "outlines" not in plan:
        known = with_outlines(known, found.skeleton, found.skin)
    if known.is_prop and not known.masses:
        known = with_masses(known, found.skeleton, found.skin)
    elif "centres" not in plan or "spreads" not in plan:
        known = with_centres(known, found.skeleton, found.skin)
    return known


def rig(version: CharacterVersion) -> Rig:
    """The compiled rig of a version."""
    return _rig(version.pk, orjson.dumps(version.plan, option=orjson.OPT_SORT_KEYS))


def face_of(version: CharacterVersion) -> list[tuple[float, float]]:
    """The outline of its face from the front; see :func:`hame.character.face.outline_of`."""
    return _face(version.pk, orjson.dumps(version.plan, option=orjson.OPT_SORT_KEYS))


@lru_cache(maxsize=64)
def _face(version_id: int, plan: bytes) -> list[tuple[float, float]]:
    found = _read(version_id)
    return outline_of(bodyplan.from_json(orjson.loads(plan)), found.skeleton, found.skin)


def bring_in(production_id: int, name: str, data: bytes, user: Any, prop: bool = False, file: str = "") -> Character:
    """Stores a character file with a proposed body plan, if one can be proposed, or a prop.

    A character whose joints nobody can tell yet has no rig until somebody maps it, which its card says. ``file`` is
    what the file is called.

    Raises
    ------
    BadFile
        If the file cannot be used; then nothing is stored.
    """
    return keep(take_in(name, data, prop, file), production_id, name, data, user, file)


def keep(taken: Taken, production_id: int, name: str, data: bytes, user: Any, file: str = "") -> Character:
    """Stores what was read of a file, all or nothing."""
    with transaction.atomic():
        character = Character.objects.create(production_id=production_id, name=name, created_by=user)
        version = CharacterVersion(character=character, plan=taken.plan, notes=taken.notes, card=taken.card)
        version.source.save(f"character{suffix_of(file)}", ContentFile(data), save=False)
        version.mesh.save("character.glb", ContentFile(taken.mesh), save=False)
        version.save()
    return character


def card(version: CharacterVersion) -> Card:
    """What is shown of a version; made once for those stored before cards were kept."""
    if version.card is None:
        try:
            version.card = card_of(read(version), bodyplan.from_json(version.plan)).to_json()
        except (BadFile, OSError) as error:
            version.card = Card(0, 0, 0.0, 0, f"its file cannot be read: {error}").to_json()
        CharacterVersion.objects.filter(pk=version.pk).update(card=version.card)
    return Card(**version.card)


@transaction.atomic
def change_plan(
    character: Character, roles: dict[str, str], turn: float = 0.0, free: Freed | None = None,
    face: Mapping[str, bodyplan.Zone] | None = None,
) -> CharacterVersion:  # fmt: skip
    """Sets the body plan, and turns the figure by ``turn`` degrees about the vertical; or what joints without a role
    may do, or what moves the zones of its face, which both stay otherwise.

    A version that shots already use stays as it is and a new one is begun.

    Raises
    ------
    BadPlan
        If no rig can be built with it; nothing is stored then.
    """
    used = version = _locked(character)
    found = read(version)
    before = bodyplan.from_json(version.plan)
    mesh: bytes | None = None
    if turn % 360:
        mesh = turned_by_hand(character.name, _bytes_of(version), turn)
        found = read_character(mesh)
    found_by = {r: before.found_by.get(r, "hand") if before.roles.get(r) == j else "hand" for r, j in roles.items()}
    facing = (before.facing - turn + 180) % 360 - 180
    plan = bodyplan.BodyPlan(roles, found_by, facing=facing)
    bodyplan.check(plan, found.skeleton)
    size = prop_plan(found.skeleton, found.skin).size if plan.is_prop else 0.0
    plan = replace(plan, size=size, ranges=before.ranges, weights=before.weights, shapes=before.shapes)
    able = set(can_be_free(plan, found.skeleton))
    kept = {joint: given for joint, given in before.free.items() if joint in able}
    plan = replace(plan, free=kept if free is None else free)
    check_free(plan.free, plan, found.skeleton)
    zones = {} if plan.is_prop else still_there(before.face, plan) if face is None else face
    plan = placed(replace(plan, face=zones), found.skeleton, found.skin)
    check_face(plan, found.skeleton)
    plan = with_soles(plan, found.skeleton, found.skin)
    plan = with_bulks(with_masses(plan, found.skeleton, found.skin), found.skeleton, found.skin)
    shown = card_of(found, plan)
    if shown.problem:
        raise BadPlan(shown.problem)
    if version.castings.exists() or mesh is not None:
        version = CharacterVersion(
            character=character, number=used.number + 1, source=used.source.name, mesh=used.mesh.name,
            notes=used.notes,
        )  # fmt: skip
        if mesh is not None:
            version.mesh.save("character.glb", ContentFile(mesh), save=False)
    version.plan, version.card = plan.to_json(), shown.to_json()
    if version is used:
        version.save(update_fields=["plan", "card"])
    else:
        version.save()
    return version


@transaction.atomic
def add_squash(character: Character) -> CharacterVersion:
    """Begins a version of a character whose eyes have shapes by which they are squashed; see
    :mod:`hame.character.squash`.

    Raises
    ------
    BadPlan
        If it has no eyes to squash, or has such shapes; nothing is stored then.
    BadFile
        If its file grew too large by them.
    """
    used = _locked(character)
    found = read(used)
    plan, skin = with_squash(bodyplan.from_json(used.plan), found.skeleton, found.skin)
    plan = placed(plan, found.skeleton, skin)
    mesh = written(character.name, replace(found, skin=skin))
    shown = card_of(read_character(mesh), plan)
    if shown.problem:
        raise BadPlan(shown.problem)
    version = CharacterVersion(
        character=character, number=used.number + 1, source=used.source.name, notes=used.notes, plan=plan.to_json(),
        card=shown.to_json(),
    )  # fmt: skip
    version.mesh.save("character.glb", ContentFile(mesh), save=False)
    version.save()
    return version


def _locked(character: Character) -> CharacterVersion:
    """The current version of a character: of two who change it at once, one comes second."""
    Character.objects.select_for_update().get(pk=character.pk)
    version: CharacterVersion = CharacterVersion.objects.select_for_update().get(pk=character.current.pk)
    return version


def _bytes_of(version: CharacterVersion) -> bytes:
    with version.mesh.open("rb") as file:
        return bytes(file.read())
