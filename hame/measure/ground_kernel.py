"""What lies under points on surfaces of triangles, compiled."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from hame.maths.kernels import qrot

_EDGE = 1e-9  # of a triangle: so far beside an edge still counts as on it, so that none falls between two
_STEEP = 0.34  # a surface that goes up more steeply than this, by the cosine of its slope (70 degrees), is a wall


@njit(cache=True, nogil=True)
def _raised(triangle, x, y, z, ux, uy, uz):  # type: ignore[no-untyped-def]
    """How far above a point along an upward line a triangle is met that is turned up; not a number for never.

    After Moller and Trumbore ("Fast, minimum storage ray-triangle intersection", 1997).
    """
    ax, ay, az = triangle[0]
    bx, by, bz = triangle[1, 0] - ax, triangle[1, 1] - ay, triangle[1, 2] - az
    cx, cy, cz = triangle[2, 0] - ax, triangle[2, 1] - ay, triangle[2, 2] - az
    px, py, pz = uy * cz - uz * cy, uz * cx - ux * cz, ux * cy - uy * cx
    whole = bx * px + by * py + bz * pz  # twice the area that is seen from above: below 0 where it is turned down
    sx, sy, sz = x - ax, y - ay, z - az
    first = sx * px + sy * py + sz * pz
    qx, qy, qz = sy * bz - sz * by, sz * bx - sx * bz, sx * by - sy * bx
    second = ux * qx + uy * qy + uz * qz
    if whole >= 0.0:
        return math.nan
    first, second = first / whole, second / whole
    if first < -_EDGE or second < -_EDGE or first + second > 1.0 + _EDGE:
        return math.nan
    nx, ny, nz = by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx
    if -whole < _STEEP * math.sqrt(nx * nx + ny * ny + nz * nz):
        return math.nan
    return (cx * qx + cy * qy + cz * qz) / whole


@njit(cache=True, nogil=True)
def _crosses(box, x, y, z, ux, uy, uz, low, high):  # type: ignore[no-untyped-def]
    """Whether a line goes through a box (2, 3) between two distances along it (by slabs; Kay and Kajiya, 1986)."""
    for axis in range(3):
        at, along = (x, ux) if axis == 0 else (y, uy) if axis == 1 else (z, uz)
        if abs(along) < 1e-12:
            if at < box[0, axis] - _EDGE or at > box[1, axis] + _EDGE:
                return False
            continue
        one, other = (box[0, axis] - _EDGE - at) / along, (box[1, axis] + _EDGE - at) / along
        low, high = max(low, min(one, other)), min(high, max(one, other))
        if low > high:
            return False
    return True


@njit(cache=True, nogil=True)
def raise_to(points, nodes, triangles, boxes, reach, heights, normals):  # type: ignore[no-untyped-def]
    """Raises ``heights (F, K)`` to the highest surface under ``points (F, K, 3)`` or so far above, and writes the
    ``normals (F, K, 3)`` of where it did.

    Parameters
    ----------
    nodes : (F, 8) how the surface lies on these frames
    triangles : (L * 2^d, 3, 3) of it, in its own axes, metres
    boxes : (2^(d + 1) - 1, 2, 3) about all of them, about each half, about each half of these, and so on: box ``n``
        is about the boxes ``2 n + 1`` and ``2 n + 2``, and each of the last about L triangles in a row
    """
    inner = len(boxes) // 2
    leaf = len(triangles) // (inner + 1)
    waiting = np.empty(64, np.int64)
    for f in range(len(points)):
        q0, q1, q2, q3, scale = nodes[f, 3], nodes[f, 4], nodes[f, 5], nodes[f, 6], nodes[f, 7]
        ux, uy, uz = qrot(-q0, -q1, -q2, q3, 0.0, 1.0, 0.0)
        for k in range(points.shape[1]):
            x, y, z = qrot(-q0, -q1, -q2, q3, points[f, k, 0] - nodes[f, 0], points[f, k, 1] - nodes[f, 1],
                           points[f, k, 2] - nodes[f, 2])  # fmt: skip
            x, y, z = x / scale, y / scale, z / scale
            best, found = (heights[f, k] - points[f, k, 1]) / scale, -1
            most, count = reach / scale, 1
            waiting[0] = 0
            while count:
                count -= 1
                n = waiting[count]
                if not _crosses(boxes[n], x, y, z, ux, uy, uz, best, most):
                    continue
                if n < inner:
                    waiting[count], waiting[count + 1] = 2 * n + 1, 2 * n + 2
                    count += 2
                    continue
                for t in range((n - inner) * leaf, (n - inner + 1) * leaf):
                    far = _raised(triangles[t], x, y, z, ux, uy, uz)
                    if best < far <= most:
                        best, found = far, t
            if found >= 0:
                heights[f, k] = points[f, k, 1] + best * scale
                one, other = triangles[found, 1] - triangles[found, 0], triangles[found, 2] - triangles[found, 0]
                nx = one[1] * other[2] - one[2] * other[1]
                ny = one[2] * other[0] - one[0] * other[2]
                nz = one[0] * other[1] - one[1] * other[0]
                length = math.sqrt(nx * nx + ny * ny + nz * nz)
                nx, ny, nz = qrot(q0, q1, q2, q3, nx / length, ny / length, nz / length)
                normals[f, k, 0], normals[f, k, 1], normals[f, k, 2] = nx, ny, nz
