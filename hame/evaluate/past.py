"""What a stage with a past needs: its state at a frame follows from every frame since it began.

It is stepped from frame to frame, always from the same beginning, so that any
frame alone is what it is when all of them are played. Checkpoints keep it from
going over the whole way each time; a bounded cache may forget them.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from threading import Lock

import numpy as np
from cachetools import LRUCache

from hame.clip.clip import Clip
from hame.evaluate.players import Players
from hame.maths.rotations import Array

State = Array  # (S,)


@dataclass(frozen=True)
class Whose:
    """What states follow from: clips, the same only if they are the very ones, and whatever tells states apart."""

    ids: tuple[int, ...]
    apart: tuple[Hashable, ...]
    clips: tuple[Clip, ...] = field(compare=False, repr=False)  # held, so that their ids stay theirs


def whose(players: Players, *apart: Hashable) -> Whose:
    clips = tuple(player.clip for player in players.values())
    return Whose(tuple(id(clip) for clip in clips), apart, clips)


class Past:
    """Checkpoints of states, by whose they are and frame; the ones used last, within so many bytes.

    Parameters
    ----------
    most : bytes
    every : frames between two of them
    """

    def __init__(self, most: int = 8 * 1024 * 1024, every: int = 24) -> None:
        self.every = every
        self._kept: LRUCache[tuple[Whose, int], State] = LRUCache(most, getsizeof=lambda state: state.nbytes + 100)
        self._lock = Lock()

    @property
    def weight(self) -> int:
        """Bytes, about."""
        return int(self._kept.currsize)

    def since(self, whose: Whose, start: int, time: float) -> int:
        """The last frame up to ``time`` from which the way is to be gone: a checkpoint, or the start."""
        with self._lock:
            last = start + (int(np.floor(time)) - start) // self.every * self.every
            return next((f for f in range(last, start, -self.every) if (whose, f) in self._kept), start)

    def get(self, whose: Whose, frame: int) -> State | None:
        with self._lock:
            return self._kept.get((whose, frame))

    def put(self, whose: Whose, frame: int, state: State) -> None:
        with self._lock:
            if state.nbytes + 100 <= self._kept.maxsize:
                self._kept[whose, frame] = state


def stepped(
    past: Past,
    whose: Whose,
    times: Array,
    first: Callable[[int], State],
    step: Callable[[State, int, float], State],
    start: int,
    keep: bool = True,
) -> Array:
    """States (T, S) at rising ``times``, among them all whole frames from :meth:`Past.since` on.

    Parameters
    ----------
    first : the state at the start, for the row that it is in
    step : the state after some frames, at most one, towards what is in a row
    keep : whether checkpoints may be kept of what is found
    """
    found: list[State] = []
    whole: State | None = None
    frame = start
    for row, time in enumerate(times.tolist()):
        if time == np.floor(time):
            if whole is None:
                kept = None if int(time) == start else past.get(whose, int(time))
                whole = first(row) if kept is None else kept
            elif int(time) > frame:
                whole = step(whole, row, 1.0)
            frame = int(time)
            if keep and frame > start and (frame - start) % past.every == 0:
                past.put(whose, frame, whole)
            found.append(whole)
        else:
            found.append(step(whole if whole is not None else first(row), row, time - frame))
    return np.array(found)
