"""The cycles of a clip: any number, one after the other, with ordinary keys before, between and after them."""

from __future__ import annotations

from collections.abc import Iterable

from hame.clip.clip import Clip
from hame.clip.cycle import Cycle


def cycles_of(clip: Clip) -> tuple[Cycle, ...]:
    """The cycles of a clip, in the order of time."""
    return tuple(span for span in clip.tracks.get(Cycle.kind, ()) if isinstance(span, Cycle))


def cycle_at(clip: Clip, frame: float) -> Cycle | None:
    """The cycle that a frame lies in, with its repeats; None where it lies in none."""
    return next((cycle for cycle in cycles_of(clip) if cycle.start <= frame <= cycle.until), None)


def with_cycles(clip: Clip, cycles: Iterable[Cycle]) -> Clip:
    """The clip with these cycles and no others."""
    return clip.with_tracks({Cycle.kind: tuple(cycles)})
