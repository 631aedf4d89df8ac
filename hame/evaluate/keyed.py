"""Channel values by keys alone: before ties are worked into them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.played import played_curves
from hame.clip.sampling import sample, sample_curve, tabulate
from hame.evaluate.laid import laid_on, laid_over
from hame.maths.rotations import Array


@dataclass(frozen=True)
class Player:
    """One of those who are tied together."""

    rig: Rig
    clip: Clip


def keyed_values(rig: Rig, clip: Clip, times: Array, layered: bool = True) -> Array:
    """Channel values ``(F, C)`` at rising ``times`` by their keys, echoes and repeats included, ties not.

    What layers add is in them too, unless not ``layered``.
    """
    values = np.empty((len(times), len(rig.channels)))
    for a in range(0, len(times), AT_ONCE):
        some = times[a : a + AT_ONCE]
        played = played_curves(clip, rig, some.min(), some.max())
        values[a : a + AT_ONCE] = sample(tabulate(played, rig.addresses, rig.rest), some)
    if layered:
        values = laid_on(rig, clip, times, values)
    # Between two keys inside its limits a curve may swing past them.
    return np.clip(values, rig.low, rig.high, out=values)


AT_ONCE = 2048  # frames: of a long cycle only so much is derived at a time


def overlaid_with(rig: Rig, values: Array, over: Mapping[str, float]) -> Array:
    for address, value in over.items():
        if rig.has_channel(address):
            values[:, rig.number(address)] = value
    return values


def value_at(rig: Rig, clip: Clip, address: str, frame: float, layered: bool = True) -> float:
    """The value of one channel at a frame by its keys, with what layers add to it unless those are left out."""
    time = np.array([float(frame)])
    curve = played_curves(clip, rig, frame, frame).get(address)
    number = rig.number(address)
    value = rig.rest[number] if curve is None else sample_curve(curve, time)[0]
    over = laid_over(rig, clip, time) if layered else []
    if any(number in layer.turns.columns for layer in over):  # its other angles have a say
        return float(keyed_values(rig, clip, time)[0, number])
    value += sum(float(layer.counts[0] * layer.over[0, number]) for layer in over)
    return float(np.clip(value, rig.low[number], rig.high[number]))
