"""Side views of the poses of a walk, a run or a take, drawn in a figure's own proportions, to pose from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hame.blocking.poses import rough_pose
from hame.blocking.templates import template
from hame.character.rig import Rig
from hame.clip.marks import Rank
from hame.evaluate.evaluate import evaluate, overlaid
from hame.maths import rotations
from hame.maths.rotations import Array
from hame.measure.soles import sole_points

DRAWN = {"walk": 5, "run": 3, "startle": 4}  # the other half is the same mirrored


@dataclass(frozen=True)
class Stroke:
    """A limb seen from the side: ``points (N, 2)`` forward and up, as shares of the figure's height."""

    part: str
    side: str
    points: Array


@dataclass(frozen=True)
class DrawnPose:
    frame: int
    name: str
    rank: Rank
    strokes: tuple[Stroke, ...]


def reference_sheet(rig: Rig, kind: str, start: int, step: int) -> list[DrawnPose]:
    """The poses of the first step (or of the whole take), each on its frame.

    Raises
    ------
    BadEdit
        If there is no such kind, or the step is too short for its poses.
    """
    found = []
    for pose in template(kind, start, step)[: DRAWN[kind]]:
        values, _ = rough_pose(rig, kind, pose.name)
        nodes = evaluate(rig, overlaid(rig, rig.rest, values)[None])
        found.append(DrawnPose(pose.frame, pose.name, pose.rank, tuple(_strokes(rig, nodes))))
    return found


def _strokes(rig: Rig, nodes: Array) -> list[Stroke]:
    roles, skeleton = rig.plan.roles, rig.skeleton
    places = nodes[0, rig.joint_nodes, :3]

    def at(*names: str) -> Array:
        return np.array([places[skeleton.index(roles[name])] for name in names if name in roles]).reshape(-1, 3)

    def seen(points: Array) -> Array:
        return points[:, [2, 1]] / skeleton.height

    spine = [f"spine.{n + 1}" for n in range(len(rig.plan.numbered("spine")))]
    strokes = [Stroke("trunk", "", seen(at("hips", *spine, "neck.1")))]
    if "head" in roles:
        head = skeleton.index(roles["head"])
        turned = nodes[0, rig.joint_nodes[head], 3:7]
        at_rest = skeleton.world[head][3:7]
        way = rotations.multiply(turned, rotations.inverse(at_rest))
        top = places[head] + rotations.rotate(way, np.array([0.0, 0.1 * skeleton.height, 0.01 * skeleton.height]))
        strokes.append(Stroke("head", "", seen(np.array([places[head], top]))))
    for limb in rig.limbs:
        side = limb.name[-1]
        ends = [nodes[0, node, :3] for node in (limb.upper, limb.lower, limb.end)]
        if limb.kind == "leg":
            heel, ball, tip = sole_points(rig, limb, nodes)[0]
            strokes.append(Stroke("leg", side, seen(np.array(ends))))
            strokes.append(Stroke("foot", side, seen(np.array([heel, ball, tip]))))
        else:
            hand = ends[2] + 0.4 * (ends[2] - ends[1])
            strokes.append(Stroke("arm", side, seen(np.array([*ends, hand]))))
    return strokes
