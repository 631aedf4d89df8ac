"""What a turn of the whole asks of the soles that hold it on the ground."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.maths.rotations import Array
from hame.measure.balance import Balance, middle_of
from hame.measure.dynamics import Dynamics

PRESSES = 0.1  # of the weight: what presses less has no friction to speak of


def friction_of_turn(found: Dynamics, stands: Sequence[Balance], gravity: float) -> Array:
    """The friction (F,) that a moment about the upright asks for, by what bears a body on each frame; 0 in the air.

    The soles hold as a disc of their size does.
    """
    wide = np.array([_held_within(stand.area) for stand in stands])
    up = found.force[:, 1] / max(gravity, 1e-9)
    can = (up > PRESSES) & (wide > 0.0)
    turned = np.abs(np.nan_to_num(found.twist)) / max(gravity, 1e-9)
    return np.asarray(np.where(can, turned / np.where(can, up * wide, 1.0), 0.0))


def _held_within(area: Array) -> float:
    """How far from its middle friction holds an area (K, 2), metres: as of a disc, two thirds of the way out."""
    return 2.0 / 3.0 * float(np.linalg.norm(area - middle_of(area), axis=1).mean()) if len(area) > 2 else 0.0
