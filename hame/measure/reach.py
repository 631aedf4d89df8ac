"""How far a limb that is posed by IK is from where it is to come."""

from __future__ import annotations

import numpy as np

from hame.character.rig import Limb
from hame.maths.rotations import Array
from hame.measure.found import Bools


def missing(limb: Limb, nodes: Array) -> Array:
    """The way (F, 3) from the end of a limb to its goal, metres, for nodes (F, N, 8)."""
    return np.asarray(nodes[:, limb.target, :3] - nodes[:, limb.end, :3])


def too_short(limb: Limb, nodes: Array, held: Bools) -> Array:
    """By how much a limb is too short (F,), metres.

    One that is not planted slows down before it is straight: of that, only what lies beyond its length is too much. Of
    one that is ``held (F,)``, all that is missing is.
    """
    upper, lower, end = (nodes[:, n, :3] for n in (limb.upper, limb.lower, limb.end))
    length = np.linalg.norm(lower - upper, axis=1) + np.linalg.norm(end - lower, axis=1)
    way = np.linalg.norm(nodes[:, limb.target, :3] - nodes[:, limb.root, :3], axis=1)
    return np.asarray(np.where(held, np.linalg.norm(missing(limb, nodes), axis=1), np.maximum(way - length, 0.0)))
