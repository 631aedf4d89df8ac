"""Which limb bears the weight: the centre of mass over what is planted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.character.rig import Rig
from hame.maths.rotations import Array
from hame.measure.mass import centre_of_mass


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
