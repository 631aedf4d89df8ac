"""What arms and legs of a rig share: axes of bones, the plane of the bend, FK and IK and their mixture."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import radians
from typing import Any

import numpy as np

from hame import program
from hame.character.bodyplan import END_OF, limb_kind
from hame.character.draft import (
    FORWARD,
    HINGE,
    SIDES,
    TURN_ONLY,
    UP,
    Draft,
    stretch_channels,
)
from hame.character.rig import EXTRA, Channel, Limb, Shape
from hame.maths import rotations, transforms
from hame.maths.kernels import swung
from hame.maths.rotations import Array
from hame.program import NONE, Stretch


def bone_axes(hinge: Array, along: Array, side: str) -> Array:
    """The quaternion of a bone's axes: hinge as x, the bone along y (against it on the right)."""
    y = along / np.linalg.norm(along) * (-1.0 if side == "R" else 1.0)
    x = hinge - (hinge @ y) * y
    x /= np.linalg.norm(x)
    return rotations.from_matrix(np.stack([x, y, np.cross(x, y)], axis=1))


@dataclass(frozen=True)
class Bend:
    """The plane in which a limb bends at rest."""

    toward: Array  # unit vector from the line root-end to the middle joint
    hinge: Array
    angle: float  # how far it is bent at rest, radians
    lengths: tuple[float, float]
    stretch: float  # from root to end at rest, as a share of both lengths


def plane_of(root: Array, middle: Array, end: Array, usual: Array) -> Bend:
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
    stretch = float(np.linalg.norm(end - root)) / (l1 + l2)
    return Bend(toward, np.cross(toward, line), angle, (l1, l2), stretch)


@dataclass(frozen=True)
class LimbJoints:
    name: str
    side: str
    label: str
    upper: int
    lower: int
    end: int


def two_bones(
    d: Draft, limb: LimbJoints, *, root: int, root_control: str, bend: Bend, end_rest: Array, target: int,
    pole: int, ik: str, pole_control: str, toe: str, mixed_by: str, reflect_end: bool, size: float,
    points: Mapping[str, Array],
) -> int:  # fmt: skip
    """FK controls, the IK solution and their mixture for one limb; returns the node of its end.

    Parameters
    ----------
    root, target, pole : nodes that the IK solution starts from, reaches for and bends towards
    root_control, ik, pole_control, toe : names of controls
    mixed_by : address of the channel that blends FK (0) and IK (1)
    reflect_end : whether equal turns of the end on both sides are mirrored ones
    size : of the figure, metres
    points : about which it may turn while it is planted, seen from ``ik``
    """
    kind, name, side = limb_kind(limb.name), limb.name, limb.side
    places = [d.place(j) for j in (limb.upper, limb.lower, limb.end)]
    sign = -1 if side == "R" else 1
    l1, l2 = bend.lengths
    axes = [bone_axes(bend.hinge, places[1] - places[0], side), bone_axes(bend.hinge, places[2] - places[1], side)]
    words = {"arm": ("upper arm", "forearm", "hand"), "leg": ("thigh", "shank", "foot")}[kind]
    turn = {"rx": "bend", "ry": "twist", "rz": "side to side"}
    high = radians(165) - bend.angle
    shared: dict[str, Any] = {"part": name, "kind": "fk", "side": side, "limb": name, "mode": "fk"}
    names = (f"{name}.upper", f"{name}.lower", f"{name}.{END_OF[kind]}")
    upper = d.control(
        names[0], root, transforms.transform(places[0], axes[0]), label=f"{limb.label} {words[0]}",
        shape=Shape("ring", 0.055 * size, (0.0, sign * 0.5 * l1, 0.0)), parent_control=root_control,
        order="XZY", labels=turn, locks={"t": TURN_ONLY}, reflect_place=False, reflect_turn=False, **shared,
    )  # fmt: skip
    longer = Stretch(d.number(f"{name}/stretch"), NONE)
    joint = "the elbow" if kind == "arm" else "the knee"
    lower = d.control(
        names[1], upper, transforms.transform(places[1], axes[1]), label=f"{limb.label} {words[1]}",
        shape=Shape("ring", 0.045 * size, (0.0, sign * 0.5 * l2, 0.0)), parent_control=names[0], order="XZY",
        labels=turn, locks={"t": TURN_ONLY, "ry": f"{joint} {HINGE}", "rz": f"{joint} {HINGE}"},
        limits={"rx": (-bend.angle, high)}, stretch=longer, reflect_place=False, reflect_turn=False, **shared,
    )  # fmt: skip
    end = d.control(
        names[2], lower, end_rest, label=f"{limb.label} {words[2]} FK", shape=Shape("ring", 0.04 * size),
        parent_control=names[1], order="YXZ" if reflect_end else "XZY", labels=turn, locks={"t": TURN_ONLY},
        stretch=longer, reflect_place=reflect_end, reflect_turn=reflect_end, **shared,
    )  # fmt: skip
    root_turn = rotations.inverse(d.rest[root][3:7])
    line, toward = own_bend(kind, places[0], places[2], bend.toward)
    solved = d.node(transforms.transform(places[0], axes[0]))
    d.node(transforms.transform(places[1], axes[1]))
    # The root of the limb is a node of its own, at the upper joint's place.
    hub = d.offset(root, transforms.transform(places[0], d.rest[root][3:7]))
    line, toward = rotations.rotate(root_turn, line), rotations.rotate(root_turn, toward)
    d.emit(
        program.two_bone(
            solved, root=hub, target=target, pole=pole, lengths=bend.lengths, side=sign, line=line, toward=toward,
            softness=d.number(softness_of(name)), swivel=d.number(f"{pole_control}/swivel"),
        )
    )  # fmt: skip
    switch = d.number(mixed_by)
    stretch = Stretch(d.number(f"{name}/stretch"), d.number(f"{name}/volume"), solved, switch)
    mixed = []
    carrier = hub
    for fk_node, ik_node in ((upper, solved), (lower, solved + 1), (end, target)):
        local = transforms.relative(d.rest[carrier], d.rest[fk_node])
        out = d.node(d.rest[fk_node])
        carrier = d.emit(
            program.mix(out, zero=fk_node, one=ik_node, carrier=carrier, by=switch, local=local, stretch=stretch)
        )
        mixed.append(carrier)
    d.limbs.append(
        Limb(
            name=name, label=limb.label, kind=kind, switch=mixed_by, fk=names, ik=ik, pole=pole_control, toe=toe,
            root=hub, upper=mixed[0], lower=mixed[1], end=mixed[2],
            target=target, solved=solved,
            points={name: (float(p[0]), float(p[1]), float(p[2])) for name, p in points.items()},
            end_offset=transforms.relative(d.rest[target], end_rest), side=sign, lengths=bend.lengths,
            pole_distance=0.6 * (l1 + l2), line=line, toward=toward,
        )
    )  # fmt: skip
    d.joint(limb.upper, mixed[0], names[0], (names[0], ik), stretch)
    for between in d.skeleton.chain(limb.upper, limb.lower)[1:-1]:
        d.joint(between, mixed[0], names[0], (names[0], ik), stretch)
    d.joint(limb.lower, mixed[1], names[1], (names[1], ik), stretch)
    for between in d.skeleton.chain(limb.lower, limb.end)[1:-1]:
        d.joint(between, mixed[1], names[1], (names[1], ik), stretch)
    d.joint(limb.end, mixed[2], names[2], (names[2], ik))
    return mixed[2]


def own_bend(kind: str, root: Array, end: Array, toward: Array) -> tuple[Array, Array]:
    """A line from root to end, and the way the limb bends on it, from which the bend on any other line follows.

    Carried from line to line by the shortest turn, the bend is undecided only
    on the line straight opposite. For a leg the line is that of its rest, and
    opposite lies where no foot goes; an arm goes nearly everywhere but behind
    and across the back, so its line is half way from rest to straight ahead.
    """
    line = (end - root) / max(float(np.linalg.norm(end - root)), 1e-9)
    ahead = line + FORWARD
    if kind == "leg" or np.linalg.norm(ahead) < 0.3:
        return line, toward
    ahead = ahead / np.linalg.norm(ahead)
    return ahead, np.array(swung(*line, *ahead, *toward))


def softness_of(limb: str) -> str:
    """The channel that says over how much of its length a limb softens before it is straight."""
    return f"{limb}/soft"


_ORDINALS = {"2": "2nd", "3": "3rd", **{str(n): f"{n}th" for n in range(4, 21)}}


def limb_label(limb: str) -> str:
    kind, side = limb.split(".")
    number = kind[3:]
    return f"{SIDES[side]} {_ORDINALS.get(number, number)}".strip()


def swivel_of(pole: str) -> Channel:
    """The channel of an aim that turns the bend about the line from root to end."""
    return Channel(address=f"{pole}/swivel", control=pole, name="swivel", label="swivel", kind=EXTRA, unit="rad",
                   purpose="turns the bend about the line through the limb's ends, beyond where the aim leads it",
                   mirror=-1)  # fmt: skip


SOFTEST = 0.01


def switch_of(d: Draft, limb: str, label: str, ik: float, stretch: float) -> str:
    """The control that blends a limb between FK and IK; it is not drawn on the stage.

    ``stretch`` is how straight the limb is at rest, as a share of its length:
    it softens only beyond that, so that the rest pose stays what it is.
    """
    soft = round(min(SOFTEST, max(1.0 - stretch, 0.0)), 9)
    soft = 0.0 if soft < 1e-6 else soft
    address = f"{limb}/ik"
    first = len(d.channels)
    d.channels.append(
        Channel(address=address, control=limb, name="ik", label="IK", kind=EXTRA, unit="", rest=ik, low=0.0, high=1.0,
                purpose="1: the end is placed and the joints follow (IK); 0: each joint is turned (FK)")
    )  # fmt: skip
    d.channels.append(
        Channel(
            address=softness_of(limb),
            control=limb,
            name="soft",
            label="softness",
            kind=EXTRA,
            unit="",
            rest=soft,
            low=0.0,
            high=0.05,
            purpose="the share of its length over which the limb slows down before it is straight; 0 is none",
        )
    )
    # In this order: a program finds them one after the other.
    longer, volume = stretch_channels(limb, label.split()[-1])
    d.channels.append(longer)
    d.channels.append(
        Channel(address=f"{limb}/reach", control=limb, name="reach", label="stretches to reach", kind=EXTRA, unit="",
                low=0.0, high=1.0, purpose="1: in IK it grows as long as it must to come to its goal; 0: it does not")
    )  # fmt: skip
    d.channels.append(
        Channel(address=f"{limb}/from", control=limb, name="from", label="stretches from", kind=EXTRA, unit="",
                rest=1.0, low=0.5, high=1.0, purpose="the share of its length from which on it stretches to reach")
    )  # fmt: skip
    d.channels.append(volume)
    d.sliders(limb, first, label=label, part=limb, kind="switch", side=limb[-1], parent="master", limb=limb)
    return address
