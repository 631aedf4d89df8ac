"""The compiled heart of evaluation: a program run over channel values.

What the operations do is said here, how they are built in :mod:`hame.program`.
Nothing is carried from frame to frame, and what goes step by step (a chain that
reaches) begins anew each time, so any frame can be asked for alone and is the same
everywhere.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from hame.evaluate.chain_kernel import follow_into, midway_into, reach_into, wave_into
from hame.maths.kernels import axis_turn, basis_to_quat, euler_to_quat, qmul, qrot, slerp4, swung
from hame.maths.rotations import EULER_ORDERS, axes_of
from hame.program import (
    BEND,
    CHAIN,
    CONTROL,
    FARTHEST_BEND,
    FOLLOW,
    FOOT_ROLL,
    MIDWAY,
    MIX,
    NEAR_LINE,
    OFFSET,
    SHAPES,
    TWO_BONE,
    WAVE,
)

ORDERS = np.array([axes_of(order) for order in EULER_ORDERS], np.int32)


@njit(cache=True, nogil=True)  # other threads run other frames meanwhile
def run(ops, par, orders, values, out):  # type: ignore[no-untyped-def]
    """Fills ``out (F, N, 8)`` from channel ``values (F, C)``; ``orders (12, 3)`` are axis numbers."""
    for f in range(values.shape[0]):
        run_rows(ops, par, orders, values[f], out[f], 0, ops.shape[0])


@njit(cache=True, nogil=True)
def run_rows(ops, par, orders, v, nodes, first, last):  # type: ignore[no-untyped-def]
    """Runs the operations from row ``first`` to before ``last`` for one frame's ``nodes (N, 8)``.

    Nodes that no row in between fills stay what they are, and rows need only
    nodes of rows before them.
    """
    # The tables go down whole, with a row number: a view of a row would be counted in and out each time.
    for n in range(first, last):
        code = ops[n, 0]
        if code == OFFSET:
            _offset(nodes, ops, par, n, v)
        elif code == CONTROL:
            _control(nodes, ops, orders, par, n, v)
        elif code == TWO_BONE:
            _two_bone(nodes, ops, par, n, v)
        elif code == MIX:
            _mix(nodes, ops, par, n, v)
        elif code == FOOT_ROLL:
            _foot_roll(nodes, ops, par, n, v)
        elif code == BEND:
            _bend(nodes, ops, par, n, v)
        elif code == CHAIN:
            reach_into(nodes, ops, n, v)
        elif code == FOLLOW:
            follow_into(nodes, ops, par, n, v)
        elif code == MIDWAY:
            midway_into(nodes, ops, n)
        elif code == WAVE:
            wave_into(nodes, ops, par, n, v)
        else:
            _twist(nodes, ops, par, n, v)


@njit(cache=True, nogil=True)
def pose_into(ops, par, orders, v, nodes, joint_nodes, own, frame, joints, controls):  # type: ignore[no-untyped-def]
    """One frame as it is sent: fills ``nodes (N, 8)``, and from it ``joints (J, 8)`` and ``controls (K, 12)``.

    ``own`` and ``frame`` (K,) are the nodes of the controls and of the axes that their places are read in. What is
    sent may be of single precision.
    """
    run_rows(ops, par, orders, v, nodes, 0, ops.shape[0])
    for j in range(joint_nodes.shape[0]):
        for c in range(8):
            joints[j, c] = nodes[joint_nodes[j], c]
    for k in range(own.shape[0]):
        for c in range(8):
            controls[k, c] = nodes[own[k], c]
        for c in range(4):
            controls[k, 8 + c] = nodes[frame[k], 3 + c]


@njit(cache=True, forceinline=True)
def _place(nodes, out, a, x, y, z, qx, qy, qz, qw, s):  # type: ignore[no-untyped-def]
    """nodes[out] = nodes[a] . (x, y, z, q, s)

    Most nodes lie where their parent lies, or are turned as it is turned, so
    it pays to look before computing.
    """
    ax, ay, az, aw, scale = nodes[a, 3], nodes[a, 4], nodes[a, 5], nodes[a, 6], nodes[a, 7]
    if x == 0.0 and y == 0.0 and z == 0.0:
        nodes[out, 0], nodes[out, 1], nodes[out, 2] = nodes[a, 0], nodes[a, 1], nodes[a, 2]
    else:
        rx, ry, rz = qrot(ax, ay, az, aw, scale * x, scale * y, scale * z)
        nodes[out, 0], nodes[out, 1], nodes[out, 2] = nodes[a, 0] + rx, nodes[a, 1] + ry, nodes[a, 2] + rz
    if qw == 1.0:
        nodes[out, 3], nodes[out, 4], nodes[out, 5], nodes[out, 6] = ax, ay, az, aw
    else:
        tx, ty, tz, tw = qmul(ax, ay, az, aw, qx, qy, qz, qw)
        nodes[out, 3], nodes[out, 4], nodes[out, 5], nodes[out, 6] = tx, ty, tz, tw
    nodes[out, 7] = scale * s


@njit(cache=True, forceinline=True)
def _offset(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    out, a = ops[n, 1], ops[n, 2]
    if a < 0:
        for i in range(7):
            nodes[out, i] = par[n, i]
        nodes[out, 7] = 1.0
    elif ops[n, 5] < 0:
        _hung(nodes, out, a, par, n, 1.0, 1.0)
    else:  # a bone that stretches: longer, and as much thinner as its volume stays
        k = _stretched(nodes, ops[n, 3], a, v[ops[n, 5]], v[ops[n, 4]] if ops[n, 4] >= 0 else 0.0)
        thick = k ** (-0.5 * v[ops[n, 6]]) if ops[n, 6] >= 0 and k != 1.0 else 1.0
        _hung(nodes, out, a, par, n, k if ops[n, 7] > 0 else 1.0, thick)


@njit(cache=True, forceinline=True)
def _hung(nodes, out, a, par, n, k, scale):  # type: ignore[no-untyped-def]
    """nodes[out] at p[0:7] from nodes[a], k times as far, and of its own scale."""
    _place(
        nodes, out, a, k * par[n, 0], k * par[n, 1], k * par[n, 2], par[n, 3], par[n, 4], par[n, 5], par[n, 6], scale
    )


@njit(cache=True, nogil=True)
def _stretched(nodes, solved, carrier, by, t):  # type: ignore[no-untyped-def]
    """By what a bone is longer: by hand, and as its limb stretches to reach, which its solved node has as scale."""
    if solved < 0 or t <= 0.0:
        return by
    return by * (1.0 + min(t, 1.0) * (nodes[solved, 7] / nodes[carrier, 7] - 1.0))


@njit(cache=True, forceinline=True)
def _control(nodes, ops, orders, par, n, v):  # type: ignore[no-untyped-def]
    c = ops[n, 5]
    row = ops[n, 7]
    i, j, k = orders[row, 0], orders[row, 1], orders[row, 2]
    qx, qy, qz, qw = euler_to_quat(i, j, k, v[c + 3 + i], v[c + 3 + j], v[c + 3 + k])
    if par[n, 6] != 1.0:
        qx, qy, qz, qw = qmul(par[n, 3], par[n, 4], par[n, 5], par[n, 6], qx, qy, qz, qw)
    scale = v[ops[n, 6]] if ops[n, 6] >= 0 else 1.0
    _place(nodes, ops[n, 1], ops[n, 2], v[c], v[c + 1], v[c + 2], qx, qy, qz, qw, scale)


@njit(cache=True, nogil=True)
def _square(dx, dy, dz, x, y, z):  # type: ignore[no-untyped-def]
    """What of a vector is square to the unit vector d, of unit length, and its length before."""
    along = x * dx + y * dy + z * dz
    x, y, z = x - along * dx, y - along * dy, z - along * dz
    length = math.sqrt(x * x + y * y + z * z)
    if length < 1e-9:  # it lies on d: any square direction will do
        if abs(dx) < 0.9:
            x, y, z = 1.0 - dx * dx, -dx * dy, -dx * dz
        else:
            x, y, z = -dy * dx, 1.0 - dy * dy, -dy * dz
        size = math.sqrt(x * x + y * y + z * z)
        return x / size, y / size, z / size, 0.0
    return x / length, y / length, z / length, length


@njit(cache=True, nogil=True)
def softened(distance, length, soft):  # type: ignore[no-untyped-def]
    """How far a limb of ``length`` reaches for a target at ``distance``: the last ``soft`` metres ever more slowly.

    Up to ``length - soft`` the target is reached; behind that the way left
    to full stretch falls off exponentially, so that the middle joint's speed
    stays bounded. ``soft`` 0 reaches to the end.
    """
    if soft > 0.0 and distance > length - soft:
        return length - soft * math.exp(-(distance - length + soft) / soft)
    return min(distance, length)


@njit(cache=True, nogil=True)
def _two_bone(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    """p[7:9] bone lengths; p[9] +1 or -1: bones point along +y or -y; p[10:13] a line, p[13:16] the bend on it.

    The law of cosines in a form that keeps its precision at full stretch and
    at zero bend: the sine comes from Heron's product instead of sqrt(1 - cos^2).
    A target out of reach is reached for in a straight line.

    The limb bends towards its pole, but never the wrong way round. What is
    right follows from the root: the bend that the limb has on a line of its
    own (p[10:16], in the root's axes), carried by the shortest turn to the
    line that it is on. A pole turns the bend by up to FARTHEST_BEND from
    there; from behind it loses its say step by step, down to none straight
    behind, and likewise where it comes near the line itself, where its
    direction means nothing. So the bend is continuous in target and pole. The
    swivel, set by hand, turns it further about the line, as far as one likes.
    """
    root, target, pole, out, first = ops[n, 2], ops[n, 3], ops[n, 4], ops[n, 1], ops[n, 5]
    qx, qy, qz, qw, scale = nodes[root, 3], nodes[root, 4], nodes[root, 5], nodes[root, 6], nodes[root, 7]
    rx, ry, rz = nodes[root, 0], nodes[root, 1], nodes[root, 2]
    l1, l2, side = par[n, 7] * scale, par[n, 8] * scale, par[n, 9]
    dx, dy, dz = nodes[target, 0] - rx, nodes[target, 1] - ry, nodes[target, 2] - rz
    distance = math.sqrt(dx * dx + dy * dy + dz * dz)
    if first >= 0:
        l1, l2 = l1 * v[first + 1], l2 * v[first + 1]
        share = v[first + 3] * (l1 + l2)
        if v[first + 2] > 0.0 and distance > share:  # it stretches to reach
            longer = 1.0 + v[first + 2] * (distance / share - 1.0)
            l1, l2, scale = l1 * longer, l2 * longer, scale * longer
    if distance > 1e-9 * (l1 + l2):
        dx, dy, dz = dx / distance, dy / distance, dz / distance
    else:
        dx, dy, dz = qrot(qx, qy, qz, qw, par[n, 10], par[n, 11], par[n, 12])
    # Where the limb bends by itself.
    lx, ly, lz = qrot(-qx, -qy, -qz, qw, dx, dy, dz)
    ox, oy, oz = swung(par[n, 10], par[n, 11], par[n, 12], lx, ly, lz, par[n, 13], par[n, 14], par[n, 15])
    ox, oy, oz = qrot(qx, qy, qz, qw, ox, oy, oz)
    ox, oy, oz, _ = _square(dx, dy, dz, ox, oy, oz)
    # Where the pole wants it: what of the way to it is square to the way to the target.
    ux, uy, uz, away = _square(dx, dy, dz, nodes[pole, 0] - rx, nodes[pole, 1] - ry, nodes[pole, 2] - rz)
    near = away / (NEAR_LINE * (l1 + l2))
    cosine = ox * ux + oy * uy + oz * uz
    swivel = v[ops[n, 6]] if ops[n, 6] >= 0 else 0.0
    if near < 1.0 or swivel != 0.0 or cosine < math.cos(FARTHEST_BEND):
        px, py, pz = dy * oz - dz * oy, dz * ox - dx * oz, dx * oy - dy * ox
        angle = math.atan2(px * ux + py * uy + pz * uz, cosine)
        if abs(angle) > FARTHEST_BEND:
            angle = math.copysign(FARTHEST_BEND * (math.pi - abs(angle)) / (math.pi - FARTHEST_BEND), angle)
        if near < 1.0:
            angle *= near * near * (3.0 - 2.0 * near)
        angle += swivel
        c, s = math.cos(angle), math.sin(angle)
        ux, uy, uz = c * ox + s * px, c * oy + s * py, c * oz + s * pz
    soft = v[first] if first >= 0 else 0.0
    reach = max(softened(distance, l1 + l2, soft * (l1 + l2)), abs(l1 - l2))
    if reach > 1e-12:
        cosine = (l1 * l1 + reach * reach - l2 * l2) / (2.0 * l1 * reach)
        heron = (l1 + l2 + reach) * (l1 + l2 - reach) * (reach - l1 + l2) * (reach + l1 - l2)
        sine = math.sqrt(max(heron, 0.0)) / (2.0 * l1 * reach)
    else:
        cosine, sine = 0.0, 1.0
    # First bone's direction, and from its end the second's.
    bx, by, bz = cosine * dx + sine * ux, cosine * dy + sine * uy, cosine * dz + sine * uz
    ex, ey, ez = reach * dx - l1 * bx, reach * dy - l1 * by, reach * dz - l1 * bz
    length = math.sqrt(ex * ex + ey * ey + ez * ez)
    ex, ey, ez = ex / length, ey / length, ez / length
    # The hinge is square to the plane of the bend; bending about it folds the limb.
    hx, hy, hz = uy * dz - uz * dy, uz * dx - ux * dz, ux * dy - uy * dx
    _bone(nodes, out, rx, ry, rz, hx, hy, hz, side * bx, side * by, side * bz, scale)
    _bone(nodes, out + 1, rx + l1 * bx, ry + l1 * by, rz + l1 * bz, hx, hy, hz, side * ex, side * ey, side * ez, scale)


@njit(cache=True, nogil=True)
def _bone(nodes, out, x, y, z, hx, hy, hz, yx, yy, yz, scale):  # type: ignore[no-untyped-def]
    """A bone's frame at (x, y, z): the hinge h as its x axis, the bone along y."""
    zx, zy, zz = hy * yz - hz * yy, hz * yx - hx * yz, hx * yy - hy * yx
    qx, qy, qz, qw = basis_to_quat(hx, hy, hz, yx, yy, yz, zx, zy, zz)
    nodes[out, 0], nodes[out, 1], nodes[out, 2] = x, y, z
    nodes[out, 3], nodes[out, 4], nodes[out, 5], nodes[out, 6] = qx, qy, qz, qw
    nodes[out, 7] = scale


@njit(cache=True, nogil=True)
def _mix(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    out, a, b, c = ops[n, 1], ops[n, 2], ops[n, 3], ops[n, 4]
    t = v[ops[n, 5]]
    if t <= 0.0:
        b = a
    elif t >= 1.0:
        a = b
    qx, qy, qz, qw = slerp4(
        nodes[a, 3], nodes[a, 4], nodes[a, 5], nodes[a, 6], nodes[b, 3], nodes[b, 4], nodes[b, 5], nodes[b, 6], t
    )
    k = 1.0
    if ops[n, 7] >= 0:
        k = _stretched(nodes, ops[n, 6], c, v[ops[n, 7]], t)
    _hung(nodes, out, c, par, n, k, 1.0)
    nodes[out, 3], nodes[out, 4], nodes[out, 5], nodes[out, 6] = qx, qy, qz, qw


@njit(cache=True, nogil=True)
def _foot_roll(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    """Channel: roll; extra: break; flag: bank and three swivels. p[0:3] ball, p[7:10] heel, p[10:13] toe tip, p[13:15]
    outer and inner edge, all from the foot's control.

    Below zero the foot rolls back on its heel. Above zero the heel rises over
    the ball until the break, then the weight goes on to the tip of the toe
    and the ball straightens again; ball and tip together always make the
    angle of the roll. What is rolled so is tipped about an edge, and then
    turned about the upright through ball, heel and tip.
    """
    foot, out = ops[n, 2], ops[n, 1]
    roll, limit = v[ops[n, 5]], v[ops[n, 6]]
    back = min(roll, 0.0)
    over_tip = min(max(2.0 * (roll - limit), 0.0), max(roll, 0.0))
    over_ball = max(roll, 0.0) - over_tip
    # Turned about the heel, then about the tip, both seen from the control.
    hx, hy, hz = par[n, 7], par[n, 8], par[n, 9]
    x1, y1, z1 = _about(back, par[n, 10], par[n, 11], par[n, 12], hx, hy, hz)
    x2, y2, z2 = _about(back, par[n, 0], par[n, 1], par[n, 2], hx, hy, hz)
    x2, y2, z2 = _about(over_tip, x2, y2, z2, x1, y1, z1)
    turned = back + over_tip
    bank = ops[n, 7]
    tipped = v[bank] != 0.0 or v[bank + 1] != 0.0 or v[bank + 2] != 0.0 or v[bank + 3] != 0.0
    if not tipped:
        _place(nodes, out, foot, x2, y2, z2, math.sin(0.5 * turned), 0.0, 0.0, math.cos(0.5 * turned), 1.0)
    else:
        _tip_over(nodes, out, foot, par, n, v, bank, x2, y2, z2, turned)
    # The ankle, carried by the ball.
    all_turned = turned + over_ball
    s, c = math.sin(all_turned), math.cos(all_turned)
    ay, az = -par[n, 1], -par[n, 2]
    x3, y3, z3 = x2 - par[n, 0], y2 + c * ay - s * az, z2 + s * ay + c * az
    if not tipped:
        _place(nodes, out + 1, foot, x3, y3, z3, math.sin(0.5 * all_turned), 0.0, 0.0, math.cos(0.5 * all_turned), 1.0)
    else:
        _tip_over(nodes, out + 1, foot, par, n, v, bank, x3, y3, z3, all_turned)


@njit(cache=True, nogil=True)
def _tip_over(nodes, out, foot, par, n, v, bank, x, y, z, turned):  # type: ignore[no-untyped-def]
    """Places ``out`` at (x, y, z), turned about x, under the bank and the swivels of a foot."""
    qx, qy, qz, qw = math.sin(0.5 * turned), 0.0, 0.0, math.cos(0.5 * turned)
    # About an edge: the outer one lies where its sign says, and the other side rises.
    side = 1.0 if par[n, 13] >= par[n, 14] else -1.0
    angle = -side * v[bank]
    edge, floor = (par[n, 13] if v[bank] > 0.0 else par[n, 14]), par[n, 8]
    s, c = math.sin(angle), math.cos(angle)
    x, y = edge + c * (x - edge) - s * (y - floor), floor + s * (x - edge) + c * (y - floor)
    qx, qy, qz, qw = qmul(0.0, 0.0, math.sin(0.5 * angle), math.cos(0.5 * angle), qx, qy, qz, qw)
    # About the upright through ball, heel and tip.
    for k in range(3):
        angle = v[bank + (2, 1, 3)[k]]
        at = (0, 7, 10)[k]
        s, c = math.sin(angle), math.cos(angle)
        dx, dz = x - par[n, at], z - par[n, at + 2]
        x, z = par[n, at] + c * dx + s * dz, par[n, at + 2] - s * dx + c * dz
        qx, qy, qz, qw = qmul(0.0, math.sin(0.5 * angle), 0.0, math.cos(0.5 * angle), qx, qy, qz, qw)
    _place(nodes, out, foot, x, y, z, qx, qy, qz, qw, 1.0)


@njit(cache=True, nogil=True)
def _about(angle, x, y, z, px, py, pz):  # type: ignore[no-untyped-def]
    """The point (x, y, z) turned by ``angle`` about an x axis through (px, py, pz)."""
    s, c = math.sin(angle), math.cos(angle)
    return x, py + c * (y - py) - s * (z - pz), pz + s * (y - py) + c * (z - pz)


@njit(cache=True, nogil=True)
def _bend(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    """p[7], p[8]: how much of the two channels turns this joint, about axis ops[3]; p[9:16] of the seven that shape a
    hand (from flag on), of which channel ops[4] takes a share.
    """
    angle = par[n, 7] * v[ops[n, 5]]
    if ops[n, 6] >= 0:
        angle += par[n, 8] * v[ops[n, 6]]
    first = ops[n, 7]
    if first >= 0:
        shaped = 0.0
        for k in range(SHAPES):
            shaped += par[n, 9 + k] * v[first + k]
        angle += shaped * v[ops[n, 4]]
    sx, sy, sz, c = axis_turn(ops[n, 3], angle)
    qx, qy, qz, qw = qmul(par[n, 3], par[n, 4], par[n, 5], par[n, 6], sx, sy, sz, c)
    _place(nodes, ops[n, 1], ops[n, 2], par[n, 0], par[n, 1], par[n, 2], qx, qy, qz, qw, 1.0)


@njit(cache=True, nogil=True)
def _twist(nodes, ops, par, n, v):  # type: ignore[no-untyped-def]
    """Channel: blend from the twist of c against b to that of flag against extra; p[7]: share."""
    t = v[ops[n, 5]]
    angle = 0.0
    if t < 1.0:
        angle += (1.0 - max(t, 0.0)) * _twisted(nodes, ops[n, 3], ops[n, 4], par, n)
    if t > 0.0:
        angle += min(t, 1.0) * _twisted(nodes, ops[n, 6], ops[n, 7], par, n)
    angle *= par[n, 7]
    s, c = math.sin(0.5 * angle), math.cos(0.5 * angle)
    qx, qy, qz, qw = qmul(par[n, 3], par[n, 4], par[n, 5], par[n, 6], 0.0, s, 0.0, c)
    _place(nodes, ops[n, 1], ops[n, 2], par[n, 0], par[n, 1], par[n, 2], qx, qy, qz, qw, 1.0)


@njit(cache=True, nogil=True)
def _twisted(nodes, a, b, par, n):  # type: ignore[no-untyped-def]
    """How far b is twisted against a about its y, radians from -pi to pi; p[8:12]: b in a's frame at rest."""
    rx, ry, rz, rw = qmul(
        -nodes[a, 3], -nodes[a, 4], -nodes[a, 5], nodes[a, 6], nodes[b, 3], nodes[b, 4], nodes[b, 5], nodes[b, 6]
    )
    rx, ry, rz, rw = qmul(rx, ry, rz, rw, -par[n, 8], -par[n, 9], -par[n, 10], par[n, 11])
    angle = 2.0 * math.atan2(ry, rw)
    if angle > math.pi:
        angle -= 2.0 * math.pi
    elif angle < -math.pi:
        angle += 2.0 * math.pi
    return angle
