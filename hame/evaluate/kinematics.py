"""Plain forward kinematics of a skeleton: joints turned from their rest pose, as motion files tell it."""

from __future__ import annotations

import numpy as np
from numba import njit

from hame.character.skeleton import Skeleton
from hame.maths.kernels import qmul, qrot
from hame.maths.rotations import Array


def forward(skeleton: Skeleton, turns: Array) -> Array:
    """World places and quaternions ``(F, J, 7)`` of joints turned by ``turns (F, J, 4)`` from rest."""
    turns = np.ascontiguousarray(turns, float)
    out = np.empty((len(turns), len(skeleton), 7))
    _forward(np.array(skeleton.parents), skeleton.rest, turns, out)
    return out


@njit(cache=True)
def _forward(parents, rest, turns, out):  # type: ignore[no-untyped-def]
    for f in range(turns.shape[0]):
        for j in range(parents.shape[0]):
            p = parents[j]
            x, y, z, w = qmul(
                rest[j, 3], rest[j, 4], rest[j, 5], rest[j, 6],
                turns[f, j, 0], turns[f, j, 1], turns[f, j, 2], turns[f, j, 3],
            )  # fmt: skip
            dx, dy, dz = rest[j, 0], rest[j, 1], rest[j, 2]
            if p >= 0:
                ax, ay, az, aw = out[f, p, 3], out[f, p, 4], out[f, p, 5], out[f, p, 6]
                dx, dy, dz = qrot(ax, ay, az, aw, dx, dy, dz)
                dx, dy, dz = dx + out[f, p, 0], dy + out[f, p, 1], dz + out[f, p, 2]
                x, y, z, w = qmul(ax, ay, az, aw, x, y, z, w)
            out[f, j, 0], out[f, j, 1], out[f, j, 2] = dx, dy, dz
            out[f, j, 3], out[f, j, 4], out[f, j, 5], out[f, j, 6] = x, y, z, w
