"""Which way parts of a body point, seen from the top."""

from __future__ import annotations

import math

import numpy as np

from hame.character.rig import Rig
from hame.maths import rotations
from hame.maths.rotations import Array


def chest_of(rig: Rig) -> str:
    """The control that turns the chest, or what is nearest to one; an empty string without a spine."""
    return next((c.name for c in reversed(rig.controls) if c.kind == "trunk" and c.part == "spine"), "")


def twists(rig: Rig, nodes: Array) -> tuple[float | None, float | None]:
    """How far the chest is turned to the left against the hips, and the face against the chest, radians, in one pose of
    nodes ``(N, 8)``; without a spine the face against the hips. None for what the body lacks.
    """

    def heading(control: str) -> float | None:
        if not rig.has_control(control):
            return None
        x, _, z = rotations.rotate(nodes[rig.control(control).node, 3:7], np.array([0.0, 0.0, 1.0]))
        return float(np.arctan2(x, z))

    hips, chest, face = heading("hips"), heading(chest_of(rig)), heading("head")
    under = hips if chest is None else chest
    return (
        None if hips is None or chest is None else math.remainder(chest - hips, math.tau),
        None if under is None or face is None else math.remainder(face - under, math.tau),
    )
