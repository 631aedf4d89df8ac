"""Some nodes of one rig, with only as much of its program run as they take."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Rig
from hame.evaluate.cores import run_program
from hame.evaluate.players import part_of
from hame.maths.rotations import Array
from hame.maths.transforms import IDENTITY
from hame.program import NONE


def some_nodes(rig: Rig, wanted: tuple[int, ...], values: Array) -> Array:
    """Transforms (T, K, 8) of the ``wanted`` nodes for channel ``values (T, C)``; no node is the world."""
    some = part_of((rig,), wanted)
    nodes = run_program(some.program, values)[:, some.at]
    nodes[:, some.at == NONE] = IDENTITY
    return np.asarray(nodes)
