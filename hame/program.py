"""The operations that a rig is compiled to, and a named function that builds each.

A program is a list of operations on numbered nodes. A node is a transform of
eight numbers (place, quaternion, uniform scale). Each operation fills one or
two nodes from nodes filled before it and from channel values; running all of
them for one frame poses the character (:mod:`hame.evaluate.kernel`). Nodes,
channels and rows are told by number; :data:`NONE` stands for none.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from hame.maths.rotations import EULER_ORDERS, Array

# What an operation does; the functions below say with what.
OFFSET, CONTROL, TWO_BONE, MIX, FOOT_ROLL, BEND, TWIST, CHAIN, FOLLOW, MIDWAY, WAVE = range(11)

# Columns of an operation's row (int32).
CODE, OUT, A, B, C, CHANNEL, EXTRA, FLAG = range(8)
# Columns of its parameters (float64): a place and a turn from the parent, then what the operation needs besides.
PARAMS = 16
NONE = -1

# How far a pole turns the bend from where hips (or chest) and limb together put it, and how near to the line from root
# to target it begins to lose its say, as a share of the limb's length.
FARTHEST_BEND = math.radians(70.0)
NEAR_LINE = 0.06


class Program(NamedTuple):
    """Operations in the order in which they run.

    Attributes
    ----------
    ops : (R, 8) int32, a row an operation: code, out, a, b, c, channel, extra, flag
    params : (R, 16) float64
    nodes, channels : how many there are
    """

    ops: npt.NDArray[np.int32]
    params: Array
    nodes: int
    channels: int


@dataclass(frozen=True)
class Operation:
    """One row of a program, before it is laid out."""

    code: int
    out: int
    a: int = 0
    b: int = 0
    c: int = 0
    channel: int = 0
    extra: int = 0
    flag: int = 0
    params: tuple[float, ...] = ()


class Stretch(NamedTuple):
    """What makes bones longer and shorter.

    Attributes
    ----------
    by, volume : channels: by what their length is multiplied, and what share of their volume stays
    solved, blend : of a limb, its first solved node, which has the stretch that it reaches by as its scale, and the
        channel that blends FK (0) and IK (1)
    """

    by: int
    volume: int
    solved: int = NONE
    blend: int = NONE


def offset(
    out: int, parent: int, local: Array, stretch: Stretch | None = None, long: bool = True, thick: bool = False
) -> Operation:
    """``out`` is carried rigidly by ``parent`` (NONE: the world) at ``local (7,)``: place and quaternion.

    Under a ``stretch`` its place is multiplied where ``long``, and its scale follows the volume where ``thick``.
    """
    if stretch is None:
        return Operation(OFFSET, out, parent, b=NONE, c=NONE, channel=NONE, extra=NONE, params=_numbers(local[:7]))
    return Operation(
        OFFSET, out, parent, b=stretch.solved, c=stretch.blend, channel=stretch.by,
        extra=stretch.volume if thick else NONE, flag=int(long), params=_numbers(local[:7]),
    )  # fmt: skip


def control(
    out: int, frame: int, first_channel: int, own_axes: Array, order: str, scale_channel: int = NONE
) -> Operation:
    """``out`` is placed in ``frame`` by three channels, and turned on its ``own_axes (4,)`` by the next three."""
    return Operation(
        CONTROL, out, frame, channel=first_channel, extra=scale_channel, flag=EULER_ORDERS.index(order),
        params=(0.0, 0.0, 0.0, *_numbers(own_axes)),
    )  # fmt: skip


def two_bone(
    out: int, *, root: int, target: int, pole: int, lengths: tuple[float, float], side: int, line: Array, toward: Array,
    softness: int, swivel: int,
) -> Operation:  # fmt: skip
    """``out`` and ``out + 1`` are the two bones from ``root`` to ``target``, bent towards ``pole``.

    Parameters
    ----------
    lengths : of both bones, metres
    side : +1 or -1: the bones point along their y or against it
    line, toward : (3,) a line of the limb's own and its bend on it, in the root's axes (see :mod:`hame.character.limb`)
    softness, swivel : channels. After the softness come those of the stretch, of how far it stretches to reach, and of
        the share of its length from which it does
    """
    return Operation(
        TWO_BONE, out, root, target, pole, softness, swivel,
        params=(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, *lengths, float(side), *_numbers(line), *_numbers(toward)),
    )  # fmt: skip


def mix(
    out: int, *, zero: int, one: int, carrier: int, by: int, local: Array, stretch: Stretch | None = None
) -> Operation:
    """``out`` is turned between ``zero`` and ``one`` by a channel, and placed on ``carrier`` at ``local (7,)``, which a
    ``stretch`` multiplies.
    """
    solved, channel = (NONE, NONE) if stretch is None else (stretch.solved, stretch.by)
    return Operation(MIX, out, zero, one, carrier, by, extra=solved, flag=channel, params=_numbers(local[:7]))


def foot_roll(
    out: int, *, foot: int, roll: int, limit: int, bank: int, ball: Array, heel: Array, tip: Array,
    edges: tuple[float, float],
) -> Operation:  # fmt: skip
    """``out`` and ``out + 1`` are the frames of toes and ankle under a rolling ``foot``; places (3,) seen from it.

    ``roll`` and ``limit`` are channels: below zero the foot rolls back on its
    heel, above over its ball, and from the limit on over the tip. ``bank`` is
    the first of four channels more: how far it tips onto its outer edge (below
    zero onto the inner one), and how far it swivels about heel, ball and tip.
    ``edges`` are how far to the side the outer and the inner one lie, metres.
    """
    return Operation(
        FOOT_ROLL, out, foot, channel=roll, extra=limit, flag=bank,
        params=(*_numbers(ball), 0.0, 0.0, 0.0, 1.0, *_numbers(heel), *_numbers(tip), *edges),
    )  # fmt: skip


SHAPES = 7  # how many channels shape a hand, one after the other


def bend(
    out: int, *, parent: int, local: Array, by: int, share: float, also_by: int = NONE, axis: int = 0,
    shaped_by: int = NONE, shapes: Sequence[float] | Array = (), shape_share: int = NONE,
) -> Operation:  # fmt: skip
    """``out`` hangs on ``parent`` at ``local (7,)``, turned about an ``axis`` (0, 1, 2: x, y, z).

    It turns by a ``share`` of the channel ``by``, by the channel ``also_by``, and by ``shapes (7,)`` of seven channels
    from ``shaped_by`` on, of which the channel ``shape_share`` takes a share.
    """
    return Operation(
        BEND, out, parent, b=axis, c=shape_share, channel=by, extra=also_by, flag=shaped_by,
        params=(*_numbers(local[:7]), share, 1.0, *_numbers(shapes)),
    )  # fmt: skip


def twist(
    out: int, *, along: int, zero: tuple[int, int], one: tuple[int, int], by: int, share: float, at_rest: Array
) -> Operation:
    """``out`` is ``along`` with a ``share`` of a twist about its y, which a channel blends from ``zero`` to ``one``.

    Each is a pair of nodes: the twist is that of the second against the first,
    counted from ``at_rest (4,)``. It is blended as an angle: what is mixed out
    of turns far apart may be twisted half round on its way, where a share of it would jump.
    """
    return Operation(
        TWIST, out, along, *zero, channel=by, extra=one[0], flag=one[1],
        params=(0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, share, *_numbers(at_rest)),
    )  # fmt: skip


CHAIN_STEP = 5  # nodes of a joint of a chain, of which the last is how it is bent


def chain(out: int, *, end: int, tip: int, middle: int, by: int, reach: int, count: int) -> Operation:
    """``out`` and the nodes after it are the joints of a chain that reaches for ``tip``, drawn to ``middle``; and its
    end.

    Parameters
    ----------
    end : the node of its end, as the chain is bent by its sliders; the nodes before it are, joint by joint, CHAIN_STEP
        for each of its ``count`` joints
    by : the channel that blends FK (0) and IK (1)
    reach : the channel that says how far it stretches to reach
    """
    return Operation(CHAIN, out, end, tip, middle, by, extra=reach, flag=count)


def follow(out: int, *, zero: int, carrier: int, before: int, here: int, by: int, local: Array) -> Operation:
    """``out`` goes by a channel from ``zero`` to where ``here`` is seen from ``before``, on a ``carrier`` on which that
    is ``local (7,)``."""
    return Operation(FOLLOW, out, zero, carrier, here, by, extra=before, params=_numbers(local[:7]))


def wave(out: int, *, parent: int, local: Array, by: int, number: int, share: float, axis: int) -> Operation:
    """``out`` hangs on ``parent`` at ``local (7,)``, turned about an ``axis`` as a wave comes by.

    The first of three channels from ``by`` on is how far a joint turns at most, the second where the wave is, and the
    third how much later it is at each joint than at the one before, radians. This one is the ``number``-th, and takes a
    ``share`` of the first.
    """
    return Operation(WAVE, out, parent, b=axis, channel=by, params=(*_numbers(local[:7]), float(number), share))


def midway(out: int, *, a: int, b: int) -> Operation:
    """``out`` lies half way from ``a`` to ``b``, turned as ``a`` is."""
    return Operation(MIDWAY, out, a, b)


def assembled(operations: Sequence[Operation], nodes: int, channels: int) -> Program:
    """The program of some operations, which fill ``nodes`` from ``channels``."""
    ops = np.array([(o.code, o.out, o.a, o.b, o.c, o.channel, o.extra, o.flag) for o in operations], np.int32)
    params = np.zeros((len(operations), PARAMS))
    for row, operation in zip(params, operations, strict=True):
        row[: len(operation.params)] = operation.params
    # Rounding noise is taken out, so that the kernel can tell nothing from something.
    params[np.abs(params) < 1e-14] = 0.0
    params[np.abs(params - 1.0) < 1e-14] = 1.0
    return Program(ops.reshape(-1, 8), params, nodes, channels)


# Which of a row's numbers are nodes and channels, by code: what has to be shifted where programs are joined.
_NODES = {
    OFFSET: (A, B), CONTROL: (A,), TWO_BONE: (A, B, C), MIX: (A, B, C, EXTRA), FOOT_ROLL: (A,), BEND: (A,),
    TWIST: (A, B, C, EXTRA, FLAG), CHAIN: (A, B, C), FOLLOW: (A, B, C, EXTRA), MIDWAY: (A, B), WAVE: (A,),
}  # fmt: skip
_CHANNELS = {
    OFFSET: (C, CHANNEL, EXTRA), CONTROL: (CHANNEL, EXTRA), TWO_BONE: (CHANNEL, EXTRA), MIX: (CHANNEL, FLAG),
    FOOT_ROLL: (CHANNEL, EXTRA, FLAG),
    BEND: (CHANNEL, EXTRA, FLAG, C), TWIST: (CHANNEL,), CHAIN: (CHANNEL, EXTRA), FOLLOW: (CHANNEL,),
    MIDWAY: (), WAVE: (CHANNEL,),
}  # fmt: skip


_FILL_TWO = (TWO_BONE, FOOT_ROLL)


def _filled(op: Sequence[int] | npt.NDArray[np.int32]) -> int:
    """How many nodes an operation fills, from its first one on."""
    return int(op[FLAG]) + 1 if op[CODE] == CHAIN else 2 if op[CODE] in _FILL_TWO else 1


def joined(programs: Sequence[Program]) -> Program:
    """Several programs as one: nodes and channels of each follow those of the one before."""
    if len(programs) == 1:
        return programs[0]
    rows = []
    nodes = channels = 0
    for program in programs:
        ops = program.ops.copy()
        ops[:, OUT] += nodes
        for code in range(len(_NODES)):
            mine = ops[:, CODE] == code
            for shift, columns in ((nodes, _NODES[code]), (channels, _CHANNELS[code])):
                for column in columns:
                    ops[:, column] += np.where(mine & (ops[:, column] > NONE), shift, 0).astype(np.int32)
        rows.append(ops)
        nodes, channels = nodes + program.nodes, channels + program.channels
    return Program(np.concatenate(rows), np.concatenate([p.params for p in programs]), nodes, channels)


@dataclass(frozen=True)
class Part:
    """What of a program has to run for some nodes to stand.

    Attributes
    ----------
    program : the rows that are needed, with nodes numbered anew; channels keep their numbers
    at : (K,) the new numbers of the nodes that were wished for
    rows : (R,) which rows of the whole program it holds
    """

    program: Program
    at: npt.NDArray[np.int64]
    rows: npt.NDArray[np.int64]


def part(program: Program, wanted: Sequence[int]) -> Part:
    """The part of a program that fills the nodes ``wanted``, and nothing besides what they need."""
    ops = program.ops
    filled_by = np.full(program.nodes, NONE, np.int64)
    for row, op in enumerate(ops.tolist()):
        filled_by[op[OUT] : op[OUT] + _filled(op)] = row
    needed: set[int] = set()
    waiting = [int(filled_by[node]) for node in wanted if node > NONE]
    while waiting:
        row = waiting.pop()
        if row in needed:
            continue
        needed.add(row)
        nodes = (int(ops[row, column]) for column in _NODES[ops[row, CODE]])
        waiting += [int(filled_by[node]) for node in nodes if node > NONE]
    rows = np.array(sorted(needed), np.int64)
    number = np.full(program.nodes, NONE, np.int64)
    count = 0
    mine = ops[rows].copy()
    for op in mine:
        filled = _filled(op)
        number[op[OUT] : op[OUT] + filled] = np.arange(count, count + filled)
        count += filled
        op[OUT] = number[op[OUT]]
        for column in _NODES[op[CODE]]:
            if op[column] > NONE:
                op[column] = number[op[column]]
    at = np.array([number[node] if node > NONE else NONE for node in wanted], np.int64)
    return Part(Program(mine.reshape(-1, 8), program.params[rows], count, program.channels), at, rows)


def _numbers(values: Sequence[float] | Array) -> tuple[float, ...]:
    return tuple(float(value) for value in values)
