"""Characters read once per process and kept: skeletons, skins and compiled rigs."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from django.core.files.base import ContentFile
from django.db import transaction

from hame.character import bodyplan
from hame.character.build import build_rig
from hame.character.propose import propose
from hame.character.rig import Rig
from hame.errors import BadFile
from hame.formats.gltf_read import Character as Read
from hame.formats.gltf_read import read_character
from hame.formats.gltf_write import write_character
from server.characters.models import Character, CharacterVersion


@lru_cache(maxsize=64)
def _read(version_id: int) -> Read:
    with CharacterVersion.objects.get(pk=version_id).mesh.open("rb") as file:
        return read_character(file.read())


def read(version: CharacterVersion) -> Read:
    """Skeleton and skin of a version."""
    return _read(version.pk)


@lru_cache(maxsize=64)
def _rig(version_id: int, plan: str) -> Rig:
    return build_rig(_read(version_id).skeleton, bodyplan.from_json(json.loads(plan)))


def rig(version: CharacterVersion) -> Rig:
    """The compiled rig of a version."""
    return _rig(version.pk, json.dumps(version.plan, sort_keys=True))


def bring_in(production_id: int, name: str, data: bytes, user: Any) -> Character:
    """Stores a character file with a proposed body plan.

    Raises
    ------
    BadFile
        If the file cannot be used; then nothing is stored.
    """
    try:
        found = read_character(data)
        plan = propose(found.skeleton)
        soles = bodyplan.measure_soles(plan, found.skeleton, found.skin)
        plan = bodyplan.BodyPlan(plan.roles, plan.found_by, soles)
        mesh = write_character(name, found.skeleton, found.skin)
    except BadFile:
        raise
    except (ValueError, KeyError, TypeError, IndexError, AttributeError, ArithmeticError, MemoryError) as error:
        # A file built to break readers: whatever tripped it, the person gets a plain refusal.
        raise BadFile("the file is damaged: its parts do not fit together") from error
    with transaction.atomic():
        character = Character.objects.create(production_id=production_id, name=name, created_by=user)
        version = CharacterVersion(character=character, plan=plan.to_json(), notes=list(found.notes))
        version.source.save("character.glb", ContentFile(data), save=False)
        version.mesh.save("character.glb", ContentFile(mesh), save=False)
        version.save()
    return character


def change_plan(character: Character, roles: dict[str, str]) -> CharacterVersion:
    """Sets the body plan; a version that shots already use stays as it is and a new one is begun."""
    version = character.current
    found = read(version)
    before = bodyplan.from_json(version.plan)
    found_by = {r: before.found_by.get(r, "hand") if before.roles.get(r) == j else "hand" for r, j in roles.items()}
    plan = bodyplan.BodyPlan(roles, found_by)
    bodyplan.check(plan, found.skeleton)
    soles = bodyplan.measure_soles(plan, found.skeleton, found.skin)
    data = bodyplan.BodyPlan(roles, found_by, soles).to_json()
    if version.castings.exists():
        return CharacterVersion.objects.create(
            character=character, number=version.number + 1, source=version.source.name, mesh=version.mesh.name,
            plan=data, notes=version.notes,
        )  # fmt: skip
    version.plan = data
    version.save(update_fields=["plan"])
    return version
