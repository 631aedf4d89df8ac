"""Chains of many joints that reach for a tip, compiled.

Forward and backward reaching (Aristidou and Lasenby, "FABRIK: a fast, iterative solver for the inverse kinematics
problem", Graphical Models 73, 2011): lengths are kept exactly, and from the same beginning the same is found.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from hame.maths.kernels import axis_turn, qmul, qrot, shortest, slerp4
from hame.program import CHAIN_STEP

ROUNDS = 300
_DRAWN = 24  # rounds in which it is drawn to its middle, and lets go of it step by step
_NEAR = 1e-7  # of its length
_FULL = 0.04  # of its length: so far off its place a middle handle draws with all it has


@njit(cache=True, nogil=True)
def reach_into(nodes, ops, n, v):  # type: ignore[no-untyped-def]
    """Fills the nodes of a chain's joints; see :func:`hame.program.chain`."""
    out, end, tip, middle = ops[n, 1], ops[n, 2], ops[n, 3], ops[n, 4]
    count = ops[n, 7]
    first = end - CHAIN_STEP * count
    for i in range(count + 1):
        at = end if i == count else first + CHAIN_STEP * i + CHAIN_STEP - 1
        for c in range(8):
            nodes[out + i, c] = nodes[at, c]
    if v[ops[n, 5]] <= 0.0:
        return
    p, length = np.empty((count + 1, 3)), np.empty(count)
    whole = 0.0
    for i in range(count + 1):
        at = end if i == count else first + CHAIN_STEP * i + CHAIN_STEP - 1
        for c in range(3):
            p[i, c] = nodes[at, c]
        if i:
            length[i - 1] = _far(p, i - 1, i)
            whole += length[i - 1]
    if whole < 1e-9:
        return
    tx, ty, tz = nodes[tip, 0], nodes[tip, 1], nodes[tip, 2]
    dx, dy, dz = tx - p[0, 0], ty - p[0, 1], tz - p[0, 2]
    far = math.sqrt(dx * dx + dy * dy + dz * dz)
    if far > whole:  # longer to reach it, and then straight
        longer = 1.0 + v[ops[n, 6]] * (far / whole - 1.0)
        for i in range(count):
            length[i] *= longer
            for c in range(3):
                p[i + 1, c] = p[i, c] + length[i] * (dx, dy, dz)[c] / far
    else:
        _reached(p, length, whole, tx, ty, tz, nodes, middle, first)
    # Each joint is turned the shortest way from how it was bent to how it lies now.
    for i in range(count):
        at = first + CHAIN_STEP * i + CHAIN_STEP - 1
        after = end if i == count - 1 else at + CHAIN_STEP
        qx, qy, qz, qw = shortest(
            nodes[after, 0] - nodes[at, 0], nodes[after, 1] - nodes[at, 1], nodes[after, 2] - nodes[at, 2],
            p[i + 1, 0] - p[i, 0], p[i + 1, 1] - p[i, 1], p[i + 1, 2] - p[i, 2],
        )  # fmt: skip
        qx, qy, qz, qw = qmul(qx, qy, qz, qw, nodes[at, 3], nodes[at, 4], nodes[at, 5], nodes[at, 6])
        nodes[out + i, 0], nodes[out + i, 1], nodes[out + i, 2] = p[i, 0], p[i, 1], p[i, 2]
        nodes[out + i, 3], nodes[out + i, 4], nodes[out + i, 5], nodes[out + i, 6] = qx, qy, qz, qw
    for c in range(3):
        nodes[out + count, c] = p[count, c]
    for c in range(3, 7):
        nodes[out + count, c] = nodes[out + count - 1, c]


@njit(cache=True, nogil=True)
def _reached(p, length, whole, tx, ty, tz, nodes, middle, first):  # type: ignore[no-untyped-def]
    """Moves points, whose first stays, so that the last is at t: as they were bent, and drawn to a middle."""
    count = len(length)
    half = (count + 1) // 2
    mx, my, mz = nodes[middle, 0], nodes[middle, 1], nodes[middle, 2]
    off = math.sqrt(
        (mx - 0.5 * (p[0, 0] + tx)) ** 2 + (my - 0.5 * (p[0, 1] + ty)) ** 2 + (mz - 0.5 * (p[0, 2] + tz)) ** 2
    )
    draws = min(off / (_FULL * whole), 1.0)  # where it is left half way it does not draw
    draws = draws * draws * (3.0 - 2.0 * draws)
    _bowed(p, whole, tx, ty, tz, nodes, first)
    rx, ry, rz = p[0, 0], p[0, 1], p[0, 2]
    for turn in range(ROUNDS):
        if draws > 0.0 and turn < _DRAWN:
            share = draws * (1.0 - turn / _DRAWN)
            ax, ay, az = share * (mx - p[half, 0]), share * (my - p[half, 1]), share * (mz - p[half, 2])
            for i in range(1, count):
                bump = math.sin(math.pi * i / count)
                p[i, 0] += bump * ax
                p[i, 1] += bump * ay
                p[i, 2] += bump * az
        p[count, 0], p[count, 1], p[count, 2] = tx, ty, tz
        for i in range(count - 1, -1, -1):
            _pulled(p, i, i + 1, length[i])
        p[0, 0], p[0, 1], p[0, 2] = rx, ry, rz
        for i in range(count):
            _pulled(p, i + 1, i, length[i])
        off = abs(p[count, 0] - tx) + abs(p[count, 1] - ty) + abs(p[count, 2] - tz)
        if off < _NEAR * whole and turn >= (_DRAWN if draws > 0.0 else 0):
            break


@njit(cache=True, nogil=True)
def _bowed(p, whole, tx, ty, tz, nodes, first):  # type: ignore[no-untyped-def]
    """Bows points a little to one side where they lie on one line with the place that they shall reach: from a line
    nothing bends."""
    count = len(p) - 1
    dx, dy, dz = tx - p[0, 0], ty - p[0, 1], tz - p[0, 2]
    far = math.sqrt(dx * dx + dy * dy + dz * dz)
    if far < 1e-9:
        dx, dy, dz, far = p[count, 0] - p[0, 0], p[count, 1] - p[0, 1], p[count, 2] - p[0, 2], 1.0
        far = max(math.sqrt(dx * dx + dy * dy + dz * dz), 1e-9)
    dx, dy, dz = dx / far, dy / far, dz / far
    most = 0.0
    for i in range(1, count + 1):
        x, y, z = p[i, 0] - p[0, 0], p[i, 1] - p[0, 1], p[i, 2] - p[0, 2]
        along = x * dx + y * dy + z * dz
        off = (x - along * dx) ** 2 + (y - along * dy) ** 2 + (z - along * dz) ** 2
        most = max(most, off)
    if most > (0.01 * whole) ** 2:
        return
    at = first + CHAIN_STEP - 1
    sx, sy, sz = qrot(nodes[at, 3], nodes[at, 4], nodes[at, 5], nodes[at, 6], 0.0, 0.0, 1.0)
    along = sx * dx + sy * dy + sz * dz
    sx, sy, sz = sx - along * dx, sy - along * dy, sz - along * dz
    size = math.sqrt(sx * sx + sy * sy + sz * sz)
    if size < 1e-6:
        sx, sy, sz, size = dy, -dx, 0.0, math.sqrt(dx * dx + dy * dy)
        if size < 1e-6:
            sx, sy, sz, size = 1.0, 0.0, 0.0, 1.0
    for i in range(1, count):
        bump = 0.05 * whole * math.sin(math.pi * i / count) / size
        p[i, 0] += bump * sx
        p[i, 1] += bump * sy
        p[i, 2] += bump * sz


@njit(cache=True, nogil=True)
def _pulled(p, i, to, length):  # type: ignore[no-untyped-def]
    """Moves point i to lie as far as ``length`` from another one."""
    dx, dy, dz = p[i, 0] - p[to, 0], p[i, 1] - p[to, 1], p[i, 2] - p[to, 2]
    far = math.sqrt(dx * dx + dy * dy + dz * dz)
    if far < 1e-12:
        dx, dy, dz, far = 0.0, 1.0, 0.0, 1.0
    share = length / far
    p[i, 0], p[i, 1], p[i, 2] = p[to, 0] + share * dx, p[to, 1] + share * dy, p[to, 2] + share * dz


@njit(cache=True, nogil=True)
def _far(p, a, b):  # type: ignore[no-untyped-def]
    return math.sqrt((p[a, 0] - p[b, 0]) ** 2 + (p[a, 1] - p[b, 1]) ** 2 + (p[a, 2] - p[b, 2]) ** 2)


@njit(cache=True, nogil=True)
def wave_into(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    """Fills the node of a joint that a wave turns; see :func:`hame.program.wave`."""
    out, a, axis, first = ops[n, 1], ops[n, 2], ops[n, 3], ops[n, 5]
    angle = par[n, 8] * v[first] * math.sin(v[first + 1] - par[n, 7] * v[first + 2])
    scale = nodes[a, 7]
    x, y, z = qrot(
        nodes[a, 3], nodes[a, 4], nodes[a, 5], nodes[a, 6], scale * par[n, 0], scale * par[n, 1], scale * par[n, 2]
    )
    nodes[out, 0], nodes[out, 1], nodes[out, 2] = nodes[a, 0] + x, nodes[a, 1] + y, nodes[a, 2] + z
    qx, qy, qz, qw = qmul(
        nodes[a, 3], nodes[a, 4], nodes[a, 5], nodes[a, 6], par[n, 3], par[n, 4], par[n, 5], par[n, 6]
    )
    if angle != 0.0:
        sx, sy, sz, sw = axis_turn(axis, angle)
        qx, qy, qz, qw = qmul(qx, qy, qz, qw, sx, sy, sz, sw)
    nodes[out, 3], nodes[out, 4], nodes[out, 5], nodes[out, 6], nodes[out, 7] = qx, qy, qz, qw, scale


@njit(cache=True, nogil=True)
def midway_into(nodes, ops, n):  # type: ignore[no-untyped-def]
    """Fills a node half way between two; see :func:`hame.program.midway`."""
    out, a, b = ops[n, 1], ops[n, 2], ops[n, 3]
    for c in range(3):
        nodes[out, c] = 0.5 * (nodes[a, c] + nodes[b, c])
    for c in range(3, 8):
        nodes[out, c] = nodes[a, c]


@njit(cache=True, nogil=True)
def follow_into(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    """Fills the node of a joint of a chain; see :func:`hame.program.follow`."""
    out, zero, carrier, here, before = ops[n, 1], ops[n, 2], ops[n, 3], ops[n, 4], ops[n, 6]
    t = v[ops[n, 5]]
    if t <= 0.0:
        for c in range(8):
            nodes[out, c] = nodes[zero, c]
        return
    # Here seen from before, in the axes of before.
    bx, by, bz, bw, scale = nodes[before, 3], nodes[before, 4], nodes[before, 5], nodes[before, 6], nodes[before, 7]
    x, y, z = qrot(-bx, -by, -bz, bw, nodes[here, 0] - nodes[before, 0], nodes[here, 1] - nodes[before, 1],
                   nodes[here, 2] - nodes[before, 2])  # fmt: skip
    x, y, z = x / scale, y / scale, z / scale
    qx, qy, qz, qw = qmul(-bx, -by, -bz, bw, nodes[here, 3], nodes[here, 4], nodes[here, 5], nodes[here, 6])
    # On the carrier, on which before would lie so at rest.
    cx, cy, cz, cw, size = nodes[carrier, 3], nodes[carrier, 4], nodes[carrier, 5], nodes[carrier, 6], nodes[carrier, 7]
    lx, ly, lz = qrot(cx, cy, cz, cw, size * par[n, 0], size * par[n, 1], size * par[n, 2])
    ox, oy, oz, ow = qmul(cx, cy, cz, cw, par[n, 3], par[n, 4], par[n, 5], par[n, 6])
    x, y, z = qrot(ox, oy, oz, ow, size * x, size * y, size * z)
    x, y, z = nodes[carrier, 0] + lx + x, nodes[carrier, 1] + ly + y, nodes[carrier, 2] + lz + z
    qx, qy, qz, qw = qmul(ox, oy, oz, ow, qx, qy, qz, qw)
    t = min(t, 1.0)
    nodes[out, 0] = nodes[zero, 0] + t * (x - nodes[zero, 0])
    nodes[out, 1] = nodes[zero, 1] + t * (y - nodes[zero, 1])
    nodes[out, 2] = nodes[zero, 2] + t * (z - nodes[zero, 2])
    nodes[out, 3], nodes[out, 4], nodes[out, 5], nodes[out, 6] = slerp4(
        nodes[zero, 3], nodes[zero, 4], nodes[zero, 5], nodes[zero, 6], qx, qy, qz, qw, t
    )
    nodes[out, 7] = nodes[zero, 7]
