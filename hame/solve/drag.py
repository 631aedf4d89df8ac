"""From a hand's movement on the stage to channel values."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from hame.character.rig import Control, Rig
from hame.errors import HameError
from hame.evaluate.evaluate import evaluate
from hame.evaluate.kernel import ORDERS
from hame.maths import rotations, transforms
from hame.maths.rotations import Array
from hame.solve import drag_kernel

Axes = Literal["world", "parent", "own", "view"]
Sides = Literal["one", "mirrored", "opposite"]
_AXES = {"world": drag_kernel.WORLD, "parent": drag_kernel.PARENT, "own": drag_kernel.OWN, "view": drag_kernel.VIEW}
SHORTEST = 1e-9
"""Below this length an axis has no direction, and a quaternion no turn."""


def move(
    rig: Rig,
    values: Array,
    controls: Sequence[str],
    offset: Array,
    axes: Axes,
    view: Array = rotations.IDENTITY,
    nodes: Array | None = None,
) -> Array:
    """Channel values ``(C,)`` after moving controls by ``offset (3,)`` metres, given in ``axes``.

    Only places are written: a move changes no turn. Each control goes where
    it is wanted, from the outside in, so that none is carried twice.

    Parameters
    ----------
    axes : ``own`` and ``parent`` are each control's own; ``view`` is the turn ``view (4,)`` of the camera
    nodes : the nodes ``(N, 8)`` of ``values``, where they are known already

    Raises
    ------
    HameError
        If the view has no turn.
    """
    start = evaluate(rig, values[None])[0] if nodes is None else nodes
    return drag_kernel.move_controls(  # type: ignore[no-any-return]
        rig.program, ORDERS, rig.tables, values, start, rig.numbers_of(controls), np.asarray(offset, float),
        _AXES[axes], _unit(view),
    )  # fmt: skip


def turn(
    rig: Rig,
    values: Array,
    controls: Sequence[str],
    axis: Array,
    angle: float,
    axes: Axes,
    view: Array = rotations.IDENTITY,
    pivot: Array | None = None,
    nodes: Array | None = None,
) -> Array:
    """Channel values ``(C,)`` after turning controls by ``angle`` radians about ``axis (3,)``, given in ``axes``.

    Each control turns about itself, so that a chain curls up; with a
    ``pivot (3,)`` in the world all turn about that as one piece. Angles count
    on over whole turns and stay as near as they can to those before.

    Raises
    ------
    HameError
        If the axis has no length, or the view no turn.
    """
    axis = np.asarray(axis, float)
    if np.linalg.norm(axis) < SHORTEST:
        raise HameError("a turn needs an axis with a length")
    start = evaluate(rig, values[None])[0] if nodes is None else nodes
    place = np.zeros(3) if pivot is None else np.asarray(pivot, float)
    turning = drag_kernel.Turning(axis, float(angle), place, pivot is not None)
    return drag_kernel.turn_controls(  # type: ignore[no-any-return]
        rig.program, ORDERS, rig.tables, values, start, rig.numbers_of(controls), turning, _AXES[axes], _unit(view)
    )


def _unit(view: Array) -> Array:
    """The turn ``(4,)`` of the camera at length one: a page's numbers have been through text."""
    view = np.asarray(view, float)
    size = float(np.linalg.norm(view))
    if size < SHORTEST:
        raise HameError("the view of a drag has no turn; reload the page")
    return view / size


def on_both_sides(rig: Rig, before: Array, after: Array, controls: Sequence[str], sides: Sides) -> Array:
    """``after (C,)`` with the change of ``controls`` carried to their counterparts.

    ``mirrored`` does there what a mirror would show; ``opposite`` applies the
    same numbers with the other sign. Counterparts that are selected
    themselves, and channels that are locked, are left alone.
    """
    if sides == "one":
        return after
    chosen = {rig.control(name).name for name in controls}
    own = [c for c in map(rig.control, chosen) if c.other not in chosen]
    here = np.array([n for c in own for n in range(c.first, c.first + c.count)], np.int64)
    here = here[rig.over_there[here] >= 0]
    there = rig.over_there[here]
    change = (after[here] - before[here]) * (rig.mirrors[here] if sides == "mirrored" else -1.0)
    result = after.copy()
    result[there] = np.clip(before[there] + change, rig.low[there], rig.high[there])
    return result


def place_control(rig: Rig, values: Array, control: Control, nodes: Array, desired: Array) -> None:
    """Writes into ``values (C,)`` what brings a control to the ``desired (8,)`` transform in the world.

    Locked channels keep their value and limited ones stop at the limit. Of
    the angles that give the turn, those nearest to the present ones are taken.
    """
    place = transforms.relative(nodes[control.frame], desired)[:3]
    for n in range(control.first, control.first + 3):
        if rig.free[n]:
            values[n] = min(max(float(place[n - control.first]), rig.low[n]), rig.high[n])
    number = rig.number_of(control.name)
    drag_kernel.turn_to(values, nodes, rig.tables, ORDERS, number, *map(float, desired[3:7]))
