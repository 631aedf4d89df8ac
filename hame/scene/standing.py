"""Where somebody who comes into a shot finds a place to stand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.character.rig import Rig

ROOM = 0.1  # metres left free on either side


def half_width(rig: Rig) -> float:
    """How far the figure or prop reaches to its sides at rest, metres, with some room."""
    joints = float(np.abs(rig.skeleton.places[:, 0]).max())
    return max(joints, rig.plan.size / 2) + ROOM


def free_place(taken: Sequence[tuple[float, float]], half: float) -> float:
    """The place nearest the middle, metres along X, where ``half`` to both sides is free.

    ``taken`` holds the middle and half the width of everybody who stands there already.
    """
    wished = [0.0, *(middle + side * (wide + half) for middle, wide in taken for side in (1.0, -1.0))]
    free = [x for x in wished if all(abs(x - middle) >= wide + half - 1e-9 for middle, wide in taken)]
    return min(free, key=abs)
