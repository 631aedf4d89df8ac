"""What keeps ball joints of a limp body within their ranges.

The engine stops a ball joint where it has turned by so much from how it is meant to stand, about whatever axis. Ours
are told by bend, side and twist. So each joint that is at the end of its range is given, for the next step, such a
stance to count from that its own stop is the end of our range: the same for what moves, and worked out together with
all that lies on the ground.
"""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt
from numba import njit

from hame.maths.kernels import qmul
from hame.maths.rotations import Array

Ints = npt.NDArray[np.int32]
Bools = npt.NDArray[np.bool_]
SOFT, SOFTEST = 0.08, 0.14
"""Radians before the end of a range in which a joint is stopped, at rest and at most: one that is fast, sooner."""
AHEAD = 2.0  # steps in which a fast one would be there
_FROM = 1.0  # radians from a stance to its stop: any will do that is far from none and from half a turn


@njit(cache=True)
def _within(angle: float, low: float, high: float, soft: float) -> float:
    soft = min(soft, 0.25 * (high - low))
    return min(max(angle, low + soft), high - soft)


@njit(cache=True)
def set_stops(
    now: Array, speed: Array, step: float, zero: Array, springs: Array, low: Array, high: Array, stance: Array,
    qpos: Array, sprung: Array, stops: Array, stopped: Bools,
) -> None:  # fmt: skip
    """Sets, for the next step, the stances of ball joints and where they are stopped.

    Parameters
    ----------
    now : (J, 4) how each is turned, from all angles at zero
    speed : (J,) radians a second at which it turns, about whatever axis
    step : seconds
    zero : (J, 4) how it stands in what carries it with all angles at zero
    springs : (J, 4) to where its muscle draws it, from all angles at zero
    low, high : (J, 3) bend, twist and side in radians: the parts of its swing and the twist before it
    stance : (J, 4) is given how the joint is meant to stand in what carries it
    qpos, sprung : (J, 4) are given ``now`` and ``springs`` from there
    stops : (J,) is given by how many radians from there it is stopped
    stopped : (J,) is given whether it is
    """
    for j in range(now.shape[0]):
        x, y, z, w = now[j]
        px, py, pz, pw = 0.0, 0.0, 0.0, 1.0  # from zero to the stance
        stopped[j] = False
        twist = 2.0 * math.atan2(y, w) if math.hypot(y, w) > 1e-9 else 0.0
        twist -= 2.0 * math.pi * round(twist / (2.0 * math.pi))
        # The swing is what is left without the twist.
        c, s = math.cos(0.5 * twist), math.sin(0.5 * twist)
        sx, sy, sz, sw = qmul(x, y, z, w, 0.0, -s, 0.0, c)
        if sw < 0.0:
            sx, sy, sz, sw = -sx, -sy, -sz, -sw
        sine = math.sqrt(sx * sx + sz * sz)
        by = 2.0 * math.atan2(sine, sw) / sine if sine > 1e-9 else 2.0
        bend, side = sx * by, sz * by
        soft = min(SOFT + AHEAD * speed[j] * step, SOFTEST)
        nb = _within(bend, low[j, 0], high[j, 0], soft)
        nt = _within(twist, low[j, 1], high[j, 1], soft)
        ns = _within(side, low[j, 2], high[j, 2], soft)
        if nb != bend or nt != twist or ns != side:
            # Where it should be, and from there to where it is, in its own axes.
            half = 0.5 * math.sqrt(nb * nb + ns * ns)
            sinc = 0.5 * (math.sin(half) / half if half > 1e-9 else 1.0)
            c, s = math.cos(0.5 * nt), math.sin(0.5 * nt)
            rx, ry, rz, rw = qmul(nb * sinc, 0.0, ns * sinc, math.cos(half), 0.0, s, 0.0, c)
            ex, ey, ez, ew = qmul(-rx, -ry, -rz, rw, x, y, z, w)
            if ew < 0.0:
                ex, ey, ez, ew = -ex, -ey, -ez, -ew
            sine = math.sqrt(ex * ex + ey * ey + ez * ez)
            if sine > 1e-9:
                # So near, it is only slowed; it is pushed back from where one at rest would be stopped.
                off = max(2.0 * math.atan2(sine, ew) - 0.5 * (soft - SOFT), 0.0)
                c, s = math.cos(0.5 * _FROM), math.sin(0.5 * _FROM) / sine
                px, py, pz, pw = qmul(x, y, z, w, -ex * s, -ey * s, -ez * s, c)
                stops[j] = _FROM - off
                stopped[j] = True
        stance[j] = qmul(zero[j, 0], zero[j, 1], zero[j, 2], zero[j, 3], px, py, pz, pw)
        qpos[j] = qmul(-px, -py, -pz, pw, x, y, z, w)
        to = springs[j]
        sprung[j] = qmul(-px, -py, -pz, pw, to[0], to[1], to[2], to[3])
