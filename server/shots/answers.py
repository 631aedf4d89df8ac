"""Answers about a motion that take a while, kept for as long as what they are about is what it was.

They follow from the take at a revision, from who plays in it, and from what was asked. Two who ask for the same at once
wait for one answer. What is kept is bounded by what it weighs.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Any, TypeVar, cast

from cachetools import LRUCache

from hame.clip.remembered import weight_of
from server.shots.models import Casting, Take

T = TypeVar("T")
MOST_WEIGHT = 32_000_000  # bytes


class Answers:
    """The answers of one process; those that were asked for last stay, within ``most`` bytes."""

    def __init__(self, most: int) -> None:
        self._kept: LRUCache[Hashable, tuple[Any, int]] = LRUCache(most, getsizeof=lambda kept: kept[1])
        self._being_made: dict[Hashable, threading.Lock] = {}
        self._lock = threading.Lock()

    def of(self, key: Hashable, make: Callable[[], T]) -> T:
        """The answer of a key, made if it is not at hand. What ``make`` raises is raised, and nothing kept."""
        with self._lock:
            if key in self._kept:
                return cast(T, self._kept[key][0])
            mine = self._being_made.setdefault(key, threading.Lock())
        with mine:
            with self._lock:
                if key in self._kept:
                    return cast(T, self._kept[key][0])
            try:
                made = make()
            finally:
                with self._lock:
                    self._being_made.pop(key, None)
            self._keep(key, made)
            return made

    def _keep(self, key: Hashable, made: Any) -> None:
        weight = weight_of(made, set())
        with self._lock:
            if weight <= self._kept.maxsize:
                self._kept[key] = (made, weight)

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()


_answers = Answers(MOST_WEIGHT)
forget = _answers.clear


def kept(what: str, take: Take, asked: Hashable, make: Callable[[], T]) -> T:
    """An answer about a take at its revision, which has to be up to date, by what was asked."""
    return _answers.of((what, take.pk, take.revision, take.shot.fps, take.shot.gravity, _playing(take), asked), make)


def _playing(take: Take) -> Hashable:
    """What an answer depends on besides the motion: who plays, and the rigs of their versions."""
    rows = Casting.objects.filter(shot_id=take.shot_id, taken_out_at=None)
    return tuple(
        (casting.pk, casting.version_id, casting.name, repr(casting.version.plan))
        for casting in rows.select_related("version")
    )
