"""Which limb bears the weight: the centre of mass over what is planted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.optimize import nnls

from hame.character.masses import centre_of_mass
from hame.character.rig import Rig
from hame.maths.rotations import Array
from hame.measure.balance import BODY, Balance


def borne_by(rig: Rig, nodes: Array, controls: Sequence[str], centre: Array | None = None) -> dict[str, float]:
    """How much of the weight each of some planted ends of limbs bears, by IK control, in one frame of nodes (N, 8),
    whose centre of mass (3,) may be known.
    """
    ends = {end.ik: nodes[end.end, :3] for end in rig.ends}
    if BODY in controls:
        ends[BODY] = nodes[rig.control(BODY).node, :3]
    mass = centre_of_mass(rig, nodes[None])[0] if centre is None else centre
    shares = borne(mass, [ends[control] for control in controls])
    return dict(zip(controls, shares, strict=True))


def borne_in_motion(rig: Rig, nodes: Array, stands: Sequence[Balance], pressure: Array) -> list[dict[str, float]]:
    """How much each limb that bears a body bears of what it asks of the ground, by IK control, on each of its frames.

    ``nodes (F, N, 8)`` are those of the frames of ``stands``, and ``pressure (F, 2)`` the centre of what is asked, x
    and z; where nothing presses, nobody bears anything.
    """
    return [
        borne_by(rig, frame, stand.bearing, np.array([at[0], 0.0, at[1]])) if np.isfinite(at).all() else {}
        for frame, stand, at in zip(nodes, stands, pressure, strict=True)
    ]


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
    if len(flat) == 2:  # how far along the line between the two, which is where the nearest point of it lies
        way = flat[1] - flat[0]
        along = float(np.clip((goal - flat[0]) @ way / max(float(way @ way), 1e-12), 0.0, 1.0))
        return [1.0 - along, along]
    # No less than nothing, their sum as good as exact, and of all that fit the most even ones.
    count = len(flat)
    system = np.concatenate([flat.T, np.full((1, count), _EXACT), _EVEN * np.eye(count)])
    wish = np.concatenate([goal, [_EXACT], np.full(count, _EVEN / count)])
    shares = nnls(system, wish)[0]
    return [float(share) for share in shares / shares.sum()]


_EXACT, _EVEN = 100.0, 1e-4  # weights, beside metres
