"""Figures that move, as bytes: what a socket answers to every state of a drag.

By scene: uint32 sequence number and figures, and of each figure uint32 its casting, how many entries each block has
that is dragged (:data:`hame.evaluate.blocks.DRAGGED`), and how many channels changed; then for each figure its changed
channels as float64 pairs (number, value), and the blocks as float32. Figures that do not move are left out. What is
said besides follows as JSON.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from hame.character.rig import Rig
from hame.evaluate.blocks import DRAGGED
from hame.evaluate.evaluate import pose_of
from hame.maths.rotations import Array

_FIGURE = f"<{2 + len(DRAGGED)}I"


@dataclass(frozen=True)
class Moved:
    """A figure that an answer is about.

    Attributes
    ----------
    start, after : channel values (C,) it began at, and those that the hand has set
    shown : channel values (C,) it stands at by that: what is tied follows
    """

    casting: int
    rig: Rig
    start: Array
    after: Array
    shown: Array


def packed_drag(figures: Sequence[Moved], seq: int, said: Mapping[str, Any] | None = None) -> bytes:
    head = [struct.pack("<II", seq, len(figures))]
    parts: list[bytes] = []
    for figure in figures:
        _, *blocks = pose_of(figure.rig, figure.shown)  # those that are dragged, in their order
        changed = np.flatnonzero(figure.after != figure.start)
        pairs = np.empty((len(changed), 2))
        pairs[:, 0], pairs[:, 1] = changed, figure.after[changed]
        head.append(struct.pack(_FIGURE, figure.casting, *map(len, blocks), len(changed)))
        parts += [pairs.tobytes(), *(block.tobytes() for block in blocks)]
    told = [] if said is None else [json.dumps(said).encode()]
    return b"".join([*head, *parts, *told])
