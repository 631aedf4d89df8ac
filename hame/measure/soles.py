"""Where the soles of feet are in a pose."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from hame.character.rig import Limb, Rig
from hame.maths import rotations
from hame.maths.rotations import Array


def sole_points(rig: Rig, limb: Limb, nodes: Array) -> Array:
    """World places (F, 3, 3) of heel, ball and toe tip of a foot, from the nodes (F, N, 8)."""
    skeleton, plan = rig.skeleton, rig.plan
    foot = skeleton.index(plan.roles[f"{limb.name}.foot"])
    ball_name = plan.roles.get(f"{limb.name}.ball")
    toe_joint = skeleton.index(ball_name) if ball_name else foot
    sole = plan.soles.get(limb.name)
    floor = float(skeleton.places[:, 1].min()) if sole is None else sole["heel"][1]
    rest_foot, rest_toe = skeleton.places[foot], skeleton.places[toe_joint]
    heel = np.array(sole["heel"]) if sole else np.array([rest_foot[0], floor, rest_foot[2]])
    tip = np.array(sole["tip"]) if sole else np.array([rest_toe[0], floor, rest_toe[2]])
    ball = np.array([rest_toe[0], floor, rest_toe[2]])
    if sole and not ball_name:
        ball = heel + 0.7 * (tip - heel)
    points = []
    for point, joint in ((heel, foot), (ball, toe_joint), (tip, toe_joint)):
        node = nodes[:, rig.joint_nodes[joint]]
        at_rest = skeleton.world[joint]
        local = rotations.rotate(rotations.inverse(at_rest[3:7]), point - at_rest[:3])
        points.append(
            node[:, :3] + rotations.rotate(node[:, 3:7], np.broadcast_to(local, (len(node), 3)) * node[:, 7:8])
        )
    return np.stack(points, axis=1)


def sole_outline(rig: Rig, limb: Limb, nodes: Array) -> Array:
    """World places (F, K, 3) of the points of a sole that can touch the ground; of no skin, heel, ball and tip."""
    outline = _outline(rig, limb.name)
    if outline is None:
        return sole_points(rig, limb, nodes)
    of_foot, of_toes, at_foot, at_toes, toes = outline
    return np.asarray((1.0 - toes) * _carried(nodes[:, of_foot], at_foot) + toes * _carried(nodes[:, of_toes], at_toes))


def has_sole(rig: Rig, limb: Limb) -> bool:
    """Whether a limb ends in a foot, so that it has heel, ball and toe tip."""
    return limb.kind == "leg" and f"{limb.name}.foot" in rig.plan.roles


def level_of(rig: Rig, limb: Limb) -> float:
    """How high the lowest of a sole lies when the figure stands as it was made; never above the ground."""
    outline = rig.plan.outlines.get(limb.name)
    if outline:
        return min(min(point[1] for point in outline), 0.0)
    sole = rig.plan.soles.get(limb.name)
    return min(sole["heel"][1], sole["tip"][1], 0.0) if sole else 0.0


@lru_cache(maxsize=256)
def _outline(rig: Rig, name: str) -> tuple[int, int, Array, Array, Array] | None:
    """The nodes of foot and toes, the points in the axes of each (K, 3), and the share of the toes (K, 1)."""
    plan, skeleton = rig.plan, rig.skeleton
    points = np.array(plan.outlines.get(name, ()), float)
    if not len(points):
        return None
    foot = skeleton.index(plan.roles[f"{name}.foot"])
    ball = plan.roles.get(f"{name}.ball")
    toes = skeleton.index(ball) if ball else foot
    local = [
        rotations.rotate(rotations.inverse(skeleton.world[j, 3:7]), points[:, :3] - skeleton.world[j, :3])
        for j in (foot, toes)
    ]
    return int(rig.joint_nodes[foot]), int(rig.joint_nodes[toes]), *local, points[:, 3:4]  # type: ignore[return-value]


def _carried(node: Array, local: Array) -> Array:
    """Points (K, 3) in the axes of a node (F, 8), in the world (F, K, 3)."""
    return np.asarray(node[:, None, :3] + rotations.rotate(node[:, None, 3:7], local[None] * node[:, None, 7:8]))
