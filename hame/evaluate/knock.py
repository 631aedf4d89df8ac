"""What a blow adds to channel values: it goes through the body as a shake does, and legs take it up."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Limb, Rig
from hame.clip.answers import Knock
from hame.evaluate.shake import chain_of, shake_adds
from hame.evaluate.some import some_nodes
from hame.maths.rotations import Array


def knock_adds(rig: Rig, begins: str, span: Knock, times: Array, values: Array) -> Array:
    """What a blow on a control adds to channel ``values (T, C)`` at times (T,) inside of it.

    Where it moves the body, this goes down by what the legs would lack, so that feet posed by IK stay where they are.
    """
    added = shake_adds(rig, begins, span, times, values)
    legs = [limb for limb in rig.limbs if limb.kind == "leg"]
    body = next((control for control in rig.controls if control.kind == "body"), None)
    if not chain_of(rig, begins).rising or not legs or body is None:
        return added
    before = _lacking(rig, legs, values)
    for _ in range(2):  # what is nearer is level by less
        added[:, body.first + 1] -= np.maximum(_lacking(rig, legs, values + added) - before, 0.0)
    return np.asarray(added * rig.free)


def _lacking(rig: Rig, legs: list[Limb], values: Array) -> Array:
    """How far down (T,) hips have to go for the feet to be reached by legs that are posed by IK, metres."""
    out = some_nodes(rig, tuple(node for limb in legs for node in (limb.upper, limb.target)), values)
    lacks = np.zeros(len(values))
    for n, limb in enumerate(legs):
        hip, foot = out[:, 2 * n], out[:, 2 * n + 1, :3]
        way = hip[:, :3] - foot
        level = (way[:, [0, 2]] ** 2).sum(axis=1)
        upright = np.sqrt(np.maximum((sum(limb.lengths) * hip[:, 7]) ** 2 - level, 0.0))
        by_ik = values[:, rig.number(limb.switch)] > 0.5
        lacks = np.maximum(lacks, np.where(by_ik, way[:, 1] - upright, 0.0))
    return np.asarray(lacks)
