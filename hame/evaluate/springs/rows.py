"""Which joints a spring swings, by what it is called, and what keeps them out."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hame.character.bulks import bulk_of
from hame.character.rig import Rig
from hame.evaluate.cores import run_program
from hame.evaluate.laid import turns_of
from hame.maths import rotations
from hame.maths.rotations import Array

_SWINGS = ("extra", "part", "face")  # kinds of control of which rows are made
_STOPS = ("hips", "spine", "neck", "head", "upper", "lower", "hand", "foot")


@dataclass(frozen=True, eq=False)
class Row:
    """A row of joints that can swing.

    Attributes
    ----------
    carrier : the node of the joint that carries it
    joints : (N,) the nodes of its joints
    turns : (N,) the rows of their controls among the rig's turns
    own : (N, 4) by joint, the quaternion of its axes seen from its control's
    tips : (N, 3) where each ends, seen from it at rest, metres
    rest : (N, 3) where each ends in the rest pose
    names : of their controls
    """

    carrier: int
    joints: tuple[int, ...]
    turns: tuple[int, ...]
    own: Array
    tips: Array
    rest: Array
    names: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Shells:
    """The parts of a body as rounds about lines.

    Attributes
    ----------
    nodes : (K,) the joints that they are about
    ends : (K, 2, 3) the two ends of each, seen from its joint
    rest : (K, 2, 3) those in the rest pose
    radii : (K,)
    """

    nodes: tuple[int, ...]
    ends: Array
    rest: Array
    radii: Array


def can_swing(rig: Rig, control: str) -> bool:
    """Whether a control begins a row of joints that can swing."""
    return rig.has_control(control) and row_of(rig, control) is not None


@lru_cache(maxsize=512)
def row_of(rig: Rig, about: str) -> Row | None:
    """The row of a chain, or from the joint of a control on; None of one that has none, or does not turn freely."""
    skeleton, control = rig.skeleton, rig.control(about)
    by_joint = [pick[0] for pick in rig.picks]
    chain = rig.chain(about)
    if chain is not None and chain.name == about:
        mine = list(chain.joints)
    elif control.kind in _SWINGS and about in by_joint:
        mine = [by_joint.index(about)]
        while len(skeleton.children[mine[-1]]) == 1:
            after = skeleton.children[mine[-1]][0]
            if by_joint[after] == by_joint[mine[-1]] or rig.control(by_joint[after]).kind not in _SWINGS:
                break
            mine.append(after)
    else:
        return None
    turned = {int(columns[0]): n for n, columns in enumerate(np.sort(turns_of(rig).columns, axis=1))}
    found = []
    for j in mine:
        own = rig.control(by_joint[j])
        row = turned.get(own.first + 3)
        if row is None:
            break
        found.append((j, own, row))
    if not found or skeleton.parents[found[0][0]] < 0:
        return None
    rest = _at_rest(rig)
    nodes = [int(rig.joint_nodes[j]) for j, _, _ in found]
    turns = [rotations.multiply(rotations.inverse(rest[own.node, 3:7]), rest[node, 3:7])
             for (_, own, _), node in zip(found, nodes, strict=True)]  # fmt: skip
    ends = np.array([bulk_of(rig.plan, skeleton, j).end for j, _, _ in found])
    tips = np.array([rotations.rotate(rotations.inverse(skeleton.world[j, 3:7]), end - skeleton.places[j])
                     for (j, _, _), end in zip(found, ends, strict=True)])  # fmt: skip
    return Row(
        int(rig.joint_nodes[skeleton.parents[found[0][0]]]), tuple(nodes), tuple(row for _, _, row in found),
        np.array(turns), tips, ends, tuple(own.name for _, own, _ in found),
    )  # fmt: skip


@lru_cache(maxsize=64)
def _at_rest(rig: Rig) -> Array:
    return np.asarray(run_program(rig.program, rig.rest[None])[0])


@lru_cache(maxsize=64)
def shells_of(rig: Rig) -> Shells:
    """The parts of a body that keep out what swings: those with a role in it, as thick as they were measured."""
    nodes, ends, rest, radii = [], [], [], []
    for role, joint in rig.plan.roles.items():
        if role.split(".")[0] not in _STOPS and role.rsplit(".", 1)[-1] not in _STOPS:
            continue
        j = rig.skeleton.index(joint)
        bulk = bulk_of(rig.plan, rig.skeleton, j)
        if bulk.radius <= 0.0:
            continue
        place, turn = rig.skeleton.places[j], rotations.inverse(rig.skeleton.world[j, 3:7])
        nodes.append(int(rig.joint_nodes[j]))
        ends.append([np.zeros(3), rotations.rotate(turn, bulk.end - place)])
        rest.append([place, bulk.end])
        radii.append(bulk.radius)
    return Shells(
        tuple(nodes), np.array(ends, float).reshape(-1, 2, 3), np.array(rest, float).reshape(-1, 2, 3),
        np.array(radii, float),
    )  # fmt: skip


@lru_cache(maxsize=512)
def kept_out(rig: Rig, about: str) -> Array:
    """How far (N, K) the end of each joint of a row stays from each part of the body: no farther than it is at rest."""
    row, shells = row_of(rig, about), shells_of(rig)
    if row is None or not len(shells.radii):
        return np.zeros((0 if row is None else len(row.joints), len(shells.radii)))
    found = np.zeros((len(row.joints), len(shells.radii)))
    for n, end in enumerate(row.rest):
        for k, (a, b) in enumerate(shells.rest):
            along = np.clip((end - a) @ (b - a) / max(float((b - a) @ (b - a)), 1e-12), 0.0, 1.0)
            found[n, k] = min(shells.radii[k], 0.98 * float(np.linalg.norm(end - a - along * (b - a))))
    return found
