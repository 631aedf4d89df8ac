"""The compiled part of carrying a body: its pose is run again and again for where its mass comes to be."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from hame.evaluate.kernel import run_rows
from hame.maths.kernels import qrot

_THERE = 1e-5  # metres: it is where it is to be


@njit(cache=True, nogil=True)
def carry(ops, par, orders, nodes, values, body, joints, at, share, places, heading, rounds, goes_with):  # type: ignore[no-untyped-def]
    """Moves bodies so that their mass comes to be at ``places (F, 3)``: writes into channel ``values (F, C)``.

    Parameters
    ----------
    ops, par, orders : a program and Euler orders, as the evaluation's kernel takes them, of so many ``nodes``
    body : (3,) the channels that move the body, along axes that are turned by ``heading (F,)`` about the upright
    joints, at, share : (M,) nodes that carry the parts of a body, where these lie in them (M, 3), and their mass (M,)
    rounds : how often each is moved at most, by what is missing over ``goes_with``
    """
    stood = np.empty((nodes, 8))
    for f in range(len(values)):
        sine, cosine = math.sin(heading[f]), math.cos(heading[f])
        for _ in range(rounds):
            run_rows(ops, par, orders, values[f], stood, 0, ops.shape[0])
            mx, my, mz = 0.0, 0.0, 0.0
            for m in range(len(joints)):
                node, size = joints[m], stood[joints[m], 7]
                x, y, z = qrot(
                    stood[node, 3], stood[node, 4], stood[node, 5], stood[node, 6],
                    at[m, 0] * size, at[m, 1] * size, at[m, 2] * size,
                )  # fmt: skip
                mx += share[m] * (stood[node, 0] + x)
                my += share[m] * (stood[node, 1] + y)
                mz += share[m] * (stood[node, 2] + z)
            x, y, z = places[f, 0] - mx, places[f, 1] - my, places[f, 2] - mz
            if x * x + y * y + z * z < _THERE * _THERE:
                break
            values[f, body[0]] += (cosine * x - sine * z) / goes_with
            values[f, body[1]] += y / goes_with
            values[f, body[2]] += (sine * x + cosine * z) / goes_with
