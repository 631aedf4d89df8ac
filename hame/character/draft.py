"""What is collected while a rig is laid out: nodes, controls, channels, and the program that drives joints."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import inf

import numpy as np

from hame import program
from hame.character.bodyplan import BodyPlan
from hame.character.names import counterpart_name, numbered
from hame.character.rig import EXTRA, PLACE, SCALE, TURN, Chain, Channel, Control, Limb, Shape
from hame.character.skeleton import Skeleton
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.program import NONE, Operation, Stretch

FREE = ""
UP, FORWARD, LEFT = np.eye(3)[1], np.eye(3)[2], np.eye(3)[0]
SIDES = {"L": "left", "R": "right"}
# Right-hand axes of turned controls: the left's, mirrored and all reversed.
OTHER_SIDE = rotations.from_matrix(np.diag([1.0, -1.0, -1.0]))

TURN_ONLY = "turns only: the bones keep their length"
HINGE = "is a hinge: it only bends"
MOVE_ONLY = "only moves: it is a point to aim the bend at"


@dataclass
class Draft:
    """What is collected while the rig is laid out, from the master outwards."""

    skeleton: Skeleton
    plan: BodyPlan
    operations: list[Operation] = field(default_factory=list)
    rest: list[Array] = field(default_factory=list)  # rest transform of every node
    controls: list[Control] = field(default_factory=list)
    channels: list[Channel] = field(default_factory=list)
    limbs: list[Limb] = field(default_factory=list)
    chains: list[Chain] = field(default_factory=list)
    joint_node: dict[int, int] = field(default_factory=dict)
    hang_node: dict[int, int] = field(default_factory=dict)  # joint -> what is placed on it
    carrier: dict[int, str] = field(default_factory=dict)  # joint -> the control that turns it
    picks: dict[int, tuple[str, str]] = field(default_factory=dict)
    shaping: dict[str, str] = field(default_factory=dict)  # shape of the skin -> the address by which it is laid

    # Nodes

    def node(self, rest: Array) -> int:
        self.rest.append(rest)
        return len(self.rest) - 1

    def emit(self, operation: Operation) -> int:
        """Adds an operation; returns the node that it fills."""
        self.operations.append(operation)
        return operation.out

    def offset(
        self, parent: int, rest: Array, stretch: Stretch | None = None, long: bool = True, thick: bool = False
    ) -> int:
        """A node carried by ``parent`` (-1: the world), at ``rest`` in the rest pose; see :func:`program.offset`."""
        local = rest if parent < 0 else transforms.relative(self.rest[parent], rest)
        return self.emit(program.offset(self.node(rest), parent, local, stretch, long, thick))

    def joint(
        self, j: int, driver: int, carrier: str, picks: tuple[str, str] | None = None, stretch: Stretch | None = None
    ) -> None:
        """The joint ``j`` follows the node ``driver``; under a ``stretch`` it grows thinner as it grows longer."""
        self.joint_node[j] = self.offset(driver, self.skeleton.world[j], stretch, thick=True)
        # What hangs on a joint is not to grow thinner with it.
        self.hang_node[j] = self.offset(driver, self.skeleton.world[j], stretch) if stretch else self.joint_node[j]
        self.carrier[j] = carrier
        self.picks[j] = picks or (carrier, carrier)

    # Controls

    def control(
        self,
        name: str,
        parent: int,
        rest: Array,
        *,
        label: str,
        part: str,
        kind: str,
        shape: Shape,
        parent_control: str,
        side: str = "",
        limb: str = "",
        mode: str = "",
        order: str = "YXZ",
        frame_turn: Array | None = None,
        locks: dict[str, str] | None = None,
        limits: dict[str, tuple[float, float]] | None = None,
        labels: dict[str, str] | None = None,
        reflect_place: bool = True,
        reflect_turn: bool = True,
        scalable: bool = False,
        extra: Sequence[Channel] = (),
        stretch: Stretch | None = None,
        scale_label: str = "",
    ) -> int:
        """Adds a control at ``rest``; returns its node. ``frame_turn``: axes in which its place is read."""
        locks, limits, labels = locks or {}, limits or {}, labels or {}
        axes = rest[3:7] if frame_turn is None else frame_turn
        pre = rotations.multiply(rotations.inverse(axes), rest[3:7])
        frame = self.offset(parent, transforms.transform(rest[:3], axes), stretch)
        first = len(self.channels)
        for name_of, axis in (("t", "xyz"), ("r", "xyz")):
            place = name_of == "t"
            for number, letter in enumerate(axis):
                short = name_of + letter
                if place:
                    mirror = (-1 if number == 0 else 1) if reflect_place else -1
                else:
                    mirror = (1 if number == 0 else -1) if reflect_turn else 1
                low, high = limits.get(short, (-inf, inf))
                self.channels.append(
                    Channel(
                        address=f"{name}/{short}", control=name, name=short,
                        label=labels.get(short, f"move {letter}" if place else f"turn {letter}"),
                        kind=PLACE if place else TURN, unit="m" if place else "rad", low=low, high=high,
                        locked=locks.get(short, locks.get(name_of, FREE)), mirror=mirror,
                    )
                )  # fmt: skip
        scale = NONE
        if scalable:
            scale = len(self.channels)
            self.channels.append(
                Channel(address=f"{name}/s", control=name, name="s", label="size", kind=SCALE, unit="", rest=1.0,
                        low=limits.get("s", (0.01, 100.0))[0], high=limits.get("s", (0.01, 100.0))[1],
                        purpose=scale_label or "makes the whole character larger or smaller")
            )  # fmt: skip
        self.channels += extra
        out = self.emit(program.control(self.node(rest), frame, first, pre, order, scale))
        self.controls.append(
            Control(
                name=name, label=label, part=part, kind=kind, side=side, parent=parent_control, limb=limb, mode=mode,
                order=order, shape=shape, first=first, count=len(self.channels) - first, node=out, frame=frame, pre=pre,
                posed=True, other=other_side(name),
            )
        )  # fmt: skip
        return out

    def sliders(
        self, name: str, first: int, *, label: str, part: str, kind: str, parent: str, side: str = "", limb: str = "",
        at: Sequence[float] | None = None,
    ) -> None:  # fmt: skip
        """Adds a control of sliders alone, the channels laid from the ``first`` one on; it is not drawn, and stands
        nowhere, or ``at`` a place that its parent carries."""
        if at is None:
            node = self.offset(-1, transforms.IDENTITY)
        else:
            node = self.offset(self.node_of(parent), transforms.transform(np.asarray(at, float)))
        self.controls.append(
            Control(
                name=name, label=label, part=part, kind=kind, side=side, parent=parent, limb=limb, mode="", order="YXZ",
                shape=Shape("none", 0.0), first=first, count=len(self.channels) - first, node=node, frame=node,
                pre=rotations.IDENTITY, posed=False, other=other_side(name),
            )
        )  # fmt: skip

    def unused(self, name: str) -> str:
        """The name for a control, with a number behind it where another one has it."""
        return numbered(name, {control.name for control in self.controls})

    def number(self, address: str) -> int:
        return next(n for n, channel in enumerate(self.channels) if channel.address == address)

    # Places

    def node_of(self, control: str) -> int:
        """The node of a control that is laid already."""
        return next(found.node for found in self.controls if found.name == control)

    def at(self, role: str) -> int | None:
        joint = self.plan.roles.get(role)
        return None if joint is None else self.skeleton.index(joint)

    def place(self, j: int) -> Array:
        return np.asarray(self.skeleton.places[j])


def stretch_channels(control: str, what: str) -> list[Channel]:
    """How long something is, and what of its volume stays by that."""
    return [
        Channel(address=f"{control}/stretch", control=control, name="stretch", label=f"{what} stretch", kind=EXTRA,
                unit="", rest=1.0, low=0.2, high=5.0, purpose=f"how long the {what} is: 1 as it was made"),
        Channel(address=f"{control}/volume", control=control, name="volume", label="volume kept", kind=EXTRA, unit="",
                rest=1.0, low=0.0, high=1.0, purpose=f"1: the {what} grows thinner as it grows longer; 0: it does not"),
    ]  # fmt: skip


def other_side(name: str) -> str:
    """The name on the other side: ``arm.L.upper`` <-> ``arm.R.upper``."""
    words = name.split(".")
    swap = {"L": "R", "R": "L"}
    if any(word in swap for word in words):
        return ".".join(swap.get(word, word) for word in words)
    return counterpart_name(name) or name


def carry_between(d: Draft, j: int) -> tuple[int, str]:
    """The node and control that carry the joint above ``j``, placing joints in between as needed."""
    parent = d.skeleton.parents[j]
    line: list[int] = []
    while parent not in d.joint_node:
        line.append(parent)
        parent = d.skeleton.parents[parent]
    for between in reversed(line):
        d.joint(between, d.hang_node[d.skeleton.parents[between]], d.carrier[parent])
    above = d.skeleton.parents[j]
    return d.hang_node[above], d.carrier[above]
