"""Arms of a rig, with shoulder, twist, hand and fingers."""

from __future__ import annotations

from math import radians

import numpy as np

from hame import program
from hame.character.bodyplan import FINGERS
from hame.character.draft import (
    FORWARD,
    MOVE_ONLY,
    OTHER_SIDE,
    TURN_ONLY,
    UP,
    Draft,
    carry_between,
)
from hame.character.hand import LABELS, PURPOSE, SLIDERS, asides, bends, bent_at_rest
from hame.character.limb import Bend, LimbJoints, bone_axes, limb_label, plane_of, switch_of, swivel_of, two_bones
from hame.character.rig import EXTRA, Channel, Shape
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.program import Stretch


def lay_arm(d: Draft, limb: str, master: int, body: int, size: float) -> None:
    side, label = limb[-1], limb_label(limb)
    roles = {part: d.at(f"{limb}.{part}") for part in ("collar", "upper", "lower", "twist", "hand")}
    upper, lower, hand = roles["upper"], roles["lower"], roles["hand"]
    assert upper is not None and lower is not None and hand is not None  # checked with the plan
    collar = roles["collar"]
    root, root_control = carry_between(d, collar if collar is not None else upper)
    if collar is not None:
        turned = OTHER_SIDE if side == "R" else rotations.IDENTITY
        reach = d.place(upper) - d.place(collar)
        away = rotations.rotate(rotations.inverse(turned), reach)
        root = d.control(
            f"{limb}.collar", root, transforms.transform(d.place(collar), turned), label=f"{label} shoulder",
            part=limb, kind="fk", side=side, limb=limb,
            shape=Shape("ring", 0.04 * size, (float(away[0]), float(away[1]), float(away[2]))),
            parent_control=root_control, labels={"rx": "roll", "ry": "forward", "rz": "raise"},
            locks={"t": TURN_ONLY}, reflect_place=False, reflect_turn=False,
        )  # fmt: skip
        root_control = f"{limb}.collar"
        d.joint(collar, root, root_control)
        root, _ = carry_between(d, upper)
    else:
        root, _ = carry_between(d, upper)
    bend = plane_of(d.place(upper), d.place(lower), d.place(hand), -FORWARD)
    hand_rest = transforms.transform(d.place(hand), _hand_axes(d, limb, bend, side))
    switch = switch_of(d, limb, f"{label} arm", 0.0, bend.stretch)
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
        locks={"r": MOVE_ONLY}, extra=[swivel_of(pole_name)],
    )  # fmt: skip
    joints = LimbJoints(limb, side, label, upper, lower, hand)
    end = two_bones(
        d, joints, root=root, root_control=root_control, bend=bend, end_rest=hand_rest, target=target, pole=pole, ik=ik,
        pole_control=pole_name, toe="", mixed_by=switch, reflect_end=False, size=size,
        points={"wrist": np.zeros(3), **_palm_point(d, limb, hand_rest)},
    )  # fmt: skip
    twist = roles["twist"]
    if twist is not None:
        lower_node = d.limbs[-1].lower
        at_rest = rotations.multiply(rotations.inverse(d.rest[lower_node][3:7]), d.rest[end][3:7])
        local = transforms.relative(d.rest[lower_node], d.skeleton.world[twist])
        along = float(np.linalg.norm(local[:3])) / bend.lengths[1]
        # Turned about the bone first: the joint's own axes follow as an offset.
        turned_node = d.node(d.rest[lower_node])
        share = min(max(along, 0.25), 0.75)
        by_fk = (d.node_of(f"{limb}.lower"), d.node_of(f"{limb}.hand"))
        d.emit(
            program.twist(
                turned_node, along=lower_node, zero=by_fk, one=(d.limbs[-1].solved + 1, target), by=d.number(switch),
                share=share, at_rest=at_rest,
            )
        )  # fmt: skip
        stretch = Stretch(d.number(f"{limb}/stretch"), d.number(f"{limb}/volume"), d.limbs[-1].solved, d.number(switch))
        d.joint(twist, turned_node, f"{limb}.hand", (f"{limb}.lower", ik), stretch)
    if any(d.plan.numbered(f"{limb}.{finger}") for finger in FINGERS):
        sliders = _shapes(d, limb, label, side)
        for finger in FINGERS:
            _finger(d, limb, finger, end, label, side, size, sliders)


def _shapes(d: Draft, limb: str, label: str, side: str) -> int:
    """The control whose sliders shape the whole hand; returns the first of its channels."""
    name, first = f"{limb}.fingers", len(d.channels)
    for slider in SLIDERS:
        d.channels.append(
            Channel(address=f"{name}/{slider}", control=name, name=slider, label=LABELS[slider], kind=EXTRA, unit="",
                    low=-0.5 if slider == "spread" else 0.0, high=1.0, purpose=PURPOSE[slider])
        )  # fmt: skip
    d.sliders(
        name, first, label=f"{label} hand shape", part=f"hand.{side}", kind="finger", side=side, parent=f"{limb}.hand"
    )
    return first


def _palm(d: Draft, limb: str) -> tuple[Array, Array, Array] | None:
    """Along the fingers, out of the palm, and from index to little finger; None without fingers."""
    bases = [j for f in FINGERS[1:] if (j := d.at(f"{limb}.{f}.1")) is not None]
    hand = d.at(f"{limb}.hand")
    if len(bases) < 2 or hand is None:
        return None
    along = np.mean([d.place(j) for j in bases], axis=0) - d.place(hand)
    across = d.place(bases[-1]) - d.place(bases[0])
    palm = np.cross(across, along) * (1.0 if limb.endswith("L") else -1.0)
    return along / np.linalg.norm(along), palm / np.linalg.norm(palm), across / np.linalg.norm(across)


def _palm_point(d: Draft, limb: str, hand_rest: Array) -> dict[str, Array]:
    """The middle of the palm, seen from the hand's control; nothing without fingers."""
    bases = [j for f in FINGERS[1:] if (j := d.at(f"{limb}.{f}.1")) is not None]
    if not bases:
        return {}
    middle = 0.5 * (hand_rest[:3] + np.mean([d.place(j) for j in bases], axis=0))
    return {"palm": rotations.rotate(rotations.inverse(hand_rest[3:7]), middle - hand_rest[:3])}


def _hand_axes(d: Draft, limb: str, bend: Bend, side: str) -> Array:
    palm = _palm(d, limb)
    lower, hand = d.at(f"{limb}.lower"), d.at(f"{limb}.hand")
    assert lower is not None and hand is not None
    if palm is None:
        return bone_axes(bend.hinge, d.place(hand) - d.place(lower), side)
    along, out, _ = palm
    return bone_axes(np.cross(along, out), along, side)


def _finger(
    d: Draft, limb: str, finger: str, hand: int, label: str, side: str, size: float, sliders: int
) -> None:  # fmt: skip
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
        axes.append(bone_axes(np.cross(along, out), along, side))
    name = f"{limb}.{finger}"
    extra = [
        Channel(address=f"{name}/curl", control=name, name="curl", label="curl", kind=EXTRA, unit="rad",
                low=radians(-30), high=radians(110), purpose="bends the whole finger")
    ]  # fmt: skip
    for part in ("mid", "tip")[: len(joints) - 1]:
        extra.append(
            Channel(address=f"{name}/{part}", control=name, name=part,
                    label=f"{'middle' if part == 'mid' else 'tip'} joint", kind=EXTRA, unit="rad",
                    low=radians(-30), high=radians(110), purpose="bends this joint alone")
        )  # fmt: skip
    extra.append(
        Channel(address=f"{name}/shape", control=name, name="shape", label="hand shape", kind=EXTRA, unit="", rest=1.0,
                low=0.0, high=1.0, purpose="how much of the shape of the whole hand this finger takes")
    )  # fmt: skip
    parent, _ = carry_between(d, joints[0])
    node = d.control(
        name, parent, transforms.transform(places[0], axes[0]), label=f"{label} {finger}", part=f"hand.{side}",
        kind="finger", side=side, limb="", parent_control=f"{limb}.hand",
        shape=Shape("bead", 0.008 * size, (0.0, 0.0, 0.0)), order="XZY",
        labels={"rx": "bend", "ry": "twist", "rz": "spread"}, locks={"t": TURN_ONLY},
        reflect_place=False, reflect_turn=False, extra=extra,
    )  # fmt: skip
    curl, taken = d.number(f"{name}/curl"), d.number(f"{name}/shape")
    at_rest = bent_at_rest(points, rotations.rotate(axes[0], np.array([1.0, 0.0, 0.0])))
    # Towards the thumb's side: on both sides the same turn about the bone's own z, as spreading by hand is.
    across = palm[2] if palm else FORWARD
    z = rotations.rotate(axes[0], np.array([0.0, 0.0, 1.0]))
    along = (points[1] - points[0]) / max(float(np.linalg.norm(points[1] - points[0])), 1e-9)
    way = -1.0 if float(np.cross(z, along) @ across) > 0 else 1.0
    aside = d.node(d.rest[node])
    d.emit(
        program.bend(aside, parent=node, local=transforms.IDENTITY[:7], by=curl, share=0.0, axis=2, shaped_by=sliders,
                     shapes=way * asides(finger), shape_share=taken)
    )  # fmt: skip
    node = aside
    for number, j in enumerate(joints):
        rest = transforms.transform(places[number], axes[number])
        local = transforms.relative(d.rest[node], rest)
        bent = d.node(rest)
        own = d.number(f"{name}/{('mid', 'tip')[number - 1]}") if number in (1, 2) else program.NONE
        share = 1.0 if number < 2 else 0.75
        d.emit(
            program.bend(
                bent,
                parent=node,
                local=local,
                by=curl,
                share=share,
                also_by=own,
                shaped_by=sliders,
                shapes=bends(finger, number, at_rest[number]),
                shape_share=taken,
            )
        )
        d.joint(j, bent, name)
        node = bent
