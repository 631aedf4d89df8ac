"""Chains of joints without a role (a tail, a scarf, a rope): bent as one, spread over them without kinks."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import pi

import numpy as np

from hame import program
from hame.character.bulks import bulk_of
from hame.character.draft import LEFT, UP, Draft, stretch_channels
from hame.character.face import zone_of_joint
from hame.character.limb import bone_axes
from hame.character.names import names_helper, side_among
from hame.character.rig import EXTRA, Chain, Channel, Shape
from hame.maths import rotations, transforms
from hame.maths.rotations import Array

SHORTEST = 3  # joints: fewer are bent one by one
WHOLE = ", all of it"
_NUMBER = re.compile(r"[\s_.:-]*\d+$")
_MOST = 4.0 * pi  # either way, of the whole chain
_BENDS = (
    ("bend", "bend", 0, 1, "bends all of it up and down, each joint as much"),
    ("side", "to the side", 2, -1, "bends all of it to the side, each joint as much"),
    ("twist", "twist", 1, -1, "twists all of it, each joint as much"),
)


_REACHES = (
    ("ik", "reaches (IK)", "0: bent by its sliders and joints; 1: reaches for its tip, by way of its middle"),
    ("reach", "stretches to reach", "0: its length is kept; 1: it grows longer to reach its tip"),
)


_WAVES = (
    ("wave", "wave", -pi, pi, 0.0, "how far a wave turns the joints of it at most, less near where it hangs"),
    ("crest", "crest at", -_MOST * 25.0, _MOST * 25.0, 0.0, "where the wave is: keyed on, it runs towards the tip"),
    ("late", "late, a joint", -pi, pi, pi / 4.0, "how much later the wave is at each joint than at the one before"),
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
    by : the channel that blends its bend (0) and how the chain reaches for its tip (1)
    number, count : which joint of the chain it is, from 0 on, of how many
    here, before : the nodes of the joint as the chain reaches, and of the one before it
    line : all joints of its chain, and the control of its sliders
    seen : (7,) where the one before lies on what carries this one, at rest
    """

    first: int
    share: float
    axes: Array
    begins: bool
    by: int
    number: int
    count: int
    here: int
    before: int
    line: tuple[int, ...]
    control: str
    seen: Array

    @property
    def ends(self) -> bool:
        """It is the last of its chain."""
        return self.number == self.count - 1

    @property
    def stretch(self) -> program.Stretch:
        """By what the chain is longer, and thinner."""
        return program.Stretch(self.first + len(_BENDS), self.first + len(_BENDS) + 1)


def chains_in(d: Draft) -> list[list[int]]:
    """Joints that nothing drives yet, and no zone of a face, one after the other without a branch, from where they hang
    to their tip."""
    skeleton = d.skeleton

    def plain(j: int) -> bool:
        helper = names_helper(skeleton.names[j]) and not skeleton.children[j]
        return j not in d.joint_node and not helper and not zone_of_joint(d.plan, skeleton.names[j])

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


def lay_chains(d: Draft, master: int) -> dict[int, Chained]:
    """A control of sliders for each chain, and handles for its tip and its middle; what they do at each of its joints,
    by joint."""
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
        for name, label, purpose in _REACHES:
            d.channels.append(
                Channel(address=f"{control}/{name}", control=control, name=name, label=label, kind=EXTRA, unit="",
                        low=0.0, high=1.0, purpose=purpose)
            )  # fmt: skip
        for name, label, low, high, rest, purpose in _WAVES:
            d.channels.append(
                Channel(address=f"{control}/{name}", control=control, name=name, label=label, kind=EXTRA, unit="rad",
                        low=low, high=high, rest=rest, mirror=1 if side or name != "wave" else -1, purpose=purpose)
            )  # fmt: skip
        part = "whole" if d.plan.is_prop else "further"
        d.sliders(control, first, label=f"{stem}{WHOLE}", part=part, kind="chain", side=side, parent="master")
        found |= _reaching(d, master, line, control, first, stem, part, side)
    return found


def _reaching(
    d: Draft, master: int, line: list[int], control: str, first: int, stem: str, part: str, side: str
) -> dict[int, Chained]:
    """The nodes of a chain that is bent by its sliders alone, those as it reaches, and its two handles."""
    axes = [_axes(d, line, j, side) for j in line]
    above = d.skeleton.parents[line[0]]
    carrier = d.hang_node.get(above, master)
    stretch, share = program.Stretch(first + len(_BENDS), first + len(_BENDS) + 1), 1.0 / len(line)
    plain = carrier
    for n, j in enumerate(line):
        rest = transforms.transform(d.place(j), axes[n])
        plain = d.offset(plain, rest, stretch if n else None)
        for k, (_, _, axis, _, _) in enumerate(_BENDS):
            node = d.node(rest)
            local = transforms.relative(d.rest[plain], rest)
            d.emit(program.bend(node, parent=plain, local=local, by=first + k, share=share, axis=axis))
            plain = node
        plain = _waved(d, plain, rest, first, n, len(line))
    last = bulk_of(d.plan, d.skeleton, line[-1]).end
    end = d.offset(plain, transforms.transform(last, axes[-1]), stretch)
    size = max(d.plan.size or d.skeleton.size, 1e-3)

    def handle(name: str, on: int, rest: Array, label: str) -> int:
        return d.control(
            name, on, rest, label=label, part=part, kind="tip", side=side, shape=Shape("box", 0.03 * size),
            parent_control="master", locks={"r": "only moves: it is a point to reach for"},
        )  # fmt: skip

    tip = handle(f"{control}.tip", master, transforms.transform(last), f"{stem}, tip")
    half = d.node(transforms.transform((d.place(line[0]) + last) / 2.0))
    d.emit(program.midway(half, a=d.offset(carrier, transforms.transform(d.place(line[0]))), b=tip))
    middle = handle(f"{control}.middle", half, d.rest[half], f"{stem}, middle")
    nodes = [d.node(transforms.transform(d.place(j), turn)) for j, turn in zip(line, axes, strict=True)]
    d.node(d.rest[end])
    by = first + len(_BENDS) + 2
    d.emit(program.chain(nodes[0], end=end, tip=tip, middle=middle, by=by, reach=by + 1, count=len(line)))
    found = {}
    for n, j in enumerate(line):
        up = d.skeleton.parents[j]
        before = nodes[n - 1] if n else carrier
        on = d.skeleton.world[up] if n else d.rest[carrier]
        seen = transforms.relative(on, d.rest[before])
        found[j] = Chained(
            first, share, axes[n], n == 0, by, n, len(line), nodes[n], before, tuple(line), control, seen
        )
    return found


def finish_chain(d: Draft, last: int, chained: Mapping[int, Chained]) -> None:
    """Tells of a chain that is laid up to its ``last`` joint, and lays its end as it is."""
    own = chained[last]
    place = bulk_of(d.plan, d.skeleton, last).end
    hang = d.hang_node[last]
    rest = transforms.transform(place, own.axes)
    plain = d.offset(hang, rest, own.stretch)
    seen = transforms.relative(d.skeleton.world[last], d.rest[own.here])
    end = d.emit(
        program.follow(d.node(rest), zero=plain, carrier=hang, before=own.here, here=own.here + 1, by=own.by,
                       local=seen)
    )  # fmt: skip
    names = {c.name: c for c in d.controls}
    controls = tuple(d.picks[j][0] for j in own.line)
    turned = [
        rotations.multiply(rotations.inverse(d.rest[names[name].node][3:7]), chained[j].axes)
        for j, name in zip(own.line, controls, strict=True)
    ]
    tip = f"{own.control}.tip"
    d.chains.append(
        Chain(own.control, names[own.control].label.removesuffix(WHOLE), tip, f"{own.control}.middle",
              f"{own.control}/ik", own.line, controls, end, own.here + 1, names[tip].node, np.array(turned))
    )  # fmt: skip


def _waved(d: Draft, driver: int, rest: Array, first: int, number: int, count: int) -> int:
    """The node of a joint as a wave to the side turns it, more from joint to joint."""
    node, local = d.node(rest), transforms.relative(d.rest[driver], rest)
    by = first + len(_BENDS) + 2 + len(_REACHES)
    share = (number + 1.0) / count
    return d.emit(program.wave(node, parent=driver, local=local, by=by, number=number, share=share, axis=2))


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
    bent by its share; or as the chain reaches for its tip."""
    rest, carried = transforms.transform(d.place(j), chained.axes), driver
    if not chained.begins:
        driver = d.offset(driver, rest, chained.stretch)
    for n, (_, _, axis, _, _) in enumerate(_BENDS):
        node = d.node(rest)
        local = transforms.relative(d.rest[driver], rest)
        d.emit(program.bend(node, parent=driver, local=local, by=chained.first + n, share=chained.share, axis=axis))
        driver = node
    driver = _waved(d, driver, rest, chained.first, chained.number, chained.count)
    out = d.node(rest)
    return d.emit(
        program.follow(
            out, zero=driver, carrier=carried, before=chained.before, here=chained.here, by=chained.by,
            local=chained.seen,
        )
    )  # fmt: skip
