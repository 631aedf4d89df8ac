"""The compiled part of a pull: a body of links, brought to what is wished of it by damped least squares.

A body is links in an order in which each comes after the one that carries it. The first is free in space, the others
turn in ball joints or hinges, or are fixed to what carries them. What is wished is a sum of squares:

- tasks: a place or a turn of a link, each with a weight;
- every angle stays near where it is wanted, by a stiffness of its own, and neighbours in a row bend alike;
- the centre of mass stays over a place on the ground;
- hinges keep from being straight.

Angles stay within their ranges. The sum is brought down by Gauss-Newton steps of bounded length, counted from the
same beginning each time (Nocedal and Wright, Numerical Optimization, 2nd ed., 10.3; active bounds as in 16.7).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

from hame.maths.kernels import qmul, qrot
from hame.maths.rotations import Array
from hame.solve.bounded_kernel import SUMS, step_within

FREE, BALL, HINGE, FIXED = range(4)
Ints = npt.NDArray[np.int32]
MOST_SWING, BY_SWING = 2.7, 900.0  # radians, and by radian squared: a swing of half a turn has no direction
LONGEST_STEP = 0.3  # radians
UNHELD, HELD = 4, 0.02  # steps before any is held back; and by what first, by radian squared
CLOSE = 5e-5  # radians: where a step is no longer, it is the last


class Tree(NamedTuple):
    """Links of a body as they are carried.

    Attributes
    ----------
    parent, kind, first : (L,) the link that carries it, one of FREE, BALL, HINGE, FIXED, and its first number among
        the angles
    offset : (L, 3) its place in the axes of the link that carries it; of the free one its place in the world
    zero, after : (L, 4) its turn from there with all angles at zero, and one that follows them
    mass, mass_at : (L,) shares that sum to one, and (L, 3) where they lie in the link's axes
    """

    parent: Ints
    kind: Ints
    first: Ints
    offset: Array
    zero: Array
    after: Array
    mass: Array
    mass_at: Array


class Wish(NamedTuple):
    """What is wished of a body.

    Attributes
    ----------
    link : (T,) of each task
    place : (T, 3) where the link should be in the world, metres
    turn : (T, 4) how the link should be turned in the world
    by_place, by_turn : (T,) weights, by metre and radian; 0 is no wish
    most : (T,) with what force a place pulls at most, however far off it is
    ahead : metres that are looked ahead in one step
    near, stiff : (n,) where angles are wanted, and how strongly
    low, high : (n,) ranges of the angles
    rows, row_stiff : (P, 2) pairs of angles that should change alike, and (P,) how strongly
    over, by_balance : (2,) where the centre of mass should be over the ground, x and z; and how strongly
    eased, by_ease : (n,) angles below which a joint is too straight, and how strongly
    """

    link: Ints
    place: Array
    turn: Array
    by_place: Array
    by_turn: Array
    most: Array
    ahead: float
    near: Array
    stiff: Array
    low: Array
    high: Array
    rows: Ints
    row_stiff: Array
    over: Array
    by_balance: float
    eased: Array
    by_ease: float


@njit(cache=True, nogil=True)
def stand(tree, x, place, turn, axes):  # type: ignore[no-untyped-def]
    """Fills ``place (L, 3)``, ``turn (L, 4)`` and the ``axes (n, 3)`` of all angles in the world, for angles ``x``."""
    for link in range(tree.parent.shape[0]):
        kind, first = tree.kind[link], tree.first[link]
        if kind == FREE:
            for c in range(3):
                place[0, c] = tree.offset[0, c] + x[c]
            ax, ay, az, aw = 0.0, 0.0, 0.0, 1.0
            qx, qy, qz, qw = _ball(x[3], x[4], x[5], ax, ay, az, aw, axes, 3, 4, 5)
            qx, qy, qz, qw = qmul(qx, qy, qz, qw, tree.zero[0, 0], tree.zero[0, 1], tree.zero[0, 2], tree.zero[0, 3])
            turn[0, 0], turn[0, 1], turn[0, 2], turn[0, 3] = qx, qy, qz, qw
            continue
        up = tree.parent[link]
        px, py, pz, pw = turn[up, 0], turn[up, 1], turn[up, 2], turn[up, 3]
        ox, oy, oz = qrot(px, py, pz, pw, tree.offset[link, 0], tree.offset[link, 1], tree.offset[link, 2])
        place[link, 0], place[link, 1], place[link, 2] = place[up, 0] + ox, place[up, 1] + oy, place[up, 2] + oz
        zx, zy, zz, zw = tree.zero[link, 0], tree.zero[link, 1], tree.zero[link, 2], tree.zero[link, 3]
        px, py, pz, pw = qmul(px, py, pz, pw, zx, zy, zz, zw)
        if kind == FIXED:
            turn[link, 0], turn[link, 1], turn[link, 2], turn[link, 3] = px, py, pz, pw
            continue
        if kind == HINGE:
            axes[first, 0], axes[first, 1], axes[first, 2] = qrot(px, py, pz, pw, 1.0, 0.0, 0.0)
            half = 0.5 * x[first]
            px, py, pz, pw = qmul(px, py, pz, pw, math.sin(half), 0.0, 0.0, math.cos(half))
        else:
            px, py, pz, pw = _ball(x[first], 0.0, x[first + 2], px, py, pz, pw, axes, first, -1, first + 2)
            axes[first + 1, 0], axes[first + 1, 1], axes[first + 1, 2] = qrot(px, py, pz, pw, 0.0, 1.0, 0.0)
            half = 0.5 * x[first + 1]
            px, py, pz, pw = qmul(px, py, pz, pw, 0.0, math.sin(half), 0.0, math.cos(half))
        ax, ay, az, aw = tree.after[link, 0], tree.after[link, 1], tree.after[link, 2], tree.after[link, 3]
        px, py, pz, pw = qmul(px, py, pz, pw, ax, ay, az, aw)
        turn[link, 0], turn[link, 1], turn[link, 2], turn[link, 3] = px, py, pz, pw


@njit(cache=True, nogil=True)
def _ball(vx, vy, vz, qx, qy, qz, qw, axes, i, j, k):  # type: ignore[no-untyped-def]
    """q . exp(v); and the rows of axes that are given: about what the end turns in the world as each of v grows.

    The columns of the left Jacobian of the exponential map: Sola, Deray, Atchuthan 2018, A micro Lie theory, eq. 145.
    """
    angle = math.sqrt(vx * vx + vy * vy + vz * vz)
    if angle > 1e-8:
        s, c = math.sin(angle) / angle, (1.0 - math.cos(angle)) / angle
        ux, uy, uz = vx / angle, vy / angle, vz / angle
    else:
        s, c, ux, uy, uz = 1.0, 0.0, 0.0, 0.0, 0.0
    r = 1.0 - s
    if i >= 0:
        x, y, z = s + r * ux * ux, r * ux * uy + c * uz, r * ux * uz - c * uy
        axes[i, 0], axes[i, 1], axes[i, 2] = qrot(qx, qy, qz, qw, x, y, z)
    if j >= 0:
        x, y, z = r * ux * uy - c * uz, s + r * uy * uy, r * uy * uz + c * ux
        axes[j, 0], axes[j, 1], axes[j, 2] = qrot(qx, qy, qz, qw, x, y, z)
    if k >= 0:
        x, y, z = r * ux * uz + c * uy, r * uy * uz - c * ux, s + r * uz * uz
        axes[k, 0], axes[k, 1], axes[k, 2] = qrot(qx, qy, qz, qw, x, y, z)
    half = math.sin(0.5 * angle)
    return qmul(qx, qy, qz, qw, ux * half, uy * half, uz * half, math.cos(0.5 * angle))


@njit(cache=True, nogil=True)
def solve(tree, wish, start, rounds):  # type: ignore[no-untyped-def]
    """The angles (n,) that fulfil a wish best, from ``start (n,)``; how many steps it took."""
    n, links = start.shape[0], tree.parent.shape[0]
    x = start.copy()
    place, turn, axes = np.empty((links, 3)), np.empty((links, 4)), np.empty((n, 3))
    h, g, step = np.empty((n, n)), np.empty(n), np.empty(n)
    columns, which = np.empty((6, n)), np.empty(n, np.int64)
    work, order, ends = np.empty((n, n)), np.empty((3, n), np.int64), np.zeros(n, np.int64)
    over, sides = np.zeros((2, n)), np.empty((3, n))
    subtree, carried = np.empty(links), np.empty((links, 3))
    done, held, before = 0, 0.0, np.inf
    for r in range(rounds):
        done += 1
        stand(tree, x, place, turn, axes)
        _leanings(wish, x, h, g)
        _within_swing(tree, x, start, h, g)
        for t in range(wish.link.shape[0]):
            _task(tree, wish, t, place, turn, axes, h, g, columns, which)
        if wish.by_balance > 0.0:
            _balance(tree, wish, place, turn, axes, over, g, subtree, carried)
        for d in range(n):
            h[d, d] += held
        step_within(h, over, g, x, wish.low, wish.high, step, work, order, ends, sides)
        longest = 0.0
        for d in range(n):
            longest = max(longest, abs(step[d]))
        share = min(1.0, LONGEST_STEP / max(longest, 1e-300))
        for d in range(n):
            x[d] = min(max(x[d] + share * step[d], wish.low[d]), wish.high[d])
        if longest < CLOSE:
            break
        # Steps that do not become shorter go to and fro over a place that they should come to: they are held back.
        if r >= UNHELD:
            held = max(HELD, 4.0 * held) if longest > 0.5 * before else 0.4 * held
        before = longest
    return x, done


@njit(cache=True, inline="always")
def _many(kind):  # type: ignore[no-untyped-def]
    """How many angles a link turns by; a free one by as many as a ball, besides its place."""
    return 0 if kind == FIXED else 1 if kind == HINGE else 3


@njit(cache=True, nogil=True)
def _within_swing(tree, x, start, h, g):  # type: ignore[no-untyped-def]
    """Keeps ball joints from swinging as far as half a turn, where the way of their swing would be undecided."""
    for link in range(tree.parent.shape[0]):
        if tree.kind[link] != BALL:
            continue
        a, b = tree.first[link], tree.first[link] + 2
        size = math.sqrt(x[a] ** 2 + x[b] ** 2)
        over = size - max(MOST_SWING, math.sqrt(start[a] ** 2 + start[b] ** 2))
        if over > 0.0:
            p, q = x[a] / size, x[b] / size
            h[a, a] += BY_SWING * p * p
            h[b, b] += BY_SWING * q * q
            h[a, b] += BY_SWING * p * q
            h[b, a] += BY_SWING * p * q
            g[a] += BY_SWING * over * p
            g[b] += BY_SWING * over * q


@njit(cache=True, nogil=True)
def _leanings(wish, x, h, g):  # type: ignore[no-untyped-def]
    """Begins the normal equations with what angles want by themselves."""
    n = x.shape[0]
    for a in range(n):
        for b in range(n):
            h[a, b] = 0.0
        h[a, a] = wish.stiff[a] ** 2 + 1e-9
        g[a] = wish.stiff[a] ** 2 * (x[a] - wish.near[a])
        short = wish.eased[a] - x[a]
        if short > 0.0:
            h[a, a] += wish.by_ease**2
            g[a] -= wish.by_ease**2 * short
    for p in range(wish.rows.shape[0]):
        a, b, w = wish.rows[p, 0], wish.rows[p, 1], wish.row_stiff[p] ** 2
        off = w * ((x[a] - wish.near[a]) - (x[b] - wish.near[b]))
        h[a, a] += w
        h[b, b] += w
        h[a, b] -= w
        h[b, a] -= w
        g[a] += off
        g[b] -= off


@njit(cache=True, fastmath=SUMS)
def _task(tree, wish, t, place, turn, axes, h, g, columns, which):  # type: ignore[no-untyped-def]
    """Adds what one task says."""
    link, wp, wt = wish.link[t], wish.by_place[t], wish.by_turn[t]
    qx, qy, qz, qw = turn[link, 0], turn[link, 1], turn[link, 2], turn[link, 3]
    px, py, pz = place[link, 0], place[link, 1], place[link, 2]
    # What is missing: the way, and the turn as a vector.
    ex, ey, ez = wish.place[t, 0] - px, wish.place[t, 1] - py, wish.place[t, 2] - pz
    far = math.sqrt(ex * ex + ey * ey + ez * ez)
    if far > wish.ahead:
        ex, ey, ez, far = ex * wish.ahead / far, ey * wish.ahead / far, ez * wish.ahead / far, wish.ahead
    if wp * wp * far > wish.most[t]:
        wp = math.sqrt(wish.most[t] / far)
    tx, ty, tz, tw = qmul(wish.turn[t, 0], wish.turn[t, 1], wish.turn[t, 2], wish.turn[t, 3], -qx, -qy, -qz, qw)
    sine = math.sqrt(tx * tx + ty * ty + tz * tz)
    angle = 2.0 * math.atan2(sine, abs(tw))
    factor = math.copysign(angle / sine, tw) if sine > 1e-12 else 2.0
    tx, ty, tz = tx * factor, ty * factor, tz * factor
    count = 0
    at = link
    while at >= 0:
        first = tree.first[at]
        if tree.kind[at] == FREE:
            for c in range(3):
                for r in range(6):
                    columns[r, count] = 0.0
                columns[c, count] = wp
                which[count] = first + c
                count += 1
            first += 3
        many = _many(tree.kind[at])
        dx, dy, dz = px - place[at, 0], py - place[at, 1], pz - place[at, 2]
        for d in range(first, first + many):
            if wish.low[d] >= wish.high[d]:  # what cannot turn asks for nothing
                continue
            ax, ay, az = axes[d, 0], axes[d, 1], axes[d, 2]
            columns[0, count] = wp * (ay * dz - az * dy)
            columns[1, count] = wp * (az * dx - ax * dz)
            columns[2, count] = wp * (ax * dy - ay * dx)
            columns[3, count], columns[4, count], columns[5, count] = wt * ax, wt * ay, wt * az
            which[count] = d
            count += 1
        at = tree.parent[at]
    last = 6 if wt > 0.0 else 3
    begin = 0 if wp > 0.0 else 3
    for i in range(count):
        a = which[i]
        if wp > 0.0:
            g[a] -= wp * (columns[0, i] * ex + columns[1, i] * ey + columns[2, i] * ez)
        if wt > 0.0:
            g[a] -= wt * (columns[3, i] * tx + columns[4, i] * ty + columns[5, i] * tz)
        for j in range(i + 1):
            total = 0.0
            for r in range(begin, last):
                total += columns[r, i] * columns[r, j]
            b = which[j]
            h[a, b] += total
            if a != b:
                h[b, a] += total


@njit(cache=True, nogil=True)
def centre(tree, place, turn):  # type: ignore[no-untyped-def]
    """The centre of mass (x, y, z)."""
    x, y, z = 0.0, 0.0, 0.0
    for link in range(tree.parent.shape[0]):
        m = tree.mass[link]
        if m > 0.0:
            ox, oy, oz = qrot(
                turn[link, 0], turn[link, 1], turn[link, 2], turn[link, 3],
                tree.mass_at[link, 0], tree.mass_at[link, 1], tree.mass_at[link, 2],
            )  # fmt: skip
            x, y, z = x + m * (place[link, 0] + ox), y + m * (place[link, 1] + oy), z + m * (place[link, 2] + oz)
    return x, y, z


@njit(cache=True, fastmath=SUMS)
def _balance(tree, wish, place, turn, axes, over, g, subtree, carried):  # type: ignore[no-untyped-def]
    """Adds the wish that the centre of mass stays over a place: ``over (2, n)`` is what each angle does to that.

    It is of every angle, and so kept apart from the normal equations, which stay sparse.
    """
    links, n = tree.parent.shape[0], g.shape[0]
    for link in range(links):
        m = tree.mass[link]
        ox, oy, oz = qrot(
            turn[link, 0], turn[link, 1], turn[link, 2], turn[link, 3],
            tree.mass_at[link, 0], tree.mass_at[link, 1], tree.mass_at[link, 2],
        )  # fmt: skip
        subtree[link] = m
        carried[link, 0], carried[link, 1] = m * (place[link, 0] + ox), m * (place[link, 1] + oy)
        carried[link, 2] = m * (place[link, 2] + oz)
    for link in range(links - 1, 0, -1):
        up = tree.parent[link]
        subtree[up] += subtree[link]
        for c in range(3):
            carried[up, c] += carried[link, c]
    w = wish.by_balance
    ex, ez = w * (wish.over[0] - carried[0, 0]), w * (wish.over[1] - carried[0, 2])
    for link in range(links):
        first = tree.first[link]
        if tree.kind[link] == FREE:
            for c in range(3):
                over[0, first + c] = w if c == 0 else 0.0
                over[1, first + c] = w if c == 2 else 0.0
            first += 3
        many = _many(tree.kind[link])
        dx = carried[link, 0] - subtree[link] * place[link, 0]
        dy = carried[link, 1] - subtree[link] * place[link, 1]
        dz = carried[link, 2] - subtree[link] * place[link, 2]
        for d in range(first, first + many):
            over[0, d] = w * (axes[d, 1] * dz - axes[d, 2] * dy)
            over[1, d] = w * (axes[d, 0] * dy - axes[d, 1] * dx)
    for a in range(n):
        g[a] -= over[0, a] * ex + over[1, a] * ez
