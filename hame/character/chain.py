"""Chains of joints without a role (a tail, a scarf, a rope): bent as one, spread over them without kinks."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import pi

import numpy as np

from hame import program
from hame.character.draft import LEFT, UP, Draft, stretch_channels
from hame.character.limb import bone_axes
from hame.character.names import names_helper, side_among
from hame.character.rig import EXTRA, Channel
from hame.maths import transforms
from hame.maths.rotations import Array

SHORTEST = 3  # joints: fewer are bent one by one
_NUMBER = re.compile(r"[\s_.:-]*\d+$")
_MOST = 4.0 * pi  # either way, of the whole chain
_BENDS = (
    ("bend", "bend", 0, 1, "bends all of it up and down, each joint as much"),
    ("side", "to the side", 2, -1, "bends all of it to the side, each joint as much"),
    ("twist", "twist", 1, -1, "twists all of it, each joint as much"),
)


@dataclass(frozen=True, eq=False)
class Chained:
    """What of a chain bends at one of its joints.

    Attributes
    ----------
    first : the first of the channels by which the chain is bent
    share : of these, that this joint takes
    axes : the quaternion of the axes that it bends about, at rest
    begins : it is the first of its chain, which stays where it hangs as the chain is stretched
    """

    first: int
    share: float
    axes: Array
    begins: bool

    @property
    def stretch(self) -> program.Stretch:
        """By what the chain is longer, and thinner."""
        return program.Stretch(self.first + len(_BENDS), self.first + len(_BENDS) + 1)


def chains_in(d: Draft) -> list[list[int]]:
    """Joints that nothing drives yet, one after the other without a branch, from where they hang to their tip."""
    skeleton = d.skeleton

    def plain(j: int) -> bool:
        helper = names_helper(skeleton.names[j]) and not skeleton.children[j]
        return j not in d.joint_node and not helper

    def goes_on(j: int) -> int | None:
        after = [child for child in skeleton.children[j] if plain(child)]
        return after[0] if len(after) == 1 and len(skeleton.children[j]) == 1 else None

    found = []
    for j in range(len(skeleton)):
        above = skeleton.parents[j]
        if not plain(j) or (above >= 0 and plain(above) and goes_on(above) == j):
            continue
        line = [j]
        while (after := goes_on(line[-1])) is not None:
            line.append(after)
        if len(line) >= SHORTEST:
            found.append(line)
    return found


def lay_chains(d: Draft) -> dict[int, Chained]:
    """A control of sliders for each chain; returns what they do at each of its joints, by joint."""
    found: dict[int, Chained] = {}
    for line in chains_in(d):
        begins = d.skeleton.names[line[0]]
        side = side_among(begins, d.skeleton.names)
        stem = _NUMBER.sub("", begins) or begins
        control = d.unused(f"chain.{stem}")
        first = len(d.channels)
        for name, label, _, sign, purpose in _BENDS:
            d.channels.append(
                Channel(address=f"{control}/{name}", control=control, name=name, label=label, kind=EXTRA, unit="rad",
                        low=-_MOST, high=_MOST, mirror=1 if side else sign, purpose=purpose)
            )  # fmt: skip
        d.channels += stretch_channels(control, stem)
        part = "whole" if d.plan.is_prop else "further"
        d.sliders(control, first, label=f"{stem}, all of it", part=part, kind="chain", side=side, parent="master")
        for j in line:
            found[j] = Chained(first, 1.0 / len(line), _axes(d, line, j, side), j == line[0])
    return found


def _axes(d: Draft, line: list[int], j: int, side: str) -> Array:
    """The axes of a joint of a chain: y along it, and x level, about which it bends up and down."""
    at = line.index(j)
    a, b = (line[at], line[at + 1]) if at + 1 < len(line) else (line[at - 1], line[at])
    along = d.place(b) - d.place(a)
    along = along / max(float(np.linalg.norm(along)), 1e-9)
    level = np.cross(UP, along)
    if np.linalg.norm(level) < 0.1:  # it hangs, or stands: ahead and back it goes about the way to its left
        level = LEFT - (LEFT @ along) * along
    return bone_axes(level, along, side)


def bent(d: Draft, driver: int, j: int, chained: Chained) -> int:
    """The node on which a joint of a chain hangs: on what carries it, as much farther as the chain is stretched, and
    bent by its share."""
    rest = transforms.transform(d.place(j), chained.axes)
    if not chained.begins:
        driver = d.offset(driver, rest, chained.stretch)
    for n, (_, _, axis, _, _) in enumerate(_BENDS):
        node = d.node(rest)
        local = transforms.relative(d.rest[driver], rest)
        d.emit(program.bend(node, parent=driver, local=local, by=chained.first + n, share=chained.share, axis=axis))
        driver = node
    return driver
