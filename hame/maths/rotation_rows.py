"""Compiled functions on many rotations at once: what :mod:`hame.maths.rotations` does row by row.

A row costs some nanoseconds here, where NumPy takes a dozen calls for a handful of rows.
All arrays are contiguous, of floats, with a rotation or a vector in each row; of one row where it goes with all.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from hame.maths.kernels import qmul, qrot, quat_to_euler, unwound


@njit(cache=True, nogil=True)
def products(a, b):  # type: ignore[no-untyped-def]
    """Rotations ``b`` followed by ``a``: quaternions (N, 4), or one for all of the others."""
    count = max(len(a), len(b))
    step_a, step_b = int(len(a) > 1), int(len(b) > 1)
    out = np.empty((count, 4))
    for n in range(count):
        p, q = a[n * step_a], b[n * step_b]
        out[n, 0], out[n, 1], out[n, 2], out[n, 3] = qmul(p[0], p[1], p[2], p[3], q[0], q[1], q[2], q[3])
    return out


@njit(cache=True, nogil=True)
def turned(q, v):  # type: ignore[no-untyped-def]
    """Vectors ``v (N, 3)`` turned by quaternions ``q (N, 4)``, or one for all of the others."""
    count = max(len(q), len(v))
    step_q, step_v = int(len(q) > 1), int(len(v) > 1)
    out = np.empty((count, 3))
    for n in range(count):
        p, w = q[n * step_q], v[n * step_v]
        out[n, 0], out[n, 1], out[n, 2] = qrot(p[0], p[1], p[2], p[3], w[0], w[1], w[2])
    return out


@njit(cache=True, nogil=True)
def of_vectors(v):  # type: ignore[no-untyped-def]
    """Quaternions (N, 4) of rotation vectors (N, 3)."""
    out = np.empty((len(v), 4))
    for n in range(len(v)):
        x, y, z = v[n, 0], v[n, 1], v[n, 2]
        angle = math.sqrt(x * x + y * y + z * z)
        half = math.sin(0.5 * angle) / angle if angle > 1e-150 else 0.5
        out[n, 0], out[n, 1], out[n, 2], out[n, 3] = x * half, y * half, z * half, math.cos(0.5 * angle)
    return out


@njit(cache=True, nogil=True)
def eulers_in(frame, pre, wanted, i, j, k):  # type: ignore[no-untyped-def]
    """Euler angles (N, 3) about axes i, j, k of turns ``wanted (N, 4)``, in what is turned as ``frame (N, 4)`` and then
    ``pre (4,)``; each goes on from the one before, with no whole turn between."""
    out = np.empty((len(wanted), 3))
    for n in range(len(wanted)):
        f, w = frame[n], wanted[n]
        ox, oy, oz, ow = qmul(f[0], f[1], f[2], f[3], pre[0], pre[1], pre[2], pre[3])
        x, y, z, c = qmul(-ox, -oy, -oz, ow, w[0], w[1], w[2], w[3])
        angles = quat_to_euler(i, j, k, x, y, z, c)
        for m in range(3):
            out[n, m] = angles[m] if n == 0 else unwound(angles[m], out[n - 1, m])
    return out
