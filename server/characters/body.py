"""How far the joints of a character turn and what its parts weigh: as it is usual, and as it was set."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from math import degrees

import numpy as np
from django.db import transaction
from ninja import Schema
from pydantic import Field

from hame.character.bodyplan import BodyPlan
from hame.character.build import build_rig
from hame.character.free import can_be_free, moves_of
from hame.character.masses import Part, in_world, masses_of
from hame.character.ranges import ANGLES, JointRange, check_ranges
from hame.character.rig import Rig
from hame.character.shapes import allowed
from hame.character.volumes import with_masses
from hame.errors import BadPlan
from hame.formats.gltf_read import Character as Read
from hame.maths import rotations
from hame.solve.body import body_of
from hame.solve.pull_kernel import HINGE
from server.characters import store
from server.characters.models import Character
from server.rows import changing

Angles = dict[str, tuple[float, float]]
Three = tuple[float, float, float]
HEAVIEST, FARTHEST = 1e6, 1e4  # kilograms, metres


class JointOut(Schema):
    """A joint with its angles in degrees: what is usual, and what was set instead."""

    name: str
    label: str
    usual: Angles
    own: Angles


class Weight(Schema):
    """What a joint carries: kilograms, where the middle of that lies, and its radii of gyration about the axes x, y, z
    through it, the last two in the rest pose, metres.
    """

    kilograms: float
    at: Three
    radii: Three


class WeighedOut(Weight):
    """``usual``: what it would be had nothing been set; none where nothing would hang on the joint."""

    joint: str
    usual: Weight | None


class SkinShapeOut(Schema):
    """A shape that morphs the skin: by how much at rest, and from where to where it may be keyed."""

    name: str
    rest: float
    low: float
    high: float


class FreeOut(Schema):
    """A joint of which a person may say how it moves: what was said, or nothing, and how it moves if nothing is.

    ``tx`` to ``tz`` in metres, ``rx`` to ``rz`` in degrees, ``s`` in times its size; what is not named is locked.
    """

    joint: str
    own: Angles | None
    usual: Angles


class BodyOut(Schema):
    """A prop has no joints that turn by ranges."""

    shapes: list[SkinShapeOut]
    free: list[FreeOut]
    joints: list[JointOut]
    parts: list[WeighedOut]
    kilograms: float


class WeightIn(Schema):
    """What was set of a part; what is not given is as usual."""

    kilograms: float | None = None
    at: Three | None = None
    radii: Three | None = None


class BodyIn(Schema):
    """Ranges by joint and angle, degrees, weights by joint, and from where to where shapes go, where they are not
    usual; of shapes and free joints what is not told at all stays as it is.
    """

    ranges: dict[str, Angles] = Field(max_length=200)
    weights: dict[str, WeightIn] = Field(default_factory=dict, max_length=2000)
    shapes: dict[str, tuple[float, float]] | None = Field(default=None, max_length=1000)
    free: dict[str, Angles] | None = Field(default=None, max_length=1000)


def body_out(character: Character) -> BodyOut:
    """Raises :class:`BadPlan` where there is no rig yet."""
    version = character.current
    rig = store.rig(version)
    usual = build_rig(rig.skeleton, _measured(rig.plan, store.read(version)))
    joints = []
    if not rig.plan.is_prop:
        joints = [
            JointOut(
                name=link.name, label=link.label, usual=_angles(link.range, link.kind),
                own={a: (r[0], r[1]) for a, r in rig.plan.ranges.get(link.name, {}).items()},
            )
            for link in body_of(usual).links[1:]
        ]  # fmt: skip
    known, now = _weights(usual), _weights(rig)
    gone = {name: Weight(kilograms=0.0, at=one.at, radii=one.radii) for name, one in known.items() if name not in now}
    parts = [WeighedOut(joint=name, usual=known.get(name), **one.model_dump()) for name, one in {**now, **gone}.items()]
    order = {name: n for n, name in enumerate(rig.skeleton.names)}
    shapes = [SkinShapeOut(name=name, rest=rest, low=low, high=high) for name, rest, low, high in rig.plan.shapes]
    return BodyOut(
        shapes=shapes,
        free=[
            FreeOut(joint=joint, own=_own(rig.plan, joint), usual=moves_of(usual, joint))
            for joint in can_be_free(usual.plan, usual.skeleton)
        ],
        joints=joints,
        parts=sorted(parts, key=lambda part: order[part.joint]),
        kilograms=masses_of(rig).kilograms,
    )


def _own(plan: BodyPlan, joint: str) -> Angles | None:
    return {name: (low, high) for name, (low, high) in plan.free[joint].items()} if joint in plan.free else None


def _measured(plan: BodyPlan, read: Read) -> BodyPlan:
    """A plan with what was measured or is known, and nothing that was set by hand."""
    return with_masses(replace(plan, ranges={}, weights={}, free={}), read.skeleton, read.skin)


def _weights(rig: Rig) -> dict[str, Weight]:
    """What each joint carries, rounded to what is shown and set."""
    masses, found = masses_of(rig), {}
    for joint, share, at, spread in zip(masses.joints.tolist(), masses.share, masses.at, masses.spread, strict=True):
        rest = rig.skeleton.world[joint]
        place = rest[:3] + rotations.rotate(rest[3:7], at)
        squares = np.diag(in_world(rig, Part(joint, 1.0, at, spread)))
        radii = np.sqrt(np.maximum(squares, 0.0))
        found[rig.skeleton.names[joint]] = Weight(
            kilograms=round(float(share) * masses.kilograms, 6), at=_three(place), radii=_three(radii)
        )
    return found


def _three(values: np.ndarray) -> Three:
    x, y, z = (round(float(value), 6) for value in values)
    return x, y, z


def _angles(of: JointRange, kind: int) -> Angles:
    names = ANGLES[:1] if kind == HINGE else ANGLES
    return {name: (degrees(getattr(of, name)[0]), degrees(getattr(of, name)[1])) for name in names}


def set_body(character: Character, given: BodyIn) -> None:
    """Stores ranges and weights, and how far shapes go; shots see them at once, since no pose changes by them but one
    that is keyed farther than a shape goes now. Where joints are freed it is a new version, if shots play the one
    before.

    Raises
    ------
    BadPlan
        If a joint or an angle is unknown, a range ends before it begins, or nothing can weigh or be spread so; nothing
        is stored then.
    """
    with transaction.atomic():
        _set_numbers(character, given)
        before = store.rig(character.current).plan
        if given.free is not None and given.free != {j: dict(one) for j, one in before.free.items()}:
            # Other channels than shots know: they keep the version that they play with.
            store.change_plan(character, dict(before.roles), free=given.free)


def _set_numbers(character: Character, given: BodyIn) -> None:
    with changing(character.current) as version:
        rig = store.rig(version)
        known = set() if rig.plan.is_prop else {link.name for link in body_of(rig).links}
        for joint in given.ranges:
            if joint not in known:
                raise BadPlan(f"this body has no joint called {joint}; nothing was changed")
        _check_weights(given.weights, rig.skeleton.names)
        weights = {
            joint: {
                **({} if one.kilograms is None else {"kilograms": [one.kilograms]}),
                **({} if one.at is None else {"at": list(one.at)}),
                **({} if one.radii is None else {"radii": list(one.radii)}),
            }
            for joint, one in given.weights.items()
        }
        plan = replace(
            _measured(rig.plan, store.read(version)), ranges=given.ranges,
            weights={joint: one for joint, one in weights.items() if one},
            shapes=rig.plan.shapes if given.shapes is None else allowed(rig.plan.shapes, given.shapes),
            free=rig.plan.free, face=rig.plan.face,
        )  # fmt: skip
        check_ranges(plan)
        if not _weighs(_weights(build_rig(rig.skeleton, replace(plan, weights={}))), given.weights):
            raise BadPlan("a body weighs something: give at least one part a mass. Nothing was changed")
        version.plan = plan.to_json()


def _weighs(usual: Mapping[str, Weight], given: Mapping[str, WeightIn]) -> bool:
    """Whether anything of a body weighs something."""
    kilograms = {name: one.kilograms for name, one in usual.items()}
    kilograms |= {name: one.kilograms for name, one in given.items() if one.kilograms is not None}
    return any(mass > 0.0 for mass in kilograms.values())


def _check_weights(weights: Mapping[str, WeightIn], names: tuple[str, ...]) -> None:
    for joint, one in weights.items():
        if joint not in names:
            raise BadPlan(f"the skeleton has no joint called {joint}; nothing was changed")
        if one.kilograms is not None and not 0.0 <= one.kilograms < HEAVIEST:
            raise BadPlan(f"{joint} cannot weigh {one.kilograms:g} kg; nothing was changed")
        if one.at is not None and not all(abs(value) < FARTHEST for value in one.at):
            raise BadPlan(f"the weight of {joint} lies too far away; nothing was changed")
        if one.radii is None:
            continue
        if not all(0.0 <= value < FARTHEST for value in one.radii):
            raise BadPlan(f"a radius of {joint} is a length from nothing on; nothing was changed")
        x, y, z = sorted(value**2 for value in one.radii)
        if z > (x + y) * (1.0 + 1e-6):
            raise BadPlan(
                f"nothing is spread so about {joint}: of the squares of its radii none is more than the other two "
                "together. Nothing was changed"
            )
