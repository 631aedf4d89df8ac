"""A body brought over what bears it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hame.maths.rotations import Array
from hame.solve.begun import Begun
from hame.solve.pull import Pulled, taken
from hame.solve.pull_kernel import solve
from hame.solve.wishes import (
    FREELY,
    PULL,
    ROUNDS,
    USUAL,
    Grip,
    Leanings,
    wished,
)


def over_support(begun: Begun, over: Array, grips: Sequence[Grip], leanings: Leanings = USUAL) -> Pulled:
    """The pose with the centre of mass over a place on the ground ``over (2,)``, x and z, brought there by the body.

    Raises
    ------
    BadEdit
        As :func:`pull`.
    """
    size = begun.size
    wish = wished(begun, (), grips, leanings)._replace(over=np.asarray(over, float), by_balance=PULL / size)
    wish.stiff[:3] = FREELY / size
    angles, _ = solve(begun.tree, wish, begun.angles, ROUNDS)
    return taken(begun, angles, (), grips)
