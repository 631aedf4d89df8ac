"""Building a control rig on a skeleton.

Axes. Controls of the trunk, the head, the feet and everything that is moved
rather than turned have the axes of the character at rest: x to its left, y
up, z forward. Bones of limbs and fingers have their hinge as x, so that a
turn about x is the bend, about z side to side, about y the twist; the right
side's axes are the left's mirrored and reversed, so that equal turns on both
sides look the same in the mirror.
"""

import numpy as np

from hame.character.arm import lay_arm
from hame.character.bodyplan import BodyPlan, check, limb_kind
from hame.character.camera import CAMERA, lens_channels
from hame.character.chain import bent, finish_chain, lay_chains
from hame.character.draft import OTHER_SIDE, TURN_ONLY, Draft
from hame.character.face import check_face, label_of, zone_of_joint
from hame.character.free import freedom
from hame.character.leg import lay_leg
from hame.character.names import names_helper, numbered, side_among
from hame.character.rig import Rig, Shape
from hame.character.shapes import lay_shapes, shapes_in
from hame.character.skeleton import Skeleton
from hame.character.trunk import lay_trunk
from hame.maths import rotations, transforms
from hame.program import assembled


def build_rig(skeleton: Skeleton, plan: BodyPlan) -> Rig:
    """The control rig of a skeleton with a body plan.

    Raises
    ------
    BadPlan
        If the plan does not fit the skeleton.

    Examples
    --------
    >>> from hame.character.propose import propose
    >>> from hame.demo.keeper import skeleton
    >>> keeper = skeleton()
    >>> rig = build_rig(keeper, propose(keeper))
    >>> [limb.name for limb in rig.limbs], rig.control("head").label
    (['arm.L', 'arm.R', 'leg.L', 'leg.R'], 'head')
    """
    check(plan, skeleton)
    check_face(plan, skeleton)
    d = Draft(skeleton, plan)
    size = max(plan.size or skeleton.size, 1e-3)
    master = d.control(
        "master", -1, transforms.IDENTITY, label="master", part="whole", kind="master",
        shape=Shape("master", 0.28 * size), parent_control="", scalable=True,
        labels={"tx": "sideways", "ty": "height", "tz": "forward", "ry": "heading"},
    )  # fmt: skip
    if plan.is_prop:
        base = skeleton.index(plan.roles["base"])
        for j in [*above(skeleton, base), base]:
            d.joint(j, master, "master")
    else:
        _lay_body(d, master, size)
    _remaining(d, master, size)
    lay_shapes(d)
    joint_nodes = np.array([d.joint_node[j] for j in range(len(skeleton))], np.int32)
    numbers = {channel.address: n for n, channel in enumerate(d.channels)}
    return Rig(
        skeleton=skeleton, plan=plan, controls=tuple(d.controls), channels=tuple(d.channels), limbs=tuple(d.limbs),
        chains=tuple(d.chains),
        program=assembled(d.operations, len(d.rest), len(d.channels)), joint_nodes=joint_nodes,
        picks=tuple(d.picks[j] for j in range(len(skeleton))),
        shape_channels=np.array([numbers[d.shaping[shape]] for shape, *_ in plan.shapes], np.int64),
    )  # fmt: skip


def _lay_body(d: Draft, master: int, size: float) -> None:
    """Trunk and limbs of a figure, on the joints that its roles name."""
    hips = d.skeleton.index(d.plan.roles["hips"])
    for j in above(d.skeleton, hips):
        d.joint(j, master, "master")
    body = lay_trunk(d, master, hips, size)
    for limb in d.plan.limbs():
        if limb_kind(limb) == "arm":
            lay_arm(d, limb, master, body, size)
        else:
            lay_leg(d, limb, master, size)


def above(skeleton: Skeleton, j: int) -> list[int]:
    line: list[int] = []
    while (j := skeleton.parents[j]) >= 0:
        line.append(j)
    return line[::-1]


def _remaining(d: Draft, master: int, size: float) -> None:
    """Every joint that no role drives: a plain control each, or rigid where nobody would turn it."""
    tips = {d.at(f"{limb}.tip") for limb in d.plan.limbs()}
    chained = lay_chains(d, master)
    for j, name in enumerate(d.skeleton.names):
        if j in d.joint_node:
            continue
        parent = d.skeleton.parents[j]
        driver, carrier = d.hang_node[parent], d.carrier[parent]
        if (names_helper(name) and not d.skeleton.children[j] or j in tips) and name not in d.plan.free:
            d.joint(j, driver, carrier, d.picks[parent])
            continue
        if zone := zone_of_joint(d.plan, name):
            _lay_zone(d, zone, j, size)
            continue
        side = side_among(name, d.skeleton.names)
        control = _free_name(name, {c.name for c in d.controls})
        is_camera = d.plan.is_prop and name == CAMERA
        turned = OTHER_SIDE if side == "R" else rotations.IDENTITY
        if j in chained:
            driver = bent(d, driver, j, chained[j])
        node = d.control(
            control, driver, transforms.transform(d.place(j), turned), label=name,
            part="whole" if d.plan.is_prop else "further", kind="part" if d.plan.is_prop else "extra", side=side,
            shape=Shape("ring", (0.14 if d.plan.is_prop else 0.03) * size), parent_control=carrier,
            reflect_place=not side, reflect_turn=not side, scale_label=f"makes {name} larger or smaller",
            **freedom(d.plan, name, {"locks": {} if is_camera else {"t": TURN_ONLY}}),
            extra=lens_channels(control) if is_camera else [],
        )  # fmt: skip
        d.joint(j, node, control, stretch=chained[j].stretch if j in chained else None)
        if j in chained and chained[j].ends:
            finish_chain(d, j, chained)


def _lay_zone(d: Draft, zone: str, j: int, size: float) -> None:
    """The control of a joint of the face: the zone's own for its first joint, which has its shapes too."""
    name, found = d.skeleton.names[j], d.plan.face[zone]
    own, parent = name == found.joints[0], d.skeleton.parents[j]
    control = d.unused(zone if own else name)
    moves = dict.fromkeys(("tx", "ty", "tz"), (-0.05 * size, 0.05 * size))
    node = d.control(
        control, d.hang_node[parent], transforms.transform(d.place(j)), label=label_of(zone) if own else name,
        part="face", kind="face", side=next((word for word in zone.split(".") if word in "LR"), ""),
        shape=Shape("drop", 0.008 * size, (0.0, 0.0, 0.02 * size)), parent_control=d.carrier[parent],
        scale_label=f"makes {name} larger or smaller", extra=shapes_in(d, control, found.shapes) if own else (),
        **freedom(d.plan, name, {"limits": moves, "scalable": True}),
    )  # fmt: skip
    d.joint(j, node, control)


def _free_name(name: str, taken: set[str]) -> str:
    """A control's name for a joint: the joint's own, or where a control of the body is called so, one beside it."""
    return name if name not in taken else numbered(f"{name} joint", taken)
