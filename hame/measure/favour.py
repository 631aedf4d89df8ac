"""A timing chart as it is drawn on paper: how far between two poses each frame stands, as favour of the second."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from hame.character.masses import masses_of, parts_at
from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.key import whole_frame
from hame.errors import BadEdit
from hame.evaluate.evaluate import evaluate
from hame.evaluate.line import laid_values
from hame.maths.rotations import Array

ALIKE = 1e-12  # metres squared: two poses between which nothing goes any way
_NOTHING = 1e-9


@dataclass(frozen=True)
class Chart:
    """The way from one pose to the next.

    Attributes
    ----------
    first, last : the frames of the two poses
    favours : (last - first + 1,) 0 at the first, 1 at the second; between them and beyond as each frame stands
    spread : (last - first + 1,) how far parts stand from that, as the mean of their weighted distance
    """

    first: int
    last: int
    favours: Array
    spread: Array


def chart_of(rig: Rig, clip: Clip, first: int, last: int, controls: Iterable[str] | None = None) -> Chart:
    """The chart of a gap, for some controls or (None) the whole body by the way that its mass goes.

    Each channel counts by the way that its change between the two poses carries the body's mass, with all else half
    way: so a tick says how far the weighted way has come, and a gap in which all channels go alike has their favour.

    Raises
    ------
    BadEdit
        If the gap has no frame, or nothing goes any way in it.
    """
    first, last = whole_frame(first), whole_frame(last)
    if last <= first:
        raise BadEdit(f"a gap from {first} to {last} has no frames; nothing can be charted")
    frames = np.arange(first, last + 1, dtype=float)
    values = laid_values(rig, clip, frames)
    way = values[-1] - values[0]
    chosen = np.abs(way) > _NOTHING
    if controls is not None:
        mine = np.zeros(len(chosen), bool)
        for name in controls:
            control = rig.control(name)
            mine[control.first : control.first + control.count] = True
        chosen &= mine
    numbers = np.flatnonzero(chosen)
    weights = ways_of(rig, 0.5 * (values[0] + values[-1]), way, numbers)
    total = float(weights.sum())
    if not len(numbers) or total < ALIKE:
        raise BadEdit(f"the poses at {first} and {last} stand alike in what is chosen: there is no way to chart")
    shares = (values[:, numbers] - values[0, numbers]) / way[numbers]
    favours = shares @ weights / total
    spread = np.abs(shares - favours[:, None]) @ weights / total
    return Chart(first, last, favours, spread)


def ways_of(rig: Rig, middle: Array, way: Array, numbers: Iterable[int]) -> Array:
    """How far the mass is carried, metres squared, when each of some channels alone goes its ``way (C,)`` about a pose
    ``middle (C,)``.
    """
    numbers = np.asarray(list(numbers), int)
    if not len(numbers):
        return np.zeros(0)
    poses = np.repeat(middle[None], 2 * len(numbers), axis=0)
    rows = np.arange(len(numbers))
    poses[rows, numbers] -= 0.5 * way[numbers]
    poses[rows + len(numbers), numbers] += 0.5 * way[numbers]
    nodes = evaluate(rig, poses)
    masses = masses_of(rig)
    at = parts_at(rig, nodes, masses).places
    # A turn of a part about its own mass goes a way too: of every joint a little.
    every = nodes[:, rig.joint_nodes, :3]
    ends = at[len(numbers) :] - at[: len(numbers)]
    small = every[len(numbers) :] - every[: len(numbers)]
    return np.asarray((masses.share[:, None] * ends**2).sum(axis=(1, 2)) + 0.02 * (small**2).mean(axis=1).sum(axis=1))
