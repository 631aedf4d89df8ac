"""Small compiled functions on single rotations and transforms.

Quaternions are ``(x, y, z, w)`` as in glTF 2.0. Everything here takes and
returns plain floats and tuples, so that the evaluation kernel can inline it
without allocating. Vectorised, documented versions for everyday use are in
:mod:`hame.maths.rotations`.
"""

from __future__ import annotations

import math

from numba import njit


@njit(cache=True, forceinline=True)
def qmul(ax, ay, az, aw, bx, by, bz, bw):  # type: ignore[no-untyped-def]
    """Hamilton product: the rotation b followed by a."""
    return (
        aw * bx + ax * bw + ay * bz - az * by,
        aw * by - ax * bz + ay * bw + az * bx,
        aw * bz + ax * by - ay * bx + az * bw,
        aw * bw - ax * bx - ay * by - az * bz,
    )


@njit(cache=True, forceinline=True)
def qrot(qx, qy, qz, qw, vx, vy, vz):  # type: ignore[no-untyped-def]
    """The vector v turned by q."""
    tx = 2.0 * (qy * vz - qz * vy)
    ty = 2.0 * (qz * vx - qx * vz)
    tz = 2.0 * (qx * vy - qy * vx)
    return (
        vx + qw * tx + qy * tz - qz * ty,
        vy + qw * ty + qz * tx - qx * tz,
        vz + qw * tz + qx * ty - qy * tx,
    )


@njit(cache=True, forceinline=True)
def axis_turn(axis, angle):  # type: ignore[no-untyped-def]
    """The quaternion of a turn by ``angle`` radians about coordinate axis 0, 1 or 2."""
    s = math.sin(0.5 * angle)
    c = math.cos(0.5 * angle)
    if axis == 0:
        return s, 0.0, 0.0, c
    if axis == 1:
        return 0.0, s, 0.0, c
    return 0.0, 0.0, s, c


@njit(cache=True, forceinline=True)
def euler_to_quat(i, j, k, a, b, c):  # type: ignore[no-untyped-def]
    """Turn a about axis i, then b about the new axis j, then c about the new axis k."""
    px, py, pz, pw = 0.0, 0.0, 0.0, 1.0
    if a != 0.0:
        px, py, pz, pw = axis_turn(i, a)
    if b != 0.0:  # most angles of most controls are at rest, and a sine costs more than a test
        qx, qy, qz, qw = axis_turn(j, b)
        px, py, pz, pw = qmul(px, py, pz, pw, qx, qy, qz, qw)
    if c != 0.0:
        qx, qy, qz, qw = axis_turn(k, c)
        px, py, pz, pw = qmul(px, py, pz, pw, qx, qy, qz, qw)
    return px, py, pz, pw


@njit(cache=True, nogil=True)
def basis_to_quat(xx, xy, xz, yx, yy, yz, zx, zy, zz):  # type: ignore[no-untyped-def]
    """The rotation whose matrix has the orthonormal columns x, y and z.

    Shepperd's method: the largest of the four components is computed first,
    so that no division by a small number happens.
    """
    trace = xx + yy + zz
    if trace > 0.0:
        s = 2.0 * math.sqrt(trace + 1.0)
        return (yz - zy) / s, (zx - xz) / s, (xy - yx) / s, 0.25 * s
    if xx > yy and xx > zz:
        s = 2.0 * math.sqrt(1.0 + xx - yy - zz)
        return 0.25 * s, (xy + yx) / s, (zx + xz) / s, (yz - zy) / s
    if yy > zz:
        s = 2.0 * math.sqrt(1.0 + yy - xx - zz)
        return (xy + yx) / s, 0.25 * s, (yz + zy) / s, (zx - xz) / s
    s = 2.0 * math.sqrt(1.0 + zz - xx - yy)
    return (zx + xz) / s, (yz + zy) / s, 0.25 * s, (xy - yx) / s


@njit(cache=True, nogil=True)
def slerp4(ax, ay, az, aw, bx, by, bz, bw, t):  # type: ignore[no-untyped-def]
    """Spherical interpolation on the shorter arc from a (t = 0) to b (t = 1)."""
    dot = ax * bx + ay * by + az * bz + aw * bw
    if dot < 0.0:
        bx, by, bz, bw, dot = -bx, -by, -bz, -bw, -dot
    if dot > 0.9999999:
        u, v = 1.0 - t, t
    else:
        angle = math.acos(dot)
        sine = math.sin(angle)
        u, v = math.sin((1.0 - t) * angle) / sine, math.sin(t * angle) / sine
    x, y, z, w = u * ax + v * bx, u * ay + v * by, u * az + v * bz, u * aw + v * bw
    n = math.sqrt(x * x + y * y + z * z + w * w)
    return x / n, y / n, z / n, w / n


@njit(cache=True, nogil=True)
def swung(ax, ay, az, bx, by, bz, x, y, z):  # type: ignore[no-untyped-def]
    """The vector (x, y, z) carried by the shortest turn from the unit vector a to the unit vector b."""
    c = ax * bx + ay * by + az * bz
    if c < -1.0 + 1e-9:  # opposite: no turn is the shortest; the vector stays
        return x, y, z
    wx, wy, wz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    k = (wx * x + wy * y + wz * z) / (1.0 + c)
    return (
        c * x + wy * z - wz * y + k * wx,
        c * y + wz * x - wx * z + k * wy,
        c * z + wx * y - wy * x + k * wz,
    )


POLE = 1e-6  # radians: how wide a pole of an Euler order is taken to be; less than any figure shows


@njit(cache=True, nogil=True)
def swung_rows(a, lines, v, out):  # type: ignore[no-untyped-def]
    """Fills ``out (F, 3)``: the vector v turned by the shortest turn from a to each of ``lines (F, 3)``."""
    for n in range(len(lines)):
        out[n, 0], out[n, 1], out[n, 2] = swung(
            a[0], a[1], a[2], lines[n, 0], lines[n, 1], lines[n, 2], v[0], v[1], v[2]
        )


@njit(cache=True, nogil=True)
def quat_to_euler(first, j, last, q0, q1, q2, q3):  # type: ignore[no-untyped-def]
    """Angles about axes ``first``, ``j``, ``last`` in this sequence; at a pole the last one is zero.

    References
    ----------
    Bernardes and Viollet, "Quaternion to Euler angles conversion: A direct,
    general and computationally efficient method", PLoS ONE 17(11), 2022.
    """
    x = (q0, q1, q2, q3)
    i, k = last, first  # the paper's formula is for fixed axes: the sequence read backwards
    proper = i == k
    if proper:
        k = 3 - i - j
    sign = (i - j) * (j - k) * (k - i) // 2
    if proper:
        a, b, c, d = x[3], x[i], x[j], x[k] * sign
    else:
        a, b, c, d = x[3] - x[j], x[i] + x[k] * sign, x[j] + x[3], x[k] * sign - x[i]
    middle = 2.0 * math.atan2(math.hypot(c, d), math.hypot(a, b))
    half_sum, half_difference = math.atan2(b, a), math.atan2(d, c)
    if abs(middle) < 1e-7:
        outer, inner = 0.0, 2.0 * half_sum
    elif abs(middle - math.pi) < 1e-7:
        outer, inner = 0.0, 2.0 * half_difference
    else:
        outer, inner = half_sum - half_difference, half_sum + half_difference
    if not proper:
        inner *= sign
        middle -= 0.5 * math.pi
    return wrapped(inner), middle, wrapped(outer)


@njit(cache=True, nogil=True)
def wrapped(angle):  # type: ignore[no-untyped-def]
    """The angle less whole turns, from -pi up to pi."""
    return angle - 2.0 * math.pi * math.floor((angle + math.pi) / (2.0 * math.pi))


@njit(cache=True, nogil=True)
def unwound(angle, near):  # type: ignore[no-untyped-def]
    """The angle on by whole turns, as near to another one as it can be."""
    return angle + 2.0 * math.pi * math.floor((near - angle) / (2.0 * math.pi) + 0.5)


@njit(cache=True, nogil=True)
def euler_near(first, j, last, q0, q1, q2, q3, n0, n1, n2):  # type: ignore[no-untyped-def]
    """Angles of :func:`quat_to_euler`'s sequence that are closest to (n0, n1, n2), with whole turns counted on.

    Of the two families that give the same rotation, the one whose largest
    change is smallest. At a pole only the sum or the difference of the outer
    two is given; both take half of what is to be made up.
    """
    a, b, c = quat_to_euler(first, j, last, q0, q1, q2, q3)
    proper = first == last
    if proper:
        pole = 1.0 if abs(b) < POLE else (-1.0 if abs(b - math.pi) < POLE else 0.0)
    else:
        pole = 0.0
        if abs(abs(b) - 0.5 * math.pi) < POLE:
            pole = 1.0 if ((j - first) % 3 == 1) == (b > 0.0) else -1.0
    if pole != 0.0:
        missing = a + pole * c - n0 - pole * n2
        missing = 0.5 * (missing - 2.0 * math.pi * math.floor(missing / (2.0 * math.pi) + 0.5))
        return n0 + missing, unwound(b, n1), n2 + pole * missing
    a1, b1, c1 = unwound(a, n0), unwound(b, n1), unwound(c, n2)
    other = -b if proper else math.pi - b
    a2, b2, c2 = unwound(a + math.pi, n0), unwound(other, n1), unwound(c + math.pi, n2)
    if max(abs(a1 - n0), abs(b1 - n1), abs(c1 - n2)) <= max(abs(a2 - n0), abs(b2 - n1), abs(c2 - n2)):
        return a1, b1, c1
    return a2, b2, c2


@njit(cache=True, nogil=True)
def shortest(ax, ay, az, bx, by, bz):  # type: ignore[no-untyped-def]
    """The shortest turn from one way to another, as a quaternion."""
    a, b = math.sqrt(ax * ax + ay * ay + az * az), math.sqrt(bx * bx + by * by + bz * bz)
    if a < 1e-12 or b < 1e-12:
        return 0.0, 0.0, 0.0, 1.0
    cosine = (ax * bx + ay * by + az * bz) / (a * b)
    w = 1.0 + cosine
    if w < 1e-9:  # right round: about anything that is square to it
        if abs(ax) < abs(ay):
            x, y, z = 0.0, -az, ay
        else:
            x, y, z = az, 0.0, -ax
        size = math.sqrt(x * x + y * y + z * z)
        return x / size, y / size, z / size, 0.0
    x, y, z = (ay * bz - az * by) / (a * b), (az * bx - ax * bz) / (a * b), (ax * by - ay * bx) / (a * b)
    size = math.sqrt(x * x + y * y + z * z + w * w)
    return x / size, y / size, z / size, w / size
