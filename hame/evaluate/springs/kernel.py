"""Rows of joints that swing, frame after frame, compiled.

A joint's end is a point at the end of a rod. It is drawn to where it would be if the joint were as it is keyed: half
in the world, half seen from how the joint before it has swung, as cloth and hair stay in their direction and follow
what they hang on. Between two places of that the damped swing is gone exactly, whatever its period. Then the rod has
its length again, and obstacles keep the point out.
"""

from __future__ import annotations

import math

from numba import njit

from hame.maths.kernels import qmul, qrot, shortest, slerp4

# Columns of the table of a joint.
C11, C12, C21, C22, D1, D2, LENGTH, LIMIT, PULL_X, PULL_Y, PULL_Z, WIND_X, WIND_Y, WIND_Z, AIR, FLOOR = range(16)
WIDTH = 16
STATE = 12  # of a joint: its end, the speed of that a frame, where that would be as it is keyed, and where the joint is
_ROUNDS = 2  # of lengths and obstacles
_FOLLOWS = 0.5  # how much the way a joint is drawn to turns with the joint before it


@njit(cache=True, nogil=True)
def swing(before, after, state, table, tips, shells, thick, span, steps, out):  # type: ignore[no-untyped-def]
    """Swings a row from one time to another; see :func:`settle` for how it begins.

    Parameters
    ----------
    before, after : (N + 1, 8) what carries the row, and each joint seen from the one before it, then and now
    state : (N, STATE) then; it is replaced by what is now
    table : (N, WIDTH) for steps of one part of a frame
    tips : (N, 3) the end of each joint seen from it
    shells : (K, 2, 6) the ends of obstacles, then (3) and now (3)
    thick : (N, K) how far each joint's end stays from each; 0 where it is not kept out
    span : how much of a frame lies between the two
    steps : into how many parts it is gone
    out : (N, 4) is filled with how each joint is turned now, more than it is keyed, in its own axes
    """
    count = len(table)
    h = span / steps
    for s in range(1, steps + 1):
        share = s / steps
        px, py, pz, qx, qy, qz, qw = _between(before, after, 0, share)
        kx, ky, kz, kw = qx, qy, qz, qw  # as all is keyed
        for n in range(count):
            lx, ly, lz, ax, ay, az, aw = _between(before, after, n + 1, share)
            rx, ry, rz = qrot(qx, qy, qz, qw, lx, ly, lz)
            ox, oy, oz = px + rx, py + ry, pz + rz  # where the joint is
            tx, ty, tz, tw = qmul(qx, qy, qz, qw, ax, ay, az, aw)  # how it is turned by the one before it
            kx, ky, kz, kw = qmul(kx, ky, kz, kw, ax, ay, az, aw)
            ix, iy, iz = qrot(tx, ty, tz, tw, tips[n, 0], tips[n, 1], tips[n, 2])
            ux, uy, uz, uw = slerp4(kx, ky, kz, kw, tx, ty, tz, tw, _FOLLOWS)
            gx, gy, gz = qrot(ux, uy, uz, uw, tips[n, 0], tips[n, 1], tips[n, 2])
            wx, wy, wz = state[n, 0] - state[n, 9], state[n, 1] - state[n, 10], state[n, 2] - state[n, 11]
            x, y, z = _swung(state, table, n, ox + gx, oy + gy, oz + gz, h)
            x, y, z = _kept(x, y, z, ox, oy, oz, ix, iy, iz, state, table, n, shells, thick, share)
            # As it goes the rod has turned: what half of that turn leaves of the speed keeps its size.
            _along(state, n, x - ox + wx, y - oy + wy, z - oz + wz, ox, oy, oz, h)
            # How far that is from how it is keyed: the shortest turn.
            sx, sy, sz, sw = shortest(ix, iy, iz, x - ox, y - oy, z - oz)
            qx, qy, qz, qw = qmul(sx, sy, sz, sw, tx, ty, tz, tw)
            if s == steps:
                out[n, 0], out[n, 1], out[n, 2], out[n, 3] = qmul(-tx, -ty, -tz, tw, qx, qy, qz, qw)
            px, py, pz = ox, oy, oz


@njit(cache=True, nogil=True)
def _between(before, after, n, share):  # type: ignore[no-untyped-def]
    """A place and a turn between two rows of transforms."""
    x = before[n, 0] + share * (after[n, 0] - before[n, 0])
    y = before[n, 1] + share * (after[n, 1] - before[n, 1])
    z = before[n, 2] + share * (after[n, 2] - before[n, 2])
    qx, qy, qz, qw = slerp4(
        before[n, 3],
        before[n, 4],
        before[n, 5],
        before[n, 6],
        after[n, 3],
        after[n, 4],
        after[n, 5],
        after[n, 6],
        share,
    )
    return x, y, z, qx, qy, qz, qw


@njit(cache=True, nogil=True)
def _swung(state, table, n, gx, gy, gz, h):  # type: ignore[no-untyped-def]
    """Where the end of a joint goes that is drawn to g; its speed and that place are kept in the state."""
    goal = (gx, gy, gz)
    x, y, z = 0.0, 0.0, 0.0
    for k in range(3):
        place, speed, was = state[n, k], state[n, 3 + k], state[n, 6 + k]
        going = (goal[k] - was) / h  # the speed of the place that it is drawn to
        pull = table[n, PULL_X + k] + table[n, AIR] * (table[n, WIND_X + k] - speed)
        off, slip = place - was, speed - going
        now = table[n, C11] * off + table[n, C12] * slip + table[n, D1] * pull + goal[k]
        state[n, 3 + k] = table[n, C21] * off + table[n, C22] * slip + table[n, D2] * pull + going
        state[n, 6 + k] = goal[k]
        if k == 0:
            x = now
        elif k == 1:
            y = now
        else:
            z = now
    return x, y, z


@njit(cache=True, nogil=True)
def _kept(x, y, z, ox, oy, oz, gx, gy, gz, state, table, n, shells, thick, share):  # type: ignore[no-untyped-def]
    """The end of a joint at o that is keyed to point to g: as long as it is, within its limit, outside of obstacles."""
    length = table[n, LENGTH]
    for _ in range(_ROUNDS):
        x, y, z = _as_long(x, y, z, ox, oy, oz, gx, gy, gz, length, table[n, LIMIT], state, n)
        for k in range(len(shells)):
            if thick[n, k] > 0.0:
                x, y, z = _outside(x, y, z, shells, k, share, thick[n, k], state, n)
    x, y, z = _as_long(x, y, z, ox, oy, oz, gx, gy, gz, length, math.pi, state, n)
    floor = table[n, FLOOR]
    if y < floor:  # it lies on the ground, as long as it is
        state[n, 4] = max(state[n, 4], 0.0)
        dx, dz, down = x - ox, z - oz, min(max(floor - oy, -length), length)
        level = math.sqrt(dx * dx + dz * dz)
        if level < 1e-9:
            dx, dz = gx, gz
            level = math.sqrt(dx * dx + dz * dz)
            if level < 1e-9:
                dx, dz, level = 0.0, 1.0, 1.0
        wide = math.sqrt(max(length * length - down * down, 0.0)) / level
        x, y, z = ox + wide * dx, oy + down, oz + wide * dz
    state[n, 0], state[n, 1], state[n, 2] = x, y, z
    return x, y, z


@njit(cache=True, nogil=True)
def _as_long(x, y, z, ox, oy, oz, gx, gy, gz, length, limit, state, n):  # type: ignore[no-untyped-def]
    dx, dy, dz = x - ox, y - oy, z - oz
    far = math.sqrt(dx * dx + dy * dy + dz * dz)
    if far < 1e-12:
        return ox + gx, oy + gy, oz + gz
    dx, dy, dz = dx / far, dy / far, dz / far
    cosine = (dx * gx + dy * gy + dz * gz) / length
    if cosine < math.cos(limit):
        # Back to the limit, in the plane of both; what it goes outwards with is lost.
        ex, ey, ez = dx - cosine * gx / length, dy - cosine * gy / length, dz - cosine * gz / length
        size = math.sqrt(ex * ex + ey * ey + ez * ez)
        if size > 1e-12:
            ex, ey, ez = ex / size, ey / size, ez / size
            c, s = math.cos(limit), math.sin(limit)
            dx, dy, dz = c * gx / length + s * ex, c * gy / length + s * ey, c * gz / length + s * ez
            out = state[n, 3] * ex + state[n, 4] * ey + state[n, 5] * ez
            if out > 0.0:
                state[n, 3] -= out * ex
                state[n, 4] -= out * ey
                state[n, 5] -= out * ez
    return ox + length * dx, oy + length * dy, oz + length * dz


@njit(cache=True, nogil=True)
def _along(state, n, dx, dy, dz, ox, oy, oz, h):  # type: ignore[no-untyped-def]
    """Takes from the speed of the end of a rod what goes along d; its joint has gone to o."""
    square = dx * dx + dy * dy + dz * dz
    if square > 1e-18:
        vx, vy, vz = (ox - state[n, 9]) / h, (oy - state[n, 10]) / h, (oz - state[n, 11]) / h
        out = ((state[n, 3] - vx) * dx + (state[n, 4] - vy) * dy + (state[n, 5] - vz) * dz) / square
        state[n, 3] -= out * dx
        state[n, 4] -= out * dy
        state[n, 5] -= out * dz
    state[n, 9], state[n, 10], state[n, 11] = ox, oy, oz


@njit(cache=True, nogil=True)
def _outside(x, y, z, shells, k, share, radius, state, n):  # type: ignore[no-untyped-def]
    """A point pushed out of an obstacle: the round about a line."""
    ax = shells[k, 0, 0] + share * (shells[k, 0, 3] - shells[k, 0, 0])
    ay = shells[k, 0, 1] + share * (shells[k, 0, 4] - shells[k, 0, 1])
    az = shells[k, 0, 2] + share * (shells[k, 0, 5] - shells[k, 0, 2])
    bx = shells[k, 1, 0] + share * (shells[k, 1, 3] - shells[k, 1, 0]) - ax
    by = shells[k, 1, 1] + share * (shells[k, 1, 4] - shells[k, 1, 1]) - ay
    bz = shells[k, 1, 2] + share * (shells[k, 1, 5] - shells[k, 1, 2]) - az
    square = bx * bx + by * by + bz * bz
    t = ((x - ax) * bx + (y - ay) * by + (z - az) * bz) / square if square > 1e-12 else 0.0
    t = min(max(t, 0.0), 1.0)
    dx, dy, dz = x - ax - t * bx, y - ay - t * by, z - az - t * bz
    far = math.sqrt(dx * dx + dy * dy + dz * dz)
    if far >= radius or far < 1e-9:
        return x, y, z
    dx, dy, dz = dx / far, dy / far, dz / far
    into = state[n, 3] * dx + state[n, 4] * dy + state[n, 5] * dz
    if into < 0.0:
        state[n, 3] -= into * dx
        state[n, 4] -= into * dy
        state[n, 5] -= into * dz
    return x + (radius - far) * dx, y + (radius - far) * dy, z + (radius - far) * dz
