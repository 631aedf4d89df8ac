"""The surface of a character and how its joints carry it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from hame.maths.rotations import Array

Floats = npt.NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class Material:
    """A flat or textured colour. ``image`` is the bytes of a PNG or JPEG file."""

    name: str
    colour: tuple[float, float, float, float] = (0.8, 0.8, 0.8, 1.0)  # linear RGBA
    roughness: float = 0.9
    metallic: float = 0.0
    double_sided: bool = False
    alpha_mode: str = "OPAQUE"
    image: bytes | None = None
    image_type: str = "image/png"


@dataclass(frozen=True, eq=False)
class Morph:
    """How a shape of the surface moves points of a piece, where it does.

    Attributes
    ----------
    shape : the number of the shape in its skin
    rows : (K,) vertex numbers, rising
    moves, turns : (K, 3) what is added to points, metres in bind pose, and to normals, at an amount of 1
    """

    shape: int
    rows: npt.NDArray[np.uint32]
    moves: Floats
    turns: Floats


@dataclass(frozen=True, eq=False)
class Piece:
    """Triangles of one material.

    Attributes
    ----------
    points, normals : (V, 3) in bind pose, metres
    triangles : (T, 3) vertex numbers, counter-clockwise from outside
    joints : (V, 4) joint numbers in the skeleton
    weights : (V, 4) shares that sum to 1
    uvs : (V, 2) or None
    morphs : of those shapes that move it
    """

    points: Floats
    normals: Floats
    triangles: npt.NDArray[np.uint32]
    joints: npt.NDArray[np.uint16]
    weights: Floats
    material: Material
    uvs: Floats | None = None
    morphs: tuple[Morph, ...] = ()


@dataclass(frozen=True, eq=False)
class Skin:
    """Pieces of surface, and the (J, 4, 4) matrices from the bind pose into each joint's space.

    ``shapes`` are the names of shapes that morph it, and ``amounts`` by how much each does where nothing is keyed.
    """

    pieces: tuple[Piece, ...]
    inverse_bind: Array
    shapes: tuple[str, ...] = ()
    amounts: tuple[float, ...] = ()

    @property
    def triangle_count(self) -> int:
        return sum(len(piece.triangles) for piece in self.pieces)


_LEAST = 2e-5  # metres: what a shape moves less stays


def morph_of(piece: Piece, shape: int, moves: Array) -> Morph | None:
    """What the number of a shape does to a piece whose points go by ``moves (V, 3)``, metres, with the normals that
    follow from it; None where they stay.
    """
    rows = np.flatnonzero(np.linalg.norm(moves, axis=1) > _LEAST)
    if not len(rows):
        return None
    points, triangles = piece.points.astype(float), piece.triangles.astype(np.int64)
    turns = (normals_of(points + moves, triangles) - normals_of(points, triangles))[rows]
    return Morph(shape, rows.astype(np.uint32), moves[rows].astype(np.float32), turns.astype(np.float32))


def normals_of(points: Array, triangles: npt.NDArray[np.int64]) -> Array:
    """Unit normals (V, 3): the mean of the triangles (T, 3) about each point, by their size."""
    a, b, c = (points[triangles[:, n]] for n in range(3))
    across = np.cross(b - a, c - a)
    found = np.zeros_like(points, dtype=float)
    for n in range(3):
        np.add.at(found, triangles[:, n], across)
    return np.asarray(found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-12))


def morphed(piece: Piece, amounts: Array) -> Array:
    """Points ``(V, 3)`` of the piece in bind pose, with shapes by their ``amounts (S,)``: sums, as glTF 2.0 has them
    (section 3.7.2.2, morph targets).
    """
    points = piece.points.astype(float)
    for morph in piece.morphs:
        if amounts[morph.shape] != 0.0:
            points[morph.rows] += amounts[morph.shape] * morph.moves
    return points


def deform(piece: Piece, joint_matrices: Array, inverse_bind: Array, amounts: Array | None = None) -> Array:
    """Linear blend skinning: points ``(V, 3)`` of the piece for joints ``(J, 4, 4)`` in the world, and for ``amounts
    (S,)`` of shapes, if there are any; these come first.

    References
    ----------
    glTF 2.0 specification, section 3.7.3 (skins): the vertex is carried by
    the weighted sum of each joint's global transform times its inverse bind
    matrix.
    """
    blended = np.einsum("vk,vkij->vij", piece.weights, (joint_matrices @ inverse_bind)[piece.joints])
    shaped = piece.points if amounts is None else morphed(piece, amounts)
    points = np.concatenate([shaped, np.ones((len(shaped), 1))], axis=1)
    return np.asarray(np.einsum("vij,vj->vi", blended, points)[:, :3])
