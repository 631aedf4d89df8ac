"""Turns laid on turns, many rows at once, compiled. Angles are Euler angles in the sequence of axes ``i, j, k``."""

from __future__ import annotations

from numba import njit

from hame.maths.kernels import euler_near, euler_to_quat, qmul


@njit(cache=True, nogil=True)
def turn(values, over, counts, columns, axes, back):  # type: ignore[no-untyped-def]
    """Lays turns on those below, in place: of each row the turn of ``over`` after, in the axes that those below leave.

    Parameters
    ----------
    values, over : (F, C) angles below, and those laid on them
    counts : (F,) how much of these counts
    columns, axes : (T, 3) where the angles of each turn are, and its sequence of axes
    back : takes them off again: of each row remains the turn on which ``over`` was laid
    """
    sign = -1.0 if back else 1.0
    for t in range(len(columns)):
        a, b, c = columns[t]
        i, j, k = axes[t]
        for f in range(len(values)):
            x, y, z = counts[f] * over[f, a], counts[f] * over[f, b], counts[f] * over[f, c]
            if x == 0.0 and y == 0.0 and z == 0.0:
                continue
            u, v, w = values[f, a], values[f, b], values[f, c]
            px, py, pz, pw = euler_to_quat(i, j, k, u, v, w)
            qx, qy, qz, qw = euler_to_quat(i, j, k, x, y, z)
            px, py, pz, pw = qmul(px, py, pz, pw, sign * qx, sign * qy, sign * qz, qw)
            u, v, w = u + sign * x, v + sign * y, w + sign * z
            values[f, a], values[f, b], values[f, c] = euler_near(i, j, k, px, py, pz, pw, u, v, w)


@njit(cache=True, nogil=True)
def part(values, below, near, columns, axes):  # type: ignore[no-untyped-def]
    """What has to be laid on turns ``below (F, C)`` to get ``values (F, C)``, which it replaces; as near ``near`` as it
    can be.
    """
    for t in range(len(columns)):
        a, b, c = columns[t]
        i, j, k = axes[t]
        for f in range(len(values)):
            px, py, pz, pw = euler_to_quat(i, j, k, below[f, a], below[f, b], below[f, c])
            qx, qy, qz, qw = euler_to_quat(i, j, k, values[f, a], values[f, b], values[f, c])
            px, py, pz, pw = qmul(-px, -py, -pz, pw, qx, qy, qz, qw)
            values[f, a], values[f, b], values[f, c] = euler_near(
                i, j, k, px, py, pz, pw, near[f, a], near[f, b], near[f, c]
            )


@njit(cache=True, nogil=True)
def turn_by(values, by, columns, axes):  # type: ignore[no-untyped-def]
    """Turns turns of ``values (F, C)`` by quaternions ``by (T, F, 4)`` in the axes that they leave, in place.

    ``columns (T, 3)`` are their angles and ``axes (T, 3)`` their sequences; angles stay as near as they can to what
    they were.
    """
    for t in range(len(columns)):
        a, b, c = columns[t]
        i, j, k = axes[t]
        for f in range(len(values)):
            u, v, w = values[f, a], values[f, b], values[f, c]
            px, py, pz, pw = euler_to_quat(i, j, k, u, v, w)
            px, py, pz, pw = qmul(px, py, pz, pw, by[t, f, 0], by[t, f, 1], by[t, f, 2], by[t, f, 3])
            values[f, a], values[f, b], values[f, c] = euler_near(i, j, k, px, py, pz, pw, u, v, w)
