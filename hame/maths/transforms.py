"""Rigid transforms with a uniform scale, as eight numbers.

A transform is ``(x, y, z, qx, qy, qz, qw, s)``: a point p goes to
``place + rotate(q, s * p)``. Arrays of transforms have the shape ``(..., 8)``.
"""

from __future__ import annotations

import numpy as np

from hame.maths import rotations
from hame.maths.rotations import Array

IDENTITY: Array = np.array([0, 0, 0, 0, 0, 0, 1, 1], float)


def transform(place: Array, turn: Array = rotations.IDENTITY, scale: float = 1.0) -> Array:
    """One transform ``(8,)`` of a place ``(3,)``, a quaternion ``(4,)`` and a scale."""
    return np.concatenate([np.asarray(place, float), np.asarray(turn, float), [scale]])


def compose(outer: Array, inner: Array) -> Array:
    """``inner`` carried by ``outer``; both ``(..., 8)``, broadcast together."""
    if outer.ndim == inner.ndim == 1:  # alone, they are done sooner
        place = outer[:3] + rotations.rotate(outer[3:7], outer[7] * inner[:3])
        return np.concatenate([place, rotations.multiply(outer[3:7], inner[3:7]), [outer[7] * inner[7]]])
    place = outer[..., :3] + rotations.rotate(outer[..., 3:7], outer[..., 7:] * inner[..., :3])
    turn = rotations.multiply(outer[..., 3:7], inner[..., 3:7])
    scale = outer[..., 7:] * inner[..., 7:]
    return np.concatenate([place, turn, np.broadcast_to(scale, (*place.shape[:-1], 1))], axis=-1)


def inverse(t: Array) -> Array:
    """The transform ``(..., 8)`` that undoes ``t``; the scale must not be zero."""
    turn = rotations.inverse(t[..., 3:7])
    place = rotations.rotate(turn, -t[..., :3]) / t[..., 7:]
    return np.concatenate([place, turn, 1.0 / t[..., 7:]], axis=-1)


def relative(outer: Array, world: Array) -> Array:
    """``world`` as seen from ``outer``: ``compose(outer, relative(outer, world)) == world``."""
    return compose(inverse(outer), world)


def apply(t: Array, points: Array) -> Array:
    """Points ``(..., 3)`` carried by ``t (..., 8)``."""
    return np.asarray(t[..., :3] + rotations.rotate(t[..., 3:7], t[..., 7:] * points))


def to_matrix(t: Array) -> Array:
    """4 x 4 matrices ``(..., 4, 4)`` (column vectors) of transforms ``(..., 8)``."""
    m = np.zeros((*t.shape[:-1], 4, 4))
    m[..., :3, :3] = rotations.to_matrix(t[..., 3:7]) * t[..., 7, None, None]
    m[..., :3, 3] = t[..., :3]
    m[..., 3, 3] = 1.0
    return m
