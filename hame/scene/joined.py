"""Figures of a scene evaluated together: their programs joined to one, so that a frame of all is one pass."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt

from hame.character.rig import Rig
from hame.clip.clip import Patch
from hame.clip.spans import Reach
from hame.evaluate.evaluate import channel_values, pose_values, run_program
from hame.maths.rotations import Array
from hame.program import Program, joined
from hame.scene.scene import Figure


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


@lru_cache(maxsize=128)
def _program(rigs: tuple[Rig, ...]) -> Program:
    return joined([rig.program for rig in rigs])


def posed(rigs: Sequence[Rig], values: Sequence[Array]) -> list[Posed]:
    """Frames of several figures for channel values ``(F, C)`` each, in one pass; all have the same number of frames."""
    program = _program(tuple(rigs))
    together = values[0] if len(values) == 1 else np.concatenate(list(values), axis=1)
    nodes = run_program(program, together)
    ends = np.cumsum([rig.program.nodes for rig in rigs]).tolist()
    return [
        Posed(rig, own, nodes[:, end - rig.program.nodes : end])
        for rig, own, end in zip(rigs, values, ends, strict=True)
    ]


def played(figures: Mapping[int, Figure], frames: Sequence[int] | npt.NDArray[Any]) -> dict[int, Posed]:
    """Figures of a scene at ``frames`` as they play, pending poses left out."""
    values = [channel_values(figure.rig, figure.clip, frames) for figure in figures.values()]
    return _by_number(figures, values)


def seen(figures: Mapping[int, Figure], frame: int) -> dict[int, Posed]:
    """Figures of a scene at one frame as a person sees them: with pending poses laid over."""
    values = [pose_values(figure.rig, figure.clip, frame)[None] for figure in figures.values()]
    return _by_number(figures, values)


def _by_number(figures: Mapping[int, Figure], values: list[Array]) -> dict[int, Posed]:
    if not figures:
        return {}
    found = posed([figure.rig for figure in figures.values()], values)
    return dict(zip(figures, found, strict=True))


def moves(patches: Mapping[int, Patch]) -> dict[int, tuple[Reach, ...]]:
    """By figure, the frames that move when clips change so; no figure moves another yet."""
    return {number: patch.ranges for number, patch in patches.items()}
