"""Poses and motions as bytes for the browser.

Layout, little-endian: six uint32 (revision, first frame as int32, frames,
joints, controls, channels), then float32: joints (F, J, 8), controls
(F, K, 12), channel values (F, C). :mod:`hame.maths.transforms` says what the
eight numbers of a joint are.
"""

from __future__ import annotations

import struct

import numpy as np

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.clip.curve import whole_frame
from hame.errors import BadEdit
from hame.evaluate.evaluate import channel_values, controls, evaluate, joints, overlaid
from hame.maths.rotations import Array

MAX_FRAMES = 5000


def packed_motion(rig: Rig, clip: Clip, revision: int, first: int, last: int) -> bytes:
    """Every frame from ``first`` to ``last`` as it plays, pending poses left out."""
    first, last = whole_frame(first), whole_frame(last)
    if last < first or last - first >= MAX_FRAMES:
        raise BadEdit(f"between 1 and {MAX_FRAMES} frames can be asked for at once")
    return packed(rig, channel_values(rig, clip, np.arange(first, last + 1)), revision, first)


def packed_pending(rig: Rig, clip: Clip, revision: int, frame: int) -> bytes:
    """One frame with its pending pose laid over."""
    frame = whole_frame(frame)
    values = overlaid(rig, channel_values(rig, clip, [frame])[0], clip.pending.get(frame, {}))
    return packed(rig, values[None], revision, frame)


def packed(rig: Rig, values: Array, revision: int, first: int) -> bytes:
    nodes = evaluate(rig, values)
    parts = [joints(rig, nodes), controls(rig, nodes), values]
    head = struct.pack("<IiIIII", revision, first, len(values), len(rig.skeleton), len(rig.controls), len(rig.channels))
    return head + b"".join(part.astype("<f4").tobytes() for part in parts)
