"""The compiled part of ties: channel values of a control at many times, from what carries it and where it is planted.

Rows are times in their order. A transform is eight numbers as in
:mod:`hame.maths.transforms`; the values of a control are its place and its
three angles, read in the frame that carries it.
"""

from __future__ import annotations

from numba import njit

from hame.maths.kernels import euler_near, euler_to_quat, qmul, qrot, slerp4

# Columns of a plant's row: times first, then what it holds.
START, END, UNTIL, FREE, LAND, FIXED, STEPPED, THING, READY = range(9)
PIVOT = 9  # (3) the point about which it may turn, seen from the control
HELD = 12  # (8) fixed: the control's transform; else the pivot's place (3): both seen from the thing
KEPT = 20  # (6) how far the values were from their keys when it began
GAP, SLOPE, MEET = 26, 32, 38  # (6 each) at the end: how far from the keys, and how fast; and how fast at the start
PLANT = 44


@njit(cache=True, inline="always")
def _carried(outer, i, p, q, out, n):  # type: ignore[no-untyped-def]
    """out[n] = outer[i] . (p, q)"""
    s = outer[i, 7]
    x, y, z = qrot(outer[i, 3], outer[i, 4], outer[i, 5], outer[i, 6], s * p[0], s * p[1], s * p[2])
    a, b, c, d = qmul(outer[i, 3], outer[i, 4], outer[i, 5], outer[i, 6], q[0], q[1], q[2], q[3])
    out[n, 0], out[n, 1], out[n, 2] = outer[i, 0] + x, outer[i, 1] + y, outer[i, 2] + z
    out[n, 3], out[n, 4], out[n, 5], out[n, 6], out[n, 7] = a, b, c, d, s


@njit(cache=True, nogil=True)
def frames_of(times, own, owner, kept, offset, tie, place, turn):  # type: ignore[no-untyped-def]
    """Fills ``place (n, 8)`` and ``turn (n, 4)``: the frames in which place and turn of a control are read.

    Parameters
    ----------
    own, owner : (n, 8) what carries the control by itself, and what it belongs to
    kept, offset : (8,) where its frame lies in both
    tie : (7,) whether place is tied, whether turn is, start, end, weight, frames to ease in and out
    """
    zero = kept[3:7]
    for n in range(len(times)):
        _carried(own, n, kept, zero, place, n)
        place[n, 7] = own[n, 7] * kept[7]
        for i in range(4):
            turn[n, i] = place[n, 3 + i]
        weight = _weight(tie, times[n])
        if weight <= 0.0:
            continue
        s = owner[n, 7]
        x, y, z = qrot(owner[n, 3], owner[n, 4], owner[n, 5], owner[n, 6], s * offset[0], s * offset[1], s * offset[2])
        x, y, z = owner[n, 0] + x, owner[n, 1] + y, owner[n, 2] + z
        a, b, c, d = qmul(
            owner[n, 3], owner[n, 4], owner[n, 5], owner[n, 6], offset[3], offset[4], offset[5], offset[6]
        )
        if weight < 1.0:
            x = place[n, 0] + weight * (x - place[n, 0])
            y = place[n, 1] + weight * (y - place[n, 1])
            z = place[n, 2] + weight * (z - place[n, 2])
            a, b, c, d = slerp4(turn[n, 0], turn[n, 1], turn[n, 2], turn[n, 3], a, b, c, d, weight)
        if tie[0] != 0.0:
            place[n, 0], place[n, 1], place[n, 2] = x, y, z
            place[n, 3], place[n, 4], place[n, 5], place[n, 6] = a, b, c, d
            place[n, 7] = place[n, 7] + weight * (s * offset[7] - place[n, 7])
        if tie[1] != 0.0:
            turn[n, 0], turn[n, 1], turn[n, 2], turn[n, 3] = a, b, c, d


@njit(cache=True, nogil=True)
def _weight(tie, t):  # type: ignore[no-untyped-def]
    if (tie[0] == 0.0 and tie[1] == 0.0) or t < tie[2] or t > tie[3]:
        return 0.0
    w = tie[4]
    if tie[5] > 0.0:
        w *= _smooth((t - tie[2]) / tie[5])
    if tie[6] > 0.0:
        w *= _smooth((tie[3] - t) / tie[6])
    return w


@njit(cache=True, nogil=True)
def _smooth(x):  # type: ignore[no-untyped-def]
    """From 0 to 1, at rest at both."""
    x = min(max(x, 0.0), 1.0)
    return x * x * (3.0 - 2.0 * x)


@njit(cache=True, nogil=True)
def _hermite(x, span, gap, slope):  # type: ignore[no-untyped-def]
    """A cubic that begins at ``gap`` with ``slope`` and comes to rest at zero after ``span``; x from 0 to 1."""
    return gap * (1.0 + 2.0 * x) * (1.0 - x) ** 2 + slope * span * x * (1.0 - x) ** 2


@njit(cache=True, nogil=True)
def settle(times, raw, soft, place, turn, own, things, plants, count, pre, order, out, near, soft_out):  # type: ignore[no-untyped-def]
    """Values of a control under its frame and its first ``count`` plants, at some times.

    Parameters
    ----------
    raw : (n, 6) as they are keyed
    soft : (n,) the softness of the limb
    place, turn : (n, 8), (n, 4) of :func:`frames_of`
    own : (n, 8) what carries the control by itself, in which the values are told that play
    things : (T, n, 8) what is planted on
    plants : (P, PLANT) in the order of time
    pre : (4,) the control's own axes at rest; order : (3,) of its angles
    out : (n, 6) filled with the values as they play
    near : (n, 6) filled with the same seen in the frame that carries it, as its keys are
    soft_out : (n,) filled with the softness
    """
    i, j, k = order[0], order[1], order[2]
    for n in range(len(times)):
        t = times[n]
        soft_out[n] = soft[n]
        holds = -1
        for c in range(6):
            near[n, c] = raw[n, c]
        for m in range(count):
            if plants[m, START] <= t <= plants[m, UNTIL]:
                holds = m
            elif plants[m, UNTIL] < t and t < plants[m, FREE]:
                _let_go(plants, m, t, near, n)
                span = min(plants[m, FREE] - plants[m, UNTIL], 8.0)
                soft_out[n] = soft[n] * _smooth((t - plants[m, UNTIL]) / span)
            elif plants[m, START] - plants[m, LAND] < t < plants[m, START]:
                x = (plants[m, START] - t) / plants[m, LAND]
                for c in range(6):
                    near[n, c] += _hermite(x, plants[m, LAND], 0.0, -plants[m, MEET + c])
        if holds >= 0:
            if plants[holds, FIXED] == 0.0:  # its angles go on from where they were
                for c in range(6):
                    near[n, c] += plants[holds, KEPT + c]
            _hold(plants, holds, things, place, turn, pre, i, j, k, near, n)
            soft_out[n] = 0.0
        # As it plays: seen from what carries the control by itself.
        same = True
        for c in range(8):
            same = same and place[n, c] == own[n, c]
        for c in range(4):
            same = same and turn[n, c] == own[n, 3 + c]
        if same:
            for c in range(6):
                out[n, c] = near[n, c]
            continue
        s = place[n, 7]
        x, y, z = qrot(
            place[n, 3], place[n, 4], place[n, 5], place[n, 6], s * near[n, 0], s * near[n, 1], s * near[n, 2]
        )
        x, y, z = place[n, 0] + x - own[n, 0], place[n, 1] + y - own[n, 1], place[n, 2] + z - own[n, 2]
        x, y, z = qrot(-own[n, 3], -own[n, 4], -own[n, 5], own[n, 6], x, y, z)
        out[n, 0], out[n, 1], out[n, 2] = x / own[n, 7], y / own[n, 7], z / own[n, 7]
        a, b, c_, d = _turn_of(turn, n, pre, i, j, k, near)
        out[n, 3], out[n, 4], out[n, 5] = raw[n, 3], raw[n, 4], raw[n, 5]
        _angles(own[n, 3], own[n, 4], own[n, 5], own[n, 6], a, b, c_, d, pre, i, j, k, out, n)


@njit(cache=True, nogil=True)
def _let_go(plants, m, t, near, n):  # type: ignore[no-untyped-def]
    """Between the end of a plant and the keys that come after it."""
    if plants[m, STEPPED] != 0.0 or plants[m, FREE] > 1e8:
        for c in range(6):
            near[n, c] += plants[m, GAP + c]
        return
    span = plants[m, FREE] - plants[m, UNTIL]
    x = (t - plants[m, UNTIL]) / span
    for c in range(6):
        near[n, c] += _hermite(x, span, plants[m, GAP + c], plants[m, SLOPE + c])


@njit(cache=True, nogil=True)
def _turn_of(turn, n, pre, i, j, k, near):  # type: ignore[no-untyped-def]
    """The turn of a control in the world, by its angles in ``near[n]``."""
    a, b, c, d = euler_to_quat(i, j, k, near[n, 3 + i], near[n, 3 + j], near[n, 3 + k])
    a, b, c, d = qmul(pre[0], pre[1], pre[2], pre[3], a, b, c, d)
    return qmul(turn[n, 0], turn[n, 1], turn[n, 2], turn[n, 3], a, b, c, d)


@njit(cache=True, nogil=True)
def _angles(fx, fy, fz, fw, a, b, c, d, pre, i, j, k, out, n):  # type: ignore[no-untyped-def]
    """Writes the angles that give the turn (a, b, c, d) in the frame f, nearest to those that stand in ``out[n]``."""
    a, b, c, d = qmul(-fx, -fy, -fz, fw, a, b, c, d)
    a, b, c, d = qmul(-pre[0], -pre[1], -pre[2], pre[3], a, b, c, d)
    e, f, g = euler_near(i, j, k, a, b, c, d, out[n, 3 + i], out[n, 3 + j], out[n, 3 + k])
    out[n, 3 + i], out[n, 3 + j], out[n, 3 + k] = e, f, g


@njit(cache=True, nogil=True)
def _hold(plants, m, things, place, turn, pre, i, j, k, near, n):  # type: ignore[no-untyped-def]
    """Brings ``near[n]`` to where plant m holds the control."""
    thing = int(plants[m, THING])
    tx, ty, tz, s = 0.0, 0.0, 0.0, 1.0
    ta, tb, tc, td = 0.0, 0.0, 0.0, 1.0
    if thing >= 0:
        tx, ty, tz, s = things[thing, n, 0], things[thing, n, 1], things[thing, n, 2], things[thing, n, 7]
        ta, tb, tc, td = things[thing, n, 3], things[thing, n, 4], things[thing, n, 5], things[thing, n, 6]
    x, y, z = qrot(ta, tb, tc, td, s * plants[m, HELD], s * plants[m, HELD + 1], s * plants[m, HELD + 2])
    x, y, z = tx + x, ty + y, tz + z
    if plants[m, FIXED] != 0.0:
        a, b, c, d = qmul(
            ta, tb, tc, td, plants[m, HELD + 3], plants[m, HELD + 4], plants[m, HELD + 5], plants[m, HELD + 6]
        )
        _angles(turn[n, 0], turn[n, 1], turn[n, 2], turn[n, 3], a, b, c, d, pre, i, j, k, near, n)
    else:
        a, b, c, d = _turn_of(turn, n, pre, i, j, k, near)
        size = place[n, 7]
        px, py, pz = qrot(a, b, c, d, size * plants[m, PIVOT], size * plants[m, PIVOT + 1], size * plants[m, PIVOT + 2])
        x, y, z = x - px, y - py, z - pz
    x, y, z = x - place[n, 0], y - place[n, 1], z - place[n, 2]
    x, y, z = qrot(-place[n, 3], -place[n, 4], -place[n, 5], place[n, 6], x, y, z)
    near[n, 0], near[n, 1], near[n, 2] = x / place[n, 7], y / place[n, 7], z / place[n, 7]


@njit(cache=True, nogil=True)
def world_of(frame, turn, near, pre, order, out):  # type: ignore[no-untyped-def]
    """Fills ``out (8,)``: where a control is, by ``near (6,)`` in the frames of its place (8,) and its turn (4,)."""
    i, j, k = order[0], order[1], order[2]
    s = frame[7]
    x, y, z = qrot(frame[3], frame[4], frame[5], frame[6], s * near[0], s * near[1], s * near[2])
    a, b, c, d = euler_to_quat(i, j, k, near[3 + i], near[3 + j], near[3 + k])
    a, b, c, d = qmul(pre[0], pre[1], pre[2], pre[3], a, b, c, d)
    a, b, c, d = qmul(turn[0], turn[1], turn[2], turn[3], a, b, c, d)
    out[0], out[1], out[2] = frame[0] + x, frame[1] + y, frame[2] + z
    out[3], out[4], out[5], out[6], out[7] = a, b, c, d, s


@njit(cache=True, nogil=True)
def seen_from(frame, turn, world, pre, order, near):  # type: ignore[no-untyped-def]
    """The other way: ``near (6,)`` is what brings a control to ``world (8,)``, angles nearest to those before."""
    i, j, k = order[0], order[1], order[2]
    x, y, z = world[0] - frame[0], world[1] - frame[1], world[2] - frame[2]
    x, y, z = qrot(-frame[3], -frame[4], -frame[5], frame[6], x, y, z)
    near[0], near[1], near[2] = x / frame[7], y / frame[7], z / frame[7]
    a, b, c, d = qmul(-turn[0], -turn[1], -turn[2], turn[3], world[3], world[4], world[5], world[6])
    a, b, c, d = qmul(-pre[0], -pre[1], -pre[2], pre[3], a, b, c, d)
    e, f, g = euler_near(i, j, k, a, b, c, d, near[3 + i], near[3 + j], near[3 + k])
    near[3 + i], near[3 + j], near[3 + k] = e, f, g


@njit(cache=True, nogil=True)
def compose(a, b, out):  # type: ignore[no-untyped-def]
    """Fills ``out (8,)`` with the transform b carried by a; as :func:`hame.maths.transforms.compose`, for one."""
    s = a[7]
    x, y, z = qrot(a[3], a[4], a[5], a[6], s * b[0], s * b[1], s * b[2])
    out[3], out[4], out[5], out[6] = qmul(a[3], a[4], a[5], a[6], b[3], b[4], b[5], b[6])
    out[0], out[1], out[2], out[7] = a[0] + x, a[1] + y, a[2] + z, s * b[7]


@njit(cache=True, nogil=True)
def relative(a, b, out):  # type: ignore[no-untyped-def]
    """Fills ``out (8,)`` with the transform b as seen from a."""
    x, y, z = qrot(-a[3], -a[4], -a[5], a[6], b[0] - a[0], b[1] - a[1], b[2] - a[2])
    out[3], out[4], out[5], out[6] = qmul(-a[3], -a[4], -a[5], a[6], b[3], b[4], b[5], b[6])
    out[0], out[1], out[2], out[7] = x / a[7], y / a[7], z / a[7], b[7] / a[7]
