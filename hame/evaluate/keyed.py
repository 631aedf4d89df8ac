"""The first stage: channel values by keys alone, echoes and repeats included."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.played import played_curves
from hame.clip.sampling import Table, sample, sample_curve, tabulate
from hame.maths.rotations import Array

AT_ONCE = 2048  # frames: of a long cycle only so much is derived at a time


def curve_values(rig: Rig, clip: Clip, times: Array) -> Array:
    """Channel values ``(T, C)`` at rising ``times`` by their curves, which may swing past the limits of a channel."""
    values = np.empty((len(times), len(rig.channels)))
    for a in range(0, len(times), AT_ONCE):
        some = times[a : a + AT_ONCE]
        values[a : a + AT_ONCE] = sample(_table(rig, clip, some), some)
    return values


def _table(rig: Rig, clip: Clip, times: Array) -> Table:
    """The curves that play at some times, laid out for the sampler."""
    played = played_curves(clip, rig, times.min(), times.max())
    if played is not clip.curves:  # derived for these times alone
        return tabulate(played, rig.addresses, rig.rest)
    return clip.remembered(("keyed", rig), lambda: tabulate(played, rig.addresses, rig.rest))


def curve_value(rig: Rig, clip: Clip, address: str, frame: float) -> float:
    """The same of one channel at one frame."""
    curve = played_curves(clip, rig, frame, frame).get(address)
    return float(rig.rest[rig.number(address)] if curve is None else sample_curve(curve, np.array([float(frame)]))[0])


def within(rig: Rig, values: Array) -> Array:
    """Channel values ``(T, C)`` within the limits of their channels, in place."""
    return np.clip(values, rig.low, rig.high, out=values)
