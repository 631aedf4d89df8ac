"""Poses and motions as bytes for the browser, by scene.

Layout, little-endian, in parts of four bytes: revision, first frame (int32),
frames, figures, and of each figure its casting and how many entries each of
its :data:`hame.evaluate.blocks.BLOCKS` has (uint32). Then for each figure its
blocks, as float32 (F, entries, width). :mod:`hame.maths.transforms` says what
the eight numbers of a joint are.
"""

from __future__ import annotations

import struct
from collections.abc import Collection, Mapping

import numpy as np

from hame.clip.key import whole_frame
from hame.errors import BadEdit
from hame.evaluate.blocks import BLOCKS
from hame.evaluate.posed import Posed
from hame.scene.joined import played, seen
from hame.scene.scene import Figure

MAX_FRAMES = 5000
_FIGURE = f"<{1 + len(BLOCKS)}I"
MOST_POSES = 12_000
"""Of all figures together, with those they are tied to: some 100 MB of an answer, and twice that on the way."""


def packed_motion(
    figures: Mapping[int, Figure], wanted: Collection[int], revision: int, first: int, last: int
) -> bytes:
    """Every frame of some figures from ``first`` to ``last`` as it plays, pending poses left out.

    ``figures`` are those ``wanted`` and all who are tied to them.
    """
    first, last = whole_frame(first), whole_frame(last)
    if last < first or last - first >= MAX_FRAMES:
        raise BadEdit(f"between 1 and {MAX_FRAMES} frames can be asked for at once")
    if (last - first + 1) * len(figures) > MOST_POSES:
        raise BadEdit(
            f"{len(figures)} figures over {last - first + 1} frames are too much at once; ask for a shorter stretch "
            f"({MOST_POSES // len(figures)} frames)"
        )
    return packed(_only(played(figures, np.arange(first, last + 1)), wanted), revision, first, last - first + 1)


def packed_pending(figures: Mapping[int, Figure], wanted: Collection[int], revision: int, frame: int) -> bytes:
    """One frame of some figures with pending poses laid over."""
    frame = whole_frame(frame)
    return packed(_only(seen(figures, frame), wanted), revision, frame, 1)


def _only(figures: Mapping[int, Posed], wanted: Collection[int]) -> dict[int, Posed]:
    return {number: figures[number] for number in wanted}


def packed(figures: Mapping[int, Posed], revision: int, first: int, frames: int) -> bytes:
    head = [struct.pack("<IiII", revision, first, frames, len(figures))]
    parts: list[bytes] = []
    for casting, posed in figures.items():
        head.append(struct.pack(_FIGURE, casting, *(block.count(posed.rig) for block in BLOCKS)))
        parts += [block.of(posed).astype("<f4").tobytes() for block in BLOCKS]
    return b"".join([*head, *parts])
