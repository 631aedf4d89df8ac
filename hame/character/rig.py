"""Controls, channels and limbs: what a person takes hold of to pose a character.

A :class:`Rig` is made from a skeleton and a body plan by
:func:`hame.character.build.build_rig`. It is a value; the arrays of its
program are read by :mod:`hame.evaluate`.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from hame.character.bodyplan import BodyPlan
from hame.character.names import counterpart_name, side_of
from hame.character.skeleton import Skeleton
from hame.errors import BadEdit
from hame.maths.rotations import EULER_ORDERS, Array
from hame.program import OUT, Program

Kind = Literal["place", "turn", "scale", "extra"]
PLACE: Kind = "place"
TURN: Kind = "turn"
SCALE: Kind = "scale"
EXTRA: Kind = "extra"
CHANNEL_KINDS = (PLACE, TURN, SCALE, EXTRA)


@dataclass(frozen=True)
class Channel:
    """One number of one control.

    Attributes
    ----------
    address : ``control/name``
    kind : one of CHANNEL_KINDS; copying, resetting and keying work by kind
    unit : ``m``, ``rad`` or an empty string for plain numbers
    rest, low, high : in that unit
    locked : why it cannot be changed; empty when it can
    mirror : +1 or -1: what the value is multiplied with on the other side
    """

    address: str
    control: str
    name: str
    label: str
    kind: Kind
    unit: str
    rest: float = 0.0
    low: float = -np.inf
    high: float = np.inf
    locked: str = ""
    purpose: str = ""
    mirror: int = 1


@dataclass(frozen=True)
class Shape:
    """How a control is drawn: a kind of outline, its size in metres, and its place from the control."""

    kind: str
    size: float
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Control:
    """Something to take hold of.

    Attributes
    ----------
    part : the part of the body it belongs to (``arm.L``), for filtering
    kind : master, body, trunk, fk, ik, pole, foot, finger, switch, face, shapes, extra, chain, or part (of a
        prop)
    mode : ``ik`` or ``fk`` when it only works in that mode of its ``limb``
    parent : the control that carries it, or an empty string
    order : Euler order of its turn
    first, count : its channels in the rig's list; the first six are place and turn when ``posed``
    node, frame : nodes of the control and of the axes in which its place is read
    pre : quaternion of its own axes at rest, seen from the frame
    other : its counterpart on the other side, or itself
    """

    name: str
    label: str
    part: str
    kind: str
    side: str
    parent: str
    limb: str
    mode: str
    order: str
    shape: Shape
    first: int
    count: int
    node: int
    frame: int
    pre: Array
    posed: bool
    other: str


@dataclass(frozen=True)
class Limb:
    """A two-bone limb that can be posed by IK or FK.

    Attributes
    ----------
    switch : address of the channel that blends FK (0) and IK (1)
    fk : controls of upper bone, lower bone and end
    upper, lower, end : nodes of the blended limb
    side : +1 if the bones point along their y axis, -1 if against it
    target, solved : the node that it reaches for in IK, and the first of the two bones that do
    points : by name, places (3,) seen from the IK control about which it may turn while it is planted
    lengths : of both bones, metres
    line, toward : (3,) a line of the limb's own and its bend on it, in the root's axes: the bend on any other follows
    """

    name: str
    label: str
    kind: str
    switch: str
    fk: tuple[str, str, str]
    ik: str
    pole: str
    toe: str
    root: int
    upper: int
    lower: int
    end: int
    target: int
    solved: int
    points: Mapping[str, tuple[float, float, float]]
    end_offset: Array
    side: int
    lengths: tuple[float, float]
    pole_distance: float
    line: Array
    toward: Array


@dataclass(frozen=True, eq=False)
class Chain:
    """A row of joints without a role that is bent as one, by sliders and joint by joint, or reaches for its tip.

    Attributes
    ----------
    name : its control of sliders
    ik, middle : the controls of its tip and of its middle
    switch : address of the channel that blends FK (0) and IK (1)
    joints, controls : the joints of the skeleton that it is made of, and the control of each, from where it hangs on
    end : the node of its end as it is
    reached, tip : the nodes of its end as it reaches, before joints are turned on top, and of what it reaches for
    axes : (N, 4) by joint the axes that it bends about, y along it, seen from its control's at rest
    points : about which it may turn while its tip is planted: none, it is a point itself
    """

    name: str
    label: str
    ik: str
    middle: str
    switch: str
    joints: tuple[int, ...]
    controls: tuple[str, ...]
    end: int
    reached: int
    tip: int
    axes: Array
    kind: str = "chain"
    points: Mapping[str, tuple[float, float, float]] = field(default_factory=dict)


class Tables(NamedTuple):
    """A rig's controls and channels in arrays, for compiled code.

    Attributes
    ----------
    control : (K, 5) node, frame's node, first channel, number of the Euler order, row in the program
    pre : (K, 4) the quaternion of a control's own axes at rest, seen from its frame
    free : (C,) which channels are not locked
    low, high : (C,)
    """

    control: npt.NDArray[np.int32]
    pre: Array
    free: npt.NDArray[np.bool_]
    low: Array
    high: Array


@dataclass(frozen=True, eq=False)
class Rig:
    """A character's controls and the program that turns their channels into joints."""

    skeleton: Skeleton
    plan: BodyPlan
    controls: tuple[Control, ...]
    channels: tuple[Channel, ...]
    limbs: tuple[Limb, ...]
    chains: tuple[Chain, ...]
    program: Program
    joint_nodes: npt.NDArray[np.int32]
    picks: tuple[tuple[str, str], ...]  # by joint: the control to take hold of in FK, in IK
    shape_channels: npt.NDArray[np.int64]  # by shape of the skin (S,), in its order: the channel by which it is laid

    @property
    def size(self) -> float:
        """How large it is, metres: of a prop its surface, of a figure its skeleton."""
        return self.plan.size or self.skeleton.size

    @cached_property
    def addresses(self) -> tuple[str, ...]:
        return tuple(channel.address for channel in self.channels)

    @cached_property
    def rest(self) -> Array:
        """Rest values (C,) of all channels."""
        return np.array([channel.rest for channel in self.channels])

    @cached_property
    def low(self) -> Array:
        """The least values (C,) of all channels."""
        return np.array([channel.low for channel in self.channels])

    @cached_property
    def high(self) -> Array:
        """The greatest values (C,) of all channels."""
        return np.array([channel.high for channel in self.channels])

    @cached_property
    def free(self) -> npt.NDArray[np.bool_]:
        """Which channels (C,) are not locked."""
        return np.array([not channel.locked for channel in self.channels])

    @cached_property
    def turned(self) -> npt.NDArray[np.bool_]:
        """Which channels (C,) are turns."""
        return np.array([channel.kind == TURN for channel in self.channels])

    @cached_property
    def mirrors(self) -> Array:
        """By channel (C,): what its value is multiplied with on the other side."""
        return np.array([float(channel.mirror) for channel in self.channels])

    @cached_property
    def tables(self) -> Tables:
        """What a drag needs to know of all controls and channels."""
        return Tables(
            self._control_table, np.array([control.pre for control in self.controls]), self.free, self.low, self.high
        )

    @cached_property
    def _control_table(self) -> npt.NDArray[np.int32]:
        """By control (K, 5): its node, its frame's node, its first channel, the number of its Euler order, and its
        row in the program.
        """
        rows = {int(out): n for n, out in enumerate(self.program.ops[:, OUT])}
        return np.array(
            [(c.node, c.frame, c.first, EULER_ORDERS.index(c.order), rows[c.node]) for c in self.controls], np.int32
        )

    @cached_property
    def control_nodes(self) -> tuple[npt.NDArray[np.int32], npt.NDArray[np.int32]]:
        """By control (K,): its node, and that of the axes in which its place is read."""
        return np.ascontiguousarray(self._control_table[:, 0]), np.ascontiguousarray(self._control_table[:, 1])

    @cached_property
    def over_there(self) -> npt.NDArray[np.int64]:
        """By channel (C,): the same one of the control on the other side, or -1 without one, in the middle, or locked
        there.
        """
        found = np.full(len(self.channels), -1)
        for number, channel in enumerate(self.channels):
            other = self.counterpart(channel.address)
            if other is not None and other != channel.address and self.free[self._numbers[other]]:
                found[number] = self._numbers[other]
        return found

    @cached_property
    def _controls(self) -> dict[str, Control]:
        return {control.name: control for control in self.controls}

    @cached_property
    def _numbers(self) -> dict[str, int]:
        return {address: number for number, address in enumerate(self.addresses)}

    def control(self, name: str) -> Control:
        """The control of that name; raises :class:`BadEdit` if there is none."""
        try:
            return self._controls[name]
        except KeyError:
            raise BadEdit(f"this rig has no control called {name}") from None

    @cached_property
    def _order(self) -> dict[str, int]:
        return {control.name: n for n, control in enumerate(self.controls)}

    def number_of(self, name: str) -> int:
        """The number of a control."""
        return self._order[self.control(name).name]

    def numbers_of(self, names: Iterable[str]) -> npt.NDArray[np.int64]:
        """The numbers of controls that can be posed, in the rig's order; raises :class:`BadEdit` for an unknown one."""
        found = {self._order[self.control(name).name] for name in names}
        return np.array(sorted(n for n in found if self.controls[n].posed), np.int64)

    def has_control(self, name: str) -> bool:
        return name in self._controls

    def number(self, address: str) -> int:
        """The channel number of an address; raises :class:`BadEdit` if there is none."""
        try:
            return self._numbers[address]
        except KeyError:
            raise BadEdit(f"this rig has no channel called {address}") from None

    def has_channel(self, address: str) -> bool:
        return address in self._numbers

    @cached_property
    def _counterparts(self) -> dict[str, str | None]:
        found: dict[str, str | None] = {}
        shaping = {self.channels[n].name: self.addresses[n] for n in self.shape_channels.tolist()}
        for channel in self.channels:
            address = f"{self.control(channel.control).other}/{channel.name}"
            if shaping.get(channel.name) == channel.address:  # each is of a side by its own name
                address = shaping.get(counterpart_name(channel.name) or "", channel.address)
            found[channel.address] = address if address in self._numbers else None
        return found

    def counterpart(self, address: str) -> str | None:
        """The same channel on the other side (itself in the middle), or None where this rig lacks it."""
        self.number(address)
        return self._counterparts[address]

    def side_of(self, address: str) -> str:
        """The side that a channel stands on: that of its control; of sliders in the middle that of their own name."""
        channel = self.channels[self.number(address)]
        control = self.control(channel.control)
        return control.side or (side_of(channel.name) if self._counterparts[address] != address else "")

    def echo_of(self, address: str) -> tuple[str | None, int]:
        """Where a channel's echo comes from, and the sign of it. The master goes on its own way and is not mirrored."""
        channel = self.channels[self.number(address)] if address in self._numbers else None
        if channel is None:
            return None, 1
        if channel.control == self.controls[0].name:
            return address, 1
        return self._counterparts[address], channel.mirror

    @cached_property
    def echoes(self) -> tuple[npt.NDArray[np.int64], Array]:
        """By channel, the channel (C,) that its echo shows on, or -1, and the sign (C,) it has there."""
        target, sign = np.full(len(self.channels), -1, np.int64), np.ones(len(self.channels))
        for number, address in enumerate(self.addresses):
            source, factor = self.echo_of(address)
            if source is not None:
                target[self.number(source)], sign[self.number(source)] = number, factor
        return target, sign

    def channels_of(self, control: str) -> tuple[Channel, ...]:
        found = self.control(control)
        return self.channels[found.first : found.first + found.count]

    def limb(self, name: str) -> Limb:
        for limb in self.limbs:
            if limb.name == name:
                return limb
        raise BadEdit(f"this rig has no limb called {name}")

    @property
    def ends(self) -> tuple[Limb | Chain, ...]:
        """What can be planted by its end: limbs, and chains by their tips."""
        return (*self.limbs, *self.chains)

    def chain(self, name: str) -> Chain | None:
        """The chain that a control is of: its sliders, its tip, its middle, or one of its joints."""
        return self._chains.get(name)

    @cached_property
    def _chains(self) -> dict[str, Chain]:
        return {name: c for c in self.chains for name in (*c.controls, c.name, c.ik, c.middle)}

    def carrying_node(self, name: str) -> int:
        """The node by which a control carries what belongs to it: of a limb its bone, in IK as in FK."""
        for limb in self.limbs:
            bones = {limb.fk[0]: limb.upper, limb.fk[1]: limb.lower, limb.fk[2]: limb.end, limb.ik: limb.end}
            if name in bones:
                return bones[name]
        return self.control(name).node

    def below(self, name: str) -> list[str]:
        """The control and all that it carries, in the rig's order."""
        inside = {self.control(name).name}
        for control in self.controls:
            if control.parent in inside:
                inside.add(control.name)
        return [control.name for control in self.controls if control.name in inside]
