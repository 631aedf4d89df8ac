"""The joints of a rig as a free-floating tree for Pinocchio, and smooth motions of such."""

from __future__ import annotations

import numpy as np
import pinocchio as pin
from scipy.spatial.transform import Rotation

from hame.character.masses import masses_of
from hame.character.rig import Rig
from hame.maths.rotations import Array
from hame.measure.dynamics import GRAVITY


def model_of(rig: Rig) -> tuple[pin.Model, list[int]]:
    """The joints of a rig as a free-floating tree with its parts of mass, of one kilogram in all."""
    model, ids = pin.Model(), [0] * len(rig.skeleton)
    model.gravity.linear[:] = (0.0, -GRAVITY, 0.0)
    rest = [pin.SE3(Rotation.from_quat(at[3:7]).as_matrix(), at[:3]) for at in rig.skeleton.world]
    for j, parent in enumerate(rig.skeleton.parents):
        own = rest[j] if parent < 0 else rest[parent].actInv(rest[j])
        kind = pin.JointModelFreeFlyer() if parent < 0 else pin.JointModelSpherical()
        ids[j] = model.addJoint(0 if parent < 0 else ids[parent], kind, own, rig.skeleton.names[j])
    masses = masses_of(rig)
    for joint, share, at, spread in zip(masses.joints, masses.share, masses.at, masses.spread, strict=True):
        model.appendBodyToJoint(ids[joint], pin.Inertia(float(share), at, share * spread), pin.SE3.Identity())
    return model, ids


class Swing:
    """A smooth motion of all joints, each about an axis of its own, and of the whole through the air."""

    def __init__(self, joints: int, seed: int) -> None:
        rng = np.random.default_rng(seed)
        axes = rng.normal(size=(joints, 3))
        self.axes = axes / np.linalg.norm(axes, axis=1)[:, None]
        self.size, self.pace, self.phase = rng.uniform((0.1, 1.0, 0.0), (0.8, 6.0, 6.0), size=(joints, 3)).T
        self.way, self.beat, self.begin = rng.uniform(0.2, 3.0, size=(3, 3))

    def at(self, t: float) -> tuple[Array, Array, Array]:
        """Places, speeds and accelerations of the tree."""
        inner = self.pace * t + self.phase
        turn, rate = self.size * np.sin(inner), self.size * self.pace * np.cos(inner)
        change = -self.size * self.pace**2 * np.sin(inner)
        quats = Rotation.from_rotvec(self.axes * turn[:, None]).as_quat()
        place = self.way * np.sin(self.beat * t + self.begin)
        speed = self.way * self.beat * np.cos(self.beat * t + self.begin)
        pull = -self.way * self.beat**2 * np.sin(self.beat * t + self.begin)
        back = Rotation.from_quat(quats[0]).inv()
        spin = self.axes[0] * rate[0]
        first = (back.apply(speed), back.apply(pull) - np.cross(spin, back.apply(speed)))
        speeds, changes = self.axes * rate[:, None], self.axes * change[:, None]
        return (
            np.concatenate([place, quats.ravel()]), np.concatenate([first[0], speeds.ravel()]),
            np.concatenate([first[1], changes.ravel()]),
        )  # fmt: skip


def nodes_of(rig: Rig, model: pin.Model, ids: list[int], places: list[Array]) -> Array:
    nodes = np.zeros((len(places), rig.program.nodes, 8))
    nodes[..., 6:8] = 1.0
    data = model.createData()
    for f, q in enumerate(places):
        pin.forwardKinematics(model, data, q)
        for j, number in enumerate(ids):
            at = data.oMi[number]
            nodes[f, rig.joint_nodes[j], :3] = at.translation
            nodes[f, rig.joint_nodes[j], 3:7] = Rotation.from_matrix(at.rotation).as_quat()
    return nodes
