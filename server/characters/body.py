"""How far the joints of a character turn and what its parts weigh: as it is usual, and as it was set."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from math import degrees

from ninja import Schema
from pydantic import Field

from hame.character.build import build_rig
from hame.character.ranges import ANGLES, JointRange, check_ranges
from hame.errors import BadPlan
from hame.measure.mass import masses_of
from hame.solve.body import body_of
from hame.solve.pull_kernel import HINGE
from server.characters import store
from server.characters.models import Character
from server.rows import changing

Angles = dict[str, tuple[float, float]]
WHOLE = 70.0  # kilograms: what a body as ours is taken to weigh, where only shares are known


class JointOut(Schema):
    """A joint with its angles in degrees: what is usual, and what was set instead."""

    name: str
    label: str
    usual: Angles
    own: Angles


class MassOut(Schema):
    """What hangs on a joint, kilograms."""

    joint: str
    kilograms: float


class BodyOut(Schema):
    """``weighed``: its masses were measured on its skin or set by hand, and are not those of a body as ours."""

    joints: list[JointOut]
    masses: list[MassOut]
    weighed: bool


class BodyIn(Schema):
    """Ranges by joint and angle, degrees, where they are not usual; and kilograms by joint, none for the usual."""

    ranges: dict[str, Angles] = Field(max_length=200)
    masses: dict[str, float] = Field(max_length=2000)


def body_out(character: Character) -> BodyOut:
    """Raises :class:`BadEdit` for a prop, and :class:`BadPlan` where there is no rig yet."""
    version = character.current
    rig = store.rig(version)
    usual = body_of(build_rig(rig.skeleton, replace(rig.plan, ranges={})))
    joints = [
        JointOut(
            name=link.name, label=link.label, usual=_angles(link.range, link.kind),
            own={a: (r[0], r[1]) for a, r in rig.plan.ranges.get(link.name, {}).items()},
        )
        for link in usual.links[1:]
    ]  # fmt: skip
    masses, total = masses_of(rig), sum(rig.plan.masses.values()) or WHOLE
    by_joint: dict[str, float] = {}
    for joint, share in zip(masses.joints.tolist(), masses.share.tolist(), strict=True):
        name = rig.skeleton.names[joint]
        by_joint[name] = by_joint.get(name, 0.0) + share * total
    return BodyOut(
        joints=joints,
        masses=[MassOut(joint=j, kilograms=kg) for j, kg in by_joint.items()],
        weighed=bool(rig.plan.masses),
    )


def _angles(of: JointRange, kind: int) -> Angles:
    names = ANGLES[:1] if kind == HINGE else ANGLES
    return {name: (degrees(getattr(of, name)[0]), degrees(getattr(of, name)[1])) for name in names}


def set_body(character: Character, given: BodyIn) -> None:
    """Stores ranges and masses; shots see them at once, since no pose changes by them.

    Raises
    ------
    BadPlan
        If a joint or an angle is unknown, a range ends before it begins, or a mass is none; nothing is stored then.
    """
    with changing(character.current) as version:
        rig = store.rig(version)
        known = {link.name for link in body_of(rig).links}
        for joint in given.ranges:
            if joint not in known:
                raise BadPlan(f"this body has no joint called {joint}; nothing was changed")
        _check_masses(given.masses, rig.skeleton.names)
        plan = replace(rig.plan, ranges=given.ranges, masses=given.masses)
        check_ranges(plan)
        version.plan = plan.to_json()


def _check_masses(masses: Mapping[str, float], names: tuple[str, ...]) -> None:
    for joint, kilograms in masses.items():
        if joint not in names:
            raise BadPlan(f"the skeleton has no joint called {joint}; nothing was changed")
        if not 0.0 <= kilograms < 1e6:
            raise BadPlan(f"{joint} cannot weigh {kilograms:g} kg; nothing was changed")
    if masses and not sum(masses.values()) > 0.0:
        raise BadPlan("a body weighs something: give at least one part a mass. Nothing was changed")
