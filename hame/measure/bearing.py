"""Which limb bears the weight: the centre of mass over what is planted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.character.rig import Rig
from hame.maths.rotations import Array

# Share of the body's mass and where it lies, from the near joint to the far one: Winter, Biomechanics and Motor Control
# of Human Movement, table 4.1 (after Dempster). Where he gives no joint at the far end, from memory of the same table.
_TRUNK, _HEAD = 0.497, 0.081
_LIMBS = {
    "arm": (("upper", "lower", 0.028, 0.436), ("lower", "hand", 0.016, 0.430), ("hand", "hand", 0.006, 0.0)),
    "leg": (("upper", "lower", 0.100, 0.433), ("lower", "foot", 0.0465, 0.433), ("foot", "foot", 0.0145, 0.0)),
}


def centre_of_mass(rig: Rig, nodes: Array) -> Array:
    """The centre of mass (F, 3) of a figure, out of its nodes (F, N, 8); parts that it lacks are left out."""
    roles = rig.plan.roles

    def place(role: str) -> Array:
        return np.asarray(nodes[:, rig.joint_nodes[rig.skeleton.index(roles[role])], :3])

    parts: list[tuple[float, Array]] = []
    neck = next((role for role in ("neck.1", "head", *reversed(rig.plan.numbered("spine"))) if role in roles), "hips")
    parts.append((_TRUNK, 0.5 * (place("hips") + place(neck))))
    if "head" in roles:
        parts.append((_HEAD, place("head")))
    for limb in rig.limbs:
        for near, far, mass, along in _LIMBS[limb.kind]:
            a, b = f"{limb.name}.{near}", f"{limb.name}.{far}"
            if a in roles and b in roles:
                parts.append((mass, place(a) + along * (place(b) - place(a))))
    total = sum(mass for mass, _ in parts)
    return np.asarray(sum(mass * at for mass, at in parts) / total)


def borne_by(rig: Rig, nodes: Array, controls: Sequence[str]) -> dict[str, float]:
    """How much of the weight each of some planted ends of limbs bears, by IK control, in one frame of nodes (N, 8)."""
    ends = {limb.ik: nodes[limb.end, :3] for limb in rig.limbs}
    shares = borne(centre_of_mass(rig, nodes[None])[0], [ends[control] for control in controls])
    return dict(zip(controls, shares, strict=True))


def borne(centre: Array, supports: Sequence[Array]) -> list[float]:
    """How much of the weight each of some supports bears, by their places (3,) and that of the centre of mass (3,).

    Shares sum to one; of two it is how far the centre lies from one to the other, of more the least-squares shares that
    put their common middle under it.
    """
    if not supports:
        return []
    flat = np.array([[s[0], s[2]] for s in supports])
    if len(flat) == 1:
        return [1.0]
    goal = np.array([centre[0], centre[2]])
    shares = np.full(len(flat), 1.0 / len(flat))
    for _ in range(200):  # projected on what is no less than nothing and sums to one
        off = shares @ flat - goal
        shares = _simplex(shares - 0.5 * (flat @ off) / max(float((flat**2).sum()), 1e-9))
    return [float(share) for share in shares]


def _simplex(v: Array) -> Array:
    """The nearest shares that are no less than nothing and sum to one (Held, Wolfe and Crowder 1974)."""
    u = np.sort(v)[::-1]
    sums = np.cumsum(u) - 1.0
    last = int(np.flatnonzero(u - sums / np.arange(1, len(v) + 1) > 0)[-1])
    return np.asarray(np.maximum(v - sums[last] / (last + 1), 0.0))
