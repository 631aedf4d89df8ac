"""Answers about a motion that take a while, kept for as long as what they are about is what it was.

They follow from the take at a revision, from who plays in it, and from what was asked. Two who ask for the same at once
wait for one answer. What is kept is bounded by what it weighs.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

from server.shots.models import Casting, Take

T = TypeVar("T")
MOST_WEIGHT = 32_000_000  # bytes, as far as can be told
_A_LIST, _A_THING = 400, 100  # bytes: what a list or an answer takes itself, and each number or word in it


class Answers:
    """The answers of one process; the latest of those that are asked for stay."""

    def __init__(self, most: int) -> None:
        self._most, self._weight = most, 0
        self._kept: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._being_made: dict[Hashable, threading.Lock] = {}
        self._lock = threading.Lock()

    def of(self, key: Hashable, make: Callable[[], T]) -> T:
        """The answer of a key, made if it is not at hand. What ``make`` raises is raised, and nothing kept."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                found: T = self._kept[key][0]
                return found
            mine = self._being_made.setdefault(key, threading.Lock())
        with mine:
            with self._lock:
                if key in self._kept:
                    again: T = self._kept[key][0]
                    return again
            try:
                made = make()
            finally:
                with self._lock:
                    self._being_made.pop(key, None)
            self._keep(key, made)
            return made

    def _keep(self, key: Hashable, made: Any) -> None:
        weight = _weight(made)
        with self._lock:
            if key in self._kept:
                self._weight -= self._kept.pop(key)[1]
            self._kept[key] = (made, weight)
            self._weight += weight
            while self._weight > self._most and self._kept:
                _, (_, gone) = self._kept.popitem(last=False)
                self._weight -= gone

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()
            self._weight = 0


def _weight(made: Any) -> int:
    if isinstance(made, bytes):
        return len(made)
    if isinstance(made, list | tuple):
        return _A_LIST + sum(_weight(one) for one in made)
    if isinstance(made, dict):
        return _A_LIST + sum(_weight(one) for one in made.values())
    if hasattr(made, "__dict__"):
        return _weight(vars(made))
    return _A_THING


_answers = Answers(MOST_WEIGHT)
forget = _answers.clear


def kept(what: str, take: Take, asked: Hashable, make: Callable[[], T]) -> T:
    """An answer about a take at its revision, which has to be up to date, by what was asked."""
    return _answers.of((what, take.pk, take.revision, take.shot.fps, _playing(take), asked), make)


def _playing(take: Take) -> Hashable:
    """What an answer depends on besides the motion: who plays, and the rigs of their versions."""
    rows = Casting.objects.filter(shot_id=take.shot_id, taken_out_at=None)
    return tuple(
        (casting.pk, casting.version_id, casting.name, repr(casting.version.plan))
        for casting in rows.select_related("version")
    )
