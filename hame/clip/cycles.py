"""The cycle of a clip, if it has one."""

from __future__ import annotations

from hame.clip.clip import Clip
from hame.clip.cycle import Cycle


def cycle_of(clip: Clip) -> Cycle | None:
    """The cycle of a clip, if it has one."""
    for span in clip.tracks.get(Cycle.kind, ()):
        if isinstance(span, Cycle):
            return span
    return None


def with_cycle(clip: Clip, cycle: Cycle | None) -> Clip:
    return clip.with_tracks({Cycle.kind: () if cycle is None else (cycle,)})
