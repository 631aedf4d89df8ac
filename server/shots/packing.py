"""Figures that move, as bytes: what a socket answers to every state of a drag.

By scene: uint32 sequence number and figures, and of each figure four uint32 (casting, joints, controls, changed
channels); then for each figure its changed channels as float64 pairs (number, value), and float32 joints (J, 8) and
controls (K, 12). Figures that do not move are left out. What is said besides follows as JSON.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from hame.character.rig import Rig
from hame.evaluate.evaluate import pose_of
from hame.maths.rotations import Array


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
        _, joints, controls = pose_of(figure.rig, figure.shown)
        changed = np.flatnonzero(figure.after != figure.start)
        pairs = np.empty((len(changed), 2))
        pairs[:, 0], pairs[:, 1] = changed, figure.after[changed]
        head.append(struct.pack("<IIII", figure.casting, len(joints), len(controls), len(changed)))
        parts += [pairs.tobytes(), joints.tobytes(), controls.tobytes()]
    told = [] if said is None else [json.dumps(said).encode()]
    return b"".join([*head, *parts, *told])
