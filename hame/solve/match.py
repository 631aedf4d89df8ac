"""Changing a limb between FK and IK without a visible change of its pose."""

from __future__ import annotations

from typing import Literal

import numpy as np

from hame.character.rig import Limb, Rig
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.solve.drag import place_control


def match(rig: Rig, values: Array, limb: Limb, to: Literal["ik", "fk"]) -> Array:
    """Channel values ``(C,)`` in which the limb stands as before, posed by ``to``.

    For FK the three controls take the turns of the bones. For IK the end
    control goes where the end is (its roll is taken out), and the pole goes
    out from the middle joint in the plane of the bend, so that the same
    solution comes back.
    """
    result = values.copy()
    nodes = evaluate(rig, values[None])[0]
    switch = rig.number(limb.switch)
    if to == "fk":
        for name, node in zip(limb.fk, (limb.upper, limb.lower, limb.end), strict=True):
            now = evaluate(rig, result[None])[0]
            place_control(rig, result, rig.control(name), now, nodes[node])
        result[switch] = 0.0
    else:
        goal, pole = rig.control(limb.ik), rig.control(limb.pole)
        for channel in rig.channels_of(limb.ik):
            if channel.name == "roll":
                result[rig.number(channel.address)] = 0.0
        now = evaluate(rig, result[None])[0]
        wanted = transforms.compose(nodes[limb.end], transforms.inverse(limb.end_offset))
        place_control(rig, result, goal, now, wanted)
        now = evaluate(rig, result[None])[0]
        place_control(rig, result, pole, now, _pole(limb, nodes))
        result[switch] = 1.0
    return _toes_kept(rig, result, limb, nodes)


def _pole(limb: Limb, nodes: Array) -> Array:
    """A place for the pole: out from the middle joint, square to the line from root to end, in the bend's plane."""
    upper, lower, end = nodes[limb.upper], nodes[limb.lower], nodes[limb.end]
    hinge = rotations.rotate(upper[3:7], np.array([1.0, 0.0, 0.0]))
    line = end[:3] - upper[:3]
    length = float((line @ line) ** 0.5)
    if length < 1e-9:
        line, length = lower[:3] - upper[:3], limb.lengths[0]
    line = line / length
    toward = np.cross(line, hinge)  # since the hinge is toward x line
    place = lower[:3] + limb.pole_distance * upper[7] * toward
    return transforms.transform(place, rotations.IDENTITY)


def _toes_kept(rig: Rig, values: Array, limb: Limb, before: Array) -> Array:
    """The toes' control turned so that the toes point as before, although what carries them has changed."""
    if not limb.toe or not rig.has_control(limb.toe):
        return values
    toe = rig.control(limb.toe)
    now = evaluate(rig, values[None])[0]
    place_control(rig, values, toe, now, before[toe.node])
    return values
