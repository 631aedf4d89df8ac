"""From a hand's movement on the stage to channel values."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal

import numpy as np

from hame.character.rig import Control, Rig
from hame.evaluate.evaluate import evaluate
from hame.maths import rotations, transforms
from hame.maths.rotations import Array, axes_of

Axes = Literal["world", "parent", "own", "view"]
Sides = Literal["one", "mirrored", "opposite"]


def move(
    rig: Rig, values: Array, controls: Sequence[str], offset: Array, axes: Axes, view: Array = rotations.IDENTITY
) -> Array:
    """Channel values ``(C,)`` after moving controls by ``offset (3,)`` metres, given in ``axes``.

    Parameters
    ----------
    axes : ``own`` and ``parent`` are each control's own; ``view`` is the turn ``view (4,)`` of the camera
    """

    def desired(control: Control, nodes: Array) -> Array:
        way = rotations.rotate(_axes_of(control, nodes, axes, view), offset)
        return np.concatenate([nodes[control.node, :3] + way, nodes[control.node, 3:]])

    return _follow(rig, values, controls, desired)


def turn(
    rig: Rig,
    values: Array,
    controls: Sequence[str],
    axis: Array,
    angle: float,
    axes: Axes,
    view: Array = rotations.IDENTITY,
    pivot: Array | None = None,
) -> Array:
    """Channel values ``(C,)`` after turning controls by ``angle`` radians about ``axis (3,)``, given in ``axes``.

    All turn about one ``pivot (3,)`` in the world, as one body, or each about
    its own place: then one that is carried by another turns further with it,
    so that a spine turned joint by joint curls.
    """

    def desired(control: Control, nodes: Array) -> Array:
        way = rotations.rotate(_axes_of(control, nodes, axes, view), axis)
        by = rotations.from_axis_angle(way, angle)
        place = nodes[control.node, :3]
        if pivot is not None:
            place = pivot + rotations.rotate(by, place - pivot)
        return transforms.transform(place, rotations.multiply(by, nodes[control.node, 3:7]), nodes[control.node, 7])

    return _follow(rig, values, controls, desired, adding=pivot is None)


def on_both_sides(rig: Rig, before: Array, after: Array, controls: Sequence[str], sides: Sides) -> Array:
    """``after (C,)`` with the change of ``controls`` carried to their counterparts.

    ``mirrored`` does there what a mirror would show; ``opposite`` applies the
    same numbers with the other sign. Counterparts that are selected
    themselves, and channels that are locked, are left alone.
    """
    if sides == "one":
        return after
    result = after.copy()
    for name in controls:
        control = rig.control(name)
        if control.other == name or control.other in controls or not rig.has_control(control.other):
            continue
        other = rig.control(control.other)
        for n in range(min(control.count, other.count)):
            here, there = rig.channels[control.first + n], rig.channels[other.first + n]
            if there.locked or here.name != there.name:
                continue
            change = after[control.first + n] - before[control.first + n]
            factor = here.mirror if sides == "mirrored" else -1.0
            result[other.first + n] = np.clip(before[other.first + n] + factor * change, there.low, there.high)
    return result


def place_control(rig: Rig, values: Array, control: Control, nodes: Array, desired: Array) -> None:
    """Writes into ``values (C,)`` what brings a control to the ``desired (8,)`` transform in the world.

    Locked channels keep their value and limited ones stop at the limit. Of
    the angles that give the turn, those nearest to the present ones are taken.
    """
    frame = nodes[control.frame]
    local = transforms.relative(frame, desired)
    _write(rig, values, control.first, local[:3])
    own = rotations.multiply(rotations.inverse(control.pre), local[3:7])
    sequence = axes_of(control.order)
    near = np.array([values[control.first + 3 + axis] for axis in sequence])
    angles = np.empty(3)
    angles[list(sequence)] = rotations.to_euler_near(own, control.order, near)
    _write(rig, values, control.first + 3, angles)


def _write(rig: Rig, values: Array, first: int, numbers: Array) -> None:
    for n, number in enumerate(numbers):
        channel = rig.channels[first + n]
        if not channel.locked:
            values[first + n] = min(max(float(number), channel.low), channel.high)


def _axes_of(control: Control, nodes: Array, axes: Axes, view: Array) -> Array:
    if axes == "own":
        return np.asarray(nodes[control.node, 3:7])
    if axes == "parent":
        return np.asarray(nodes[control.frame, 3:7])
    return view if axes == "view" else rotations.IDENTITY


def _follow(
    rig: Rig,
    values: Array,
    controls: Sequence[str],
    desired: Callable[[Control, Array], Array],
    adding: bool = False,
) -> Array:
    """Brings each control where ``desired`` wants it, from the outside in.

    ``desired`` is told the nodes at the start, so that none is carried twice,
    or with ``adding`` the nodes as the controls before it have left them.
    """
    result = values.copy()
    start = evaluate(rig, values[None])[0]
    wanted = [control for control in rig.controls if control.name in controls and control.posed]
    for number, control in enumerate(wanted):
        now = start if number == 0 else evaluate(rig, result[None])[0]
        place_control(rig, result, control, now, desired(control, now if adding else start))
    return result
