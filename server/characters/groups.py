"""The groups of controls that a character suggests: as they are usual, or as its maker set them."""

from __future__ import annotations

from ninja import Schema
from pydantic import Field

from hame.character.grouping import MOST, Group, checked_groups, usual_groups
from hame.character.rig import Rig
from server.characters import store
from server.characters.models import Character
from server.rows import changing


class GroupOut(Schema):
    """Controls by name."""

    name: str
    controls: list[str]


class NamedControl(Schema):
    name: str
    label: str


class GroupsOut(Schema):
    """``own``: they were set by hand, and are not the usual ones."""

    groups: list[GroupOut]
    own: bool
    controls: list[NamedControl]


class GroupIn(Schema):
    name: str = Field(max_length=200)
    controls: list[str] = Field(max_length=2000)


class GroupsIn(Schema):
    """Null: what is usual."""

    groups: list[GroupIn] | None = Field(max_length=2 * MOST)


def groups_of(character: Character, rig: Rig) -> list[GroupOut]:
    """What a character suggests, of the controls that a version of it has."""
    if character.groups is None:
        return [GroupOut(name=g.name, controls=list(g.controls)) for g in usual_groups(rig)]
    found = [(g["name"], [c for c in g["controls"] if rig.has_control(c)]) for g in character.groups]
    return [GroupOut(name=name, controls=controls) for name, controls in found if controls]


def groups_out(character: Character) -> GroupsOut:
    """Raises :class:`BadPlan` where there is no rig yet."""
    rig = store.rig(character.current)
    return GroupsOut(
        groups=groups_of(character, rig), own=character.groups is not None,
        controls=[NamedControl(name=c.name, label=c.label) for c in rig.controls if c.kind != "switch"],
    )  # fmt: skip


def set_groups(character: Character, given: GroupsIn) -> None:
    """Stores them; raises :class:`BadPlan` where they cannot be, and nothing is stored then."""
    rig = store.rig(character.current)
    with changing(character) as now:
        if given.groups is None:
            now.groups = None
        else:
            asked = [Group(g.name, tuple(g.controls)) for g in given.groups]
            now.groups = [{"name": g.name, "controls": list(g.controls)} for g in checked_groups(rig, asked)]
