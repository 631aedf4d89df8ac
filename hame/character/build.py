"""Building a control rig on a skeleton.

Axes. Controls of the trunk, the head, the feet and everything that is moved
rather than turned have the axes of the character at rest: x to its left, y
up, z forward. Bones of limbs and fingers have their hinge as x, so that a
turn about x is the bend, about z side to side, about y the twist; the right
side's axes are the left's mirrored and reversed, so that equal turns on both
sides look the same in the mirror.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import inf, radians
from typing import Any

import numpy as np

from hame.character.bodyplan import END_OF, FINGERS, BodyPlan, check, limb_kind
from hame.character.propose import counterpart_name, side_of, words_of
from hame.character.rig import EXTRA, PLACE, SCALE, TURN, Channel, Control, Limb, Rig, Shape
from hame.character.skeleton import Skeleton
from hame.evaluate import kernel
from hame.maths import rotations, transforms
from hame.maths.rotations import EULER_ORDERS, Array

FREE = ""
UP, FORWARD, LEFT = np.eye(3)[1], np.eye(3)[2], np.eye(3)[0]
SIDES = {"L": "left", "R": "right"}
# Right-hand axes of turned controls: the left's, mirrored and all reversed.
_OTHER_SIDE = rotations.from_matrix(np.diag([1.0, -1.0, -1.0]))

_TURN_ONLY = "turns only: the bones keep their length"
_HINGE = "is a hinge: it only bends"
_MOVE_ONLY = "only moves: it is a point to aim the bend at"


@dataclass
class _Draft:
    """What is collected while the rig is laid out, from the master outwards."""

    skeleton: Skeleton
    plan: BodyPlan
    ops: list[list[int]] = field(default_factory=list)
    params: list[Array] = field(default_factory=list)
    rest: list[Array] = field(default_factory=list)  # rest transform of every node
    controls: list[Control] = field(default_factory=list)
    channels: list[Channel] = field(default_factory=list)
    limbs: list[Limb] = field(default_factory=list)
    joint_node: dict[int, int] = field(default_factory=dict)
    carrier: dict[int, str] = field(default_factory=dict)  # joint -> the control that turns it
    picks: dict[int, tuple[str, str]] = field(default_factory=dict)

    # Nodes

    def node(self, rest: Array) -> int:
        self.rest.append(rest)
        return len(self.rest) - 1

    def emit(self, code: int, row: Sequence[int], params: Sequence[float] | Array = ()) -> None:
        self.ops.append([code, *row, *[0] * (7 - len(row))])
        self.params.append(np.concatenate([_tidied(params), np.zeros(kernel.PARAMS - len(params))]))

    def offset(self, parent: int, rest: Array) -> int:
        """A node carried rigidly by ``parent`` (-1: the world), at ``rest`` in the rest pose."""
        local = rest if parent < 0 else transforms.relative(self.rest[parent], rest)
        out = self.node(rest)
        self.emit(kernel.OFFSET, [out, parent], local[:7])
        return out

    def joint(self, j: int, driver: int, carrier: str, picks: tuple[str, str] | None = None) -> None:
        """The joint ``j`` follows the node ``driver``."""
        self.joint_node[j] = self.offset(driver, self.skeleton.world[j])
        self.carrier[j] = carrier
        self.picks[j] = picks or (carrier, carrier)

    # Controls

    def control(
        self,
        name: str,
        parent: int,
        rest: Array,
        *,
        label: str,
        part: str,
        kind: str,
        shape: Shape,
        parent_control: str,
        side: str = "",
        limb: str = "",
        mode: str = "",
        order: str = "YXZ",
        frame_turn: Array | None = None,
        locks: dict[str, str] | None = None,
        limits: dict[str, tuple[float, float]] | None = None,
        labels: dict[str, str] | None = None,
        reflect_place: bool = True,
        reflect_turn: bool = True,
        scalable: bool = False,
        extra: Sequence[Channel] = (),
    ) -> int:
        """Adds a control at ``rest``; returns its node. ``frame_turn``: axes in which its place is read."""
        locks, limits, labels = locks or {}, limits or {}, labels or {}
        axes = rest[3:7] if frame_turn is None else frame_turn
        pre = rotations.multiply(rotations.inverse(axes), rest[3:7])
        frame = self.offset(parent, transforms.transform(rest[:3], axes))
        first = len(self.channels)
        for name_of, axis in (("t", "xyz"), ("r", "xyz")):
            place = name_of == "t"
            for number, letter in enumerate(axis):
                short = name_of + letter
                if place:
                    mirror = (-1 if number == 0 else 1) if reflect_place else -1
                else:
                    mirror = (1 if number == 0 else -1) if reflect_turn else 1
                low, high = limits.get(short, (-inf, inf))
                self.channels.append(
                    Channel(
                        f"{name}/{short}", name, short,
                        labels.get(short, f"move {letter}" if place else f"turn {letter}"),
                        PLACE if place else TURN, "m" if place else "rad", 0.0, low, high,
                        locks.get(short, locks.get(name_of, FREE)), mirror=mirror,
                    )
                )  # fmt: skip
        scale = -1
        if scalable:
            scale = len(self.channels)
            self.channels.append(
                Channel(f"{name}/s", name, "s", "size", SCALE, "", 1.0, 0.01, 100.0,
                        purpose="makes the whole character larger or smaller")
            )  # fmt: skip
        self.channels += extra
        out = self.node(rest)
        self.emit(
            kernel.CONTROL,
            [out, frame, 0, 0, first, scale, EULER_ORDERS.index(order)],
            [0, 0, 0, *pre],
        )
        self.controls.append(
            Control(
                name, label, part, kind, side, parent_control, limb, mode, order, shape,
                first, len(self.channels) - first, out, frame, pre, True, _other(name),
            )
        )  # fmt: skip
        return out

    def number(self, address: str) -> int:
        return next(n for n, channel in enumerate(self.channels) if channel.address == address)

    # Places

    def at(self, role: str) -> int | None:
        joint = self.plan.roles.get(role)
        return None if joint is None else self.skeleton.index(joint)

    def place(self, j: int) -> Array:
        return np.asarray(self.skeleton.places[j])


def _tidied(params: Sequence[float] | Array) -> Array:
    """The parameters with rounding noise taken out, so that the kernel can tell nothing from something."""
    tidy = np.array(params, float)
    tidy[np.abs(tidy) < 1e-14] = 0.0
    tidy[np.abs(tidy - 1.0) < 1e-14] = 1.0
    return tidy


def build_rig(skeleton: Skeleton, plan: BodyPlan) -> Rig:
    """The control rig of a skeleton with a body plan.

    Raises
    ------
    BadPlan
        If the plan does not fit the skeleton.
    """
    check(plan, skeleton)
    d = _Draft(skeleton, plan)
    size = max(skeleton.height, 1e-3)
    master = d.control(
        "master", -1, transforms.IDENTITY, label="master", part="whole", kind="master",
        shape=Shape("master", 0.28 * size), parent_control="", scalable=True,
        labels={"tx": "sideways", "ty": "height", "tz": "forward", "ry": "heading"},
    )  # fmt: skip
    hips = skeleton.index(plan.roles["hips"])
    for j in _above(skeleton, hips):
        d.joint(j, master, "master")
    body = _trunk(d, master, hips, size)
    for limb in plan.limbs():
        if limb_kind(limb) == "arm":
            _arm(d, limb, master, body, size)
        else:
            _leg(d, limb, master, size)
    _remaining(d, size)
    joint_nodes = np.array([d.joint_node[j] for j in range(len(skeleton))], np.int32)
    return Rig(
        skeleton, plan, tuple(d.controls), tuple(d.channels), tuple(d.limbs),
        np.array(d.ops, np.int32), np.array(d.params), len(d.rest), joint_nodes,
        tuple(d.picks[j] for j in range(len(skeleton))),
    )  # fmt: skip


def _above(skeleton: Skeleton, j: int) -> list[int]:
    line: list[int] = []
    while (j := skeleton.parents[j]) >= 0:
        line.append(j)
    return line[::-1]


def _other(name: str) -> str:
    """The name on the other side: ``arm.L.upper`` <-> ``arm.R.upper``."""
    words = name.split(".")
    swap = {"L": "R", "R": "L"}
    if any(word in swap for word in words):
        return ".".join(swap.get(word, word) for word in words)
    return counterpart_name(name) or name


def _trunk(d: _Draft, master: int, hips: int, size: float) -> int:
    """Body, hips, spine, neck, head, jaw and eyes; returns the node of the body."""
    upright = {"rx": "bend", "ry": "turn", "rz": "lean"}
    spine = [d.skeleton.index(name) for name in d.plan.numbered("spine")]
    body = d.control(
        "body", master, transforms.transform(d.place(hips)), label="body", part="body", kind="body",
        shape=Shape("body", 0.15 * size), parent_control="master",
        labels={**upright, "tx": "sideways", "ty": "height", "tz": "forward"},
    )  # fmt: skip
    waist = d.place(spine[0]) if spine else d.place(hips)
    pelvis = d.control(
        "hips", body, transforms.transform(waist), label="hips", part="body", kind="trunk",
        shape=Shape("belt", 0.12 * size, (0.0, float(d.place(hips)[1] - waist[1]), 0.0)), parent_control="body",
        labels=upright, locks={"t": "turns only: move the body to carry the hips"},
    )  # fmt: skip
    d.joint(hips, pelvis, "hips")

    # Joints between two that have a role hang rigidly on the upper one.
    node, above, parent_control, carried = body, hips, "body", pelvis
    line = [(j, "chest" if n == len(spine) - 1 else "spine" if n == 0 else f"spine.{n + 1}", "spine")
            for n, j in enumerate(spine)]  # fmt: skip
    neck = [d.skeleton.index(name) for name in d.plan.numbered("neck")]
    line += [(j, "neck" if n == 0 else f"neck.{n + 1}", "head") for n, j in enumerate(neck)]
    head = d.at("head")
    if head is not None:
        line.append((head, "head", "head"))
    for j, name, part in line:
        for between in d.skeleton.chain(above, j)[1:-1]:
            d.joint(between, carried, parent_control)
        radius = {"head": 0.085, "neck": 0.05, "chest": 0.125}.get(name.split(".")[0], 0.105) * size
        shape = Shape("crown", radius, (0.0, 0.09 * size, 0.0)) if name == "head" else Shape("ring", radius)
        node = d.control(
            name, node, transforms.transform(d.place(j)), label=name.replace(".", " "), part=part, kind="trunk",
            shape=shape, parent_control=parent_control, labels=upright, locks={"t": _TURN_ONLY},
        )  # fmt: skip
        d.joint(j, node, name)
        above, parent_control, carried = j, name, node
    jaw = d.at("jaw")
    if jaw is not None:
        open_jaw = d.control(
            "jaw", node, transforms.transform(d.place(jaw)), label="jaw", part="face", kind="face",
            shape=Shape("drop", 0.02 * size, (0.0, -0.03 * size, 0.07 * size)), parent_control="head",
            labels={"rx": "open", "ry": "side to side", "rz": "tilt"}, locks={"t": _TURN_ONLY},
            limits={"rx": (radians(-5), radians(40)), "ry": (radians(-12), radians(12)),
                    "rz": (radians(-8), radians(8))},
        )  # fmt: skip
        d.joint(jaw, open_jaw, "jaw")
    for side in "LR":
        eye = d.at(f"eye.{side}")
        if eye is not None:
            look = d.control(
                f"eye.{side}", node, transforms.transform(d.place(eye)), label=f"{SIDES[side]} eye", part="face",
                kind="face", side=side, shape=Shape("drop", 0.014 * size, (0.0, 0.0, 0.05 * size)),
                parent_control="head", labels={"rx": "look down", "ry": "look aside", "rz": "roll"},
                locks={"t": _TURN_ONLY, "rz": "does not roll"},
                limits={"rx": (radians(-35), radians(35)), "ry": (radians(-50), radians(50))},
            )  # fmt: skip
            d.joint(eye, look, f"eye.{side}")
    return body


def _carry_between(d: _Draft, j: int) -> tuple[int, str]:
    """The node and control that carry the joint above ``j``, placing joints in between as needed."""
    parent = d.skeleton.parents[j]
    line: list[int] = []
    while parent not in d.joint_node:
        line.append(parent)
        parent = d.skeleton.parents[parent]
    for between in reversed(line):
        d.joint(between, d.joint_node[d.skeleton.parents[between]], d.carrier[parent])
    above = d.skeleton.parents[j]
    return d.joint_node[above], d.carrier[above]


def _bone_axes(hinge: Array, along: Array, side: str) -> Array:
    """The quaternion of a bone's axes: hinge as x, the bone along y (against it on the right)."""
    y = along / np.linalg.norm(along) * (-1.0 if side == "R" else 1.0)
    x = hinge - (hinge @ y) * y
    x /= np.linalg.norm(x)
    return rotations.from_matrix(np.stack([x, y, np.cross(x, y)], axis=1))


@dataclass(frozen=True)
class _Bend:
    """The plane in which a limb bends at rest."""

    toward: Array  # unit vector from the line root-end to the middle joint
    hinge: Array
    angle: float  # how far it is bent at rest, radians
    lengths: tuple[float, float]


def _plane_of(root: Array, middle: Array, end: Array, usual: Array) -> _Bend:
    """The bend of a limb, taken from its rest pose, or from ``usual`` when it is straight there."""
    upper, lower = middle - root, end - middle
    l1, l2 = float(np.linalg.norm(upper)), float(np.linalg.norm(lower))
    line = (end - root) / max(float(np.linalg.norm(end - root)), 1e-9)
    out = (middle - root) - ((middle - root) @ line) * line
    size = np.linalg.norm(out)
    if size < 1e-6 * (l1 + l2) or size < 0.02 * (l1 + l2) and out @ usual < 0:
        out = usual - (usual @ line) * line
    if np.linalg.norm(out) < 1e-6:
        out = UP - (UP @ line) * line
    toward = out / np.linalg.norm(out)
    angle = float(np.arccos(np.clip(upper @ lower / (l1 * l2), -1, 1)))
    return _Bend(toward, np.cross(toward, line), angle, (l1, l2))


@dataclass(frozen=True)
class _LimbJoints:
    name: str
    side: str
    label: str
    upper: int
    lower: int
    end: int


def _two_bones(
    d: _Draft, limb: _LimbJoints, root: int, root_control: str, bend: _Bend, end_rest: Array, target: int,
    pole: int, ik: tuple[str, str], toe: str, mixed_by: str, reflect_end: bool, size: float,
) -> int:  # fmt: skip
    """FK controls, the IK solution and their mixture for one limb; returns the node of its end."""
    kind, name, side = limb_kind(limb.name), limb.name, limb.side
    places = [d.place(j) for j in (limb.upper, limb.lower, limb.end)]
    sign = -1 if side == "R" else 1
    l1, l2 = bend.lengths
    axes = [_bone_axes(bend.hinge, places[1] - places[0], side), _bone_axes(bend.hinge, places[2] - places[1], side)]
    words = {"arm": ("upper arm", "forearm", "hand"), "leg": ("thigh", "shank", "foot")}[kind]
    turn = {"rx": "bend", "ry": "twist", "rz": "side to side"}
    high = radians(165) - bend.angle
    shared: dict[str, Any] = {"part": name, "kind": "fk", "side": side, "limb": name, "mode": "fk"}
    names = (f"{name}.upper", f"{name}.lower", f"{name}.{END_OF[kind]}")
    upper = d.control(
        names[0], root, transforms.transform(places[0], axes[0]), label=f"{limb.label} {words[0]}",
        shape=Shape("ring", 0.055 * size, (0.0, sign * 0.5 * l1, 0.0)), parent_control=root_control,
        order="XZY", labels=turn, locks={"t": _TURN_ONLY}, reflect_place=False, reflect_turn=False, **shared,
    )  # fmt: skip
    joint = "the elbow" if kind == "arm" else "the knee"
    lower = d.control(
        names[1], upper, transforms.transform(places[1], axes[1]), label=f"{limb.label} {words[1]}",
        shape=Shape("ring", 0.045 * size, (0.0, sign * 0.5 * l2, 0.0)), parent_control=names[0], order="XZY",
        labels=turn, locks={"t": _TURN_ONLY, "ry": f"{joint} {_HINGE}", "rz": f"{joint} {_HINGE}"},
        limits={"rx": (-bend.angle, high)}, reflect_place=False, reflect_turn=False, **shared,
    )  # fmt: skip
    end = d.control(
        names[2], lower, end_rest, label=f"{limb.label} {words[2]} FK", shape=Shape("ring", 0.04 * size),
        parent_control=names[1], order="YXZ" if reflect_end else "XZY", labels=turn, locks={"t": _TURN_ONLY},
        reflect_place=reflect_end, reflect_turn=reflect_end, **shared,
    )  # fmt: skip
    root_turn = rotations.inverse(d.rest[root][3:7])
    line = (places[2] - places[0]) / np.linalg.norm(places[2] - places[0])
    solved = d.node(transforms.transform(places[0], axes[0]))
    d.node(transforms.transform(places[1], axes[1]))
    # The root of the limb is a node of its own, at the upper joint's place.
    hub = d.offset(root, transforms.transform(places[0], d.rest[root][3:7]))
    d.emit(
        kernel.TWO_BONE, [solved, hub, target, pole],
        [0, 0, 0, 0, 0, 0, 1, l1, l2, sign, *rotations.rotate(root_turn, line),
         *rotations.rotate(root_turn, bend.toward)],
    )  # fmt: skip
    switch = d.number(mixed_by)
    mixed = []
    carrier = hub
    for fk_node, ik_node in ((upper, solved), (lower, solved + 1), (end, target)):
        local = transforms.relative(d.rest[carrier], d.rest[fk_node])
        out = d.node(d.rest[fk_node])
        d.emit(kernel.MIX, [out, fk_node, ik_node, carrier, switch], local[:7])
        mixed.append(out)
        carrier = out
    d.limbs.append(
        Limb(
            name, limb.label, kind, mixed_by, names, ik[0], ik[1], toe, hub, mixed[0], mixed[1], mixed[2],
            transforms.relative(d.rest[target], end_rest), sign, bend.lengths, 0.6 * (l1 + l2),
        )
    )  # fmt: skip
    d.joint(limb.upper, mixed[0], names[0], (names[0], ik[0]))
    for between in d.skeleton.chain(limb.upper, limb.lower)[1:-1]:
        d.joint(between, mixed[0], names[0], (names[0], ik[0]))
    d.joint(limb.lower, mixed[1], names[1], (names[1], ik[0]))
    for between in d.skeleton.chain(limb.lower, limb.end)[1:-1]:
        d.joint(between, mixed[1], names[1], (names[1], ik[0]))
    d.joint(limb.end, mixed[2], names[2], (names[2], ik[0]))
    return mixed[2]


def _limb_label(limb: str) -> str:
    kind, side = limb.split(".")
    number = kind[3:]
    return f"{SIDES[side]} {number}".strip()


def _switch(d: _Draft, limb: str, label: str, ik: float) -> str:
    """The control that blends a limb between FK and IK; it is not drawn on the stage."""
    address = f"{limb}/ik"
    first = len(d.channels)
    d.channels.append(
        Channel(address, limb, "ik", "IK", EXTRA, "", ik, 0.0, 1.0,
                purpose="1: the end is placed and the joints follow (IK); 0: each joint is turned (FK)")
    )  # fmt: skip
    node = d.offset(-1, transforms.IDENTITY)
    d.controls.append(
        Control(limb, label, limb, "switch", limb[-1], "master", limb, "", "YXZ", Shape("none", 0.0), first, 1,
                node, node, rotations.IDENTITY, False, _other(limb))
    )  # fmt: skip
    return address


def _arm(d: _Draft, limb: str, master: int, body: int, size: float) -> None:
    side, label = limb[-1], _limb_label(limb)
    roles = {part: d.at(f"{limb}.{part}") for part in ("collar", "upper", "lower", "twist", "hand")}
    upper, lower, hand = roles["upper"], roles["lower"], roles["hand"]
    assert upper is not None and lower is not None and hand is not None  # checked with the plan
    collar = roles["collar"]
    root, root_control = _carry_between(d, collar if collar is not None else upper)
    if collar is not None:
        turned = _OTHER_SIDE if side == "R" else rotations.IDENTITY
        reach = d.place(upper) - d.place(collar)
        away = rotations.rotate(rotations.inverse(turned), reach)
        root = d.control(
            f"{limb}.collar", root, transforms.transform(d.place(collar), turned), label=f"{label} shoulder",
            part=limb, kind="fk", side=side, limb=limb,
            shape=Shape("ring", 0.04 * size, (float(away[0]), float(away[1]), float(away[2]))),
            parent_control=root_control, labels={"rx": "roll", "ry": "forward", "rz": "raise"},
            locks={"t": _TURN_ONLY}, reflect_place=False, reflect_turn=False,
        )  # fmt: skip
        root_control = f"{limb}.collar"
        d.joint(collar, root, root_control)
        root, _ = _carry_between(d, upper)
    else:
        root, _ = _carry_between(d, upper)
    bend = _plane_of(d.place(upper), d.place(lower), d.place(hand), -FORWARD)
    hand_rest = transforms.transform(d.place(hand), _hand_axes(d, limb, bend, side))
    switch = _switch(d, limb, f"{label} arm", 0.0)
    ik, pole_name = f"{limb}.goal", f"{limb}.pole"
    target = d.control(
        ik, master, hand_rest, label=f"{label} hand", part=limb, kind="ik", side=side, limb=limb, mode="ik",
        shape=Shape("hand", 0.05 * size), parent_control="master", order="XZY", frame_turn=rotations.IDENTITY,
        labels={"tx": "sideways", "ty": "height", "tz": "forward", "rx": "bend", "ry": "twist", "rz": "side to side"},
        reflect_turn=False,
    )  # fmt: skip
    pole_at = d.place(lower) + 0.6 * sum(bend.lengths) * bend.toward
    pole = d.control(
        pole_name, body, transforms.transform(pole_at), label=f"{label} elbow aim", part=limb, kind="pole",
        side=side, limb=limb, mode="ik", shape=Shape("pole", 0.022 * size), parent_control="body",
        locks={"r": _MOVE_ONLY},
    )  # fmt: skip
    joints = _LimbJoints(limb, side, label, upper, lower, hand)
    end = _two_bones(
        d, joints, root, root_control, bend, hand_rest, target, pole, (ik, pole_name), "", switch, False, size
    )
    twist = roles["twist"]
    if twist is not None:
        lower_node = d.limbs[-1].lower
        at_rest = rotations.multiply(rotations.inverse(d.rest[lower_node][3:7]), d.rest[end][3:7])
        local = transforms.relative(d.rest[lower_node], d.skeleton.world[twist])
        along = float(np.linalg.norm(local[:3])) / bend.lengths[1]
        # Turned about the bone first: the joint's own axes follow as an offset.
        turned_node = d.node(d.rest[lower_node])
        d.emit(
            kernel.TWIST, [turned_node, lower_node, end],
            [0, 0, 0, 0, 0, 0, 1, min(max(along, 0.25), 0.75), *at_rest],
        )  # fmt: skip
        d.joint(twist, turned_node, f"{limb}.hand", (f"{limb}.lower", ik))
    for finger in FINGERS:
        _finger(d, limb, finger, end, label, side, size)


def _palm(d: _Draft, limb: str) -> tuple[Array, Array, Array] | None:
    """Along the fingers, out of the palm, and from index to little finger; None without fingers."""
    bases = [j for f in FINGERS[1:] if (j := d.at(f"{limb}.{f}.1")) is not None]
    hand = d.at(f"{limb}.hand")
    if len(bases) < 2 or hand is None:
        return None
    along = np.mean([d.place(j) for j in bases], axis=0) - d.place(hand)
    across = d.place(bases[-1]) - d.place(bases[0])
    palm = np.cross(across, along) * (1.0 if limb.endswith("L") else -1.0)
    return along / np.linalg.norm(along), palm / np.linalg.norm(palm), across / np.linalg.norm(across)


def _hand_axes(d: _Draft, limb: str, bend: _Bend, side: str) -> Array:
    palm = _palm(d, limb)
    lower, hand = d.at(f"{limb}.lower"), d.at(f"{limb}.hand")
    assert lower is not None and hand is not None
    if palm is None:
        return _bone_axes(bend.hinge, d.place(hand) - d.place(lower), side)
    along, out, _ = palm
    return _bone_axes(np.cross(along, out), along, side)


def _finger(d: _Draft, limb: str, finger: str, hand: int, label: str, side: str, size: float) -> None:
    joints = [d.skeleton.index(name) for name in d.plan.numbered(f"{limb}.{finger}")]
    if not joints:
        return
    palm = _palm(d, limb)
    out = palm[1] if palm else -UP
    if finger == "thumb":  # a thumb closes across the palm as well as towards it
        out = out + (palm[2] if palm else -FORWARD)
    places = [d.place(j) for j in joints]
    ends = list(d.skeleton.children[joints[-1]])
    last = (
        d.place(ends[0]) if ends else places[-1] + (places[-1] - (places[-2] if len(places) > 1 else d.rest[hand][:3]))
    )
    points = [*places, last]
    axes = []
    for a, b in zip(points, points[1:], strict=False):
        along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
        axes.append(_bone_axes(np.cross(along, out), along, side))
    name = f"{limb}.{finger}"
    extra = [
        Channel(f"{name}/curl", name, "curl", "curl", EXTRA, "rad", 0.0, radians(-30), radians(110),
                purpose="bends the whole finger")
    ]  # fmt: skip
    for part in ("mid", "tip")[: len(joints) - 1]:
        extra.append(
            Channel(f"{name}/{part}", name, part, f"{'middle' if part == 'mid' else 'tip'} joint", EXTRA, "rad", 0.0,
                    radians(-30), radians(110), purpose="bends this joint alone")
        )  # fmt: skip
    parent, _ = _carry_between(d, joints[0])
    node = d.control(
        name, parent, transforms.transform(places[0], axes[0]), label=f"{label} {finger}", part=f"hand.{side}",
        kind="finger", side=side, limb="", parent_control=f"{limb}.hand",
        shape=Shape("bead", 0.008 * size, (0.0, 0.0, 0.0)), order="XZY",
        labels={"rx": "bend", "ry": "twist", "rz": "spread"}, locks={"t": _TURN_ONLY},
        reflect_place=False, reflect_turn=False, extra=extra,
    )  # fmt: skip
    curl = d.number(f"{name}/curl")
    for number, j in enumerate(joints):
        rest = transforms.transform(places[number], axes[number])
        local = transforms.relative(d.rest[node], rest)
        bent = d.node(rest)
        own = d.number(f"{name}/{('mid', 'tip')[number - 1]}") if number in (1, 2) else -1
        share = 1.0 if number < 2 else 0.75
        d.emit(kernel.BEND, [bent, node, 0, 0, curl, own], [*local[:7], share, 1.0])
        d.joint(j, bent, name)
        node = bent


def _leg(d: _Draft, limb: str, master: int, size: float) -> None:
    side, label = limb[-1], _limb_label(limb)
    upper, lower, foot = (d.at(f"{limb}.{part}") for part in ("upper", "lower", "foot"))
    assert upper is not None and lower is not None and foot is not None  # checked with the plan
    root, root_control = _carry_between(d, upper)
    bend = _plane_of(d.place(upper), d.place(lower), d.place(foot), FORWARD)
    ankle, ball, heel, tip = _sole(d, limb, foot, size)
    forward = (tip - heel) * np.array([1, 0, 1])
    forward = forward / np.linalg.norm(forward) if np.linalg.norm(forward) > 1e-6 else FORWARD
    level = rotations.from_matrix(np.stack([np.cross(UP, forward), UP, forward], axis=1))
    foot_rest = transforms.transform(ankle, level)
    switch = _switch(d, limb, f"{label} leg", 1.0)
    ik, pole_name, toe_name = f"{limb}.goal", f"{limb}.pole", f"{limb}.toe"
    extra = [
        Channel(f"{ik}/roll", ik, "roll", "roll", EXTRA, "rad", 0.0, radians(-60), radians(120),
                purpose="below 0 back on the heel; above 0 over the ball, after the break over the toe"),
        Channel(f"{ik}/break", ik, "break", "roll break", EXTRA, "rad", radians(40), 0.0, radians(120),
                purpose="the angle at which the roll goes on from the ball to the toe"),
    ]  # fmt: skip
    local = [rotations.rotate(rotations.inverse(level), p - ankle) for p in (ball, heel, tip)]
    goal = d.control(
        ik, master, foot_rest, label=f"{label} foot", part=limb, kind="ik", side=side, limb=limb, mode="ik",
        shape=Shape("foot", float(np.linalg.norm(tip - heel)), (0.0, float(local[1][1]), float(local[1][2]))),
        parent_control="master", frame_turn=rotations.IDENTITY,
        labels={"tx": "sideways", "ty": "height", "tz": "forward", "rx": "pitch", "ry": "heading", "rz": "tilt"},
        extra=extra,
    )  # fmt: skip
    toe_rest = transforms.transform(ball, level)
    toes, target = d.node(toe_rest), d.node(foot_rest)
    d.emit(
        kernel.FOOT_ROLL, [toes, goal, 0, 0, d.number(f"{ik}/roll"), d.number(f"{ik}/break")],
        [*local[0], 0, 0, 0, 1, *local[1], *local[2]],
    )  # fmt: skip
    pole_at = d.place(lower) + 0.6 * sum(bend.lengths) * bend.toward
    pole = d.control(
        pole_name, goal, transforms.transform(pole_at), label=f"{label} knee aim", part=limb, kind="pole", side=side,
        limb=limb, mode="ik", shape=Shape("pole", 0.022 * size), parent_control=ik, locks={"r": _MOVE_ONLY},
    )  # fmt: skip
    joints = _LimbJoints(limb, side, label, upper, lower, foot)
    end = _two_bones(
        d, joints, root, root_control, bend, foot_rest, target, pole, (ik, pole_name), toe_name, switch, True, size
    )
    ball_joint = d.at(f"{limb}.ball")
    if ball_joint is None:
        return
    # In IK the toes lie with the rolling foot's toe frame, in FK with the foot.
    carrier = d.node(toe_rest)
    local_toe = transforms.relative(d.rest[end], toe_rest)
    flat = d.offset(end, toe_rest)
    d.emit(kernel.MIX, [carrier, flat, toes, end, d.number(switch)], local_toe[:7])
    toe = d.control(
        toe_name, carrier, toe_rest, label=f"{label} toes", part=limb, kind="foot", side=side, limb=limb,
        shape=Shape("toe", 0.035 * size), parent_control=ik, labels={"rx": "down", "ry": "aside", "rz": "tilt"},
        locks={"t": _TURN_ONLY}, limits={"rx": (radians(-80), radians(80))},
    )  # fmt: skip
    d.joint(ball_joint, toe, toe_name)


def _sole(d: _Draft, limb: str, foot: int, size: float) -> tuple[Array, Array, Array, Array]:
    """Ankle, ball, heel and toe tip; heel and tip as measured on the skin, or guessed from the joints."""
    ankle = d.place(foot)
    ball_joint, tip_joint = d.at(f"{limb}.ball"), d.at(f"{limb}.tip")
    floor = min(0.0, float(d.skeleton.places[:, 1].min())) if ankle[1] > 0 else float(ankle[1])
    sole = d.plan.soles.get(limb)
    if sole:
        heel, tip = np.array(sole["heel"], float), np.array(sole["tip"], float)
        ball = d.place(ball_joint) if ball_joint is not None else heel + 0.7 * (tip - heel)
        return ankle, ball, heel, tip
    reach = ball_joint if ball_joint is not None else tip_joint
    forward = (d.place(reach) - ankle) * np.array([1, 0, 1]) if reach is not None else FORWARD * 0.08 * size
    length = max(float(np.linalg.norm(forward)), 0.02 * size)
    unit = forward / max(float(np.linalg.norm(forward)), 1e-9) if np.linalg.norm(forward) > 1e-9 else FORWARD
    on_floor = np.array([ankle[0], floor, ankle[2]])
    ball = d.place(ball_joint) if ball_joint is not None else on_floor + unit * length
    return ankle, ball, on_floor - unit * 0.35 * length, on_floor + unit * 1.5 * length


def _remaining(d: _Draft, size: float) -> None:
    """Every joint that no role drives: a plain control each, or rigid where nobody would turn it."""
    for j, name in enumerate(d.skeleton.names):
        if j in d.joint_node:
            continue
        parent = d.skeleton.parents[j]
        driver, carrier = d.joint_node[parent], d.carrier[parent]
        helper = {"end", "tip", "nub", "twist", "roll"} & set(words_of(name))
        if helper and not d.skeleton.children[j] or j == d.at("leg.L.tip") or j == d.at("leg.R.tip"):
            d.joint(j, driver, carrier, d.picks[parent])
            continue
        side = side_of(name)
        other = counterpart_name(name)
        side = side if other in d.skeleton.names else ""
        control = name if not any(c.name == name for c in d.controls) else f"{name} joint"
        turned = _OTHER_SIDE if side == "R" else rotations.IDENTITY
        node = d.control(
            control, driver, transforms.transform(d.place(j), turned), label=name, part="further", kind="extra",
            side=side, shape=Shape("ring", 0.03 * size), parent_control=carrier, locks={"t": _TURN_ONLY},
            reflect_place=not side, reflect_turn=not side,
        )  # fmt: skip
        d.joint(j, node, control)
