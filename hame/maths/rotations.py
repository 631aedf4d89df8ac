"""Rotations on arrays: products, Euler angles of every order, matrices, interpolation.

Quaternions are ``(..., 4)`` arrays in the order ``(x, y, z, w)`` of glTF 2.0,
of unit length. Angles are radians. An Euler order is a string of three axis
letters, read as turns about the axes that move along with the body
(intrinsic): ``"YXZ"`` turns about y, then about the new x, then about the
new z; it is what SciPy writes with capital letters.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from hame.maths import kernels, rotation_rows

Array = npt.NDArray[np.float64]

EULER_ORDERS = ("XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX", "XYX", "XZX", "YXY", "YZY", "ZXZ", "ZYZ")
IDENTITY: Array = np.array([0.0, 0.0, 0.0, 1.0])
_qmul: Callable[..., tuple[float, ...]] = kernels.qmul.py_func
_qrot: Callable[..., tuple[Array, ...]] = kernels.qrot.py_func


def axes_of(order: str) -> tuple[int, int, int]:
    """The axis numbers (0, 1, 2) of an Euler order.

    Raises
    ------
    ValueError
        If ``order`` is not one of :data:`EULER_ORDERS`.
    """
    if order not in EULER_ORDERS:
        raise ValueError(f"{order!r} is not an Euler order; the orders are {', '.join(EULER_ORDERS)}")
    i, j, k = ("XYZ".index(letter) for letter in order)
    return i, j, k


def _parts(q: Array) -> list[Array]:
    """The numbers of which rows consist, each for all rows."""
    return [q[..., n] for n in range(q.shape[-1])]


def _in_rows(a: Array, b: Array) -> tuple[Array, Array] | None:
    """Both as rows (N, ...) of one kind, or one row for all of the others; None where they go together otherwise."""
    if np.ndim(a) > 2 or np.ndim(b) > 2:
        return None
    one, other = _row_by_row(a), _row_by_row(b)
    least, most = sorted((len(one), len(other)))
    return (one, other) if least in (1, most) else None


def _row_by_row(a: Array) -> Array:
    """Rows (N, ...) as they are compiled for, of one kind alone: contiguous, and such as may be written to."""
    rows = np.ascontiguousarray(a, float).reshape(-1, np.shape(a)[-1])
    return rows if rows.flags.writeable else rows.copy()


def multiply(a: Array, b: Array) -> Array:
    """The rotation ``b`` followed by ``a``: quaternions ``(..., 4)``, broadcast together."""
    if np.ndim(a) == np.ndim(b) == 1:  # alone, they are done sooner without arrays
        return np.array(_qmul(*np.asarray(a).tolist(), *np.asarray(b).tolist()))
    rows = _in_rows(a, b)
    if rows is not None:
        return np.asarray(rotation_rows.products(*rows))
    ax, ay, az, aw = _parts(np.asarray(a))
    bx, by, bz, bw = _parts(np.asarray(b))
    return np.stack(
        [
            aw * bx + ax * bw + ay * bz - az * by,
            aw * by - ax * bz + ay * bw + az * bx,
            aw * bz + ax * by - ay * bx + az * bw,
            aw * bw - ax * bx - ay * by - az * bz,
        ],
        axis=-1,
    )


def inverse(q: Array) -> Array:
    """The opposite rotation of unit quaternions ``(..., 4)``."""
    return np.asarray(np.asarray(q) * np.array([-1.0, -1.0, -1.0, 1.0]))


def rotate(q: Array, v: Array) -> Array:
    """Vectors ``v (..., 3)`` turned by ``q (..., 4)``."""
    q, v = np.asarray(q, float), np.asarray(v, float)
    if q.ndim == v.ndim == 1:
        return np.array(_qrot(*q.tolist(), *v.tolist()))
    rows = _in_rows(q, v)
    if rows is not None:
        return np.asarray(rotation_rows.turned(*rows))
    return np.stack(_qrot(*_parts(q), *_parts(v)), axis=-1)


def to_vector(q: Array) -> Array:
    """Rotation vectors ``(..., 3)`` of quaternions ``(..., 4)``: axes, as long as angles in radians, at most pi."""
    q = np.asarray(q, float)
    if q.ndim == 1:
        q = q if q[3] >= 0.0 else -q
        sine = float(np.linalg.norm(q[:3]))
        return np.asarray(q[:3] * (2.0 * math.atan2(sine, q[3]) / sine if sine > 1e-12 else 2.0))
    q = np.where(q[..., 3:] >= 0.0, q, -q)
    sines = np.linalg.norm(q[..., :3], axis=-1, keepdims=True)
    angles = 2.0 * np.arctan2(sines, q[..., 3:])
    return np.asarray(q[..., :3] * np.divide(angles, sines, out=np.full_like(sines, 2.0), where=sines > 1e-12))


def from_vector(v: Array) -> Array:
    """Quaternions ``(..., 4)`` of rotation vectors ``v (..., 3)``; the way back from :func:`to_vector`."""
    v = np.asarray(v, float)
    if v.ndim == 2:
        return np.asarray(rotation_rows.of_vectors(_row_by_row(v)))
    angles = np.linalg.norm(v, axis=-1, keepdims=True)
    halves = 0.5 * np.sinc(angles / (2.0 * np.pi))  # sin(a / 2) / a, and 1/2 at nothing
    return np.concatenate([v * halves, np.cos(angles / 2.0)], axis=-1)


def angle_between(a: Array, b: Array) -> float:
    """By how many radians the quaternions ``a`` and ``b`` (4,) are turned against one another."""
    return float(2.0 * math.acos(min(abs(float(a @ b)), 1.0)))


def angles_between(one: Array, other: Array) -> Array:
    """The angles (F,) between directions (F, 3), radians."""
    return np.asarray(np.arctan2(np.linalg.norm(np.cross(one, other), axis=1), (one * other).sum(axis=1)))


def from_axis_angle(axis: Array, angle: float) -> Array:
    """The turn by ``angle`` radians about ``axis (3,)``, which need not be of unit length.

    Raises
    ------
    ValueError
        If the axis has no length.
    """
    axis = np.asarray(axis, float)
    length = float(np.linalg.norm(axis))
    if length < 1e-12:
        raise ValueError("a turn needs an axis with a length")
    return np.append(axis / length * math.sin(angle / 2), math.cos(angle / 2))


def from_euler(angles: Array, order: str) -> Array:
    """Quaternions ``(..., 4)`` of Euler ``angles (..., 3)`` in radians, given in the order's sequence."""
    angles = np.asarray(angles, float)
    result = np.broadcast_to(IDENTITY, (*angles.shape[:-1], 4))
    for number, axis in enumerate(axes_of(order)):
        turn = np.zeros((*angles.shape[:-1], 4))
        turn[..., axis] = np.sin(angles[..., number] / 2)
        turn[..., 3] = np.cos(angles[..., number] / 2)
        result = multiply(result, turn)
    return result


def to_euler(q: Array, order: str) -> Array:
    """Euler angles ``(3,)`` in radians of one quaternion ``(4,)``, in the order's sequence.

    The middle angle lies in [-pi/2, pi/2] for orders of three different axes
    and in [0, pi] for the others. At the poles of an order, where only a sum
    or difference of two angles is defined, the last angle is zero.

    References
    ----------
    Bernardes and Viollet, "Quaternion to Euler angles conversion: A direct,
    general and computationally efficient method", PLoS ONE 17(11), 2022.
    """
    return np.array(kernels.quat_to_euler(*axes_of(order), *map(float, q)))


def to_euler_near(q: Array, order: str, near: Array) -> Array:
    """Euler angles of ``q`` that are closest to the angles ``near (3,)``.

    Of the two families of angles that give the same rotation, each with any
    number of whole turns added, the one is chosen whose largest change from
    ``near`` is smallest, so that a control that is turned on and on does not
    jump at half a turn. At a pole of the order both outer angles change as little as they can.
    """
    return np.array(kernels.euler_near(*axes_of(order), *map(float, q), *map(float, near)))


def unwound(angles: Array, near: Array) -> Array:
    """Angles on by whole turns, each as near to another one as it can be (radians, any shapes that go together)."""
    return np.asarray(angles + np.round((near - angles) / (2.0 * np.pi)) * (2.0 * np.pi))


def to_matrix(q: Array) -> Array:
    """Rotation matrices ``(..., 3, 3)`` of quaternions ``(..., 4)``; columns are the turned axes."""
    x, y, z, w = _parts(np.asarray(q, float))
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    return np.stack([np.stack(row, axis=-1) for row in rows], axis=-2)


def from_matrix(matrix: Array) -> Array:
    """The quaternion ``(4,)`` of a rotation matrix ``(3, 3)``."""
    m = np.asarray(matrix, float)
    return np.array(kernels.basis_to_quat(*m.T.reshape(9)))


def slerp(a: Array, b: Array, t: float) -> Array:
    """Spherical interpolation from ``a (4,)`` at t = 0 to ``b (4,)`` at t = 1, the shorter way."""
    return np.array(kernels.slerp4(a[0], a[1], a[2], a[3], b[0], b[1], b[2], b[3], float(t)))
