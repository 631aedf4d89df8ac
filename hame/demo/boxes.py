"""Things made of boards and rods: flat sides, sharp edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.skeleton import Skeleton
from hame.character.skin import Material, Piece, Skin
from hame.maths import transforms
from hame.maths.rotations import Array

Point = tuple[float, float, float]


@dataclass(frozen=True)
class Board:
    """A cuboid that a joint carries: its middle and its size along x, y and z, metres, and how far it leans.

    Attributes
    ----------
    turn : radians about x, then y, then z
    """

    joint: str
    material: int
    middle: Point
    size: Point
    turn: Point = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Rod:
    """A round bar with flat ends that a joint carries."""

    joint: str
    material: int
    start: Point
    end: Point
    radius: float
    sides: int = 10


def joined(parts: Sequence[Board | Rod], materials: Sequence[Material], skeleton: Skeleton) -> Skin:
    """The skin of some parts, each carried by its joint alone."""
    pieces = []
    for number, material in enumerate(materials):
        mine = [part for part in parts if part.material == number]
        if not mine:
            continue
        points: list[Array] = []
        normals: list[Array] = []
        triangles: list[Array] = []
        joints: list[Array] = []
        count = 0
        for part in mine:
            p, n, t = _board(part) if isinstance(part, Board) else _rod(part)
            points.append(p)
            normals.append(n)
            triangles.append(t + count)
            joints.append(np.full(len(p), skeleton.index(part.joint)))
            count += len(p)
        numbers = np.zeros((count, 4), np.uint16)
        numbers[:, 0] = np.concatenate(joints)
        weights = np.zeros((count, 4), np.float32)
        weights[:, 0] = 1.0
        pieces.append(
            Piece(
                np.concatenate(points).astype(np.float32), np.concatenate(normals).astype(np.float32),
                np.concatenate(triangles).astype(np.uint32), numbers, weights, material,
            )
        )  # fmt: skip
    inverse = np.linalg.inv(np.array([transforms.to_matrix(world) for world in skeleton.world]))
    return Skin(tuple(pieces), inverse)


def _board(part: Board) -> tuple[Array, Array, Array]:
    points: list[Array] = []
    normals: list[Array] = []
    triangles: list[list[int]] = []
    for axis in range(3):
        u, v = np.eye(3)[(axis + 1) % 3], np.eye(3)[(axis + 2) % 3]
        for sign in (1.0, -1.0):
            out = sign * np.eye(3)[axis]
            corners = [out + a * u + b * v for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
            first = len(points)
            points += corners
            normals += [out] * 4
            order = ((0, 1, 2), (0, 2, 3)) if sign > 0 else ((0, 2, 1), (0, 3, 2))
            triangles += [[first + k for k in three] for three in order]
    turn = _turned(part.turn)
    where = (np.array(points) * 0.5 * np.array(part.size)) @ turn.T + np.array(part.middle)
    return where, np.array(normals) @ turn.T, np.array(triangles)


def _turned(turn: Point) -> Array:
    (cx, cy, cz), (sx, sy, sz) = np.cos(turn), np.sin(turn)
    x = np.array([[1, 0, 0], [0, cx, -sx], [0, sx, cx]])
    y = np.array([[cy, 0, sy], [0, 1, 0], [-sy, 0, cy]])
    z = np.array([[cz, -sz, 0], [sz, cz, 0], [0, 0, 1]])
    return np.asarray(z @ y @ x)


def _rod(part: Rod) -> tuple[Array, Array, Array]:
    start, end = np.array(part.start), np.array(part.end)
    along = (end - start) / np.linalg.norm(end - start)
    side = np.cross(along, [0.0, 1.0, 0.0] if abs(along[1]) < 0.9 else [1.0, 0.0, 0.0])
    side /= np.linalg.norm(side)
    other = np.cross(along, side)
    angles = 2.0 * np.pi * np.arange(part.sides) / part.sides
    round_ = np.cos(angles)[:, None] * side + np.sin(angles)[:, None] * other
    points = [*(start + part.radius * round_), *(end + part.radius * round_)]
    normals = [*round_, *round_]
    triangles = []
    for a in range(part.sides):
        b = (a + 1) % part.sides
        triangles += [[a, b, part.sides + b], [a, part.sides + b, part.sides + a]]
    for place, out, flip in ((start, -along, True), (end, along, False)):
        first = len(points)
        points += [place, *(place + part.radius * round_)]
        normals += [out] * (part.sides + 1)
        for a in range(part.sides):
            b = (a + 1) % part.sides
            three = [first, first + 1 + a, first + 1 + b]
            triangles.append(three[::-1] if flip else three)
    return np.array(points), np.array(normals), np.array(triangles)
