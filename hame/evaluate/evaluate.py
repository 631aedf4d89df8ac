"""From channel values to joints: the only place where a clip becomes a pose."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.evaluate.cores import run_program
from hame.evaluate.kernel import ORDERS, pose_into
from hame.evaluate.keyed import AT_ONCE
from hame.evaluate.line import played_values
from hame.evaluate.players import Player
from hame.maths.rotations import Array

Floats = npt.NDArray[np.float32]


def evaluate(rig: Rig, values: Array) -> Array:
    """Transforms ``(F, N, 8)`` of all the rig's nodes for channel ``values (F, C)``; see :func:`run_program`."""
    return run_program(rig.program, values)


def channel_values(rig: Rig, clip: Clip, frames: Sequence[int] | npt.NDArray[Any]) -> Array:
    """Channel values ``(F, C)`` of a clip at ``frames`` as it plays: echoes, repeats and ties included, pending poses
    not.
    """
    return played_values({0: Player(rig, clip)}, np.asarray(frames, float))[0]


def in_parts(rig: Rig, clip: Clip, frames: Array) -> Iterator[Array]:
    """Nodes (up to AT_ONCE, N, 8) of many ``frames (F,)``, part by part, for measures that keep little of them."""
    for a in range(0, len(frames), AT_ONCE):
        yield evaluate(rig, channel_values(rig, clip, frames[a : a + AT_ONCE]))


def overlaid(rig: Rig, values: Array, over: Mapping[str, float]) -> Array:
    """A copy of ``values (C,)`` with some channels replaced; channels the rig lacks are passed over."""
    result = values.copy()
    for address, value in over.items():
        if rig.has_channel(address):
            result[rig.number(address)] = value
    return result


def joints(rig: Rig, nodes: Array) -> Array:
    """Joint transforms ``(F, J, 8)`` out of the nodes ``(F, N, 8)``."""
    return nodes[:, rig.joint_nodes]


def controls(rig: Rig, nodes: Array) -> Array:
    """Controls ``(F, K, 12)``: the transform (8), then the quaternion of the axes its place is read in (4)."""
    node, frame = rig.control_nodes
    return np.concatenate([nodes[:, node], nodes[:, frame, 3:7]], axis=-1)


def pose_of(rig: Rig, values: Array) -> tuple[Array, Floats, Floats]:
    """The nodes ``(N, 8)`` of one pose ``(C,)``, and joints ``(J, 8)`` and controls ``(K, 12)`` in single precision.

    The same as :func:`evaluate`, :func:`joints` and :func:`controls` of one frame, in one compiled pass.
    """
    nodes = np.empty((rig.program.nodes, 8))
    j, k = np.empty((len(rig.joint_nodes), 8), np.float32), np.empty((len(rig.controls), 12), np.float32)
    own, frame = rig.control_nodes
    pose_into(rig.program.ops, rig.program.params, ORDERS, values, nodes, rig.joint_nodes, own, frame, j, k)
    return nodes, j, k
