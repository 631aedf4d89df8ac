"""What figures stand on: the ground, and the tops of the props in the shot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.character.skin import Skin
from hame.evaluate.posed import Posed
from hame.maths import transforms
from hame.maths.rotations import Array

REACH = 0.12  # metres: what lies so far above a point is beside it, not under it


@dataclass(frozen=True)
class Block:
    """What one joint of a prop carries: the box around it, in the joint's own axes.

    Attributes
    ----------
    low, high : (3,) its corners, metres
    outermost : (K, 3) the points of its surface that lie farthest out in many directions
    """

    joint: int
    low: Array
    high: Array
    outermost: Array


def blocks(rig: Rig, skin: Skin) -> tuple[Block, ...]:
    """The blocks of a prop, one for each joint that carries a part of its surface."""
    points = np.concatenate([piece.points for piece in skin.pieces]).astype(float)
    owner = np.concatenate(
        [piece.joints[np.arange(len(piece.points)), piece.weights.argmax(axis=1)] for piece in skin.pieces]
    )
    found = []
    for joint in np.unique(owner).tolist():
        local = transforms.apply(transforms.inverse(rig.skeleton.world[joint]), points[owner == joint])
        found.append(Block(int(joint), local.min(axis=0), local.max(axis=0), outermost(local)))
    return tuple(found)


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
    """The ground at zero, and blocks of props as they stand on some frames.

    Attributes
    ----------
    standing : by prop, its frames and its blocks
    """

    standing: Sequence[tuple[Posed, Sequence[Block]]] = ()

    def under(self, points: Array) -> Array:
        """How high what lies under points ``(F, K, 3)`` is (F, K), metres.

        A prop lies under a point where the point is over its box and no more than REACH below its top.
        """
        height = np.zeros(points.shape[:2])
        for posed, mine in self.standing:
            for block in mine:
                joint = posed.nodes[:, posed.rig.joint_nodes[block.joint]]
                local = transforms.apply(transforms.inverse(joint)[:, None], points)
                over = ((local >= block.low) & (local <= block.high))[..., [0, 2]].all(axis=-1)
                top = self._top(joint, block)
                near = over & (points[..., 1] > top[:, None] - REACH)
                height = np.where(near, np.maximum(height, top[:, None]), height)
        return height

    def of(self, posed: Posed) -> Sequence[Block]:
        """The blocks of a prop itself; none where it is not among them."""
        return next((mine for one, mine in self.standing if one is posed), ())

    @staticmethod
    def _top(joint: Array, block: Block) -> Array:
        """How high the highest corner of a block is, by frame."""
        corners = np.array([[x, y, z] for x in (block.low[0], block.high[0]) for y in (block.low[1], block.high[1])
                            for z in (block.low[2], block.high[2])])  # fmt: skip
        return np.asarray(transforms.apply(joint[:, None], corners[None])[..., 1].max(axis=1))


FLAT = Ground()


def ground_of(posed: Mapping[int, Posed], skins: Mapping[int, Skin]) -> Ground:
    """The ground under figures, by the frames of all who play and the skins of the props among them."""
    return Ground([(posed[number], blocks(posed[number].rig, skin)) for number, skin in skins.items()])
