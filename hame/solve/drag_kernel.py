"""The compiled part of a drag: several controls brought where they are wanted, in one pass over the rig's program."""

from __future__ import annotations

import math
from typing import NamedTuple

from numba import njit

from hame.evaluate.kernel import run_rows
from hame.maths.kernels import euler_near, qmul, qrot
from hame.maths.rotations import Array

WORLD, PARENT, OWN, VIEW = range(4)
NODE, FRAME, FIRST, ORDER, ROW = range(5)  # columns of Tables.control
_PART = math.pi / 3.0


class Turning(NamedTuple):
    """A turn by ``angle`` radians about ``axis (3,)``; with ``about_pivot`` about the ``pivot (3,)`` in the world."""

    axis: Array
    angle: float
    pivot: Array
    about_pivot: bool


@njit(cache=True, nogil=True)
def move_controls(program, orders, tables, values, start, wanted, offset, axes, view):  # type: ignore[no-untyped-def]
    """Channel values (C,) with the places of controls moved by ``offset (3,)``; no turn is written.

    ``start (N, 8)`` are the nodes of ``values``; ``tables`` are a :class:`~hame.character.rig.Tables`.
    ``wanted`` are control numbers, rising, so that each is brought when all that carry it stand.
    """
    table = tables.control
    result = values.copy()
    now = start.copy()
    done = 0
    for w in wanted:
        run_rows(program.ops, program.params, orders, result, now, done, table[w, ROW])
        done = table[w, ROW]
        ax, ay, az, aw = _axes(axes, table, w, start, view)
        dx, dy, dz = qrot(ax, ay, az, aw, offset[0], offset[1], offset[2])
        node = table[w, NODE]
        place_in(result, now, tables, w, start[node, 0] + dx, start[node, 1] + dy, start[node, 2] + dz)
    return result


@njit(cache=True, nogil=True)
def turn_controls(program, orders, tables, values, start, wanted, turning, axes, view):  # type: ignore[no-untyped-def]
    """Channel values (C,) with controls turned about an axis, each about itself or all about a pivot.

    About themselves the turns of a chain add up, since each is told how those
    before it left the nodes; about a pivot none is carried twice.
    """
    table, axis, angle, pivot = tables.control, turning.axis, turning.angle, turning.pivot
    result = values.copy()
    now = start.copy()
    done = 0
    size = math.sqrt(axis[0] ** 2 + axis[1] ** 2 + axis[2] ** 2)
    # In parts of less than half a turn, so that whole turns are counted on and do not wrap.
    parts = max(int(math.ceil(abs(angle) / _PART)), 1)
    for w in wanted:
        # The control's own row too: its node is needed as those before it leave it.
        run_rows(program.ops, program.params, orders, result, now, done, table[w, ROW] + 1)
        done = table[w, ROW]
        seen = start if turning.about_pivot else now
        ax, ay, az, aw = _axes(axes, table, w, seen, view)
        x, y, z = qrot(ax, ay, az, aw, axis[0] / size, axis[1] / size, axis[2] / size)
        node = table[w, NODE]
        px, py, pz = seen[node, 0], seen[node, 1], seen[node, 2]
        qx, qy, qz, qw = seen[node, 3], seen[node, 4], seen[node, 5], seen[node, 6]
        for part in range(1, parts + 1):
            half = 0.5 * angle * part / parts
            s, c = math.sin(half), math.cos(half)
            if turning.about_pivot:
                ox, oy, oz = qrot(x * s, y * s, z * s, c, px - pivot[0], py - pivot[1], pz - pivot[2])
                place_in(result, now, tables, w, pivot[0] + ox, pivot[1] + oy, pivot[2] + oz)
            tx, ty, tz, tw = qmul(x * s, y * s, z * s, c, qx, qy, qz, qw)
            turn_to(result, now, tables, orders, w, tx, ty, tz, tw)
    return result


@njit(cache=True, nogil=True)
def _axes(axes, table, w, nodes, view):  # type: ignore[no-untyped-def]
    if axes in (OWN, PARENT):
        n = table[w, NODE] if axes == OWN else table[w, FRAME]
        return nodes[n, 3], nodes[n, 4], nodes[n, 5], nodes[n, 6]
    if axes == VIEW:
        return view[0], view[1], view[2], view[3]
    return 0.0, 0.0, 0.0, 1.0


@njit(cache=True, nogil=True)
def _write(values, number, tables, value):  # type: ignore[no-untyped-def]
    if tables.free[number]:
        values[number] = min(max(value, tables.low[number]), tables.high[number])


@njit(cache=True, nogil=True)
def place_in(values, nodes, tables, w, x, y, z):  # type: ignore[no-untyped-def]
    f, first = tables.control[w, FRAME], tables.control[w, FIRST]
    x, y, z = qrot(
        -nodes[f, 3], -nodes[f, 4], -nodes[f, 5], nodes[f, 6], x - nodes[f, 0], y - nodes[f, 1], z - nodes[f, 2]
    )
    scale = nodes[f, 7]
    _write(values, first, tables, x / scale)
    _write(values, first + 1, tables, y / scale)
    _write(values, first + 2, tables, z / scale)


@njit(cache=True, nogil=True)
def turn_to(values, nodes, tables, orders, w, x, y, z, qw):  # type: ignore[no-untyped-def]
    """Writes the angles, nearest to the present ones, that turn control ``w`` to the quaternion (x, y, z, qw)."""
    table, pre = tables.control, tables.pre
    f, first, row = table[w, FRAME], table[w, FIRST] + 3, table[w, ORDER]
    x, y, z, qw = qmul(-nodes[f, 3], -nodes[f, 4], -nodes[f, 5], nodes[f, 6], x, y, z, qw)
    x, y, z, qw = qmul(-pre[w, 0], -pre[w, 1], -pre[w, 2], pre[w, 3], x, y, z, qw)
    i, j, k = orders[row, 0], orders[row, 1], orders[row, 2]
    a, b, c = euler_near(i, j, k, x, y, z, qw, values[first + i], values[first + j], values[first + k])
    _write(values, first + i, tables, a)
    _write(values, first + j, tables, b)
    _write(values, first + k, tables, c)
