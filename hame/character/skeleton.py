"""A tree of joints in its rest pose."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from hame.errors import BadFile
from hame.maths import transforms
from hame.maths.rotations import Array


@dataclass(frozen=True, eq=False)
class Skeleton:
    """Joints in an order in which every parent comes before its children.

    Attributes
    ----------
    names : unique joint names
    parents : index of the parent joint, -1 for the root
    rest : (J, 8) rest transform of each joint relative to its parent, scale 1
    """

    names: tuple[str, ...]
    parents: tuple[int, ...]
    rest: Array

    def __len__(self) -> int:
        return len(self.names)

    @cached_property
    def world(self) -> Array:
        """Rest transforms (J, 8) in the space of the character, metres."""
        world = np.empty_like(self.rest)
        for j, parent in enumerate(self.parents):
            world[j] = self.rest[j] if parent < 0 else transforms.compose(world[parent], self.rest[j])
        return world

    @cached_property
    def places(self) -> Array:
        """Rest places (J, 3) in the space of the character, metres."""
        return self.world[:, :3]

    @cached_property
    def children(self) -> tuple[tuple[int, ...], ...]:
        found: list[list[int]] = [[] for _ in self.names]
        for j, parent in enumerate(self.parents):
            if parent >= 0:
                found[parent].append(j)
        return tuple(map(tuple, found))

    @cached_property
    def height(self) -> float:
        """Vertical extent of the joints, metres."""
        return float(np.ptp(self.places[:, 1]))

    @cached_property
    def size(self) -> float:
        """How large the body is, metres: its height, or for one that lies low, half of how far it spreads."""
        return max(self.height, 0.5 * float(np.ptp(self.places[:, [0, 2]], axis=0).max()))

    def index(self, name: str) -> int:
        """The number of a joint; raises KeyError if there is none of that name."""
        return self._numbers[name]

    @cached_property
    def _numbers(self) -> dict[str, int]:
        return {name: j for j, name in enumerate(self.names)}

    def is_above(self, above: int, below: int) -> bool:
        """Whether ``above`` is an ancestor of ``below``."""
        while below >= 0:
            below = self.parents[below]
            if below == above:
                return True
        return False

    def chain(self, top: int, bottom: int) -> list[int]:
        """The joints from ``top`` down to ``bottom``, both included; raises ValueError if not on one line."""
        line = [bottom]
        while line[-1] != top:
            parent = self.parents[line[-1]]
            if parent < 0:
                raise ValueError(f"{self.names[bottom]} is not below {self.names[top]}")
            line.append(parent)
        return line[::-1]

    def to_json(self) -> dict[str, Any]:
        return {"names": list(self.names), "parents": list(self.parents), "rest": self.rest.tolist()}


def from_json(data: dict[str, Any]) -> Skeleton:
    return build(data["names"], data["parents"], np.array(data["rest"], float))


def build(names: Sequence[str], parents: Sequence[int], rest: Array) -> Skeleton:
    """A checked skeleton.

    Raises
    ------
    BadFile
        If names repeat, a parent does not come before its child, or there is
        more than one root.
    """
    if len(set(names)) != len(names):
        raise BadFile("two joints have the same name")
    roots = [j for j, parent in enumerate(parents) if parent < 0]
    if len(roots) != 1:
        raise BadFile(f"a skeleton has one root joint, this one has {len(roots)}")
    if any(parent >= j for j, parent in enumerate(parents)):
        raise BadFile("a joint comes before its parent")
    rest = np.array(rest, float)
    rest.flags.writeable = False
    return Skeleton(tuple(names), tuple(map(int, parents)), rest)
