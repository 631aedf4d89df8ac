"""A rig as pages get it, and how a body stands."""

from __future__ import annotations

from ninja import Schema

from hame.character.rig import Kind
from server.characters.groups import GroupOut


class ShapeOut(Schema):
    kind: str
    size: float
    offset: list[float]


class ChannelOut(Schema):
    """One number of a control; ``echo`` is the channel whose keys it shows where a frame shows another mirrored."""

    address: str
    name: str
    label: str
    kind: Kind
    unit: str
    rest: float
    low: float | None
    high: float | None
    locked: str
    purpose: str
    mirror: int
    echo: str


class ControlOut(Schema):
    """``order`` and ``pre``: the Euler order of its turn, and the quaternion of its axes at rest in its frame."""

    name: str
    label: str
    part: str
    kind: str
    side: str
    parent: str
    limb: str
    mode: str
    shape: ShapeOut
    first: int
    count: int
    posed: bool
    other: str
    can_move: bool
    can_turn: bool
    place: list[float]
    order: str
    pre: list[float]


class LimbOut(Schema):
    name: str
    label: str
    kind: str
    switch: str
    fk: list[str]
    ik: str
    pole: str
    toe: str
    points: dict[str, list[float]]


class ChainOut(Schema):
    """A chain: the control of its sliders, those of its tip and its middle, and those of its joints."""

    name: str
    label: str
    kind: str
    switch: str
    ik: str
    middle: str
    controls: list[str]
    points: dict[str, list[float]]


class MovingOut(Schema):
    """How the weight of a body moves at a frame, with what it carries: where its centre of pressure is (x, z), metres
    that this is inside of what bears it, the share that each limb bears in motion, the speed of its mass, metres a
    second, the force that presses down, in its weights, what it weighs, and how much of that it carries, kilograms.
    """

    pressure: list[float] | None
    margin: float | None
    bearing: dict[str, float]
    speed: float
    force: float
    kilograms: float
    load: float


class BalanceOut(Schema):
    """How a body stands at a frame: its centre of mass, the corners (x, z) of what bears it, metres that the centre is
    inside of it (below zero: outside; none in flight), the IK controls of the limbs that bear with their shares, and
    how high the lowest of them is; how far chest against hips and face against chest are turned to the left, radians;
    and how it moves, if known.
    """

    centre: list[float]
    area: list[list[float]]
    margin: float | None
    bearing: dict[str, float]
    level: float
    chest: float | None
    face: float | None
    moving: MovingOut | None


class PartOut(Schema):
    """A part by which the body can be pulled: by which controls, ``at`` which place seen from which joint, and what a
    grip holds at first; of a ``chain`` by the control of its sliders.
    """

    name: str
    label: str
    controls: list[str]
    joint: int
    at: list[float]
    chain: str
    place: bool
    turn: bool


class RigOut(Schema):
    """``groups``: controls that the character suggests to hide and show together. ``shapes``: the numbers of the
    channels by which shapes morph the skin, in its order. ``face``: the outline (x, y) of the face from the front,
    metres."""

    controls: list[ControlOut]
    groups: list[GroupOut]
    face: list[list[float]]
    channels: list[ChannelOut]
    limbs: list[LimbOut]
    chains: list[ChainOut]
    parts: list[PartOut]
    joints: list[str]
    shapes: list[int]
    parents: list[int]
    height: float
    picks: list[list[str]]
    rest_places: list[list[float]]
