"""Motion kept at its seconds where the frames of a second become more or fewer."""

from __future__ import annotations

from typing import Literal

from hame.character.rig import Rig
from hame.clip.clip import Clip
from hame.edits.outcome import Outcome
from hame.edits.retime import warped
from hame.maths.rotations import Array

Keeping = Literal["frames", "seconds"]
"""What stays where the frames of a second change: the frame of every key, or its time."""


def keep_seconds(clip: Clip, rig: Rig, start: int, factor: float) -> Outcome:
    """A motion with ``factor`` times the frames, counted from ``start``, which stays: keys, poses that wait and spans
    come to lie on the nearest frames. Where two fall on one it is said.

    Raises
    ------
    BadEdit
        If a span cannot go along, such as a cycle that would have no length.
    """

    def at(frames: Array) -> Array:
        return start + (frames - start) * factor

    if not clip.curves and not clip.tracks and not clip.pending:
        return Outcome(clip)
    return warped(clip, rig, at, None)
