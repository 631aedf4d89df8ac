"""What the parts of a body weigh, and where its centre of mass is.

A body is point masses that its joints carry: so the centre of mass of any pose is a sum over joints.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from hame.character.ranges import is_upright
from hame.character.rig import Rig
from hame.maths import rotations
from hame.maths.rotations import Array

# Share of the body's mass and where it lies, from the near joint to the far one: Winter, Biomechanics and Motor Control
# of Human Movement, table 4.1 (after Dempster). Those of trunk, hand and foot from memory of the same table: half way
# from hips to neck, from wrist to knuckles, and from ankle to ball.
_TRUNK, _HEAD = 0.497, 0.081
_LIMBS = {
    "arm": (("upper", "lower", 0.028, 0.436), ("lower", "hand", 0.016, 0.430), ("hand", "middle.1", 0.006, 0.506)),
    "leg": (("upper", "lower", 0.100, 0.433), ("lower", "foot", 0.0465, 0.433), ("foot", "ball", 0.0145, 0.50)),
}


@dataclass(frozen=True, eq=False)
class Masses:
    """Point masses of a body.

    Attributes
    ----------
    joints : (M,) which joint carries each
    share : (M,) of the whole, summing to one
    at : (M, 3) where it lies in the joint's axes, metres at rest
    """

    joints: npt.NDArray[np.int32]
    share: Array
    at: Array


@lru_cache(maxsize=64)
def masses_of(rig: Rig) -> Masses:
    """Masses of a rig: of a body as ours by Winter, else by what its surface holds, else alike for all bones.

    What the body plan says of a joint, in kilograms, goes before; the whole then weighs what its size says.
    """
    plan, skeleton = rig.plan, rig.skeleton
    if plan.masses:
        names = [name for name in plan.masses if name in skeleton.names and plan.masses[name] > 0.0]
        parts = [(skeleton.index(name), float(plan.masses[name]), _centre(rig, name)) for name in names]
    else:
        parts = []
    if not parts:
        parts = _as_ours(rig) if is_upright(plan, skeleton) else _alike(rig)
    total = sum(mass for _, mass, _ in parts)
    return Masses(
        np.array([j for j, _, _ in parts], np.int32),
        np.array([mass / total for _, mass, _ in parts]),
        np.array([at for _, _, at in parts]),
    )


def centre_of_mass(rig: Rig, nodes: Array) -> Array:
    """The centre of mass ``(F, 3)`` of a figure, out of its nodes ``(F, N, 8)``; parts that it lacks are left out."""
    masses = masses_of(rig)
    carried = nodes[:, rig.joint_nodes[masses.joints]]
    at = carried[..., :3] + carried[..., 7:8] * rotations.rotate(carried[..., 3:7], masses.at)
    return np.asarray((masses.share[:, None] * at).sum(axis=1))


def _centre(rig: Rig, name: str) -> Array:
    """Where the mass of a joint was measured to lie, in its axes, or else half way to those below it."""
    measured = rig.plan.centres.get(name)
    if measured is None:
        return _middle(rig, name)
    at = rig.skeleton.world[rig.skeleton.index(name)]
    return np.asarray(rotations.rotate(rotations.inverse(at[3:7]), np.array(measured, float) - at[:3]))


def _middle(rig: Rig, name: str) -> Array:
    """Half way from a joint to the middle of those below it, in its axes."""
    skeleton = rig.skeleton
    j = skeleton.index(name)
    below = skeleton.children[j]
    if not below:
        return np.zeros(3)
    way = 0.5 * (skeleton.places[list(below)].mean(axis=0) - skeleton.places[j])
    return np.asarray(rotations.rotate(rotations.inverse(skeleton.world[j, 3:7]), way))


def _as_ours(rig: Rig) -> list[tuple[int, float, Array]]:
    roles: Mapping[str, str] = rig.plan.roles
    skeleton = rig.skeleton
    nowhere = np.zeros(3)
    parts: list[tuple[int, float, Array]] = []

    def add(near: str, far: str, mass: float, along: float) -> None:
        a = skeleton.index(roles[near])
        b = skeleton.index(roles[far]) if far in roles else a
        parts.extend([(a, (1.0 - along) * mass, nowhere), (b, along * mass, nowhere)])

    top = next((r for r in ("neck.1", "head", *(f"spine.{n}" for n in range(9, 0, -1))) if r in roles), "hips")
    add("hips", top, _TRUNK, 0.5)
    if "head" in roles:
        add("head", "head", _HEAD, 0.0)
    for limb in rig.limbs:
        for near, far, mass, along in _LIMBS[limb.kind]:
            if f"{limb.name}.{near}" in roles:
                add(f"{limb.name}.{near}", f"{limb.name}.{far}", mass, along)
    return parts


def _alike(rig: Rig) -> list[tuple[int, float, Array]]:
    """Without a surface to go by: every bone weighs by the cube of its length."""
    skeleton = rig.skeleton
    parts = []
    for j in range(len(skeleton)):
        long = max(
            (float(np.linalg.norm(skeleton.places[c] - skeleton.places[j])) for c in skeleton.children[j]), default=0.0
        )
        if long > 0.0 and skeleton.parents[j] >= 0:
            parts.append((j, long**3, _middle(rig, skeleton.names[j])))
    return parts or [(0, 1.0, np.zeros(3))]
