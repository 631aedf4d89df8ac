"""Frames of figures as they stand: several evaluated together, so that a frame of all is one pass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hame.character.rig import Rig
from hame.evaluate.cores import run_program
from hame.evaluate.players import program_of
from hame.maths.rotations import Array


@dataclass(frozen=True)
class Posed:
    """Frames of one figure of a scene.

    Attributes
    ----------
    values : (F, C) of its channels
    nodes : (F, N, 8) of its rig
    """

    rig: Rig
    values: Array
    nodes: Array


def posed(rigs: Sequence[Rig], values: Sequence[Array]) -> list[Posed]:
    """Frames of several figures for channel values ``(F, C)`` each, in one pass; all have the same number of frames."""
    program = program_of(tuple(rigs))
    together = values[0] if len(values) == 1 else np.concatenate(list(values), axis=1)
    nodes = run_program(program, together)
    ends = np.cumsum([rig.program.nodes for rig in rigs]).tolist()
    return [
        Posed(rig, own, nodes[:, end - rig.program.nodes : end])
        for rig, own, end in zip(rigs, values, ends, strict=True)
    ]
