"""What figures stand on: the ground, and what of the props in the shot is turned up."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.evaluate.posed import Posed
from hame.maths import transforms
from hame.maths.rotations import Array
from hame.measure.ground_kernel import raise_to

REACH = 0.12  # metres: what lies so far above a point is beside it, not under it


@dataclass(frozen=True, eq=False)
class Block:
    """What one joint of a prop carries, in the joint's own axes, metres.

    Attributes
    ----------
    outermost : (K, 3) the points of its surface that lie farthest out in many directions
    triangles, boxes : its surface, each triangle's corners going round it as it is seen from outside, and the boxes
        about them (see :func:`hame.measure.ground_kernel.raise_to`)
    """

    joint: int
    outermost: Array
    triangles: Array
    boxes: Array


@lru_cache(maxsize=64)
def blocks(rig: Rig, skin: Skin) -> tuple[Block, ...]:
    """The blocks of a prop, one for each joint that carries a part of its surface."""
    points = np.concatenate([piece.points for piece in skin.pieces]).astype(float)
    owner = np.concatenate(
        [piece.joints[np.arange(len(piece.points)), piece.weights.argmax(axis=1)] for piece in skin.pieces]
    )
    begins = np.cumsum([0, *(len(piece.points) for piece in skin.pieces)])
    corners = np.concatenate([
        np.asarray(piece.triangles, np.int64) + first for piece, first in zip(skin.pieces, begins, strict=False)
    ])  # fmt: skip
    found = []
    for joint in np.unique(owner).tolist():
        local = transforms.apply(transforms.inverse(rig.skeleton.world[joint]), points)
        triangles = local[corners[owner[corners[:, 0]] == joint]]
        if len(triangles):
            found.append(Block(int(joint), outermost(local[owner == joint]), *_boxed(_outward(triangles))))
    return tuple(found)


def _outward(triangles: Array) -> Array:
    """Triangles (T, 3, 3), turned over together where what they enclose is less than nothing."""
    one, two, three = triangles[:, 0], triangles[:, 1], triangles[:, 2]
    turned = float((one * np.cross(two, three)).sum()) < 0.0
    return np.ascontiguousarray(triangles[:, ::-1] if turned else triangles)


_LEAF = 4  # triangles that are looked at one by one
_CURVE = 10  # bits each way of the curve along which they lie


def _boxed(triangles: Array) -> tuple[Array, Array]:
    """Triangles in an order in which those in a row lie close together, and the boxes about them (see
    :func:`hame.measure.ground_kernel.raise_to`); some are there twice, to fill the last boxes.

    They lie along a curve that fills space (Morton, 1966), and are halved again and again.
    """
    middles = triangles.mean(axis=1)
    low, high = middles.min(axis=0), middles.max(axis=0)
    cells = ((middles - low) / np.maximum(high - low, 1e-9) * (2**_CURVE - 1)).astype(np.int64)
    along = np.zeros(len(cells), np.int64)
    for bit in range(_CURVE):
        for axis in range(3):
            along |= ((cells[:, axis] >> bit) & 1) << (3 * bit + axis)
    deep = max(int(np.ceil(np.log2(len(triangles) / _LEAF))), 0)
    order = np.argsort(along, kind="stable")[np.minimum(np.arange(_LEAF << deep), len(triangles) - 1)]
    sorted_ = np.ascontiguousarray(triangles[order])
    level = sorted_.reshape(1 << deep, -1, 3)
    levels = [np.stack([level.min(axis=1), level.max(axis=1)], axis=1)]
    while len(levels[0]) > 1:
        pairs = levels[0].reshape(-1, 2, 2, 3)
        levels.insert(0, np.stack([pairs[:, :, 0].min(axis=1), pairs[:, :, 1].max(axis=1)], axis=1))
    return sorted_, np.ascontiguousarray(np.concatenate(levels))


def _spread(count: int) -> Array:
    """Directions (count, 3) spread evenly over the sphere, along a spiral."""
    n = np.arange(count) + 0.5
    height, angle = 1.0 - 2.0 * n / count, np.pi * (1.0 + 5.0**0.5) * n
    ring = np.sqrt(1.0 - height**2)
    return np.stack([ring * np.cos(angle), height, ring * np.sin(angle)], axis=1)


_DIRECTIONS = _spread(400)


def outermost(points: Array, directions: int = 0) -> Array:
    """Those of some points (P, 3) that lie farthest out in many directions (K, 3), or in so many."""
    along = _spread(directions) if directions else _DIRECTIONS
    return np.asarray(points[np.unique((points @ along.T).argmax(axis=0))])


def lowest(posed: Posed, mine: Sequence[Block]) -> Array:
    """How high the lowest point of a prop is (F,), metres."""
    heights = [
        transforms.apply(posed.nodes[:, posed.rig.joint_nodes[block.joint]][:, None], block.outermost[None])[..., 1]
        for block in mine
    ]
    return np.asarray(np.concatenate(heights, axis=1).min(axis=1))


@dataclass(frozen=True)
class Ground:
    """The ground at zero, and the surfaces of props as they stand on some frames.

    Attributes
    ----------
    standing : by prop, its frames and its blocks
    """

    standing: Sequence[tuple[Posed, Sequence[Block]]] = ()

    def under(self, points: Array) -> Array:
        """How high what lies under points ``(F, K, 3)`` is (F, K), metres."""
        return self.lying(points)[0]

    def lying(self, points: Array) -> tuple[Array, Array]:
        """How high what lies under points ``(F, K, 3)`` is (F, K), metres, and its normals (F, K, 3) there.

        It is the highest of all surfaces that go straight through below a point, or by no more than REACH above it:
        what is higher is beside it, or over it. Walls and undersides are none.
        """
        points = np.ascontiguousarray(points, dtype=float)
        heights, normals = np.zeros(points.shape[:2]), np.zeros(points.shape)
        normals[..., 1] = 1.0
        for posed, mine in self.standing:
            for block in mine:
                joint = np.ascontiguousarray(posed.nodes[:, posed.rig.joint_nodes[block.joint]])
                raise_to(points, joint, block.triangles, block.boxes, REACH, heights, normals)
        return heights, normals

    def at(self, rows: npt.NDArray[np.int64]) -> Ground:
        """The same on some of its frames, by their rows."""
        return Ground([
            (Posed(posed.rig, posed.values[rows], posed.nodes[rows]), mine) for posed, mine in self.standing
        ])  # fmt: skip

    def of(self, posed: Posed) -> Sequence[Block]:
        """The blocks of a prop itself; none where it is not among them."""
        return next((mine for one, mine in self.standing if one is posed), ())


FLAT = Ground()


def ground_of(posed: Mapping[int, Posed], skins: Mapping[int, Skin]) -> Ground:
    """The ground under figures, by the frames of all who play and the skins of the props among them."""
    return Ground([(posed[number], blocks(posed[number].rig, skin)) for number, skin in skins.items()])
