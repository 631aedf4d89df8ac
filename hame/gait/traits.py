"""How somebody goes: measured quantities, each a number or one for each frame."""

from __future__ import annotations

from dataclasses import dataclass, fields
from math import radians

import numpy as np

from hame.errors import BadEdit
from hame.maths.rotations import Array

Amount = float | Array


@dataclass(frozen=True, eq=False)
class Traits:
    """What can be measured of a gait besides its pace; angles in radians, lengths as shares of the leg.

    Attributes
    ----------
    lift : how high the toes pass over the ground, of the leg
    strike : how far the toes are up as the heel comes down; below 0 the ball comes down first
    push : how far the foot has rolled up over its toes as it leaves
    bounce : how much the mass rises in a step, of what a stiff leg would make of it
    low : how much lower it goes than legs need, of the leg, with knees bent that much more
    turn, list : of the pelvis to each side, with the leg ahead and down on the side that swings
    pitch : of the trunk, ahead; ``lean`` to the side that bears, in each step
    chest : how far the chest turns against the pelvis, of its turn
    swing : of an arm to each side
    arm_bend : of the elbow, and by how much more as the arm comes ahead (``arm_bends``)
    arms_out : how far arms are away from the body
    head : pitch of the head, ahead; ``steady`` is how much of the trunk's turns it takes back
    late : frames by which hands come after their arms
    hands : how far fingers are closed
    uneven : how much longer steps of the left are than of the right, and the other way below 0
    """

    lift: Amount = 0.025
    strike: Amount = radians(20.0)
    push: Amount = radians(66.0)
    bounce: Amount = 0.4
    low: Amount = 0.0
    turn: Amount = radians(5.0)
    list: Amount = radians(4.0)
    pitch: Amount = radians(3.0)
    lean: Amount = 0.0
    chest: Amount = 1.4
    swing: Amount = radians(20.0)
    arm_bend: Amount = radians(8.0)
    arm_bends: Amount = radians(12.0)
    arms_out: Amount = radians(4.0)
    head: Amount = 0.0
    steady: Amount = 0.98
    late: Amount = 1.0
    hands: Amount = radians(16.0)
    uneven: Amount = 0.0

    def over(self, frames: int) -> Traits:
        """The same with one number for each of so many frames.

        Raises
        ------
        BadEdit
            If one is not a number.
        """
        arrays = {}
        for one in fields(self):
            given = np.asarray(getattr(self, one.name), float)
            if not np.isfinite(given).all():
                raise BadEdit(f"{one.name} of a gait has to be a number; nothing was changed")
            arrays[one.name] = np.broadcast_to(given, (frames,)).copy()
        return Traits(**arrays)

    def cut(self, rows: slice) -> Traits:
        """Those of some frames, of traits with a number for each."""
        return Traits(**{one.name: np.asarray(getattr(self, one.name))[rows] for one in fields(self)})


RUNNING = Traits(
    lift=0.17, strike=radians(-20.0), push=radians(66.0), turn=radians(7.0), list=radians(6.0), pitch=radians(9.0),
    chest=1.6, swing=radians(34.0), arm_bend=radians(82.0), arm_bends=radians(16.0), arms_out=radians(8.0),
    hands=radians(48.0),
)  # fmt: skip


# Of a creature: feet without heels that come down flat, a trunk that stays level, and what is not there does not swing.
CREATURE = Traits(lift=0.1, strike=0.0, push=radians(16.0), turn=radians(2.0), list=radians(1.5), pitch=0.0, swing=0.0)


PASSES = 0.6  # of its time in the air, after which a foot has passed the one that stands


def lift_at(share: Array) -> Array:
    """How much of its lift a foot has over the ground after shares (T,) of its time in the air."""
    return np.asarray(np.sin(np.pi * np.asarray(share, float) ** 0.85) ** 1.5)


def between(one: Traits, other: Traits, share: Array) -> Traits:
    """Traits (F,) that are one, and by a share (F,) the other."""
    a, b = one.over(len(share)), other.over(len(share))
    return Traits(**{f.name: (1.0 - share) * getattr(a, f.name) + share * getattr(b, f.name) for f in fields(a)})
